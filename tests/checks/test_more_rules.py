"""Velocity, chambers, clearance and connectivity: passes, fails, at the limit, does not apply."""

from math import asin, cos, radians, sin

import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, said, with_pipe, with_structure
from tests.checks.test_rules import SOUND, one, with_standard
from zumbert.checks import check
from zumbert.checks.legal import end_range
from zumbert.edits.land import add_service
from zumbert.hydraulics.resistance import full_velocity, slope_for
from zumbert.model.ids import PipeId, SizeKey, StructureId, TypeKey
from zumbert.model.pipe import Bore


def of(project, rule):
    return [f for f in check(project, facts_of(project)) if f.rule == rule]


def rules_of(project):
    return {f.rule for f in check(project, facts_of(project))}


# -- velocity --------------------------------------------------------------------------------------


@pytest.mark.parametrize(("formula", "v"), [("manning", 1.3680), ("colebrook-white", 1.5681)])
def test_velocity_at_full_bore_as_worked_out_in_the_reference(formula, v):
    assert full_velocity(formula, 0.3, 0.01, 0.013, 0.0006) == approx(v, abs=5e-5)
    assert slope_for(
        formula, 0.3, full_velocity(formula, 0.3, 0.01, 0.013, 0.0006), 0.013, 0.0006
    ) == approx(0.01, rel=1e-9)


def test_a_pipe_that_does_not_fall_has_no_velocity():
    assert (
        full_velocity("manning", 0.3, 0.0, 0.013, 0.0006)
        == full_velocity("colebrook-white", 0.3, -0.1, 0.013, 0.0006)
        == 0.0
    )
    assert slope_for("colebrook-white", 0.3, 0.0, 0.013, 0.0006) == 0.0
    assert "velocity_min" not in rules_of(
        chain([(48.0, 48.0), (47.9, 47.4)])
    )  # level: too flat, and nothing else
    assert "velocity_min" not in rules_of(chain([(48.0, 48.3), (48.2, 47.7)]))


def run_at(slope, size="150"):
    return chain([(48.0, 48.0 - 50 * slope), (47.95 - 50 * slope, 47.0 - 50 * slope)], size=size)


LIMIT_150 = slope_for("manning", 0.15, 0.75, 0.013, 0.0006)


@pytest.mark.parametrize(
    ("slope", "broken"), [(0.01, False), (LIMIT_150, False), (LIMIT_150 - 1e-5, True)]
)
def test_least_velocity(slope, broken):
    assert bool(of(run_at(slope), "velocity_min")) is broken
    assert "slope_min" not in rules_of(run_at(slope))


def test_a_velocity_finding_says_the_slope_that_it_takes():
    [f] = of(run_at(0.006), "velocity_min")
    assert (f.pipe, f.severity, f.value, f.limit) == (
        "P1",
        "breach",
        approx(0.66755, abs=1e-5),
        0.75,
    )
    assert (
        said(run_at(0.006), f)
        == "Pipe S1 to S2 runs full at 0.67 m/s, needs 0.75 m/s: a slope of 0.76 %."
    )


def test_greatest_velocity_and_its_bound():
    p = chain([(48.5, 46.0), (45.4, 44.9)], size="375")
    [f] = of(p, "velocity_max") or [None]
    assert f is None
    fast = with_standard(p, velocity_max=3.0)
    [f] = of(fast, "velocity_max")
    assert f.value == approx(full_velocity("manning", 0.375, 0.05, 0.013, 0.0006))
    facts = facts_of(fast)
    high = end_range(facts, facts.pipes[PipeId("P1")], "down")
    assert high.low_rule == "velocity_max"
    moved = with_pipe(fast, "P1", "S1", "S2", 48.5, high.low, "375")
    assert not of(moved, "velocity_max")


def test_velocity_goes_by_the_roughness_and_the_formula_of_the_project():
    p = run_at(0.006)
    smooth = replace(p, sizes={**p.sizes, "150": replace(p.sizes[SizeKey("150")], n=0.011)})
    assert of(p, "velocity_min")
    assert not of(smooth, "velocity_min")
    white = replace(p, settings=replace(p.settings, formula="colebrook-white"))
    assert not of(white, "velocity_min")  # 0.79 m/s
    assert of(run_at(0.006, Bore(0.15, 0.025)), "velocity_min")  # no catalogue: rough as concrete


# -- chambers --------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("kind", "size", "broken"),
    [
        ("manhole-1200", "450", False),
        ("manhole-1500", "600", False),
        ("manhole-1500", "750", True),
        ("manhole-1050", "375", True),
        ("catchpit-1200", "450", False),
        ("gully-450", "225", False),  # nobody enters it
    ],
)
def test_smallest_chamber_goes_by_the_largest_pipe(kind, size, broken):
    p = with_structure(chain([(47.0, 46.5), (46.4, 45.9)], size=size), "S2", 50, kind=kind)
    assert bool([f for f in of(p, "chamber_size") if f.structure == "S2"]) is broken


def test_a_small_chamber_in_words_and_a_rectangle_by_its_shorter_side():
    p = with_structure(
        chain([(47.0, 46.5), (46.4, 45.9)], size="750"), "S2", 50, kind="manhole-1500x1200"
    )
    f = next(f for f in of(p, "chamber_size") if f.structure == "S2")
    assert (f.value, f.limit, f.partner, f.fixes) == (1.2, 1.8, "P1", ("larger_chamber",))
    assert said(p, f) == "S2 is 1.20 m inside, needs 1.80 m for DN 750."


@pytest.mark.parametrize(
    ("kind", "size", "broken"),
    [("gully-450", "225", False), ("gully-450", "300", True), ("headwall", "900", False)],
)
def test_largest_pipe_of_a_type(kind, size, broken):
    p = with_structure(chain([(47.0, 46.5)], size=size), "S1", 0, kind=kind)
    assert bool(of(p, "largest_pipe")) is broken


def test_a_pipe_too_large_is_told_once_and_an_abandoned_one_is_not():
    p = with_structure(SOUND, "S2", 50, kind="gully-450")
    [f] = of(p, "largest_pipe")
    assert (f.structure, f.value, f.limit) == ("S2", 300.0, 225.0)
    assert said(p, f) == "S2 has a pipe DN 300, Gully 450 takes DN 225 at most."
    gone = {k: replace(q, status="abandoned") for k, q in p.pipes.items()}
    assert "largest_pipe" not in rules_of(replace(p, pipes=gone))


def meeting(degrees, level=46.0, kind="manhole-1200"):
    """S2 with an outlet to the east and an inlet that comes from so many degrees beside it, DN
    300 both.
    """
    p = chain([(46.0, 45.5)])
    p = with_structure(p, "S1", 0, kind=kind)
    a = radians(degrees)
    p = with_structure(p, "X", 40 * cos(a), 40 * sin(a))
    return with_pipe(p, "PX", "X", "S1", level + 0.5, level)


def test_the_wall_between_two_openings_as_worked_out_in_the_reference():
    [f] = of(with_standard(meeting(60.0), wall_gap=0.3), "wall_openings")
    assert f.value == approx(0.231, abs=5e-4)  # r 0.6, two of 0.390 outside, 60° apart
    assert {f.inlet, f.outlet} == {"P1", "PX"}


def test_wall_between_openings_passes_fails_and_holds_at_the_limit():
    at = (0.1 / 0.6 + 2 * asin(0.195 / 0.6)) * 180 / 3.141592653589793
    assert not of(meeting(at + 1e-6), "wall_openings")
    assert not of(meeting(at - 1e-5), "wall_openings")  # within a millionth of a metre
    [f] = of(meeting(at - 0.1), "wall_openings")
    assert (
        said(meeting(at - 0.1), f)
        == "At S1 0.099 m of wall is left between PX and P1, needs 0.100 m."
    )
    [f] = of(meeting(20.0), "wall_openings")
    assert f.value < 0
    assert (
        said(meeting(20.0), f) == "At S1 the openings of PX and P1 run into each other by 0.19 m."
    )


def test_openings_at_other_levels_or_in_no_chamber_are_not_judged():
    assert not of(meeting(20.0, 46.4), "wall_openings")  # 0.39 m each: they do not overlap
    assert of(meeting(20.0, 46.37), "wall_openings")
    assert not of(meeting(20.0, kind="joint"), "wall_openings")


def test_openings_in_a_rectangle_go_along_its_faces():
    p = meeting(90.0, kind="manhole-1500x1200")
    # its axis to the east
    p = replace(
        p, structures={k: replace(s, rotation=radians(90)) for k, s in p.structures.items()}
    )
    [f] = of(with_standard(p, wall_gap=2.0), "wall_openings")
    # round the corner, from the middle of one face to that of the next
    assert f.value == approx(0.6 + 0.75 - 0.39)
    p = meeting(30.0, kind="manhole-1500x1200")
    p = replace(
        p, structures={k: replace(s, rotation=radians(90)) for k, s in p.structures.items()}
    )
    [f] = of(with_standard(p, wall_gap=2.0), "wall_openings")
    assert f.value == approx(0.75 * 3**-0.5 - 0.195 - 0.195 / cos(radians(30)))


# -- clearance -------------------------------------------------------------------------------------

AXIS = 48.0 - 0.25 + 0.15  # of P1, half way


def crossed(level, size=0.11, need=0.3, at=25.0):
    p, _ = add_service(SOUND, "power", [(at, -10.0, level), (at, 10.0, level)], "E1", size, need)
    return p


def test_clearance_as_worked_out_in_the_reference():
    p = crossed(AXIS + 0.4)
    [f] = of(p, "clearance")
    flat = 0.400 * cos(asin(0.5 / (50**2 + 0.5**2) ** 0.5))  # the pipe falls by 1 %
    assert (f.pipe, f.severity, f.value, f.limit) == (
        "P1",
        "caution",
        approx(flat - 0.195 - 0.055, abs=1e-9),
        0.3,
    )
    assert f.distance == approx(25.0, abs=0.01)
    assert (
        said(p, f)
        == "Pipe S1 to S2 is 0.150 m clear of E1 power at 25.00 m from S1, needs 0.300 m."
    )


def test_clearance_passes_holds_at_its_limit_and_does_not_apply():
    need = 0.3 + 0.195 + 0.055
    slack = 1 / cos(asin(0.5 / (50**2 + 0.5**2) ** 0.5))
    assert not of(crossed(AXIS + need * slack), "clearance")
    assert not of(crossed(AXIS + need * slack - 5e-7), "clearance")
    assert of(crossed(AXIS + need * slack - 5e-6), "clearance")
    p, _ = add_service(SOUND, "gas", [(25.0, -10.0, None), (25.0, 10.0, None)], "G1", 0.1, 0.3)
    assert not {"clash", "clearance"} & rules_of(p)  # its level is not known
    assert not {"clash", "clearance"} & rules_of(crossed(AXIS, at=2000.0))


def test_touching_and_cutting_are_breaches_and_no_clearance_besides():
    p = crossed(AXIS + 0.1)
    [f] = of(p, "clash")
    assert (f.severity, f.value, f.limit, f.other) == (
        "breach",
        approx(0.1 - 0.25, abs=1e-5),
        0.0,
        next(iter(p.services)),
    )
    assert said(p, f) == "Pipe S1 to S2 runs into E1 power by 0.150 m, at 25.00 m from S1."
    assert not of(p, "clearance")
    [(a, b)] = f.stretches
    half = (0.25**2 - 0.1**2) ** 0.5  # where the axis is within both radii of the duct's
    assert (a, b) == (approx(25 - half, abs=0.01), approx(25 + half, abs=0.01))


def test_a_near_parallel_is_found_along_its_length():
    p, _ = add_service(SOUND, "water", [(0.0, 0.4, AXIS), (50.0, 0.4, AXIS)], "W1", 0.1, 0.3)
    [f] = of(p, "clearance")
    assert f.value < 0.4 - 0.195 - 0.05 + 1e-6
    assert f.stretches[0][1] - f.stretches[0][0] > 40


def two_systems(level, between=0.0):
    """A pipe of another network across P1, its axis at a level."""
    p = with_structure(with_structure(SOUND, "X", 25, -20), "Y", 25, 20, kind="outfall")
    return with_standard(
        with_pipe(p, "PX", "X", "Y", level + 0.05, level - 0.15), clearance_min=between
    )


def test_pipes_that_no_structure_joins_keep_clear_of_each_other():
    assert of(two_systems(AXIS), "clash")
    assert not of(two_systems(AXIS - 0.7), "clash")
    assert not of(two_systems(AXIS - 0.7), "clearance")
    [f] = of(two_systems(AXIS - 0.7, 0.4), "clearance")
    assert (f.pipe, f.other, f.limit) == ("P1", "PX", 0.4)
    assert "clear of pipe PX" in said(two_systems(AXIS - 0.7, 0.4), f)


def test_pipes_that_meet_in_a_structure_are_not_tested_and_a_pair_is_told_once():
    assert not of(meeting(20.0), "clash")
    assert len(of(two_systems(AXIS), "clash")) == 1
    p = two_systems(AXIS)
    old = replace(p, pipes={**p.pipes, "P1": replace(p.pipes[PipeId("P1")], status="existing")})
    assert [f.pipe for f in of(old, "clash")] == ["PX"]  # told at the proposed one
    gone = replace(p, pipes={**p.pipes, "P1": replace(p.pipes[PipeId("P1")], status="abandoned")})
    assert not of(gone, "clash")


# -- how all hangs together ------------------------------------------------------------------------


def test_two_outlets_are_a_caution():
    p = with_pipe(with_structure(SOUND, "X", 50, 30, kind="outfall"), "PX", "S2", "X", 47.45, 47.0)
    [f] = of(p, "many_outlets")
    assert (f.structure, f.severity, f.value, f.limit) == ("S2", "caution", 2.0, 1.0)
    assert said(p, f) == "S2 has 2 outlets, to S3, X: its water parts there."
    gone = replace(p, pipes={**p.pipes, "PX": replace(p.pipes[PipeId("PX")], status="abandoned")})
    assert not of(gone, "many_outlets")
    assert not of(SOUND, "many_outlets")


def test_a_pipe_whose_only_way_on_is_abandoned_has_no_outfall():
    gone = replace(SOUND.pipes[PipeId("P2")], status="abandoned")
    p = replace(SOUND, pipes={**SOUND.pipes, "P2": gone})
    assert said(p, one(p, "no_outfall")) == (
        "S2 has no way to an outfall or headwall, nor has 1 structure that drains to it. "
        "Pipe S2 to S3 on from it is abandoned."
    )


def test_a_ring_is_told_once_whether_it_has_a_way_out_or_not():
    p = with_structure(SOUND, "X", 25, 30)
    p = with_pipe(with_pipe(p, "PX", "S2", "X", 47.4, 47.0), "PY", "X", "S1", 47.0, 46.5)
    [f] = of(p, "cycle")
    assert (f.structure, f.severity, f.value) == ("S1", "breach", 3.0)
    assert said(p, f) == "Water from S1 comes round to it again, through 3 structures."
    assert not of(p, "no_outfall")
    assert not of(SOUND, "cycle")
    loop = with_pipe(SOUND, "PX", "S2", "S2", 47.4, 47.0)
    assert said(loop, one(loop, "cycle")) == "A pipe leads from S2 back to it."


def test_two_rings_are_two_findings():
    p = SOUND
    for x in (200, 400):
        for i, label in enumerate("abc"):
            p = with_structure(p, f"{label}{x}", x + 20 * i, 10.0 * (i % 2))
        for i, (up, down) in enumerate((("a", "b"), ("b", "c"), ("c", "a"))):
            p = with_pipe(p, f"P{x}{i}", f"{up}{x}", f"{down}{x}", 47.0, 46.9)
    p = with_pipe(p, "bridge", "c200", "a400", 47.0, 46.5)
    assert [f.structure for f in of(p, "cycle")] == ["a200", "a400"]


def test_a_pipe_whose_chambers_meet_has_no_length():
    p = with_structure(SOUND, "S2", 1.2)
    [f] = of(p, "zero_length")
    assert (f.pipe, f.severity, f.value) == ("P1", "breach", approx(0.0, abs=1e-9))
    assert said(p, f) == "Pipe S1 to S2 has no length: the chambers at its ends meet."
    assert not of(with_structure(SOUND, "S2", 1.2001), "zero_length")
    p = with_structure(with_structure(SOUND, "S1", 0.0, kind="joint"), "S2", 0.0, kind="joint")
    assert said(p, of(p, "zero_length")[0]) == "Pipe S1 to S2 has no length."


def test_a_label_is_used_once_among_structures_and_once_among_pipes():
    p = replace(
        SOUND,
        structures={
            **SOUND.structures,
            "S2": replace(SOUND.structures[StructureId("S2")], label="S1"),
        },
    )
    [f] = of(p, "duplicate_label")
    assert (f.structure, f.pipe, f.severity) == ("S2", None, "breach")
    p = replace(SOUND, pipes={**SOUND.pipes, "P2": replace(SOUND.pipes[PipeId("P2")], label="P1")})
    [f] = of(p, "duplicate_label")
    assert (f.structure, f.pipe) == (None, "P2")
    assert said(p, f) == "Pipe S2 to S3 is called P1, as pipe S1 to S2 is."
    p = replace(SOUND, pipes={**SOUND.pipes, "P2": replace(SOUND.pipes[PipeId("P2")], label="S2")})
    assert not of(p, "duplicate_label")  # a pipe and a structure may


def test_type_of_the_catalogue_is_read_for_each_rule():
    p = with_structure(SOUND, "S2", 50, kind="manhole-1050")
    wider = replace(
        p,
        types={**p.types, "manhole-1050": replace(p.types[TypeKey("manhole-1050")], dn_max=225.0)},
    )
    assert [f.structure for f in of(wider, "largest_pipe")] == ["S2"]
