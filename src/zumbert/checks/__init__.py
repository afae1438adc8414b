"""From facts to findings."""

from zumbert.checks.check import RULES, Findings, check
from zumbert.checks.finding import Finding, Rule

__all__ = ["RULES", "Finding", "Findings", "Rule", "check"]
