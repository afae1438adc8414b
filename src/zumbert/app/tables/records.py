"""A table of records: cells typed and pasted, rows that are the selection."""

from typing import Any

from PySide6.QtCore import QEvent, QItemSelection, QItemSelectionModel, QModelIndex, Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QCompleter,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from zumbert.app.guard import guarded
from zumbert.app.panels.fields import Combo
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.tables.model import ModelIndex, RecordModel, Sorted
from zumbert.app.theme import REMARKS
from zumbert.edits.fields import FieldText, set_fields

ROW = 22
LIVE = 1000  # rows: a longer table follows an edit, not each frame of a drag


@guarded
class Choice(Combo):
    """The words of a cell: one is chosen from the list, or typed and taken with Enter as it is.
    A key of it chooses nothing.
    """

    def __init__(self, pen: Pen, parent: QWidget, words: list[str]) -> None:
        super().__init__(pen)
        self.setParent(parent)
        self._touched = False  # whether a hand has been at the text
        self.listed = False  # whether the list was opened since a key was pressed
        self.setEditable(True)
        self.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.setCompleter(QCompleter([]))  # completes nothing
        self.addItems(words)

    def begin(self, text: str) -> None:
        """Shows what is in the cell; the first key replaces it."""
        self.setCurrentIndex(self.findText(text))
        self.setEditText(text)
        line = self.lineEdit()
        if line is not None:
            line.selectAll()
            line.cursorPositionChanged.connect(lambda *_: setattr(self, "_touched", True))

    def showPopup(self) -> None:
        """Opens the list: what is chosen in it is taken."""
        self.listed = True
        super().showPopup()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        line, self.listed = self.lineEdit(), False
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return  # the table takes it
        if line is not None and not self._touched and event.text().isprintable() and event.text():
            line.selectAll()
        self._touched = True
        super().keyPressEvent(event)


class Choosing(QStyledItemDelegate):
    """Offers the words of a cell that takes only a few, which can be typed too; other cells are
    typed.
    """

    def __init__(self, pen: Pen, proxy: Sorted) -> None:
        super().__init__()
        self.pen, self.proxy = pen, proxy

    def createEditor(
        self, parent: QWidget, option: QStyleOptionViewItem, index: ModelIndex
    ) -> QWidget:
        words = self.proxy.model.choices(index.column())
        if not words:
            made: QWidget = super().createEditor(parent, option, index)  # of a text: always one
            return made
        box = Choice(self.pen, parent, words)
        box.activated.connect(lambda _: self._taken(box))
        return box

    def setEditorData(self, editor: QWidget, index: ModelIndex) -> None:
        if isinstance(editor, Choice):
            editor.begin(str(index.data(Qt.ItemDataRole.EditRole)))
        else:
            super().setEditorData(editor, index)

    def _taken(self, box: Choice) -> None:
        """A choice in the list is taken at once; what is typed when Enter is pressed, or the
        cell is left.
        """
        if not box.listed:
            return
        self.commitData.emit(box)
        self.closeEditor.emit(box)


@guarded
class Records(QTableView):
    """A table whose cells are copied, pasted and typed over as in a spreadsheet."""

    def __init__(
        self, session: Session, pen: Pen, kind: str, records: RecordModel | None = None
    ) -> None:
        super().__init__()
        self.session, self.kind = session, kind
        self.bar: QWidget | None = None  # above it
        self.records = records or RecordModel(session, pen, kind)
        self.proxy = Sorted(self.records)
        self.delegate = Choosing(pen, self.proxy)
        self.setModel(self.proxy)
        self.setItemDelegate(self.delegate)
        self.setObjectName(f"table {kind}")
        self.setAccessibleName(kind.capitalize())
        self.setSortingEnabled(True)
        self.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        self.verticalHeader().setDefaultSectionSize(ROW)
        self.verticalHeader().hide()
        self.horizontalHeader().setHighlightSections(False)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.EditKeyPressed
            | QAbstractItemView.EditTrigger.AnyKeyPressed
        )
        self._following = False
        self._sized = False
        self.selectionModel().selectionChanged.connect(lambda *_: self._select())

    def refresh(self, s: State) -> None:
        """Shows the state, and what is selected in it."""
        if len(getattr(s.shown.project, self.kind)) <= LIVE or not s.previewing:
            self._following = True
            self.records.show_state(s)
            self._following = False
        if not self._sized and self.records.ids:
            self.resizeColumnsToContents()
            if self.kind in ("structures", "pipes"):
                self.setColumnWidth(1, REMARKS)
            self._sized = True
        self._follow(s)

    def set_words(self, text: str) -> None:
        """Filters by words; what is selected stays selected."""
        self._following = True
        self.proxy.set_words(text)
        self._following = False

    def chosen(self) -> frozenset[Any]:
        """The records of the rows that are selected."""
        rows = {self.proxy.mapToSource(i).row() for i in self.selectedIndexes()}
        return frozenset(self.records.ids[r] for r in rows)

    def _select(self) -> None:
        """Passes the selection on to the session."""
        if self._following:
            return
        s, ids = self.session.state, self.chosen()
        now = s.chosen.structures if self.kind == "structures" else s.chosen.pipes
        if ids != now:
            empty: frozenset[Any] = frozenset()
            both = (empty, ids) if self.kind == "structures" else (ids, empty)
            self.session.select(*both, follow=False)

    def _follow(self, s: State) -> None:
        """Follows the selection of the session."""
        wanted = s.chosen.structures if self.kind == "structures" else s.chosen.pipes
        if self.chosen() == wanted:
            return
        rows = {k: i for i, k in enumerate(self.records.ids)}
        found = QItemSelection()
        first: QModelIndex | None = None
        last = self.proxy.columnCount() - 1
        for k in wanted:
            at = (
                self.proxy.mapFromSource(self.records.index(rows[k], 0))
                if k in rows
                else QModelIndex()
            )
            if at.isValid():
                found.select(at, self.proxy.index(at.row(), last))
                first = at if first is None or at.row() < first.row() else first
        self._following = True
        self.selectionModel().select(found, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self._following = False
        if first is not None:
            self.scrollTo(first)

    # -- keys --------------------------------------------------------------------------------------

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            letters = event.text().isprintable() and bool(event.text())
            plain = event.modifiers() in (
                Qt.KeyboardModifier.NoModifier,
                Qt.KeyboardModifier.ShiftModifier,
            )
            if (letters and plain) or event.matches(QKeySequence.StandardKey.SelectAll):
                event.accept()  # a letter begins an entry here, it is no tool
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
        elif (
            event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and self.state() != self.State.EditingState
        ):
            if self.currentIndex().isValid():
                self.edit(self.currentIndex())
        else:
            super().keyPressEvent(event)

    def copy(self) -> None:
        """The selected cells to the clipboard, tab-separated, in the order shown."""
        chosen = self.selectedIndexes()
        if not chosen:
            return
        rows = sorted({i.row() for i in chosen})
        columns = sorted({i.column() for i in chosen})
        lines = (
            "\t".join(str(self.proxy.index(r, c).data(Qt.ItemDataRole.EditRole)) for c in columns)
            for r in rows
        )
        QGuiApplication.clipboard().setText("\n".join(lines))

    def paste(self) -> None:
        """Tab-separated cells from the clipboard, from the first selected cell on, as one undo
        step; all or none.
        """
        text = QGuiApplication.clipboard().text().replace("\r\n", "\n").rstrip("\n")
        chosen = self.selectedIndexes()
        if not chosen or not text:
            return
        cells = [line.split("\t") for line in text.split("\n")]
        top, left = min(i.row() for i in chosen), min(i.column() for i in chosen)
        bottom, right = self.proxy.rowCount(), self.proxy.columnCount()
        if len(cells) == 1 and len(cells[0]) == 1:  # one value fills what is selected
            bottom, right = max(i.row() for i in chosen) + 1, max(i.column() for i in chosen) + 1
            cells = [cells[0] * (right - left)] * (bottom - top)
        rows = [self.proxy.mapToSource(self.proxy.index(r, left)).row() for r in range(top, bottom)]
        edits = self.records.cell_edits(rows, list(range(left, right)), cells)
        if isinstance(edits, str):
            self.session.refused.emit(edits)
        elif edits:
            count = len(edits)
            name = f"Paste {count} cell{'s' if count > 1 else ''}"
            self._take(name, edits)

    def _take(self, name: str, edits: list[FieldText]) -> None:
        """Makes pasted cells one undo step."""
        self.session.edit(name, lambda p, f: set_fields(p, f, edits))
