"""The stage Checks: all findings, grouped and filtered, or the standards behind them."""

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QApplication, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from zumbert.app.panels.fields import choice
from zumbert.app.panels.rows import SegmentedButton, Stack, clear, label, pair, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.checks.mending import Mending, RunWork, put_under
from zumbert.app.stages.checks.roomspage import RoomsPage
from zumbert.app.stages.checks.rows import BarRow, FindingRow
from zumbert.app.stages.checks.standards import StandardsSheet
from zumbert.app.state import State
from zumbert.checks.arrange import GROUPINGS, WHICH, Grouping, Wanted, arranged, bars, wanted
from zumbert.checks.check import Findings
from zumbert.checks.finding import Finding
from zumbert.edits.standards import standards_words, told_off
from zumbert.model.display import counted
from zumbert.model.ids import PipeId

MOST = 200  # rows that are made; more are counted
PAGES = ("Findings", "Crossings", "Standards")


class ChecksPanel(QWidget):
    """The findings of what is shown, the crossings and the sheet of the standards, one at a
    time.
    """

    def __init__(
        self,
        session: Session,
        pen: Pen,
        go: Callable[[Finding], None],
        go_place: Callable[[PipeId, float, float], None],
        work: RunWork,
    ) -> None:
        super().__init__()
        self.findings = FindingsPage(session, pen, go, work)
        self.rooms = RoomsPage(session, pen, go_place)
        self.standards = StandardsSheet(session, pen)
        self.pages = (self.findings, self.rooms, self.standards)
        self.count = label("", "second")
        self.which = SegmentedButton(PAGES, self.turn_to)
        whole = Stack(self)
        whole.addLayout(pair(label("Checks", "title"), self.count))
        whole.addWidget(self.which)
        whole.addWidget(rule())
        for page in self.pages:
            whole.addWidget(page)
        whole.addStretch(1)
        self._session = session
        self.turn_to(0)

    def turn_to(self, page: int) -> None:
        """Shows the findings (0), the crossings (1) or the standards (2)."""
        self.which.show_choice(page)
        for i, w in enumerate(self.pages):
            w.setVisible(i == page)
        self._session.preview(None)
        self.refresh(self._session.state)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        found = s.shown.findings
        decided = f", {found.decided} decided" if found.decided else ""
        self.count.setText(
            f"{counted(found.breaches, 'breach', 'breaches')}, "
            f"{counted(found.cautions, 'caution')}{decided}"
        )
        for page in self.pages:
            if page.isVisibleTo(self):
                page.refresh(s)


class FindingsPage(QWidget):
    """Findings by group, filtered, the worst first; the one that was gone to with what can be
    done about it.
    """

    def __init__(
        self, session: Session, pen: Pen, go: Callable[[Finding], None], work: RunWork
    ) -> None:
        super().__init__()
        self.session, self.pen, self._go = session, pen, go
        self.rows: list[FindingRow] = []
        self.chosen: list[Finding] = []
        self.ask = Wanted()
        self.by: Grouping = "worst"
        self._found: object = None
        self._asked: object = None
        self.bars, self.list = QVBoxLayout(), QVBoxLayout()
        self.bars.setSpacing(0)
        self.list.setSpacing(4)
        self.mending = Mending(session, pen, work)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search findings")
        self.search.setObjectName("search findings")
        self.search.setAccessibleName("Search findings")
        self.search.textChanged.connect(lambda text: self._filter(text=text))
        self.grouping = choice(pen, "group findings", GROUPINGS.items(), self.by)
        self.grouping.activated.connect(lambda _: self._group(self.grouping.currentData()))
        self.which = choice(pen, "show findings", WHICH.items(), self.ask.which)
        self.which.activated.connect(lambda _: self._filter(which=self.which.currentData()))
        line = QHBoxLayout()
        line.addWidget(self.search, 1)
        line.addWidget(self.grouping)
        line.addWidget(self.which)
        whole = Stack(self)
        whole.addLayout(self.bars)
        whole.addLayout(line)
        whole.addLayout(self.list)

    def _filter(self, **values: Any) -> None:
        self.ask = replace(self.ask, **values)
        self.refresh(self.session.state)

    def _group(self, by: Grouping) -> None:
        self.by = by
        self.refresh(self.session.state)

    def _rule(self, name: str) -> None:
        self._filter(rule="" if self.ask.rule == name else name)

    def refresh(self, s: State) -> None:
        """Shows the state; while a fix is tried out the list stays, so that nothing moves under
        the pointer.
        """
        if self.mending.trying and s.previewing:
            return
        found = s.shown.findings
        asked = self.ask, self.by
        # other labels make other findings of the same values
        if self._found is not found or self._asked != asked:
            self._found, self._asked = found, asked
            self._bars(found)
            self._list(s, found)
        visited = _now(found, s.chosen.visited)
        row = next(
            (r for r in self.rows if visited is not None and r.finding.key == visited.key), None
        )
        for r in self.rows:
            r.setChecked(r is row or any(r.finding.key == f.key for f in self.chosen))
        if row is None or s.previewing:
            self.mending.hide()
            return
        put_under(self.list, row, self.mending)
        self.mending.show_for(
            s, row.finding, [f for r in self.rows for f in self.chosen if r.finding.key == f.key]
        )

    def _bars(self, found: Findings) -> None:
        clear(self.bars)
        counts = bars(found)
        for bar in counts if len(counts) > 1 else ():
            row = BarRow(self.pen, bar, counts[0].all, self._rule)
            row.setChecked(self.ask.rule == bar.rule)
            self.bars.addWidget(row)

    def _list(self, s: State, found: Findings) -> None:
        focused = QApplication.focusWidget()
        kept = (
            focused.finding.key
            if isinstance(focused, FindingRow) and focused in self.rows
            else None
        )
        self.list.removeWidget(self.mending)
        self.mending.setParent(self)
        clear(self.list)
        self.rows = []
        off = told_off(s.shown.project)
        if not found:
            every = f"every rule of {standards_words(s.shown.project)} is kept" + (
                f"; {off}, not looked at" if off else ""
            )
            self.list.addWidget(wrapped(f"Nothing broken: {every}.", "second"))
        shown = wanted(s.shown.facts, found, self.ask)
        if found and not shown:
            self.list.addWidget(
                wrapped("No finding is asked for: change the search or what is shown.", "second")
            )
        for group in arranged(s.shown.facts, shown, self.by):
            if len(self.rows) >= MOST:
                break
            if group.title:
                self.list.addWidget(label(f"{group.title}, {len(group.findings)}", "section"))
            for finding in group.findings[: MOST - len(self.rows)]:
                row = FindingRow(
                    self.pen, s.shown.facts, finding, self._went, self._step, self._choose
                )
                self.rows.append(row)
                self.list.addWidget(row)
                if kept == finding.key:
                    row.setFocus()
        if len(shown) > MOST:
            self.list.addWidget(wrapped(f"and {len(shown) - MOST} more.", "second"))
        if found and off:
            self.list.addWidget(wrapped(f"{off.capitalize()}, not looked at.", "small"))

    def _went(self, finding: Finding) -> None:
        if not any(f.key == finding.key for f in self.chosen):
            self.chosen = []
        self._go(finding)
        for row in self.rows:
            if row.finding.key == finding.key:
                row.setFocus()

    def _choose(self, finding: Finding, on: bool) -> None:
        """Takes a finding among the chosen ones, or out of them."""
        left = [f for f in self.chosen if f.key != finding.key]
        visited = self.session.state.chosen.visited
        first = (
            [visited]
            if not self.chosen and isinstance(visited, Finding) and visited.key != finding.key
            else []
        )
        self.chosen = left if len(left) < len(self.chosen) else [*first, *left, finding]
        self._go(finding)

    def _step(self, by: int) -> None:
        """Goes to the finding before or after the one that has the keyboard."""
        at = next((i for i, r in enumerate(self.rows) if r.hasFocus()), None)
        if at is not None and 0 <= at + by < len(self.rows):
            self._went(self.rows[at + by].finding)


def _now(found: Findings, visited: object) -> Finding | None:
    """The finding that was gone to as it is now; None where it is gone."""
    if not isinstance(visited, Finding):
        return None
    return next((f for f in found if f.key == visited.key), None)
