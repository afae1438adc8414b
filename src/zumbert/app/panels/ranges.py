"""The range bars of a pipe: the values that every rule allows."""

from collections.abc import Callable

from zumbert.analysis.chambers import Drop
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.app.panels.rangebar import Scale
from zumbert.checks.check import rule_of
from zumbert.checks.legal import end_range
from zumbert.checks.limits import drop_limit, limit_of, pipe_limit
from zumbert.model.display import number
from zumbert.model.pipe import End


def invert_scale(facts: Facts, f: PipeFacts, end: End) -> Scale:
    """The inverts (m) of an end, the other end where it is."""
    r, u = end_range(facts, f, end), facts.units
    words = "no legal level" if r.empty else f"{u.level(r.low)} to {u.level(r.high)}"
    return Scale(low=r.low, high=r.high, words=words)


def slope_scale(facts: Facts, f: PipeFacts, pivot: End) -> tuple[Scale, str]:
    """The slopes (%) with the pivot end fixed, and the rules that limit them."""
    end: End = "down" if pivot == "up" else "up"
    r = end_range(facts, f, end)
    if r.empty:  # the other end leaves no level here: what the rule of slopes itself asks for
        low, high = (
            pipe_limit(facts.project, f.pipe, f.dn, n) * 100 for n in ("slope_min", "slope_max")
        )
        return _scale(low, high, _percent), ""
    fixed, sign = f.pipe.invert(pivot), 1.0 if end == "down" else -1.0

    def at(level: float | None) -> float | None:
        return None if level is None or f.basis <= 0 else sign * (fixed - level) / f.basis * 100

    ends = (at(r.high), r.high_rule), (at(r.low), r.low_rule)
    (least, first), (most, then) = ends if end == "down" else ends[::-1]
    return _scale(least, most, _percent), _limited_by(first, then)


def drop_scale(facts: Facts, f: PipeFacts, end: End, drop: Drop) -> tuple[Scale, str]:
    """The drops (m) at an end, the pipe's other end where it is, and the rules that limit them."""
    r, u = end_range(facts, f, end), facts.units
    if r.empty:  # the other end leaves no level here: what the rules of drops themselves ask for
        here = facts.project.structures[f.pipe.at(end)]
        bound = limit_of(facts.project, here, "drop_max", facts.pipes[drop.inlet].dn)
        return _scale(drop_limit(facts.project, here, drop.deflection), bound, u.level), ""
    level, sign = f.pipe.invert(end), -1.0 if end == "up" else 1.0
    ends = [
        (None if v is None else drop.drop + sign * (v - level), n)
        for v, n in ((r.low, r.low_rule), (r.high, r.high_rule))
    ]
    (least, first), (most, then) = ends if sign > 0 else ends[::-1]
    return _scale(least, most, u.level), _limited_by(first, then)


def _scale(low: float | None, high: float | None, show: Callable[[float | None], str]) -> Scale:
    if low is None or high is None:
        words = (
            f"at least {show(low)}"
            if low is not None
            else f"at most {show(high)}"
            if high is not None
            else ""
        )
    else:
        words = f"{show(low)} to {show(high)}"
    return Scale(low=low, high=high, words=words)


def _percent(value: float | None) -> str:
    return number(value, 2)


def _limited_by(least: str | None, most: str | None) -> str:
    first, then = (
        "nothing" if name is None else rule_of(name).title.lower() for name in (least, most)
    )
    return f"least by {first}, greatest by {then}"
