from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, with_pipe, with_structure
from zumbert.analysis import analyse
from zumbert.analysis.runline import RunKey
from zumbert.analysis.runs import run
from zumbert.app.session import Session
from zumbert.edits.change import set_anchor
from zumbert.edits.land import add_service
from zumbert.edits.levels import shift_pipe
from zumbert.edits.setup import add_road
from zumbert.edits.several import moved
from zumbert.geometry.elements import Straight

# S1 to S3 along x, inverts 48.0 to 47.5 and 47.4 to 47.0; DN 300, wall 45 mm
RUN = chain([(48.0, 47.5), (47.4, 47.0)])


def crossed(level=46.0, x=30.0):
    """A pipe from (x, -30) to (x, 30) at an invert, in another run."""
    p = with_structure(with_structure(RUN, "X", x, -30), "Y", x, 30)
    return with_pipe(p, "PX", "X", "Y", level, level, "225")


def shown(project):
    return run(facts_of(project), RunKey("run", "S1")).crossings


def test_a_duct_at_a_right_angle_keeps_the_room_of_the_worked_example():
    # axis of the pipe 10.000 with outside 0.39, duct outside 0.11 at axis 10.400: 0.4 - 0.195 -
    # 0.055 = 0.150
    p = chain([(9.85, 9.85)])
    p, _ = add_service(
        p, "power", [(20.0, -5.0, 10.4), (20.0, 5.0, 10.4)], size=0.11, clearance=0.3
    )
    [c] = run(facts_of(p), RunKey("run", "S1")).crossings
    assert (c.kind, c.label, c.level, c.above, c.need) == (
        "service",
        "E1 power",
        approx(10.4),
        True,
        0.3,
    )
    assert c.clear == approx(0.15)


def test_a_pipe_that_crosses_is_shown_at_its_level_with_the_room_between():
    [c] = shown(crossed())
    # the section runs from S3 up: S1 lies at 100 m, so x 30 at 70 m
    assert (c.kind, c.id, c.label, c.at) == ("pipe", "PX", "PX DN 225", approx(70.0))
    assert (c.level, c.above) == (approx(46.0 + 0.1125), False)
    axis = 48.0 - 0.5 * 30 / 50 + 0.15
    assert c.upright == approx(axis - 46.1125 - 0.1425 - 0.195)
    # the run falls 1 %: in space the axes are nearer by the cosine of that
    assert (
        c.clear == approx((axis - 46.1125) / 1.0001**0.5 - 0.3375, abs=1e-9) and c.clear < c.upright
    )


def test_a_service_that_comes_nearest_away_from_its_crossing_keeps_its_least_room():
    # it crosses 3 m over the axis and then dives to 1 m beside the pipe, 0.8 m off in plan
    p = chain([(48.0, 48.0)])
    points = [(10.0, -5.0, 51.15), (10.0, 0.8, 51.15), (12.0, 0.8, 48.75), (40.0, 0.8, 48.75)]
    p, _ = add_service(p, "water", points, size=0.1)
    [c] = run(facts_of(p), RunKey("run", "S1")).crossings
    assert c.upright == approx(3.0 - 0.05 - 0.195)
    assert c.clear == approx((0.8**2 + 0.6**2) ** 0.5 - 0.05 - 0.195)  # 1.000 between the axes


def test_another_road_that_crosses_is_shown_with_its_chainage():
    p = add_road(RUN, "Tansymoor Lane", (Straight(25.0, -40.0, 25.0, 60.0),), 100.0)
    [c] = shown(p)
    assert (c.kind, c.label, c.at, c.level, c.clear) == (
        "road",
        "Tansymoor Lane 0+140.00",
        approx(75.0),
        None,
        None,
    )
    road = next(iter(p.roads))
    along = run(facts_of(p), RunKey("road", road))
    assert along.crossings == ()  # its own centre line is no crossing
    p = add_road(p, "Quillerby Rise", (Straight(0.0, 10.0, 90.0, 10.0),))
    other = next(k for k in p.roads if k != road)
    facts = facts_of(p)
    assert [c.id for c in run(facts, RunKey("road", other)).crossings] == [road]
    assert [c.id for c in run(facts, RunKey("road", road)).crossings] == [other]


def test_a_run_that_lies_along_a_road_is_not_crossed_by_it():
    p = add_road(RUN, "Quillerby Rise", (Straight(-10.0, -2.0, 110.0, 2.0),))
    assert [c.kind for c in shown(p)] == ["road"]
    facts, road = facts_of(p), next(iter(p.roads))
    for key in p.structures:
        p = set_anchor(p, facts, key, road)
    assert shown(p) == ()


def test_pipes_that_meet_the_run_in_a_chamber_do_not_cross_it():
    p = with_structure(RUN, "G", 50, 20, kind="gully-450")
    assert shown(with_pipe(p, "L", "G", "S2", 48.5, 48.0, "150")) == ()


def test_a_service_without_levels_is_told_without_room():
    p, _ = add_service(RUN, "water", [(20.0, -5.0, None), (20.0, 5.0, 47.0)])
    [c] = shown(p)
    assert (c.level, c.clear) == (None, None)


def test_the_section_follows_a_crossing_pipe_that_comes_changes_or_goes(qapp):
    session = Session(crossed(x=300.0))
    session.show_run(RunKey("run", "S1"))
    before = session.state.look.run
    assert before.crossings == ()
    session.edit("Lower", lambda p, f: shift_pipe(p, "PX", -0.5))
    assert session.state.look.run is before  # it crosses nothing: the same run
    session.edit("Move", lambda p, f: moved(p, f, ["X", "Y"], 0.0, -270.0))
    [c] = session.state.look.run.crossings
    assert c.at == approx(70.0)
    session.edit("Lower", lambda p, f: shift_pipe(p, "PX", -0.5))
    assert session.state.look.run.crossings[0].level == approx(c.level - 0.5)
    session.edit(
        "Gone", lambda p, f: replace(p, pipes={k: q for k, q in p.pipes.items() if k != "PX"})
    )
    assert session.state.look.run.crossings == ()


def test_a_run_taken_on_from_an_earlier_one_is_as_if_made_anew():
    p = add_road(RUN, "Quillerby Rise", (Straight(-10.0, -2.0, 110.0, 2.0),))
    road = next(iter(p.roads))
    facts, key = facts_of(p), RunKey("run", "S1")
    before = run(facts, key)
    assert [c.kind for c in before.crossings] == ["road"]
    lower = shift_pipe(p, "P1", -0.5)
    for made in (
        lower,
        set_anchor(p, facts, "S2", road),
        *(set_anchor(lower, facts, k, road) for k in ("S1", "S2")),
    ):
        now = analyse(made, facts)
        for k in (key, RunKey("road", road)):
            one, other = run(now, k, run(facts, k)), run(now, k)
            assert [c[:4] for c in one.crossings] == [c[:4] for c in other.crossings]
            assert (one.structures, one.reaches, one.fall, one.anchors) == (
                other.structures,
                other.reaches,
                other.fall,
                other.anchors,
            )
            assert (one.ground is None) == (other.ground is None)
    for k in p.structures:
        p = set_anchor(p, facts, k, road)
    assert run(analyse(p, facts), key, before).crossings == ()  # it lies along the road now


def test_a_service_with_its_corner_on_the_axis_or_over_a_pipe_s_end_is_one_crossing():
    corner, _ = add_service(
        RUN, "water", [(30.0, -5.0, 47.0), (30.0, 0.0, 47.0), (35.0, 6.0, 47.0)]
    )
    assert len(shown(corner)) == 1
    end, _ = add_service(RUN, "water", [(50.0, -5.0, 47.0), (50.0, 5.0, 47.0)])  # S2 stands at 50
    assert len(shown(end)) == 1
    both, _ = add_service(RUN, "water", [(50.0, -5.0, 47.0), (50.0, 0.0, 47.0), (52.0, 6.0, 47.0)])
    assert len(shown(both)) == 1
    twice, _ = add_service(
        RUN, "water", [(30.0, -5.0, 47.0), (30.0, 5.0, 47.0), (40.0, 5.0, 47.0), (40.0, -5.0, 47.0)]
    )
    assert len(shown(twice)) == 2
