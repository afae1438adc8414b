from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, label_of, said
from zumbert.analysis import analyse
from zumbert.analysis.land import allowed, outside
from zumbert.checks import check
from zumbert.edits.join import curved
from zumbert.edits.land import add_land
from zumbert.model.ids import PipeId
from zumbert.model.structure import Free

# S1, S2, S3 at x 0, 50, 100 on y 0; chambers 1.2 m inside
RUN = chain([(48.0, 47.5), (47.4, 47.0)])


def box(x0, x1, y0=-5.0, y1=5.0):
    return [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]


def land_of(*areas):
    project = RUN
    for kind, ring in areas:
        project, _ = add_land(project, kind, ring)
    return project


def found(project):
    return [f for f in check(project, facts_of(project)) if f.rule == "land"]


def test_a_pipe_between_two_areas_tells_the_stretch_and_its_length():
    project = land_of(
        ("reserve", box(-10, 20)), ("easement", box(32, 60)), ("property", box(20, 32))
    )
    pipe, outlet, s3 = found(project)
    assert (pipe.pipe, pipe.value, pipe.distance) == ("P1", approx(12.0), approx(26.0))
    assert pipe.stretches == ((approx(20.0), approx(32.0)),)
    assert (
        said(project, pipe)
        == "Pipe S1 to S2 lies outside the land over 12.00 m, at 26.00 m from S1."
    )
    # P2 from the wall of S2 at 50.6 to the outfall at 100: outside from 60 on
    assert (outlet.pipe, outlet.value) == ("P2", approx(40.0))
    assert (s3.structure, s3.value) == ("S3", approx(40.0))


def test_areas_that_touch_are_one_and_without_areas_nothing_is_told():
    assert found(RUN) == []
    # private land alone forbids nothing that is not said
    assert found(land_of(("property", box(-10, 20)))) == []
    assert found(land_of(("reserve", box(-10, 50)), ("easement", box(50, 110)))) == []


def test_work_that_is_there_already_is_not_judged():
    project = land_of(("reserve", box(-10, 20)))
    there = {k: replace(p, status="existing") for k, p in project.pipes.items()}
    stands = {k: replace(s, status="existing") for k, s in project.structures.items()}
    assert found(replace(project, pipes=there, structures=stands)) == []


@given(st.floats(2.0, 40.0), st.floats(2.0, 40.0))
def test_inside_and_outside_make_the_whole_barrel(a, wide):
    project = land_of(("reserve", box(-10, a)), ("easement", box(min(a + wide, 49.0), 200)))
    span = facts_of(project).spans[PipeId("P1")]
    gap = max(0.0, min(a + wide, 49.0, 49.4) - min(a, 49.4))  # the barrel ends at the wall of S2
    assert sum(q - p for p, q in outside(allowed(project.land), span)) == approx(gap, abs=2e-3)


def test_a_curved_pipe_leaves_the_land_where_its_arc_does():
    project = land_of(("reserve", box(-10, 200, -5.0, 3.0)))
    bent = curved(project, facts_of(project), PipeId("P1"), Free(25.0, 6.0))
    span = facts_of(bent).spans[PipeId("P1")]
    [(a, b)] = outside(allowed(bent.land), span)
    assert span.point(a)[1] == approx(3.0, abs=0.01)
    assert span.point(b)[1] == approx(3.0, abs=0.01)
    assert a + b == approx(span.length, abs=0.05)  # the same on both sides of its middle


def test_judged_anew_when_the_land_changes():
    facts = facts_of(RUN)
    before = check(RUN, facts)
    project = land_of(("reserve", box(-10, 20)))
    assert [
        label_of(project, f) for f in check(project, facts_of(project), before) if f.rule == "land"
    ] == ["P1", "P2", "S2", "S3"]
    again = analyse(replace(RUN, land=project.land), facts)
    assert again.land is not None and facts.land is None
    assert analyse(replace(again.project, name="other"), again).land is again.land  # joined once
