"""Findings in words, with the labels and units of today."""

from zumbert.analysis.facts import Facts
from zumbert.checks.check import rule_of
from zumbert.checks.clearance import other_name
from zumbert.checks.finding import Finding
from zumbert.checks.limits import standard_of
from zumbert.geometry.kept import kept
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.standard import LIMITS, own_limit
from zumbert.model.structure import Structure


def sentence(facts: Facts, finding: Finding) -> str:
    """The finding in a sentence that stands alone: what, where and by how much."""
    said = _said(facts, finding)
    return said if isinstance(said, str) else ": ".join(said)


def brief(facts: Facts, finding: Finding) -> str:
    """The same where the pipe that it is about is known."""
    said = _said(facts, finding)
    return said if isinstance(said, str) else said[1]


@kept(8)  # panel and entry line ask for the same few in each frame of a drag
def _said(facts: Facts, finding: Finding) -> str | tuple[str, str]:
    return rule_of(finding.rule).say(facts, finding)


def mark(facts: Facts, finding: Finding) -> str:
    """The few words at its notch in a drawing."""
    rule = rule_of(finding.rule)
    return rule.title if rule.mark is None else rule.mark(facts, finding)


REOPENED = {
    "worse": "accepted by {by}, open again: it got worse",
    "limit": "accepted by {by}, open again: its limit has changed",
    "moved": "accepted by {by}, open again: it has moved",
}


def verdict(finding: Finding) -> str:
    """The decision in words: "accepted by AB: existing headwall"; empty where nothing was."""
    d = finding.decision
    if d is None:
        return ""
    if finding.reopened:
        return REOPENED[finding.reopened].format(by=d.by)
    return f"accepted by {d.by}: {d.reason}"


def remark(facts: Facts, finding: Finding) -> str:
    """The sentence, and what was decided."""
    told = verdict(finding)
    return f"{sentence(facts, finding)} ({told})" if told else sentence(facts, finding)


def source(facts: Facts, finding: Finding) -> str:
    """Where the limit of a finding comes from: a standard, the pipe or structure itself, its
    type or the service.
    """
    project, rule = facts.project, rule_of(finding.rule)
    record = (
        project.structures[finding.of_structure]
        if finding.structure is not None
        else project.pipes[finding.of_pipe]
    )
    if finding.other in project.services:
        return other_name(facts, finding.other)
    if rule.source is not None:
        return rule.source(facts, finding)
    if not rule.limit:
        return ""
    own = (
        finding.under
        and getattr(standard_of(project, record), f"cover_{finding.under}") is not None
    )
    return limit_source(project, record, f"cover_{finding.under}" if own else rule.limit)


def limit_source(project: Project, record: Pipe | Structure, name: str) -> str:
    """Where a limit of a pipe or structure comes from: itself, or its standard and what its
    table goes by.
    """
    own = own_limit(record.limits, LIMITS[name].rule)
    if own is not None:
        return f"of {record.label} alone: {own.reason}"
    standard = standard_of(project, record)
    by = (
        {"dn": "by DN", "degrees": "by the bend", "": ""}[LIMITS[name].by]
        if isinstance(getattr(standard, name), tuple)
        else ""
    )
    return f"{standard.name}, {by}" if by else standard.name


def object_label(facts: Facts, finding: Finding) -> str:
    """The label of the pipe or structure that a finding is about."""
    project = facts.project
    if finding.pipe is not None:
        return project.pipes[finding.pipe].label
    return project.structures[finding.structure].label if finding.structure is not None else ""
