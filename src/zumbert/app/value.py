"""A value of the history: a project with all that is derived from it."""

from msgspec import Struct

from zumbert.analysis import Facts, analyse
from zumbert.checks import Findings, check
from zumbert.model.project import Project


class Value(Struct, frozen=True, eq=False):
    """A project with its facts and findings."""

    project: Project
    facts: Facts
    findings: Findings


def value(project: Project, before: Value | None = None) -> Value:
    """A project derived; from an earlier value only what changed is computed."""
    facts = analyse(project, before.facts if before else None)
    return Value(project, facts, check(project, facts, before.findings if before else None))
