"""One way to mend a finding."""

from collections.abc import Callable
from typing import NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.checks.finding import Finding
from zumbert.model.project import Project


class Fix(NamedTuple):
    """One way to mend a finding: what the button says, a short figure beside it, and the project
    after it.
    """

    text: str
    figure: str
    project: Project


Way = Callable[[Project, Facts, Finding], Fix | None]  # None where it does not apply
