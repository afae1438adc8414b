"""Findings that somebody accepts, and decisions taken back."""

from collections.abc import Collection, Iterable

from msgspec.structs import replace

from zumbert.checks.finding import Finding
from zumbert.errors import EditError
from zumbert.model.decision import Decision
from zumbert.model.project import Project

LONGEST_INITIALS = 8


def decide(project: Project, findings: Iterable[Finding], reason: str, by: str) -> Project:
    """The project with findings accepted as they are. Raises EditError without a reason, or
    without initials.
    """
    reason, by = reason.strip(), by.strip()
    if not reason:
        raise EditError("A finding is accepted for a reason: write it.")
    if not by or len(by) > LONGEST_INITIALS:
        raise EditError(f"Give the initials of who accepts it, up to {LONGEST_INITIALS} letters.")
    made = dict(project.decisions)
    for f in findings:
        rule, about, first, second = f.key
        decision = Decision(
            rule=rule,
            about=about,
            first=first,
            second=second,
            reason=reason,
            by=by,
            value=f.value,
            limit=f.limit,
            x=f.x,
            y=f.y,
        )
        made[decision.key] = decision
    return project if made == project.decisions else replace(project, decisions=made)


def reopen(project: Project, keys: Collection[str]) -> Project:
    """The project without some decisions, by their keys: their findings count again."""
    left = {k: d for k, d in project.decisions.items() if k not in keys}
    return project if len(left) == len(project.decisions) else replace(project, decisions=left)
