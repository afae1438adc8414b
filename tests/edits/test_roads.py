import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, road_project, the_road, with_pipe, with_structure
from zumbert.demo.project import demo_project
from zumbert.edits.ground import set_profile
from zumbert.edits.roads import (
    add_profile,
    editable,
    new_road,
    remove_profile,
    rename_road,
    road_name,
    set_points,
    set_pvis,
    set_start,
    set_strip,
)
from zumbert.errors import EditError
from zumbert.geometry.intersections import Intersection
from zumbert.geometry.profile import Pvi
from zumbert.geometry.strip import StripAt
from zumbert.model.project import new_project
from zumbert.model.road import Strip

POINTS = (Intersection(0, 0), Intersection(100, 0, 30.0), Intersection(100, -100))


def test_a_road_is_made_and_its_structures_go_with_it():
    p = new_road(new_project("x"), road_name(new_project("x")), POINTS, 1000.0)
    [road] = p.roads
    p = with_structure(p, "S1", 1020.0, -3.0, road=True)
    assert (facts_of(p).places["S1"].x, facts_of(p).places["S1"].y) == (approx(20), approx(3))
    moved = set_points(p, road, (Intersection(0, 50), *POINTS[1:]))
    assert facts_of(moved).places["S1"].y == approx(50 - 20 * 0.4472136 + 3 * 0.8944272)
    assert set_points(p, road, POINTS) is p
    assert road_name(p) == "Road 2"


def test_a_held_slope_stays_where_its_road_bends():
    p = new_road(new_project("x"), "R", POINTS, 1000.0)
    [road] = p.roads
    for label, ch, off in (("A", 1020.0, 20.0), ("B", 1110.0, 20.0)):
        p = with_structure(p, label, ch, off, road=True)
    p = with_pipe(p, "P1", "A", "B", 48.0, 47.0)
    held = replace(p, pipes={"P1": replace(p.pipes["P1"], hold_slope=True)})
    bent = (POINTS[0], replace(POINTS[1], radius=60.0), POINTS[2])
    before, slack = facts_of(held).pipes["P1"], facts_of(set_points(p, road, bent)).pipes["P1"]
    after = facts_of(set_points(held, road, bent)).pipes["P1"]
    assert abs(after.basis - before.basis) > 0.5  # it is longer or shorter now
    assert after.slope == approx(before.slope, abs=1e-12) and slack.slope != approx(
        before.slope, abs=1e-6
    )
    assert after.pipe.invert_down == before.pipe.invert_down


def test_a_road_too_short_for_what_stands_on_it_is_refused():
    p = with_structure(new_road(new_project("x"), "R", POINTS), "S9", 180.0, 0.0, road=True)
    [road] = p.roads
    with pytest.raises(EditError, match="S9 would stand beyond it"):
        set_points(p, road, POINTS[:2])
    with pytest.raises(EditError, match='"R": the curves at points 1 and 2 need'):
        set_points(p, road, (POINTS[0], replace(POINTS[1], radius=200.0), POINTS[2]))


def test_an_imported_road_becomes_one_of_points_in_the_same_place():
    p = demo_project()
    before = facts_of(p)
    for road in p.roads:
        made = editable(p, road)
        assert made.roads[road].points
        after = facts_of(made)
        for k, place in before.places.items():
            assert (after.places[k].x, after.places[k].y) == (
                approx(place.x, abs=1e-4),
                approx(place.y, abs=1e-4),
            )
        assert editable(made, road) is made


def test_profiles_are_added_changed_and_removed():
    p = road_project()
    road = the_road(p)
    p = add_profile(p, road, "first", [Pvi(0.0, 50.0), Pvi(500.0, 60.0)])
    p = add_profile(p, road, "second", [Pvi(0.0, 51.0), Pvi(500.0, 60.0)])
    # in force once it is chosen
    assert (p.roads[road].design, len(p.roads[road].profiles)) == (0, 2)
    p = set_profile(p, road, 1)
    p = set_pvis(p, road, 1, [Pvi(0.0, 51.0), Pvi(200.0, 50.0, 80.0), Pvi(500.0, 60.0)])
    assert facts_of(p).roads[road].profile.level(200.0) == approx(50 + (0.005 + 10 / 300) * 80 / 8)
    with pytest.raises(EditError, match='The profile "second" of "Quillerby Rise": the chainages'):
        set_pvis(p, road, 1, [Pvi(9.0, 51.0), Pvi(2.0, 50.0)])
    assert remove_profile(p, road, 0).roads[road].design == 0
    assert remove_profile(p, road, 1).roads[road].design is None


def test_another_start_chainage_moves_nothing():
    p = road_project()
    road = the_road(p)
    p = add_profile(p, road, "d", [Pvi(0.0, 50.0), Pvi(500.0, 60.0)])
    p = set_strip(
        p,
        road,
        Strip(
            sections=(StripAt(left=3, right=3), StripAt(chainage=100.0, left=4, right=3)),
            surface=True,
        ),
    )
    p = with_structure(p, "S1", 70.0, 2.0, road=True)
    q = set_start(p, road, 1000.0)
    a, b = facts_of(p).places["S1"], facts_of(q).places["S1"]
    assert (b.x, b.y, b.rim, b.chainage) == (approx(a.x), approx(a.y), approx(a.rim), 1070.0)


def test_names_are_given_once():
    p = new_road(road_project(), "Tansymoor Lane", POINTS)
    lane = list(p.roads)[1]
    with pytest.raises(EditError, match='already a road "Quillerby Rise"'):
        rename_road(p, lane, "Quillerby Rise")
    with pytest.raises(EditError, match="needs a name"):
        rename_road(p, lane, " ")
    assert rename_road(p, lane, 'Lane "B"').roads[lane].name == 'Lane "B"'
