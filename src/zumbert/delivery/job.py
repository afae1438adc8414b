"""The source of sheets and files: a project with all that follows from it, worked out when
it is asked for.
"""

from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from functools import cached_property
from typing import Any, TypeVar

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.quantities import Quantities, full_quantities
from zumbert.analysis.runline import Run, RunKey
from zumbert.analysis.runlist import run_keys
from zumbert.analysis.runs import run
from zumbert.analysis.trench import Trenches, trenches
from zumbert.checks.check import Findings, check
from zumbert.geometry.alignment import Alignment
from zumbert.model.display import Units
from zumbert.model.project import Project

T = TypeVar("T")
Tell = Callable[[float, str], None]  # how far it is, 0 to 1, and with what; ends it by raising


def quiet(share: float, words: str) -> None:
    """Hears nothing."""


class Job:
    """A project and its facts; findings, trenches and quantities are worked out once, when they
    are first asked for.
    """

    def __init__(
        self,
        project: Project,
        facts: Facts | None = None,
        findings: Findings | None = None,
        dug: Callable[[Facts], Trenches] = trenches,
    ) -> None:
        self.project = project
        self._facts, self._findings, self._dug = facts, findings, dug
        self._tell: Tell = quiet
        self._made: dict[Hashable, Any] = {}

    def once(self, what: Hashable, make: Callable[[], T]) -> T:
        """The facts of the project, made when it is first asked for."""
        if what not in self._made:
            self._made[what] = make()
        made: T = self._made[what]
        return made

    @contextmanager
    def heard(self, tell: Tell) -> Iterator[None]:
        """While it lasts `tell` hears how far quantities are."""
        self._tell = tell
        try:
            yield
        finally:
            self._tell = quiet

    @cached_property
    def facts(self) -> Facts:
        """The facts of the project."""
        return self._facts if self._facts is not None else analyse(self.project)

    @cached_property
    def findings(self) -> Findings:
        """The findings."""
        return self._findings if self._findings is not None else check(self.project, self.facts)

    @cached_property
    def dug(self) -> Trenches:
        """All trenches and pits."""
        return self._dug(self.facts)

    @cached_property
    def quantities(self) -> Quantities:
        """All quantities, the union of trenches included."""
        return full_quantities(
            self.dug, tell=lambda share: self._tell(share, "Working out quantities")
        )

    @cached_property
    def runs(self) -> tuple[RunKey, ...]:
        """The runs to pick from, roads last."""
        return tuple(run_keys(self.project, self.facts))

    def run(self, key: RunKey) -> Run | None:
        """A run laid out; None where it is gone."""
        return self.once(("run", key), lambda: run(self.facts, key))

    def shown(self, key: RunKey) -> Run:
        """A run of these facts, laid out. Raises KeyError where it is gone."""
        made = self.run(key)
        if made is None:
            raise KeyError(key)
        return made

    def line_beyond(self, key: RunKey, by: float) -> Alignment | None:
        """The line of a run in plan, carried on beyond both ends (m)."""
        made = self.run(key)
        line = None if made is None else made.line
        return None if line is None else self.once(("line", key, by), lambda: line.carried_on(by))

    @property
    def units(self) -> Units:
        """How values are written."""
        return self.project.units
