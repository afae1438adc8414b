"""Least and greatest slope, and pipes that fall the wrong way."""

from collections.abc import Iterator
from typing import Literal

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Bound, Finding, Rule
from zumbert.checks.limits import pipe_limit
from zumbert.checks.where import pipe_name, spot


def _least(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    """Least slope. A rising pipe is reported only as adverse; a level one is too flat."""
    if f.slope is None or f.slope < -TOLERANCE:
        return
    need = pipe_limit(facts.project, f.pipe, f.dn, "slope_min")
    if f.slope < need - TOLERANCE:
        yield _finding(facts, f, "slope_min", need)


def _greatest(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    if f.slope is None:
        return
    most = pipe_limit(facts.project, f.pipe, f.dn, "slope_max")
    if f.slope > most + TOLERANCE:
        yield _finding(facts, f, "slope_max", most, "more")


def _say(facts: Facts, n: Finding) -> str:
    f = facts.pipes[n.of_pipe]
    now, bound = facts.units.apart(facts.units.slope, n.value, n.limit)
    wanted = f"needs {bound}" if n.worse == "less" else f"at most {bound} is allowed"
    return f"Pipe {pipe_name(facts, f)} falls {now}, {wanted}."


def _adverse(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    if f.slope is not None and f.slope < -TOLERANCE:
        yield _finding(facts, f, "adverse_fall", 0.0)


def _say_adverse(facts: Facts, n: Finding) -> str:
    f, u, names = facts.pipes[n.of_pipe], facts.units, facts.project.structures
    low, high = (
        f"{u.level(f.pipe.invert_down)} at {names[f.pipe.down].label}",
        f"{u.level(f.pipe.invert_up)} at {names[f.pipe.up].label}",
    )
    return f"Pipe {pipe_name(facts, f)} falls the wrong way, from {low} to {high}."


FIXES = ("slope_from_up", "slope_from_down")


def _finding(
    facts: Facts, f: PipeFacts, rule: str, limit: float, worse: Literal["less", "more"] = "less"
) -> Finding:
    return Finding(
        rule=rule,
        severity="breach",
        pipe=f.pipe.id,
        value=f.slope,
        limit=limit,
        worse=worse,
        fixes=FIXES + (("turn",) if rule == "adverse_fall" else ()),
        **spot(facts, f, None),
    )


def _least_bounds(facts: Facts, f: PipeFacts) -> Iterator[Bound]:
    least = pipe_limit(facts.project, f.pipe, f.dn, "slope_min")
    yield Bound({(f.pipe.id, "up"): -1.0, (f.pipe.id, "down"): 1.0}, -least * f.basis, "slope_min")


def _greatest_bounds(facts: Facts, f: PipeFacts) -> Iterator[Bound]:
    most = pipe_limit(facts.project, f.pipe, f.dn, "slope_max")
    yield Bound({(f.pipe.id, "up"): 1.0, (f.pipe.id, "down"): -1.0}, most * f.basis, "slope_max")


SLOPE_MIN = Rule(
    "slope_min", "Least slope", "pipe", _least, _say, _least_bounds, limit="slope_min", cell="slope"
)
SLOPE_MAX = Rule(
    "slope_max",
    "Greatest slope",
    "pipe",
    _greatest,
    _say,
    _greatest_bounds,
    limit="slope_max",
    cell="slope",
)
ADVERSE_FALL = Rule(
    "adverse_fall",
    "Adverse fall",
    "pipe",
    _adverse,
    _say_adverse,
    cell="slope",
    mended_by="slope_min",
)
