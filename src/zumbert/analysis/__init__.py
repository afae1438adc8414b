"""From a project to its facts."""

from zumbert.analysis.facts import Facts, analyse

__all__ = ["Facts", "analyse"]
