"""Findings in words, with the labels and units of today."""

from functools import lru_cache

from zumbert.analysis.facts import Facts
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Finding
from zumbert.words import tr


def sentence(facts: Facts, finding: Finding) -> str:
    """What is wrong, where and by how much, in a sentence that stands alone."""
    said = _said(facts, finding)
    return said if isinstance(said, str) else ": ".join(said)


def brief(facts: Facts, finding: Finding) -> str:
    """The same where the pipe that it is about is known."""
    said = _said(facts, finding)
    return said if isinstance(said, str) else said[1]


@lru_cache(maxsize=8)  # panel and entry line ask for the same few in each frame of a drag
def _said(facts: Facts, finding: Finding) -> str | tuple[str, str]:
    return rule_of(finding.rule).say(facts, finding)


def mark(facts: Facts, finding: Finding) -> str:
    """The few words at its notch in a drawing."""
    rule = rule_of(finding.rule)
    return tr(rule.title) if rule.mark is None else rule.mark(facts, finding)


def object_label(facts: Facts, finding: Finding) -> str:
    """The label of the pipe or structure that a finding is about."""
    project = facts.project
    if finding.pipe is not None:
        return project.pipes[finding.pipe].label
    return project.structures[finding.structure].label if finding.structure is not None else ""
