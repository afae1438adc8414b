import pytest
from pytest import approx

from tests.build import facts_of, grounded, road_project, said, the_road, with_structure
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.edits.change import set_next_slope
from zumbert.edits.labels import next_label
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import LayOptions
from zumbert.edits.levels import set_invert
from zumbert.edits.setup import add_road
from zumbert.errors import EditError
from zumbert.geometry.elements import Straight
from zumbert.model.structure import Anchored, Free


def way(project, **values):
    return LayOptions(network=next(iter(project.networks)), **values)


def laid(project, chainages, begin=None, **values):
    places = [Anchored(the_road(project), c, 1.1) for c in chainages]
    return lay(project, analyse(project), places, way(project, **values), begin)[-1]


def rules(project):
    return {f.rule for f in check(project, analyse(project))} - {"no_outfall"}


ROLLING = add_road(
    grounded([(-50, 49.0), (0, 50.0), (40, 50.2), (55, 49.6), (90, 51.5), (130, 52.2), (170, 54.5),
              (260, 55.0), (400, 60.0)]),
    "R", (Straight(0.0, 0.0, 390.0, 0.0),),
)  # fmt: skip
CHAINAGES = [10, 50, 88, 130, 175, 230, 262]


@pytest.mark.parametrize("up", [True, False])
@pytest.mark.parametrize("project", [road_project(), ROLLING], ids=["plane", "rolling"])
def test_a_run_laid_by_cover_keeps_every_rule_and_no_pipe_can_be_raised(project, up):
    made = laid(project, CHAINAGES if up else CHAINAGES[::-1], up=up)
    assert rules(made.project) == set()
    assert len(made.project.pipes) == 6
    for key, pipe in made.project.pipes.items():
        higher = set_invert(
            set_invert(made.project, key, "up", pipe.invert_up + 1e-4),
            key,
            "down",
            pipe.invert_down + 1e-4,
        )
        assert rules(higher), f"{pipe.label} can lie shallower"


def test_one_pipe_lies_at_exactly_the_least_cover():
    made = laid(ROLLING, [30, 70], up=True)
    [f] = made.facts.pipes.values()
    assert f.cover.least == approx(0.9)
    assert f.cover.least_at == approx(15.0)  # the dip at 55, counted from 70


def test_by_slope_from_a_start_level():
    p = road_project()
    up = laid(p, [10, 60, 110], up=True, slope=0.015, start=48.0)
    first, second = up.project.pipes.values()
    assert (first.invert_down, first.invert_up) == (48.0, approx(48.75))
    # least drop between
    assert (second.invert_down, second.invert_up) == (approx(48.77), approx(49.52))
    down = laid(p, [110, 60, 10], slope=0.015, start=50.0)
    first, second = down.project.pipes.values()
    assert (first.invert_up, first.invert_down) == (50.0, approx(49.25))
    assert second.invert_up == approx(49.23)


def test_by_slope_without_a_start_it_lies_as_shallow_as_cover_allows():
    made = laid(road_project(), [10, 60], up=True, slope=0.02)
    [f] = made.facts.pipes.values()
    assert (f.slope, f.cover.least) == (approx(0.02), approx(0.9))


def test_a_start_level_holds_and_the_rest_follows():
    made = laid(road_project(), [10, 60], up=True, start=48.2)
    first = next(iter(made.project.pipes.values()))
    assert first.invert_down == approx(48.2)
    assert made.facts.pipes[first.id].cover.least == approx(0.9)
    longer = laid(road_project(), [10, 60, 110], up=True, start=48.2)
    again = longer.project.pipes[first.id]
    assert again.invert_down == approx(48.2)
    assert 0 < first.invert_up - again.invert_up < 0.03  # room for the next pipe's drop
    assert rules(longer.project) == set()


def test_where_no_level_keeps_every_rule_it_is_laid_at_the_nearest():
    p = road_project(fall=0.0)  # level ground at 50
    made = laid(p, [10, 60], up=True, start=49.5)  # only 0.155 m of cover at the start
    [pipe] = made.project.pipes.values()
    assert pipe.invert_down == approx(49.5)
    shallow = {"chamber_depth", "rim_above_crowns"}  # that start lies 0.5 m under the rim
    assert rules(made.project) - shallow == {"cover_min"}
    assert made.facts.pipes[pipe.id].slope == approx(0.004)  # no shallower than it must be


def test_going_on_from_a_structure_and_joining_one_that_is_there():
    p = laid(road_project(), [10, 60, 110], up=True).project
    s2 = next(s for s in p.structures.values() if s.label == "S2")
    branch = lay(p, analyse(p), [Free(60, -40)], way(p, up=True), s2.id)[-1]
    assert branch.project.pipes[branch.pipe].down == s2.id
    assert branch.facts.pipes[branch.pipe].pipe.invert_down > max(
        q.invert_up for q in p.pipes.values() if q.up == s2.id
    )
    s3 = next(s for s in p.structures.values() if s.label == "S3")
    joined = lay(
        branch.project,
        branch.facts,
        [Anchored(the_road(p), 110.2, 1.2)],
        way(p, up=True),
        branch.structure,
    )[-1]
    assert joined.structure == s3.id  # the place lies in its chamber
    assert len(joined.project.structures) == len(branch.project.structures)


def test_labels_number_themselves():
    p = with_structure(with_structure(road_project(), "S7", 5), "Sx", 9)
    assert next_label(p, "manhole-1200") == "S8"
    assert next_label(p, "gully-450") == "G1"
    assert next_label(p, "headwall") == "HW1"


@pytest.mark.parametrize(
    ("places", "words"),
    [
        ([10.0, 600.0], "outside the road .*runs from 0\\+000.00 to 0\\+500.00"),
        ([10.0, 10.1], "where the run already is"),
        ([10.0, 60.0, 10.0, 60.0], "already joins"),
    ],
)
def test_what_cannot_be_laid_is_said(places, words):
    with pytest.raises(EditError, match=words):
        laid(road_project(), places)


def test_unknown_types_and_sizes_are_refused():
    with pytest.raises(EditError, match="did you mean"):
        laid(road_project(), [1, 50], type="manhole-120")
    with pytest.raises(EditError, match="no pipe size"):
        laid(road_project(), [1, 50], size="310")


def test_without_ground_a_start_level_is_asked_for():
    p = add_road(grounded([(9000, 1.0), (9010, 1.0)]), "R", (Straight(0, 0, 100, 0),))
    with pytest.raises(EditError, match="give a start level and a slope"):
        laid(p, [10, 60])
    made = laid(p, [10, 60], slope=0.01, start=12.0)
    assert next(iter(made.project.pipes.values())).invert_down == approx(11.5)
    assert facts_of(made.project).pipes[made.pipe].cover is None


# -- by level, and by an edge ----------------------------------------------------------------------


@pytest.mark.parametrize("up", [False, True], ids=["down-slope", "up-slope"])
def test_by_level_the_new_end_is_at_it_and_the_other_as_shallow_as_the_rules_allow(up):
    p = road_project()  # rises 2 % with the chainage
    order = (50.0, 20.0) if not up else (20.0, 50.0)
    made = laid(p, order, up=up, level=49.0 if not up else 49.4)
    pipe = made.project.pipes[made.pipe]
    assert (pipe.invert_up if up else pipe.invert_down) == approx(49.4 if up else 49.0)
    by_cover = laid(p, order, up=up)
    shallow = by_cover.project.pipes[by_cover.pipe]
    near, other = (
        (pipe.invert_down, shallow.invert_down) if up else (pipe.invert_up, shallow.invert_up)
    )
    # where it would lie by cover: there the level leaves it free
    assert near == approx(other, abs=0.01)
    assert rules(made.project) == set()


def test_a_level_holds_for_one_pipe_and_what_follows_goes_by_cover_again():
    p = road_project()
    places = [Anchored(the_road(p), c, 1.1) for c in (80.0, 50.0, 20.0)]
    _, second, third = lay(p, analyse(p), places, way(p, level=49.2))
    assert second.project.pipes[second.pipe].invert_down == approx(49.2)
    assert third.project.pipes[third.pipe].invert_down < 49.2


def test_a_level_that_keeps_no_rule_is_taken_and_the_finding_says_by_how_much():
    p = road_project()
    made = laid(p, (50.0, 20.0), level=49.8)  # ground 50.4 at 20: cover 50.4 - 49.8 - 0.345 = 0.255
    pipe = made.project.pipes[made.pipe]
    assert pipe.invert_down == approx(49.8)
    told = [said(made.project, f) for f in check(made.project, made.facts) if f.rule == "cover_min"]
    assert told[0].endswith("needs 0.90 m.")


@pytest.mark.parametrize(
    ("offset", "edge", "stands"),
    [
        (3.0, "middle", 3.0),
        (3.0, "outer", 2.275),
        (3.0, "inner", 3.725),
        (-3.0, "outer", -2.275),
        (-3.0, "inner", -3.725),
    ],
)
def test_a_structure_stands_by_its_middle_or_an_edge(offset, edge, stands):
    p = road_project()  # manhole-1200: 0.6 + 0.125 from its middle to its outside
    [one] = lay(p, analyse(p), [Anchored(the_road(p), 50.0, offset)], way(p, edge=edge))
    assert one.project.structures[one.structure].place.offset == approx(stands)


def test_a_rectangle_stands_by_the_edge_of_its_width_and_a_joint_by_its_place():
    p = road_project()
    for kind, stands in (("manhole-1500x1200", 3.0 - 0.6 - 0.2), ("joint", 3.0)):
        [one] = lay(
            p, analyse(p), [Anchored(the_road(p), 50.0, 3.0)], way(p, edge="outer", type=kind)
        )
        assert one.project.structures[one.structure].place.offset == approx(stands)


def test_the_slope_set_at_a_chamber_is_that_of_the_next_pipe_down_from_it():
    made = laid(road_project(), [100, 60])  # water runs down to 60
    low = made.structure
    p = set_next_slope(made.project, made.facts, low, 0.031)
    going_on = laid(p, [20], begin=low)
    f = going_on.facts.pipes[going_on.pipe]
    assert f.slope == approx(0.031, abs=1e-12)
    assert going_on.project.structures[low].next_slope is None  # it is that pipe's slope now
    # what is set at the chamber goes before what the run has
    by_slope = laid(p, [20], begin=low, slope=0.05)
    assert by_slope.facts.pipes[by_slope.pipe].slope == approx(0.031, abs=1e-12)
    upward = laid(p, [140], begin=low, up=True)  # a pipe that comes in is another matter
    assert upward.facts.pipes[upward.pipe].slope != approx(0.031, abs=1e-6)
    assert upward.project.structures[low].next_slope == 0.031


def test_a_next_slope_is_refused_where_there_is_an_outlet_or_it_is_a_wall():
    made = laid(road_project(), [100, 60])
    first = made.project.pipes[made.pipe].up
    with pytest.raises(EditError, match="has an outlet already"):
        set_next_slope(made.project, made.facts, first, 0.02)
    with pytest.raises(EditError, match="steeper than 1:1"):
        set_next_slope(made.project, made.facts, made.structure, 1.5)
