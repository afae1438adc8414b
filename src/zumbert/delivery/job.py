"""What sheets and files are made from: a project with all that follows from it, worked out when it is asked for."""

from collections.abc import Callable
from functools import cache, cached_property

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.quantities import Quantities, full_quantities
from zumbert.analysis.runlist import run_keys
from zumbert.analysis.runs import Run, RunKey, run
from zumbert.analysis.trench import Trenches, trenches
from zumbert.checks.check import Findings, check
from zumbert.geometry.alignment import Alignment
from zumbert.model.display import Units
from zumbert.model.project import Project


class Job:
    """A project and its facts; findings, trenches and quantities are worked out once, when they are first asked for."""

    def __init__(
        self,
        project: Project,
        facts: Facts | None = None,
        findings: Findings | None = None,
        dug: Callable[[Facts], Trenches] = trenches,
    ) -> None:
        self.project = project
        self._facts, self._findings, self._dug = facts, findings, dug

    @cached_property
    def facts(self) -> Facts:
        """The facts of the project."""
        return self._facts if self._facts is not None else analyse(self.project)

    @cached_property
    def findings(self) -> Findings:
        """What breaks the rules."""
        return self._findings if self._findings is not None else check(self.project, self.facts)

    @cached_property
    def dug(self) -> Trenches:
        """All trenches and pits."""
        return self._dug(self.facts)

    @cached_property
    def quantities(self) -> Quantities:
        """All quantities, the union of trenches included."""
        return full_quantities(self.dug)

    @cached_property
    def runs(self) -> tuple[RunKey, ...]:
        """The runs to pick from, roads last."""
        return tuple(run_keys(self.project, self.facts))

    @cache  # noqa: B019 - a job lives as long as its pages are asked for
    def run(self, key: RunKey) -> Run | None:
        """A run laid out; None where it is gone."""
        return run(self.facts, key)

    @cache  # noqa: B019
    def line_beyond(self, key: RunKey, by: float) -> Alignment | None:
        """The line of a run in plan, carried on beyond both ends (m)."""
        made = self.run(key)
        return None if made is None or made.line is None else made.line.carried_on(by)

    @property
    def units(self) -> Units:
        """How values are written."""
        return self.project.units
