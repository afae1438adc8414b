"""Named runs, and naming the run that is shown; the panel shows them where nothing is selected."""

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QWidget

from zumbert.analysis.runline import RunKey
from zumbert.app.panels.fields import ValueField
from zumbert.app.panels.rows import Stack, chip, clear, label
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.edits.runs import drop_run, name_run, rename_run
from zumbert.model.ids import RunId


class RunsSection(QWidget):
    """Each change is one undo step."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._shown: Any = None
        self.list = QGridLayout()
        self.list.setContentsMargins(0, 0, 0, 0)
        self.list.setColumnStretch(0, 1)
        whole = Stack(self, 3)
        whole.addWidget(label("Named runs", "section"))
        whole.addLayout(self.list)
        self.keep = chip("Name the run shown", "name run", self._keep)
        whole.addWidget(self.keep, 0, Qt.AlignmentFlag.AlignLeft)

    def _keep(self) -> None:
        s = self.session.state
        key, run = s.look.run_key, s.look.run
        if key is None or run is None:
            return
        made: list[RunId] = []

        def make(p: Any, f: Any) -> Any:
            project, ident = name_run(p, key, run.name)
            made.append(ident)
            return project

        if self.session.edit(f"Name the run {run.name}", make):
            self.session.show_run(RunKey("named", made[0]))

    def refresh(self, s: State) -> None:
        """Shows the state."""
        self.keep.setEnabled(s.look.run_key is not None and s.look.run_key.kind in ("run", "path"))
        runs = s.shown.project.runs
        if runs == self._shown:
            return
        self._shown = runs
        clear(self.list)
        for i, run in enumerate(runs.values()):
            name = ValueField(f"run {run.name}", partial(self._rename, run.id))
            name.setAlignment(Qt.AlignmentFlag.AlignLeft)
            name.show_value(run.name, False)
            self.list.addWidget(name, i, 0)
            self.list.addWidget(
                chip("Show", f"show run {run.name}", partial(self._show, run.id)), i, 1
            )
            self.list.addWidget(
                chip("Remove", f"remove run {run.name}", partial(self._drop, run.id)), i, 2
            )

    def _show(self, run: RunId) -> None:
        self.session.show_run(RunKey("named", run))

    def _rename(self, run: RunId, text: str) -> bool:
        return self.session.edit("Rename a run", lambda p, f: rename_run(p, run, text))

    def _drop(self, run: RunId) -> None:
        name = self.session.state.current.project.runs[run].name
        self.session.edit(f"Forget the run {name}", lambda p, f: drop_run(p, run))
