"""Least and greatest velocity of a pipe that runs full. One that is level or rises has none: the
rules of slope speak of it.
"""

from collections.abc import Iterator
from typing import Literal

from zumbert.analysis.facts import Facts
from zumbert.analysis.fullbore import roughness
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Bound, Finding, Rule
from zumbert.checks.limits import pipe_limit
from zumbert.checks.slope import FIXES
from zumbert.checks.where import pipe_name, spot
from zumbert.hydraulics.resistance import full_velocity, slope_for
from zumbert.model.project import Project


def velocity(project: Project, f: PipeFacts) -> float | None:
    """Velocity at full bore, m/s; None where the pipe does not fall."""
    if f.slope is None or f.slope <= TOLERANCE:
        return None
    return full_velocity(project.settings.formula, f.inside, f.slope, *roughness(project, f.pipe))


def _least(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    now, need = velocity(facts.project, f), pipe_limit(facts.project, f.pipe, f.dn, "velocity_min")
    if now is not None and now < need - TOLERANCE:
        yield _finding(facts, f, "velocity_min", now, need, "less")


def _greatest(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    now, most = velocity(facts.project, f), pipe_limit(facts.project, f.pipe, f.dn, "velocity_max")
    if now is not None and now > most + TOLERANCE:
        yield _finding(facts, f, "velocity_max", now, most, "more")


def _finding(
    facts: Facts,
    f: PipeFacts,
    rule: str,
    value: float,
    limit: float,
    worse: Literal["less", "more"],
) -> Finding:
    return Finding(
        rule=rule,
        severity="breach",
        pipe=f.pipe.id,
        value=value,
        limit=limit,
        worse=worse,
        fixes=FIXES,
        **spot(facts, f, None),
    )


def _say(facts: Facts, n: Finding) -> str:
    f, u = facts.pipes[n.of_pipe], facts.units
    now, bound = u.apart(u.speed, n.value, n.limit)
    wanted = f"needs {bound}" if n.worse == "less" else f"at most {bound} is allowed"
    slope = u.slope(_slope(facts, f, n.limit or 0.0))
    return f"Pipe {pipe_name(facts, f)} runs full at {now}, {wanted}: a slope of {slope}."


def _slope(facts: Facts, f: PipeFacts, at: float) -> float:
    """The slope that gives a velocity, m/s."""
    return slope_for(
        facts.project.settings.formula, f.inside, at, *roughness(facts.project, f.pipe)
    )


def _least_bounds(facts: Facts, f: PipeFacts) -> Iterator[Bound]:
    least = _slope(facts, f, pipe_limit(facts.project, f.pipe, f.dn, "velocity_min"))
    yield Bound(
        {(f.pipe.id, "up"): -1.0, (f.pipe.id, "down"): 1.0}, -least * f.basis, "velocity_min"
    )


def _greatest_bounds(facts: Facts, f: PipeFacts) -> Iterator[Bound]:
    most = _slope(facts, f, pipe_limit(facts.project, f.pipe, f.dn, "velocity_max"))
    yield Bound({(f.pipe.id, "up"): 1.0, (f.pipe.id, "down"): -1.0}, most * f.basis, "velocity_max")


VELOCITY_MIN = Rule(
    "velocity_min",
    "Least velocity",
    "pipe",
    _least,
    _say,
    _least_bounds,
    limit="velocity_min",
    cell="slope",
)
VELOCITY_MAX = Rule(
    "velocity_max",
    "Greatest velocity",
    "pipe",
    _greatest,
    _say,
    _greatest_bounds,
    limit="velocity_max",
    cell="slope",
)
