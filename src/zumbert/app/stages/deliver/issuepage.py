"""The page of issues: what was issued when, and what differs from the last one."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QPushButton, QWidget

from zumbert.app.panels.numbertable import NumberTable
from zumbert.app.panels.rows import Stack, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.delivery.revisions import IssueDifference, differences, last_issue, value_words
from zumbert.model.display import counted

if TYPE_CHECKING:
    from zumbert.app.stages.deliver.delivering import Delivering

MOST = 200  # differences that are listed


class IssuePage(QWidget):
    """Issues, the last first, and the differences from the last."""

    def __init__(self, session: Session, pen: Pen, delivering: "Delivering") -> None:
        super().__init__()
        self.session = session
        self._of: tuple[object, object] | None = None
        self.issues = wrapped("", "second")
        self.told = label("", "section")
        self.list = NumberTable(
            "differences", ("what", "issued", "now"), lambda cells: False, rows_go=False
        )
        issue = QPushButton("Issue …")
        issue.setObjectName("issue")
        issue.setToolTip(
            "Keeps what the project is today under a revision: later sheets and schedules show "
            "what differs from it"
        )
        issue.clicked.connect(lambda: delivering.issue())
        whole = Stack(self, 6)
        for w in (label("Issued", "section"), self.issues, issue, rule(), self.told, self.list):
            whole.addWidget(w)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        p = s.shown.project
        lines = [
            f"{i.name}, {i.date}{': ' if i.words else ''}{i.words}"
            for i in reversed(p.issues.values())
        ]
        self.issues.setText("\n".join(lines) or "Nothing was issued yet.")
        last = last_issue(p)
        for w in (self.told, self.list):
            w.setVisible(last is not None)
        if last is None or (
            self._of is not None and self._of[0] is s.shown and self._of[1] is last
        ):
            return
        self._of = s.shown, last
        found = differences(s.shown.facts, last)
        self.told.setText(
            f"{counted(len(found), 'difference')} from {last.name}"
            if found
            else f"As issued with {last.name}"
        )
        self.list.show_cells(
            [
                [
                    f"{d.label} {_what(d)}",
                    value_words(s.shown.facts, d, d.old),
                    value_words(s.shown.facts, d, d.new),
                ]
                for d in found[:MOST]
            ]
        )
        self.list.setVisible(bool(found))


def _what(d: IssueDifference) -> str:
    if d.field is not None:
        return d.field.title.lower()
    return "new" if d.old is None else "gone"
