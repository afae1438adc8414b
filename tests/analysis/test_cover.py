from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, grounded, quoted_at, v_project, with_pipe, with_structure
from zumbert.analysis.cover import Top, covers, stretches
from zumbert.analysis.spans import _arc_reach
from zumbert.geometry.elements import Arc
from zumbert.geometry.line import line
from zumbert.model.catalogue import StructureType
from zumbert.model.ids import TypeKey
from zumbert.model.pipe import Bore

V = line((0, 30.0), (30, 29.0), (60, 30.0))


def test_a_dip_between_the_ends_governs():
    # top falls 28.845 -> 28.545 over 60 m: 28.695 at 30 m; ground there 29.000: 0.305 m
    [found] = covers([V], [Top(28.845, 0.0, 0.005)])
    assert found.least == approx(0.305)
    assert found.least_at == 30.0
    assert found.greatest == approx(1.455)  # at the lower end: 30.000 - 28.545


def test_cover_is_judged_from_inner_wall_to_inner_wall():
    facts = facts_of(v_project())
    cover = facts.pipes["P1"].cover
    assert (cover.least, cover.least_at) == (approx(0.305), 30.0)
    # at 59.4 m: ground 29.98, top 28.845 - 0.297 = 28.548
    assert (cover.greatest, cover.greatest_at) == (approx(1.432), approx(59.4))


def test_a_chamber_that_grows_shortens_its_pipe_at_once():
    small, large = facts_of(v_project("manhole-1200")), facts_of(v_project("manhole-1500"))
    assert small.pipes["P1"].length("wall-plan") - large.pipes["P1"].length("wall-plan") == approx(
        0.15
    )
    assert (
        small.pipes["P1"].length("centre-plan") == large.pipes["P1"].length("centre-plan") == 60.0
    )


def test_the_four_lengths_and_both_bases():
    # centres 50.000 apart, chambers 1.2 and 1.5: wall plan 48.650; inverts 31.460, 30.975
    p = with_structure(
        with_structure(grounded([(-10, 34.0), (70, 34.0)]), "A", 0), "B", 50, kind="manhole-1500"
    )
    p = with_pipe(p, "P", "A", "B", 31.460, 30.975)
    at_centres, at_walls = facts_of(p).pipes["P"], facts_of(quoted_at(p, "walls")).pipes["P"]
    assert at_centres.length("wall-plan") == approx(48.650)
    assert at_centres.slope == approx(0.0097)
    assert at_walls.slope == approx(0.9969e-2, abs=5e-7)
    assert at_centres.length("centre-slope") == approx(np.hypot(50, 0.485))
    assert at_centres.length("wall-slope") == approx(np.hypot(48.65, 0.485))
    assert at_walls.invert(0.6) == approx(31.460)
    assert at_walls.invert(49.25) == approx(30.975)
    assert at_centres.invert(50.0) == approx(30.975)


def test_design_governs_where_there_is_one_and_the_source_is_told():
    p = grounded([(20, 29.5), (40, 29.5)], "design", v_project())  # over the dip alone
    f = facts_of(p).pipes["P1"]
    assert f.span.sources == ("design", "existing")
    # existing ground just before the design begins at 20 m: 30 - 20/30 = 29.333; top 28.745: 0.588
    assert (f.cover.least, f.cover.least_at) == (approx(29.3333333 - 28.745), approx(20.0))


def test_without_any_surface_the_rims_stand_in():
    p = replace(v_project(), surfaces={})
    assert facts_of(p).pipes["P1"].cover is None
    p = with_structure(with_structure(p, "A", 0, rim=30.0), "B", 60, rim=30.0)
    f = facts_of(p).pipes["P1"]
    assert f.span.sources == ("rims",)
    assert f.cover.least == approx(30 - 28.845 + 0.6 * 0.005)


def test_chambers_that_meet_leave_no_barrel():
    p = with_structure(with_structure(grounded([(-10, 30.0), (10, 30.0)]), "A", 0), "B", 1.0)
    f = facts_of(with_pipe(p, "P", "A", "B", 28.0, 27.9)).pipes["P"]
    assert f.cover is None
    assert f.length("wall-plan") == 0.0
    same = facts_of(with_pipe(with_structure(p, "C", 0), "Q", "A", "C", 28.0, 27.9)).pipes["Q"]
    assert same.slope is None


def test_stretches_are_exact():
    # cover under 0.9: top + 0.9 meets the ground where 30 - s/30 = 29.745 - s/200 and on the way up
    [(a, b)] = stretches(V, Top(28.845, 0.0, 0.005), 0.9, True)
    assert a == approx(0.255 / (1 / 30 - 0.005))
    assert b == approx(30 + 0.595 / (1 / 30 + 0.005))
    assert stretches(V, Top(27.0, 0.0, 0.005), 0.9, True) == []


POINTS = st.lists(st.tuples(st.floats(0.5, 20), st.floats(25, 35)), min_size=2, max_size=10)


@given(POINTS, st.floats(20, 30), st.floats(-0.1, 0.1), st.floats(0.1, 4))
def test_no_sample_beats_the_exact_extremes(points, level, slope, limit):
    s = np.cumsum([d for d, _ in points])
    ground = line(*zip(s.tolist(), [z for _, z in points], strict=True))
    top = Top(level, float(s[0]), slope)
    [found] = covers([ground], [top])
    at = np.linspace(s[0], s[-1], 500)
    depth = np.interp(at, ground.s, ground.z) - (level - slope * (at - s[0]))
    assert found.least <= depth.min() + 1e-9
    assert found.greatest >= depth.max() - 1e-9
    inside = np.zeros(len(at), bool)
    for a, b in stretches(ground, top, limit, True):
        inside |= (at >= a - 1e-9) & (at <= b + 1e-9)
    assert not (depth[~inside] < limit - 1e-9).any()
    assert not (depth[inside] > limit + 1e-7).any()


@pytest.mark.parametrize(
    ("kind", "radius"), [("manhole-1800", 0.9), ("gully-450", 0.225), ("outfall", 0.0)]
)
def test_reach_is_to_the_inner_wall(kind, radius):
    p = chain([(48.0, 47.5)])
    p = replace(
        p, structures={**p.structures, "S1": replace(p.structures["S1"], type=TypeKey(kind))}
    )
    assert facts_of(p).pipes["P1"].span.reach_up == radius


def test_a_pipe_of_no_catalogue():
    f = facts_of(with_pipe(v_project(), "Q", "A", "B", 28.0, 27.9, size=Bore(0.31, 0.04))).pipes[
        "Q"
    ]
    assert (f.dn, f.inside, f.outside_height) == (310.0, 0.31, approx(0.35))


@given(
    st.floats(4, 40),
    st.floats(0, 6.28),
    st.floats(0.4, 2.5),
    st.booleans(),
    st.floats(0, 6.28),
    st.floats(0.6, 3.0),
    st.floats(0.6, 3.0),
)
def test_a_curved_pipe_leaves_a_rectangular_chamber_where_its_arc_does(
    radius, start, sweep, clockwise, turned, long, wide
):
    turn = 1.0 if clockwise else -1.0
    end = start - turn * sweep
    arc = Arc(
        100 + radius * np.cos(start),
        200 + radius * np.sin(start),
        100 + radius * np.cos(end),
        200 + radius * np.sin(end),
        100.0,
        200.0,
        clockwise,
    )
    kind = StructureType(key=TypeKey("t"), name="t", kind="manhole", inside=long, across=wide)
    c, n = np.cos(turned), np.sin(turned)
    for name in ("up", "down"):
        got = _arc_reach(arc, name, kind, SimpleNamespace(bearing=turned))
        s = np.linspace(0.0, arc.length, 40_001)
        x, y = arc.point(s if name == "up" else arc.length - s, np.zeros_like(s))
        x, y = x - x[0], y - y[0]
        out = (np.abs(x * n + y * c) > long / 2) | (np.abs(x * c - y * n) > wide / 2)
        want = s[out.argmax()] if out.any() else arc.length
        assert got == approx(want, abs=arc.length / 15_000)
