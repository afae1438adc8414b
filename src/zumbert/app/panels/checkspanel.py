"""The panel of all findings; a click goes to the place in both drawings."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from zumbert.analysis import Facts
from zumbert.app.panels.rows import FixButton, Sign, Stack, clear, label, pair, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.app.theme import INSIDE
from zumbert.checks.check import Findings, rule_of
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label, sentence
from zumbert.edits.fixes import fixes
from zumbert.model.display import counted

MOST = 200  # rows that are made; more are counted


class FindingRow(QPushButton):
    """One finding: sign, rule and sentence. Works by mouse and by keyboard."""

    def __init__(self, pen: Pen, facts: Facts, finding: Finding, go: Callable[[Finding], None]) -> None:
        super().__init__()
        self.finding = finding
        self.setProperty("role", "finding")
        self.setCheckable(True)
        name, says = object_label(facts, finding), sentence(facts, finding)
        self.setObjectName(f"finding {finding.rule} {name}")
        self.setAccessibleName(says)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(6, 5, 6, 5)
        whole.setSpacing(2)
        head = QHBoxLayout()
        head.addWidget(Sign(pen, finding.severity))
        head.addWidget(label(rule_of(finding.rule).title, finding.severity))
        head.addStretch(1)
        head.addWidget(label(name, "second"))
        whole.addLayout(head)
        self.sentence = wrapped(says)
        whole.addWidget(self.sentence)
        self.clicked.connect(lambda: go(finding))

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return 36 + self.sentence.heightForWidth(width - 12)

    def sizeHint(self):  # type: ignore[no-untyped-def]
        hint = super().sizeHint()
        hint.setHeight(self.heightForWidth(INSIDE))
        return hint


class ChecksPanel(QWidget):
    """Findings in the order of the rules, always those of what is shown."""

    def __init__(self, session: Session, pen: Pen, go: Callable[[Finding], None]) -> None:
        super().__init__()
        self.session, self.pen, self.go = session, pen, go
        self.count = label("", "second")
        self.rows: list[FindingRow] = []
        self.list, self.mend = QVBoxLayout(), QVBoxLayout()
        self.list.setSpacing(4)
        self._shown: Findings | None = None
        self._mended: object = None
        whole = Stack(self)
        whole.addLayout(pair(label("Checks", "title"), self.count))
        whole.addWidget(label("Always live, along whole pipes", "second"))
        whole.addWidget(rule())
        whole.addLayout(self.list)
        whole.addLayout(self.mend)
        whole.addStretch(1)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        found = s.shown.findings
        if found is not self._shown:
            self._shown = found
            self._list(s, found)
        for row in self.rows:
            row.setChecked(row.finding == s.visited)
        self._mend(s)

    def _list(self, s: State, found: Findings) -> None:
        self.count.setText(f"{counted(found.breaches, 'breach', 'breaches')}, {counted(found.cautions, 'caution')}")
        clear(self.list)
        self.rows = []
        if not found:
            self.list.addWidget(wrapped(f"Nothing broken: every rule of {_standards(s)} is kept.", "second"))
        for finding in found[:MOST]:
            row = FindingRow(self.pen, s.shown.facts, finding, self.go)
            self.rows.append(row)
            self.list.addWidget(row)
        if len(found) > MOST:
            self.list.addWidget(wrapped(f"and {len(found) - MOST} more.", "second"))

    def _mend(self, s: State) -> None:
        """What mends the finding that was gone to."""
        key = (s.visited, s.current)
        if self._mended == key:
            return
        self._mended = key
        clear(self.mend)
        finding = s.visited
        if not isinstance(finding, Finding) or finding not in s.current.findings:
            return
        made = fixes(s.current.project, s.current.facts, finding)
        if made:
            self.mend.addWidget(label("Fixes", "section"))
        for fix in made:
            project, text = fix.project, fix.text
            self.mend.addWidget(FixButton(self.pen, fix.text, fix.figure, partial(self.session.apply, text, project)))


def _standards(s: State) -> str:
    used = {n.standard for n in s.shown.project.networks.values()}
    return ", ".join(sorted(s.shown.project.standards[k].name for k in used))
