"""Least and greatest slope, and pipes that fall the wrong way."""

from collections.abc import Iterator

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.limits import pipe_limit
from zumbert.checks.where import pipe_name, spot


def _least(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    """A pipe that rises is told as adverse alone; a level one is too flat."""
    u = facts.units
    if f.slope is None or f.slope < -TOLERANCE:
        return
    need = pipe_limit(facts.project, f.pipe, f.dn, "slope_min")
    if f.slope < need - TOLERANCE:
        now, least = u.apart(u.slope, f.slope, need)
        yield _finding(facts, f, "slope_min", need, f"falls {now}, needs {least}.")


def _greatest(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    u = facts.units
    if f.slope is None:
        return
    most = pipe_limit(facts.project, f.pipe, f.dn, "slope_max")
    if f.slope > most + TOLERANCE:
        now, allowed = u.apart(u.slope, f.slope, most)
        yield _finding(facts, f, "slope_max", most, f"falls {now}, at most {allowed} is allowed.")


def _adverse(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    u = facts.units
    if f.slope is None or f.slope >= -TOLERANCE:
        return
    names = facts.project.structures
    up, down = names[f.pipe.up].label, names[f.pipe.down].label
    words = f"falls the wrong way, from {u.level(f.pipe.invert_down)} at {down} to {u.level(f.pipe.invert_up)} at {up}."
    yield _finding(facts, f, "adverse_fall", 0.0, words)


FIXES = ("slope_from_up", "slope_from_down")


def _finding(facts: Facts, f: PipeFacts, rule: str, limit: float, words: str) -> Finding:
    return Finding(
        rule=rule, severity="breach", pipe=f.pipe.id, label=f.pipe.label, value=f.slope, limit=limit,
        message=f"Pipe {pipe_name(facts, f)} {words}", fixes=FIXES + (("turn",) if rule == "adverse_fall" else ()),
        **spot(facts, f, None),
    )  # fmt: skip


SLOPE_MIN = Rule("slope_min", "Least slope", "pipe", _least)
SLOPE_MAX = Rule("slope_max", "Greatest slope", "pipe", _greatest)
ADVERSE_FALL = Rule("adverse_fall", "Adverse fall", "pipe", _adverse)
