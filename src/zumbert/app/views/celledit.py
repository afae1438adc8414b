"""The field that opens in a cell of the level rows."""

from collections.abc import Iterator
from typing import Protocol

from PySide6.QtCore import QEvent, QObject, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget

from zumbert.app.guard import guarded
from zumbert.app.panels.fields import Aside
from zumbert.app.session import Session
from zumbert.app.values import edit_field, pivot_end
from zumbert.drawing.levelrows import Entry, pipe_rows, row_entries, rows_shown
from zumbert.drawing.marks import Cell
from zumbert.edits.fields import FieldText, set_fields
from zumbert.errors import EditError
from zumbert.model.display import NONE
from zumbert.model.ids import PipeId


class CellHost(Protocol):
    """The long section whose cells are edited."""

    @property
    def session(self) -> Session:
        """The session."""

    @property
    def cells(self) -> list[Cell]:
        """The cells that are shown."""

    def box(self, cell: Cell) -> QRectF:
        """Where a cell lies in the widget."""

    def show_distance(self, at: float) -> None:
        """Brings a distance (m) into sight."""


@guarded
class CellEdit(QLineEdit):
    """Closed -begin-> open -Enter, Tab or a click elsewhere-> closed (taken); Esc -> closed
    (nothing done).
    """

    def __init__(self, parent: QWidget, view: CellHost) -> None:
        super().__init__(parent)
        self.drawing, self.view = parent, view
        self.cell: Cell | None = None
        self.setProperty("role", "cell")
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setAccessibleName("Level row cell")
        self.installEventFilter(self)
        Aside(self, self._understood)
        self.hide()

    def _understood(self, text: str) -> str:
        """The slope that the typed text is understood as."""
        return (
            self.view.session.units.understood(text)
            if self.cell is not None and self.cell.field == "slope"
            else ""
        )

    def begin(self, cell: Cell) -> None:
        """Opens over a cell with its value selected."""
        self.cell = cell
        box = self.view.box(cell)
        wide = max(box.width() if cell.row not in ("Slope", "DN") else 0.0, 76.0)
        self.setGeometry(
            round(box.center().x() - wide / 2),
            round(box.y()) - 1,
            round(wide),
            round(box.height()) + 2,
        )
        self.setText(cell.text.split("  ")[0].replace("\u2013", ""))
        self.selectAll()
        self.show()
        self.setFocus()
        self._light(cell)

    def _light(self, cell: Cell | None) -> None:
        """Marks the edited end of a pipe in both drawings."""
        end = None if cell is None else cell.field.partition("_")[2]
        session = self.view.session
        session.set(
            lit=(PipeId(cell.id), end) if cell is not None and end in ("up", "down") else None
        )

    def take(self) -> bool:
        """Takes the text as an edit; refused texts leave the field open."""
        cell = self.cell
        if cell is None or not self.isVisible():
            return True
        project = self.view.session.state.current.project
        if cell.id not in project.pipes and cell.id not in project.structures:
            self.close_edit()  # it was deleted meanwhile
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
            self._light(None)
            self.hide()
            self.drawing.setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
                self._next(-1 if event.key() == Qt.Key.Key_Backtab else 1)
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take()
                return True
            if (
                not event.modifiers()
                and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right)
                and self._at_edge(event.key())
            ):
                self._next(-1 if event.key() == Qt.Key.Key_Left else 1)
                return True
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                self._other_row(-1 if event.key() == Qt.Key.Key_Up else 1)
                return True
            if event.matches(QKeySequence.StandardKey.Paste):
                self._pasted(QApplication.clipboard().text())
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

    def _at_edge(self, key: int) -> bool:
        """Whether an arrow key would leave the text with nothing selected: it then goes to the
        next cell.
        """
        if self.hasSelectedText():
            return False
        return self.cursorPosition() == (0 if key == Qt.Key.Key_Left else len(self.text()))

    def follow(self) -> None:
        """Moves the field along with its cell, keeping what is typed."""
        cell = self.cell
        if cell is None:
            return
        found = next(
            (
                c
                for c in self.view.cells
                if (c.row, c.id, c.field) == (cell.row, cell.id, cell.field)
            ),
            None,
        )
        if found is not None:
            box = self.view.box(found)
            self.move(round(box.center().x() - self.width() / 2), round(box.y()) - 1)

    def _keep(self, left: bool) -> bool:
        """In a slope cell, makes the end at that side the pivot; False in any other cell."""
        run = self.view.session.state.look.run
        reach = (
            next((r for r in run.reaches if r.pipe == self.cell.id), None)
            if run and self.cell
            else None
        )
        if reach is None or self.cell is None or self.cell.field != "slope":
            return False
        self.view.session.set_pivot("up" if (reach.up < reach.down) == left else "down")
        return True

    def _pasted(self, text: str) -> None:
        """Fills the cells from this one on with pasted values, a line of them along its row, more
        lines into the rows under it, as one undo step; a sole column goes along the row too. A sole
        value goes into the text.
        """
        lines = [line.split("\t") for line in text.strip("\r\n").replace("\r\n", "\n").split("\n")]
        if len(lines) == 1 and len(lines[0]) == 1:
            self.insert(lines[0][0].strip())
            return
        if self.cell is None:
            return
        if all(len(line) == 1 for line in lines):
            lines = [[line[0] for line in lines]]
        state, cell = self.view.session.state, self.cell
        rows = [r[0] for r in (*rows_shown(state.picture), *pipe_rows(state.picture))]
        if cell.row not in rows:
            return
        first = rows.index(cell.row)
        own = (
            e.at
            for e in row_entries(state.picture, cell.row)
            if (e.thing, e.field) == (cell.id, cell.field)
        )
        at = next(own, None)
        if at is None:
            return
        try:
            cells = [
                c
                for i, line in enumerate(lines)
                for c in self._filled(rows[first + i :][:1], at, line)
            ]
        except EditError as e:
            self.view.session.refused.emit(str(e))
            return
        name = f"Paste {len(cells)} value{'' if len(cells) == 1 else 's'} into the rows"
        if self.view.session.edit(name, lambda p, f: set_fields(p, f, cells)):
            self.close_edit()

    def _filled(self, row: list[str], at: float, values: list[str]) -> Iterator[FieldText]:
        """The edits of one row from a distance on. Raises EditError where values have no column,
        or one is not edited.
        """
        if not row:
            raise EditError(
                "There are more lines than rows from this cell down: nothing is pasted."
            )
        entries = [
            e for e in row_entries(self.view.session.state.picture, row[0]) if e.at >= at - 1e-6
        ]
        if len(values) > len(entries):
            raise EditError(
                f"{row[0]}: {len(values)} values for {len(entries)} columns from here on: "
                "nothing is pasted."
            )
        for entry, value in zip(entries, values, strict=False):
            text = value.strip()
            if not text or text in (NONE, entry.text, entry.text.split("  ")[0]):
                continue
            if not entry.field:
                raise EditError(f"{entry.where} is not edited here: leave that value empty.")
            yield FieldText(
                entry.thing,
                entry.field,
                text,
                entry.where,
                pivot_end(self.view.session, entry.thing),
            )

    def _next(self, by: int) -> None:
        """Takes the text and goes to the next cell along the row that can be edited; the drawing
        follows.
        """
        cell = self.cell
        if cell is None or not self.take():
            return
        row = self._editable(cell.row)
        here = next(
            (i for i, e in enumerate(row) if (e.thing, e.field) == (cell.id, cell.field)), None
        )
        if here is not None and 0 <= here + by < len(row):
            self._go(cell.row, row[here + by])

    def _other_row(self, by: int) -> None:
        """Takes the text and goes to the nearest cell that can be edited in the next row up or
        down that has one.
        """
        cell = self.cell
        if cell is None:
            return
        picture = self.view.session.state.picture
        rows = [r[0] for r in (*rows_shown(picture), *pipe_rows(picture))]
        at = next(
            (e.at for e in self._editable(cell.row) if (e.thing, e.field) == (cell.id, cell.field)),
            None,
        )
        if cell.row not in rows or at is None or not self.take():
            return
        i = rows.index(cell.row)
        for row in rows[i + 1 :] if by > 0 else rows[:i][::-1]:
            entries = self._editable(row)
            if entries:
                self._go(row, min(entries, key=lambda e: abs(e.at - at)))
                return

    def _editable(self, row: str) -> list[Entry]:
        return [e for e in row_entries(self.view.session.state.picture, row) if e.field]

    def _go(self, row: str, to: Entry) -> None:
        self.view.show_distance(to.at)
        self.drawing.grab()  # lay out the cells after the edit
        found = next(
            (c for c in self.view.cells if (c.row, c.id, c.field) == (row, to.thing, to.field)),
            None,
        )
        if found is not None:
            self.begin(found)
