"""The differences of a network that comes back from elsewhere: looked through, chosen, taken in
one step.
"""

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.panels.rows import chip, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.questions import take_or_leave
from zumbert.app.session import Session
from zumbert.app.theme import qcolor
from zumbert.errors import ZumbertError
from zumbert.exchange.readback import Difference, Readback, taken
from zumbert.model.project import Project

HEADS = ("Object", "What", "Here", "In the file", "")


class ReadbackDialog(QDialog):
    """Each difference that is ticked is shown in the drawings at once; taken they are one undo
    step.
    """

    def __init__(
        self, parent: QWidget, session: Session, pen: Pen, path: Path, found: Readback
    ) -> None:
        super().__init__(parent)
        self.session, self.path, self.found = session, path, found
        self.setObjectName("readback")
        self.setWindowTitle("Read back")
        self.setMinimumSize(620, 420)
        self.resize(760, 560)
        self._made: Project | None = None
        self.boxes: list[QTableWidgetItem] = []  # a row each
        self.table = QTableWidget(len(found.differences), len(HEADS))
        self.says = wrapped("", "second")
        self.says.setMinimumWidth(320)
        self.says.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        whole = QVBoxLayout(self)
        whole.addWidget(label(f"Read back {path.name}", "title"))
        notes = QLabel("\n".join(found.notes))
        notes.setWordWrap(True)
        notes.setTextFormat(Qt.TextFormat.PlainText)
        notes.setObjectName("panelbody")
        area = QScrollArea()
        area.setWidget(notes)
        area.setWidgetResizable(True)
        # many notes scroll: table and buttons stay in sight
        area.setFixedHeight(min(96, 22 * len(found.notes) + 6))
        area.setVisible(bool(found.notes))
        whole.addWidget(area)
        whole.addWidget(rule())
        line = QHBoxLayout()
        for text, name, on in (("Tick all", "tick all", True), ("Tick none", "tick none", False)):
            line.addWidget(chip(text, name, partial(self._tick, on)))
        line.addStretch(1)
        line.addWidget(self.says)
        whole.addLayout(line)
        self._fill(pen)
        whole.addWidget(self.table, 1)
        buttons, self.take = take_or_leave(self, "Import")
        whole.addWidget(buttons)
        self.table.itemChanged.connect(lambda _: self._look())
        self._look()

    def _fill(self, pen: Pen) -> None:
        self.table.setObjectName("differences")
        self.table.setAccessibleName("Differences")
        self.table.setHorizontalHeaderLabels(list(HEADS))
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        for i, d in enumerate(self.found.differences):
            for j, text in enumerate(
                (d.label, d.title, d.now, d.file, "held: stays" if d.held else "")
            ):
                item = QTableWidgetItem(text)
                if j in (2, 3):
                    item.setTextAlignment(
                        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                    )
                if d.held:
                    item.setForeground(qcolor("ink-2", pen.theme))
                if j == 0 and not d.held:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    item.setCheckState(Qt.CheckState.Checked)
                self.table.setItem(i, j, item)
                if j == 0:
                    self.boxes.append(item)
        self.table.resizeColumnsToContents()
        self.table.horizontalHeader().setStretchLastSection(True)

    def chosen(self) -> list[Difference]:
        """The differences that are ticked."""
        return [
            d
            for i, d in enumerate(self.found.differences)
            if not d.held and self.boxes[i].checkState() == Qt.CheckState.Checked
        ]

    def _tick(self, on: bool) -> None:
        state = Qt.CheckState.Checked if on else Qt.CheckState.Unchecked
        self.table.blockSignals(True)
        for i, d in enumerate(self.found.differences):
            if not d.held:
                self.boxes[i].setCheckState(state)
        self.table.blockSignals(False)
        self._look()

    def _look(self) -> None:
        """Shows what taking them makes; a value that cannot be is told in place of the count."""
        chosen = self.chosen()
        held = sum(d.held for d in self.found.differences)
        current = self.session.state.current
        words = f"{len(chosen)} of {len(self.found.differences)} will be taken" + (
            f", {held} held" if held else ""
        )
        try:
            self._made = taken(current.project, current.facts, chosen) if chosen else None
        except ZumbertError as e:
            self._made, words = None, str(e)
        self.says.setText(words if self.found.differences else "Nothing differs.")
        self.take.setEnabled(self._made is not None)
        self.session.preview(self._made, told=True)

    def accept(self) -> None:
        if self._made is not None:
            count = len(self.chosen())
            name = f"Read back {count} value{'' if count == 1 else 's'} from {self.path.name}"
            self.session.apply(name, self._made, told=True)
        super().accept()

    def reject(self) -> None:
        self.session.preview(None)
        super().reject()
