"""Rims and depths of chambers; the ground of the chain is level at 50.000, pipes are DN 300."""

import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, grounded, said
from zumbert.checks import check
from zumbert.edits.change import set_rim, set_type
from zumbert.edits.fixes import fixes
from zumbert.edits.setup import set_standard
from zumbert.model.standard import Standard
from zumbert.model.structure import FixedRim, OnSurface

RUN = chain([(48.0, 47.5), (47.45, 46.95)])


def fixed(level, key="S2"):
    return set_rim(RUN, key, FixedRim(level))


def of(project, rule):
    return [f for f in check(project, facts_of(project)) if f.rule == rule]


@pytest.mark.parametrize(
    ("level", "off"), [(50.051, 0.051), (49.9, -0.1), (50.05, None), (49.95, None)]
)
def test_a_fixed_rim_off_its_surface_is_told_with_how_far(level, off):
    found = of(fixed(level), "rim_on_surface")
    if off is None:
        assert found == []
        return
    [f] = found
    assert (f.severity, f.structure, f.value, f.limit) == ("breach", "S2", approx(off), 0.05)
    assert f"{abs(off):.3f} m {'over' if off > 0 else 'under'}" in said(fixed(level), f)


def test_its_fix_puts_the_rim_on_the_surface():
    project = fixed(50.3)
    facts = facts_of(project)
    [fix] = fixes(project, facts, of(project, "rim_on_surface")[0])
    assert fix.project.structures["S2"].rim == OnSurface(surface="existing")
    assert facts_of(fix.project).places["S2"].rim == approx(50.0)
    assert of(fix.project, "rim_on_surface") == []


def test_a_rim_on_a_surface_and_one_without_any_are_not_judged():
    assert of(set_rim(RUN, "S2", OnSurface(adjustment=0.4)), "rim_on_surface") == []
    bare = replace(fixed(60.0), surfaces={})
    assert of(bare, "rim_on_surface") == []


def test_the_design_goes_before_the_ground():
    project = grounded([(-50, 50.4), (500, 50.4)], "design", fixed(50.4))
    assert of(project, "rim_on_surface") == []
    assert of(fixed(50.4), "rim_on_surface") != []


def test_the_tolerance_is_the_standards():
    wide = set_standard(fixed(50.3), Standard(id="", name="wide", rim_tolerance=0.5))
    assert of(wide, "rim_on_surface") == []


def test_a_rim_under_a_crown_is_told_for_that_pipe():
    # crowns at S2: in 47.500 + 0.300 = 47.800, out 47.450 + 0.300 = 47.750
    assert [f.value for f in of(fixed(47.76), "rim_above_crowns")] == [47.76]
    [f] = of(fixed(47.76), "rim_above_crowns")
    assert (f.limit, "from S1" in said(fixed(47.76), f)) == (approx(47.8), True)
    assert len(of(fixed(47.7), "rim_above_crowns")) == 2
    assert of(fixed(47.81), "rim_above_crowns") == []


def test_walls_and_joints_have_no_rim_that_is_judged():
    for kind in ("joint", "headwall"):
        project = set_rim(set_type(RUN, "S2", kind), "S2", FixedRim(45.0))
        assert (
            of(project, "rim_on_surface")
            + of(project, "rim_above_crowns")
            + of(project, "chamber_depth")
            == []
        )


@pytest.mark.parametrize(
    ("rim", "words"),
    [
        (53.451, "6.001 m deep, Manhole 1200 goes at most 6.000 m"),
        (53.45, None),
        (47.949, "at least 0.500 m"),
        (47.95, None),
    ],
)
def test_a_chamber_goes_as_deep_as_its_type(rim, words):
    found = of(fixed(rim), "chamber_depth")  # the lowest invert there is 47.450
    assert [words in said(fixed(rim), f) for f in found] == ([] if words is None else [True])
