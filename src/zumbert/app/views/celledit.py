"""The field that opens in a cell of the level rows."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit

from zumbert.app.values import edit_field
from zumbert.drawing.marks import Cell

if TYPE_CHECKING:
    from zumbert.app.views.sectionview import SectionView


class CellEdit(QLineEdit):
    """Closed -begin-> open -Enter, Tab or a click elsewhere-> closed (taken); Esc -> closed (nothing done)."""

    def __init__(self, view: "SectionView") -> None:
        super().__init__(view)
        self.view = view
        self.cell: Cell | None = None
        self.setProperty("role", "cell")
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setAccessibleName("Level row cell")
        self.installEventFilter(self)
        self.hide()

    def begin(self, cell: Cell) -> None:
        """Opens over a cell with its value selected."""
        self.cell = cell
        box = self.view.box(cell)
        wide = max(box.width() if cell.row not in ("Slope", "DN") else 0.0, 76.0)
        self.setGeometry(round(box.center().x() - wide / 2), round(box.y()) - 1, round(wide), round(box.height()) + 2)
        self.setText(cell.text.split("  ")[0].replace("\u2013", ""))
        self.selectAll()
        self.show()
        self.setFocus()

    def take(self) -> bool:
        """Takes the text as an edit; refused texts leave the field open."""
        cell = self.cell
        if cell is None or not self.isVisible():
            return True
        if self.text().strip() == cell.text.split("  ")[0].replace("\u2013", ""):
            self.close_edit()
            return True
        if edit_field(self.view.session, cell.id, cell.field, self.text()):
            self.close_edit()
            return True
        self.selectAll()
        return False

    def close_edit(self) -> None:
        """Closes, with nothing done."""
        if self.cell is not None:
            self.cell = None
            self.hide()
            self.view.setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
                self._next(-1 if event.key() == Qt.Key.Key_Backtab else 1)
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take()
                return True
            alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            if (
                alt
                and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right)
                and self._keep(event.key() == Qt.Key.Key_Left)
            ):
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.close_edit()
                return True
        if event.type() == QEvent.Type.FocusOut and self.cell is not None:
            self.take()
        return super().eventFilter(watched, event)

    def _keep(self, left: bool) -> bool:
        """In a slope cell, keeps the end at one side of it; tells whether it is one."""
        run = self.view.session.state.run
        reach = next((r for r in run.reaches if r.pipe == self.cell.id), None) if run and self.cell else None
        if reach is None or self.cell is None or self.cell.field != "slope":
            return False
        self.view.session.hold("up" if (reach.up < reach.down) == left else "down")
        return True

    def _next(self, by: int) -> None:
        """Takes the text and goes to the next cell along the row that can be edited."""
        cell = self.cell
        if cell is None or not self.take():
            return
        self.view.grab()  # lay out the cells after the edit
        row = sorted((c for c in self.view.cells if c.row == cell.row and c.field), key=lambda c: c.box[0])
        here = next((i for i, c in enumerate(row) if abs(c.box[0] - cell.box[0]) < 20), None)
        if here is not None and 0 <= here + by < len(row):
            self.begin(row[here + by])
