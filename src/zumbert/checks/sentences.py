"""Findings in words, with the labels and units of today."""

from zumbert.analysis.facts import Facts
from zumbert.checks.check import RULES
from zumbert.checks.finding import Finding

_SAY = {rule.name: rule.say for rule in RULES}


def sentence(facts: Facts, finding: Finding) -> str:
    """What is wrong, where and by how much, in a sentence that stands alone."""
    said = _SAY[finding.rule](facts, finding)
    return said if isinstance(said, str) else ": ".join(said)


def brief(facts: Facts, finding: Finding) -> str:
    """The same where the pipe that it is about is known."""
    said = _SAY[finding.rule](facts, finding)
    return said if isinstance(said, str) else said[1]


def object_label(facts: Facts, finding: Finding) -> str:
    """The label of the pipe or structure that a finding is about."""
    project = facts.project
    if finding.pipe is not None:
        return project.pipes[finding.pipe].label
    return project.structures[finding.structure].label if finding.structure is not None else ""
