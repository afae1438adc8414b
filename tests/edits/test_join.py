import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import (
    chain,
    facts_of,
    road_project,
    said,
    the_road,
    v_project,
    with_pipe,
    with_structure,
)
from zumbert.checks import check
from zumbert.demo.project import demo_project
from zumbert.edits.change import misfit, set_anchor, set_outfall, set_size, set_type, size_misfit
from zumbert.edits.fixes import fixes
from zumbert.edits.fromline import LineWay, along, drawn
from zumbert.edits.join import along_road, bent, copied, curved, deleted, split, turned
from zumbert.edits.lay import OnPipe, joined, lay
from zumbert.edits.layoptions import LayOptions, first_way
from zumbert.edits.levels import set_invert, shift_pipe
from zumbert.edits.loose import all_attached, attached, loose_ends, nearest_structure
from zumbert.edits.regrade import Regrade, regraded
from zumbert.edits.roads import new_road
from zumbert.errors import EditError
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.intersections import Intersection, pieces_through
from zumbert.model.project import Settings
from zumbert.model.structure import Anchored, Free

RUN = chain([(48.5, 48.0), (47.9, 47.4), (47.3, 46.8)])


# -- curved pipes ----------------------------------------------------------------------------------


def quarter(radius=30.0):
    """A pipe bent by a quarter circle about the origin, from (0, r) to (r, 0), on a plane that
    rises with x.
    """
    p = road_project(600.0)
    p = with_structure(
        with_structure(p, "A", 0.0, radius, kind="joint"), "B", radius, 0.0, kind="joint"
    )
    p = with_pipe(p, "P", "A", "B", 48.0, 47.0)
    k = radius / np.sqrt(2)
    return curved(p, facts_of(p), "P", Free(k, k))


def test_a_curved_pipe_is_as_long_as_its_arc():
    f = facts_of(quarter()).pipes["P"]
    assert f.span.length == approx(15 * np.pi)
    assert f.slope == approx(1 / (15 * np.pi))
    assert (f.span.bearing, f.span.bearing_down) == (approx(np.pi / 2), approx(np.pi))
    assert f.span.point(f.span.length / 2) == (approx(30 / np.sqrt(2)), approx(30 / np.sqrt(2)))


def test_cover_along_an_arc_is_that_of_the_ground_over_it():
    # ground 50 + 0.02 x; at distance s the pipe is at x = 30 sin(s / 30)
    f = facts_of(quarter()).pipes["P"]
    s = np.linspace(0, f.span.length, 4001)
    cover = 50 + 0.02 * 30 * np.sin(s / 30) - np.array([f.invert(d) for d in s]) - 0.345
    assert f.cover.least == approx(
        cover.min(), abs=2e-4
    )  # chords leave the arc by 5 mm at most, here 0.02 of that up
    assert f.cover.greatest == approx(cover.max(), abs=2e-4)


def test_a_chamber_takes_its_reach_along_the_arc():
    p = set_type(quarter(), "A", "manhole-1200")
    f = facts_of(p).pipes["P"]
    x, y = f.span.point(f.span.reach_up)
    assert np.hypot(x, y - 30.0) == approx(0.6)


def test_a_curve_is_straightened_and_refused():
    p = quarter()
    assert facts_of(curved(p, facts_of(p), "P", None)).pipes["P"].span.length == approx(
        30 * np.sqrt(2)
    )
    with pytest.raises(EditError, match="more than half a circle"):
        curved(p, facts_of(p), "P", Free(-50.0, -50.0))
    straight = curved(p, facts_of(p), "P", Free(15.0, 15.0))
    assert facts_of(straight).pipes["P"].span.arc is None  # on the line between its ends


def test_a_pipe_follows_its_road():
    p = new_road(
        road_project(),
        "bend",
        [Intersection(0, 0), Intersection(200, 0, 80.0), Intersection(200, -200)],
    )
    road = list(p.roads)[1]
    line = facts_of(p).roads[road].alignment
    a, b = line.breaks[1] + 5, line.breaks[2] - 5
    for label, ch in (("A", a), ("B", b)):
        p = with_structure(p, label, 0.0)
        p = replace(
            p,
            structures={
                **p.structures,
                label: replace(p.structures[label], place=Anchored(road, ch, 3.0)),
            },
        )
    p = with_pipe(p, "P", "A", "B", 48.0, 47.0)
    p = along_road(p, facts_of(p), "P")
    f = facts_of(p).pipes["P"]
    assert f.span.arc.radius == approx(77.0)
    for s in np.linspace(0, f.span.length, 7):
        assert float(line.project(*f.span.point(s))[1]) == approx(3.0, abs=1e-6)


# -- split, bend, delete ---------------------------------------------------------------------------


@pytest.mark.parametrize("basis", ["centres", "walls"])
def test_a_split_pipe_lies_where_it_lay(basis):
    p = replace(RUN, settings=Settings(invert_basis=basis))
    before = facts_of(p).pipes["P2"]
    made = split(p, facts_of(p), "P2", 20.0, "manhole-1200")
    after = facts_of(made.project)
    [first] = [f for f in after.pipes.values() if f.pipe.down == made.structure]
    [second] = [f for f in after.pipes.values() if f.pipe.up == made.structure]
    assert [first.span.length, second.span.length] == approx([20.0, 30.0])
    for s in (2.0, 15.0):
        assert first.invert(s) == approx(before.invert(s))
    for s in (5.0, 25.0):
        assert second.invert(s) == approx(before.invert(20 + s))
    assert (first.pipe.label, len({f.pipe.label for f in after.pipes.values()})) == ("P2", 4)


def test_a_split_arc_stays_an_arc():
    p = quarter()
    made = split(p, facts_of(p), "P", 20.0, "joint")
    lengths = sorted(f.span.length for f in facts_of(made.project).pipes.values())
    assert lengths == approx([20.0, 15 * np.pi - 20.0])


def test_a_split_at_an_end_is_refused():
    with pytest.raises(EditError, match="split between its ends"):
        split(RUN, facts_of(RUN), "P2", 0.01, "joint")


def test_laying_on_to_a_pipe_puts_a_structure_in():
    p = chain([(48.5, 48.0)])
    way = LayOptions(network=next(iter(p.networks)))
    laid = lay(p, facts_of(p), [Free(20.0, 20.0), OnPipe("P1", 20.0)], way)[-1]
    assert len(laid.project.pipes) == 3
    into = laid.facts.structures[laid.structure]
    assert (len(into.pipes_in), len(into.pipes_out)) == (2, 1)


def test_a_bend_is_drawn_out_of_a_straight_pipe():
    made = bent(RUN, facts_of(RUN), "P2", Free(80.0, 12.0), "joint")
    f = facts_of(made.project)
    assert (f.places[made.structure].x, f.places[made.structure].y) == (80.0, 12.0)
    [first] = [g for g in f.pipes.values() if g.pipe.down == made.structure]
    assert first.pipe.invert_down == approx(47.9 - 0.01 * 30)


def test_deleting_a_structure_joins_its_two_pipes():
    p, loss = deleted(RUN, facts_of(RUN), frozenset({"S2"}), frozenset())
    assert [(q.up, q.down, q.invert_up, q.invert_down) for q in p.pipes.values()] == [
        ("S1", "S3", 48.5, 47.4),
        ("S3", "S4", 47.3, 46.8),
    ]
    assert loss.words == "1 time two pipes become one"
    both, _ = deleted(RUN, facts_of(RUN), frozenset({"S2", "S3"}), frozenset())
    assert [(q.up, q.down) for q in both.pipes.values()] == [("S1", "S4")]


def test_what_cannot_be_joined_is_told():
    sized = set_size(RUN, "P2", "225")
    p, loss = deleted(sized, facts_of(sized), frozenset({"S2"}), frozenset())
    assert set(p.pipes) == {"P3"}
    assert loss.words == "2 pipes go with it; S1, S3 lose a pipe"


def test_a_loose_end_is_pulled_in():
    p = with_pipe(
        with_structure(with_structure(RUN, "J1", 52.0, 1.0, kind="joint"), "X", 52.0, 20.0),
        "Q",
        "X",
        "J1",
        49.0,
        48.2,
    )
    made = attached(p, facts_of(p), "J1", "S2")
    assert made.pipes["Q"].down == "S2"
    assert "J1" not in made.structures
    with pytest.raises(EditError, match="joins S1 and S2 already"):
        attached(RUN, facts_of(RUN), "S1", "S2")


def test_runs_are_turned_and_copied():
    p = turned(RUN, facts_of(RUN), RUN.pipes)
    assert [(q.up, q.down) for q in p.pipes.values()] == [("S2", "S1"), ("S3", "S2"), ("S4", "S3")]
    assert turned(p, facts_of(p), RUN.pipes) == RUN
    made, fresh = copied(RUN, facts_of(RUN), ["P1", "P2"], by=5.0)
    assert len(fresh) == 3
    assert len({s.label for s in made.structures.values()}) == 7
    assert {made.structures[k].place.y for k in fresh} == {0.0} or all(
        abs(made.structures[k].place.x - x) < 6
        for k, x in zip(sorted(fresh), (0, 50, 100), strict=True)
    )
    with pytest.raises(EditError, match="another road, or an offset"):
        copied(RUN, facts_of(RUN), ["P1"])


def test_two_structures_are_joined_afterwards():
    p = with_structure(RUN, "N", 0.0, 30.0)
    made = joined(p, facts_of(p), "N", "S2", LayOptions(network=next(iter(p.networks))))
    f = made.facts.pipes[made.pipe]
    assert (f.pipe.up, f.pipe.down) == ("N", "S2")
    with pytest.raises(EditError, match="already joins these two"):
        joined(made.project, made.facts, "S2", "N", LayOptions(network=next(iter(p.networks))))


# -- held, outfalls, anchors, fits -----------------------------------------------------------------


def test_what_is_held_stays():
    p = replace(
        RUN, pipes={**RUN.pipes, "P1": replace(RUN.pipes["P1"], hold_size=True, hold_up=True)}
    )
    p = replace(p, structures={**p.structures, "S1": replace(p.structures["S1"], hold_size=True)})
    with pytest.raises(EditError, match='"P1" keeps its invert at S1'):
        set_invert(p, "P1", "up", 49.0)
    with pytest.raises(EditError, match='"P1" keeps its invert at S1'):
        shift_pipe(p, "P1", 0.1)
    with pytest.raises(EditError, match='"P1" keeps its size'):
        set_size(p, "P1", "225")
    with pytest.raises(EditError, match="S1 keeps its type"):
        set_type(p, "S1", "manhole-1500")
    ask = Regrade(a="S1", b="S3", start=48.0, slope=0.01)
    with pytest.raises(EditError, match="P1 on this path hold a level or slope"):
        regraded(p, facts_of(p), ask)
    assert (
        regraded(p, facts_of(p), replace(ask, ignore_holds=True)).project.pipes["P1"].invert_up
        == 48.0
    )


def test_any_structure_may_be_declared_an_outfall():
    p = set_type(RUN, "S4", "manhole-1200")
    assert facts_of(p).stranded
    assert not facts_of(set_outfall(p, "S4", True)).stranded


def test_an_anchor_is_changed_where_it_stands():
    p = with_structure(road_project(), "M", 100.0, -4.0, road=True)
    before = facts_of(p).places["M"]
    free = set_anchor(p, facts_of(p), "M", None)
    assert isinstance(free.structures["M"].place, Free)
    assert (facts_of(free).places["M"].x, facts_of(free).places["M"].y) == (
        approx(before.x),
        approx(before.y),
    )
    assert set_anchor(free, facts_of(free), "M", the_road(p)).structures["M"].place == Anchored(
        the_road(p), approx(100.0), approx(-4.0)
    )
    far = with_structure(road_project(), "F", -40.0, 0.0)
    with pytest.raises(EditError, match="has no chainage where F stands"):
        set_anchor(far, facts_of(far), "F", the_road(far))


def test_only_what_fits_is_said_to():
    p = v_project()
    facts = facts_of(p)
    assert misfit(p, facts, "A", "manhole-1200") == ""
    assert "takes DN 225 at most, DN 300 is joined" in misfit(p, facts, "A", "gully-450")
    assert size_misfit(p, "P1", "450") == ""
    assert size_misfit(p, "P1", "600") == "A takes DN 450 at most"


# -- labels ----------------------------------------------------------------------------------------


# -- gullies ---------------------------------------------------------------------------------------


# -- pipes from lines ------------------------------------------------------------------------------


def test_a_stretch_of_a_road_becomes_pipes_and_arcs_stay_arcs():
    demo = demo_project()
    road = next(iter(demo.roads))
    how = LineWay(way=replace(first_way(demo), slope=0.02, start=50.0), corner="joint")
    made = along(demo, facts_of(demo), road, 200.0, 20.0, -6.0, how)
    facts = facts_of(made.project)
    spans = [facts.pipes[k].span for k in made.pipes]
    assert [s.arc is not None for s in spans] == [False, True, False]
    assert spans[1].arc.radius == approx(114.0)
    kinds = [made.project.types[made.project.structures[k].type].kind for k in made.structures]
    assert kinds == ["manhole", "joint", "joint", "manhole"]
    slopes = [facts.pipes[k].slope for k in made.pipes]
    assert slopes == approx([0.02, 0.02, 0.02])


def test_a_drawn_line_becomes_a_run_with_chambers_at_a_spacing():
    p = road_project()
    how = LineWay(way=first_way(p), corner="manhole-1050", spacing=60.0)
    made = drawn(p, facts_of(p), [(300.0, 5.0), (150.0, 5.0), (150.0, 25.0)], how)
    lengths = [facts_of(made.project).pipes[k].span.length for k in made.pipes]
    assert lengths == approx([50.0, 50.0, 50.0, 20.0])
    with pytest.raises(EditError, match="no length"):
        drawn(p, facts_of(p), [(0, 0), (0, 0)], how)


# -- networks and selecting ------------------------------------------------------------------------


def loose_project():
    """S1 to S3 in a chain and a pipe from S1 that ends in a joint J1, 0.4 m beside S3."""
    p = chain([(48.0, 47.5), (47.4, 47.0)])
    p = with_structure(p, "J1", 99.8, 0.4, "joint")
    return with_pipe(p, "P9", "S1", "J1", 47.8, 47.2)


def test_a_pipe_that_ends_in_the_open_is_told_and_attached_by_its_fix():
    p = loose_project()
    facts = facts_of(p)
    [finding] = [f for f in check(p, facts) if f.rule == "unattached_end"]
    assert (finding.structure, finding.severity) == ("J1", "breach")
    assert said(p, finding) == "Pipe P9 ends in the open at J1: attach it to a structure."
    assert loose_ends(facts) == ["J1"]
    near = nearest_structure(facts, "J1")
    assert near == ("S3", approx((0.2**2 + 0.4**2) ** 0.5))
    [fix] = fixes(p, facts, finding)
    assert (fix.text, fix.figure) == ("Attach it to S3", "0.45 m away")
    assert (fix.project.pipes["P9"].down, "J1" in fix.project.structures) == ("S3", False)
    assert [
        f for f in check(fix.project, facts_of(fix.project)) if f.rule == "unattached_end"
    ] == []


def test_all_loose_ends_are_attached_within_a_distance():
    p = loose_project()
    facts = facts_of(p)
    with pytest.raises(EditError, match=r"No loose end has a structure within 0\.30 m"):
        all_attached(p, facts, 0.3)
    assert all_attached(p, facts, 0.5).pipes["P9"].down == "S3"


def test_a_joint_between_two_pipes_or_where_water_leaves_is_no_loose_end():
    p = loose_project()
    leaving = replace(
        p, structures={**p.structures, "J1": replace(p.structures["J1"], outfall=True)}
    )
    assert loose_ends(facts_of(leaving)) == []
    joined = with_pipe(p, "P10", "J1", "S2", 47.0, 46.9)
    assert loose_ends(facts_of(joined)) == []


def test_the_arcs_of_a_drawn_line_stay_arcs_though_nothing_touches_them():
    # a bulge: a quarter of a circle about (0, 0), radius 20, from (20, 0) to (0, 20), with
    # straights that do not touch it
    turn = np.linspace(0, np.pi / 2, 21)
    places = [
        (40.0, -5.0),
        *zip(20 * np.cos(turn), 20 * np.sin(turn), strict=True),
        (-30.0, 30.0),
        (-30.0, 60.0),
    ]
    pieces = pieces_through(places)
    assert [type(p) for p in pieces] == [Straight, Arc, Straight, Straight]
    assert pieces[1].length == approx(20 * np.pi / 2, abs=0.02)
    assert not pieces[1].clockwise
    mid = pieces[1].point(np.array([pieces[1].length / 2]), np.zeros(1))
    assert (mid[0][0], mid[1][0]) == (
        approx(20 * np.cos(np.pi / 4), abs=1e-3),
        approx(20 * np.sin(np.pi / 4), abs=1e-3),
    )
    assert [type(p) for p in pieces_through(places[::-1])] == [Straight, Straight, Arc, Straight]
    assert pieces_through(places[::-1])[2].clockwise
    assert [type(p) for p in pieces_through(places[1:22])] == [Arc]  # an arc alone
    square = [(0, 0), (10, 0), (10, 10), (0, 10), (0, 0)]
    assert [type(p) for p in pieces_through(square)] == [Straight] * 4
