"""Spacing and deflection: passes, fails, at the limit, does not apply."""

from math import cos, radians, sin

import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, said, with_structure
from tests.checks.test_rules import found, one, with_standard
from zumbert.checks import check
from zumbert.model.ids import PipeId, SizeKey


def run_of(long):
    return chain([(48.0, 48.0 - 0.01 * long), (47.95 - 0.01 * long, 47.5 - 0.01 * long)], long)


@pytest.mark.parametrize(
    ("long", "broken"), [(99.0, False), (100.0, False), (100.0 + 5e-7, False), (100.001, True)]
)
def test_spacing_goes_by_the_length_between_centres(long, broken):
    assert ({("spacing", "P1"), ("spacing", "P2")} <= found(run_of(long))) is broken


def test_spacing_says_the_length_and_the_limit():
    p = run_of(120.0)
    f = next(n for n in check(p, facts_of(p)) if (n.rule, n.pipe) == ("spacing", "P1"))
    assert (f.severity, f.value, f.limit, f.worse) == ("breach", approx(120.0), 100.0, "more")
    assert (
        said(p, f) == "Pipe S1 to S2 is 120.00 m long between centres, at most 100.00 m is allowed."
    )
    p = run_of(100.004)
    assert "is 100.004 m long between centres, at most 100.000 m" in said(
        p, next(n for n in check(p, facts_of(p)) if n.rule == "spacing")
    )


def test_spacing_goes_by_dn_and_leaves_abandoned_pipes_alone():
    p = with_standard(run_of(80.0), spacing_max=((300.0, 60.0), (900.0, 120.0)))
    assert {n for n in found(p) if n[0] == "spacing"} == {("spacing", "P1"), ("spacing", "P2")}
    one_wide = {**p.pipes, "P2": replace(p.pipes[PipeId("P2")], size=SizeKey("375"))}
    assert {n for n in found(replace(p, pipes=one_wide)) if n[0] == "spacing"} == {
        ("spacing", "P1")
    }
    gone = {k: replace(v, status="abandoned") for k, v in p.pipes.items()}
    assert {n for n in found(replace(p, pipes=gone)) if n[0] == "spacing"} == set()


def bent(degrees):
    """S1 and S2 with S3 turned about S2."""
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    turn = radians(degrees)
    return with_structure(p, "S3", 50 + 50 * cos(turn), 50 * sin(turn), kind="outfall")


BENDS = [(0.0, False), (89.0, False), (90.0, False), (91.0, True), (-91.0, True), (170.0, True)]


@pytest.mark.parametrize(("degrees", "broken"), BENDS)
def test_deflection_is_the_turn_of_the_flow(degrees, broken):
    assert (("deflection", "S2") in found(bent(degrees))) is broken


def test_deflection_says_the_turn_and_the_limit():
    p = bent(120.0)
    f = one(p, "deflection")
    assert (f.structure, f.inlet, f.outlet, f.severity) == ("S2", "P1", "P2", "breach")
    assert (f.value, f.limit, f.worse) == (approx(120.0, abs=1e-6), 90.0, "more")
    assert said(p, f) == "At S2 the flow from S1 to S3 turns by 120°, at most 90° is allowed."
    p = bent(90.1)
    assert said(p, one(p, "deflection")).endswith("turns by 90.1°, at most 90.0° is allowed.")


def test_a_limit_of_one_degree_is_judged():
    assert ("deflection", "S2") in found(with_standard(bent(2.0), deflection_max=1.0))
    assert ("deflection", "S2") not in found(with_standard(bent(0.5), deflection_max=1.0))


def test_an_end_of_the_network_turns_nothing():
    assert {
        n for n in found(with_standard(bent(2.0), deflection_max=1.0)) if n[0] == "deflection"
    } == {("deflection", "S2")}
