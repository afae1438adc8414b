"""Decisions about findings: whether they still hold."""

from math import hypot, inf
from typing import Literal

from msgspec.structs import replace

from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.model.decision import Decision, decision_key
from zumbert.model.project import Project

MOVED = 1.0  # m: the place of a finding that moves further is another place


def with_decision(project: Project, finding: Finding, rule: Rule) -> Finding:
    """The finding with what was decided about it, and why that does not hold any more, if so."""
    decision = project.decisions.get(decision_key(finding.key))
    if decision is None:
        return finding
    return replace(finding, decision=decision, reopened=_reopened(decision, finding, rule))


def _reopened(d: Decision, f: Finding, rule: Rule) -> Literal["", "worse", "limit", "moved"]:
    """Why a decision does not hold: the value got worse, its limit changed, or the place moved.

    Where value and limit are both levels it is the room between them that counts, and a limit is no
    other for having moved with it.
    """
    if (
        not rule.levels
        and f.limit is not None
        and d.limit is not None
        and abs(f.limit - d.limit) > TOLERANCE
    ):
        return "limit"
    now, then = excess(f, rule), _excess(d.value, d.limit, f.worse, rule)
    if now is not None and then is not None and now > then + TOLERANCE:
        return "worse"
    if None not in (d.x, d.y, f.x, f.y) and hypot(f.x - d.x, f.y - d.y) > MOVED:  # type: ignore[operator]
        return "moved"
    return ""


def excess(f: Finding, rule: Rule) -> float | None:
    """By how much a finding is beyond its limit, in the unit of the rule; the value itself where
    there is no limit.
    """
    return _excess(f.value, f.limit, f.worse, rule)


def _excess(value: float | None, limit: float | None, worse: str, rule: Rule) -> float | None:
    if value is None:
        return None
    if rule.signed:
        value = abs(value)
    if limit is None:
        return value
    return limit - value if worse == "less" else value - limit


def share(f: Finding, rule: Rule) -> float:
    """How bad a finding is: what is beyond the limit, as a share of it; of levels in metres.
    Infinite where nothing is allowed.
    """
    by = excess(f, rule)
    if by is None or not f.limit:
        return inf
    return by if rule.levels else by / abs(f.limit)
