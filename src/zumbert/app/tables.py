"""The tables of structures, pipes and the library, in a drawer over the lower half: sorted, filtered, edited, copied
and pasted.
"""

from typing import Any, Literal, cast

from msgspec.structs import replace
from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QSortFilterProxyModel,
    Qt,
)
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.libraryacts import LibraryActs
from zumbert.app.panels.rows import Combo, Segments, label
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.app.theme import qcolor
from zumbert.app.values import edit_field
from zumbert.checks.sentences import sentence
from zumbert.edits.change import size_number
from zumbert.edits.fields import CellEdit, set_fields
from zumbert.edits.several import STATUSES
from zumbert.exchange.tables import Cell, Column, Table, library_table, pipe_table, structure_table
from zumbert.model.library import FIELDS as LIBRARY
from zumbert.model.library import SIZE_FIELDS, TYPE_FIELDS, Shelf
from zumbert.model.structure import Anchored

Kind = Literal["structures", "pipes", "types", "sizes"]
KINDS: dict[Kind, str] = {
    "structures": "Structures", "pipes": "Pipes", "types": "Types", "sizes": "Sizes",
}  # fmt: skip
Index = QModelIndex | QPersistentModelIndex
ROW, REMARKS_WIDTH = 22, 190
SHELVES = ("types", "sizes")
LIVE = 1000  # rows: a longer table follows an edit, not each frame of a drag
FIELDS: dict[Kind, dict[str, str]] = {
    "structures": {
        "Structure": "label", "Type": "type", "Chainage": "chainage", "Offset": "offset", "x": "x", "y": "y",
        "Rim": "rim", "Status": "status", "Network": "network",
    },
    "pipes": {
        "DN": "size", "Invert up": "invert_up", "Invert down": "invert_down", "Slope": "slope", "Least cover": "cover",
        "Status": "status", "Network": "network",
    },
    "types": {f.head: f"types.{f.name}" for f in TYPE_FIELDS},
    "sizes": {f.head: f"sizes.{f.name}" for f in SIZE_FIELDS},
}  # fmt: skip
NUMBERS = frozenset(("chainage", "offset", "x", "y", "rim", "invert_up", "invert_down"))
REMARKS = Column("Remarks", of="text")
PLACES = {"chainage": True, "offset": True, "x": False, "y": False}  # fields of anchored places, or of free ones


def table_of(s: State, kind: Kind) -> Table:
    """The schedule of structures or pipes, and what each row breaks."""
    if kind in SHELVES:
        return library_table(s.shown.project, cast("Shelf", kind))
    table = structure_table(s.shown.facts) if kind == "structures" else pipe_table(s.shown.facts)
    found = s.shown.findings.by_structure if kind == "structures" else s.shown.findings.by_pipe
    ids: Any = getattr(s.shown.project, kind)
    remarks = (" ".join(sentence(s.shown.facts, f) for f in found.get(k, ())) for k in ids)
    rows = tuple((row[0], text, *row[1:]) for row, text in zip(table.rows, remarks, strict=True))
    return replace(table, columns=(table.columns[0], REMARKS, *table.columns[1:]), rows=rows)


class RecordModel(QAbstractTableModel):
    """Rows of structures or pipes; a changed cell is an undo step."""

    def __init__(self, session: Session, pen: Pen, kind: Kind) -> None:
        super().__init__()
        self.session, self.pen, self.kind = session, pen, kind
        self.ids: list[Any] = []
        self.table = Table(name="", columns=(), rows=())
        self.fields: list[str | None] = []
        self.texts: list[list[str]] = []

    def show_state(self, s: State) -> None:
        """Shows the state; rows stay where they are while their records do."""
        table = table_of(s, self.kind)
        ids = list(getattr(s.shown.project, self.kind))
        texts = [[_text(v, c) for v, c in zip(row, table.columns, strict=True)] for row in table.rows]
        same = ids == self.ids and table.columns == self.table.columns
        if not same:
            self.beginResetModel()
        old, self.ids, self.table, self.texts = self.texts, ids, table, texts
        self.fields = [FIELDS[self.kind].get(c.head) for c in table.columns]
        if not same:
            self.endResetModel()
            return
        for i, (a, b) in enumerate(zip(old, texts, strict=True)):
            if a != b:
                self.dataChanged.emit(self.index(i, 0), self.index(i, len(table.columns) - 1))

    def rowCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.ids)

    def columnCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.table.columns)

    def headerData(self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        return self.table.columns[section].title if way == Qt.Orientation.Horizontal else section + 1

    def editable(self, row: int, column: int) -> bool:
        """Whether a cell can be typed over: what is derived cannot, nor a chainage of a free structure."""
        field = self.fields[column]
        if field is None:
            return False
        if field in PLACES:
            project = self.session.state.kept.project
            record = project.structures.get(self.ids[row])
            return record is not None and isinstance(record.place, Anchored) == PLACES[field]
        return True

    def flags(self, index: Index) -> Qt.ItemFlag:
        out = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return out | Qt.ItemFlag.ItemIsEditable if self.editable(index.row(), index.column()) else out

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        i, j = index.row(), index.column()
        column = self.table.columns[j]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self.texts[i][j]
        if role == Qt.ItemDataRole.UserRole:  # for sorting
            value = self.table.rows[i][j]
            return (value is None, value if isinstance(value, (int, float)) else _natural(str(value or "")))
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignLeft if column.of == "text" else Qt.AlignmentFlag.AlignRight
            return int(side | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.ForegroundRole:
            ink = "breach" if column is REMARKS else "ink" if self.editable(i, j) else "ink-2"
            return qcolor(ink, self.pen.theme)
        if role == Qt.ItemDataRole.ToolTipRole:
            return self.texts[i][j] if column is REMARKS else None
        return None

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        field, text = self.fields[index.column()], str(value).strip()
        if field is None or text == self.texts[index.row()][index.column()]:
            return False
        return edit_field(self.session, self.ids[index.row()], field, _meant(field, text))

    def choices(self, column: int) -> list[str]:
        """The words that a column takes, where they are few."""
        project = self.session.state.kept.project
        field = self.fields[column]
        if field == "size":
            return [size_number(project, z) for z in project.sizes.values() if z.allowed]
        shelf, _, name = (field or "").partition(".")
        if name:
            found = next(f for f in LIBRARY[cast("Shelf", shelf)] if f.name == name)
            return ["yes", "no"] if found.of == "yes" else list(found.words)
        lists: dict[str, list[str]] = {
            "type": [t.name for t in project.types.values() if t.allowed],
            "status": list(STATUSES), "network": [n.name for n in project.networks.values()],
        }  # fmt: skip
        return lists.get(field or "", [])

    def cell_edits(self, rows: list[int], columns: list[int], cells: list[list[str]]) -> list[CellEdit] | str:
        """Pasted texts as edits, or the sentence that says which cell does not fit."""
        out: list[CellEdit] = []
        for i, line in enumerate(cells):
            for j, text in enumerate(line):
                if i >= len(rows) or j >= len(columns):
                    return (
                        f"{len(cells)} rows and {max(map(len, cells))} columns do not fit: "
                        f"{len(rows)} rows and {len(columns)} columns are left from the cell that is chosen."
                    )
                row, column = rows[i], columns[j]
                if text.strip() == self.texts[row][column]:
                    continue
                head = self.table.columns[column].head
                where = f"{self.texts[row][0]}, {head}"
                field = self.fields[column]
                if field is None or not self.editable(row, column):
                    return f'{where}: "{text}" cannot go there, it follows from other values. Nothing was pasted.'
                out.append(CellEdit(self.ids[row], field, _value(field, text.strip()), where))
        return out


def _text(value: Cell, column: Column) -> str:
    if value is None:
        return ""
    return f"{value:.{column.decimals}f}" if isinstance(value, (int, float)) else value


def _natural(text: str) -> tuple[Any, ...]:
    """S2 before S10."""
    out: list[Any] = []
    digits = ""
    for c in text + "\0":
        if c.isdigit():
            digits += c
            continue
        if digits:
            out.append((0, int(digits), ""))
            digits = ""
        out.append((1, 0, c.lower()))
    return tuple(out)


def _meant(field: str, text: str) -> str:
    """A slope's column is in per cent; another way of writing it says so itself."""
    return f"{text}%" if field == "slope" and not text.endswith("%") and ":" not in text else text


def _value(field: str, text: str) -> str:
    """A pasted number is a value, never a step from now."""
    if field in NUMBERS and text[:1] in ("+", "-", "\u2212") and text[1:]:
        return f"={text.removeprefix('+')}"
    return _meant(field, text)


class Sorted(QSortFilterProxyModel):
    """Rows in the order of a column, those only that have all the words of a filter."""

    def __init__(self, model: RecordModel) -> None:
        super().__init__()
        self.model, self.words = model, []  # type: ignore[var-annotated]
        self.setSourceModel(model)

    def set_words(self, text: str) -> None:
        """Filters by words."""
        self.words = text.lower().split()
        self.invalidate()

    def filterAcceptsRow(self, row: int, parent: Index) -> bool:
        if not self.words:
            return True
        whole = " ".join(self.model.texts[row]).lower()
        return all(w in whole for w in self.words)

    def lessThan(self, a: Index, b: Index) -> bool:
        role = Qt.ItemDataRole.UserRole
        return bool(self.model.data(a, role) < self.model.data(b, role))


class Choosing(QStyledItemDelegate):
    """Cells with few words offer them; all others are typed."""

    def __init__(self, pen: Pen, proxy: Sorted) -> None:
        super().__init__()
        self.pen, self.proxy = pen, proxy

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        words = self.proxy.model.choices(index.column())
        if not words:
            made = super().createEditor(parent, option, index)
            assert made is not None  # noqa: S101 - a text always has an editor
            return made
        box = Combo(self.pen)
        box.setParent(parent)
        box.addItems(words)
        box.activated.connect(lambda _: self._taken(box))
        return box

    def _taken(self, box: QWidget) -> None:
        self.commitData.emit(box)
        self.closeEditor.emit(box)


class Records(QTableView):
    """A table whose cells are copied, pasted and typed over as in a spreadsheet."""

    def __init__(self, session: Session, pen: Pen, kind: Kind) -> None:
        super().__init__()
        self.session, self.kind = session, kind
        self.records = RecordModel(session, pen, kind)
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
            if self.kind not in SHELVES:
                self.setColumnWidth(1, REMARKS_WIDTH)
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
        """What is selected here is selected everywhere."""
        if self._following:
            return
        if self.kind in SHELVES:
            return
        s, ids = self.session.state, self.chosen()
        now = s.structures if self.kind == "structures" else s.pipes
        if ids != now:
            empty: frozenset[Any] = frozenset()
            both = (empty, ids) if self.kind == "structures" else (ids, empty)
            self.session.select(*both, follow=False)

    def _follow(self, s: State) -> None:
        """What is selected elsewhere is selected here; the library has nothing that stands in the drawings."""
        if self.kind in SHELVES:
            return
        wanted = s.structures if self.kind == "structures" else s.pipes
        if self.chosen() == wanted:
            return
        rows = {k: i for i, k in enumerate(self.records.ids)}
        found = QItemSelection()
        first: QModelIndex | None = None
        last = self.proxy.columnCount() - 1
        for k in wanted:
            at = self.proxy.mapFromSource(self.records.index(rows[k], 0)) if k in rows else QModelIndex()
            if at.isValid():
                found.select(at, self.proxy.index(at.row(), last))
                first = at if first is None or at.row() < first.row() else first
        self._following = True
        self.selectionModel().select(found, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self._following = False
        if first is not None:
            self.scrollTo(first)

    # -- keys ----------------------------------------------------------------------------------------------------------

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            letters = event.text().isprintable() and bool(event.text())
            plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier)
            if (letters and plain) or event.matches(QKeySequence.StandardKey.SelectAll):
                event.accept()  # a letter begins an entry here, it is no tool
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.state() != self.State.EditingState:
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
        lines = ("\t".join(str(self.proxy.index(r, c).data()) for c in columns) for r in rows)
        QGuiApplication.clipboard().setText("\n".join(lines))

    def paste(self) -> None:
        """Tab-separated cells from the clipboard, from the first selected cell on, as one undo step; all or none."""
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
            self.session.edit(name, lambda p, f: set_fields(p, f, edits))


class TablesDrawer(QWidget):
    """The drawer: which table, a filter, the table."""

    def __init__(self, session: Session, pen: Pen, close: Any) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("tables")
        self.kind: Kind = "structures"
        kinds: tuple[Kind, ...] = tuple(KINDS)
        self.tables: dict[Kind, Records] = {k: Records(session, pen, k) for k in kinds}
        self.which = Segments(tuple(KINDS.values()), lambda i: self.show_kind(kinds[i]))
        self.library = LibraryActs(session, self)
        self.which.show_choice(0)
        self.filter = QLineEdit()
        self.filter.setObjectName("table filter")
        self.filter.setAccessibleName("Filter of the table")
        self.filter.setPlaceholderText("Filter, for example existing 225")
        self.filter.setMinimumWidth(200)
        self.filter.setMaximumWidth(230)
        self.filter.textChanged.connect(lambda text: self._filter(text))
        self.count = label("", "second")
        shut = QPushButton("Close")
        shut.setProperty("role", "chip")
        shut.setObjectName("close tables")
        shut.clicked.connect(lambda: close())
        head = QHBoxLayout()
        head.setContentsMargins(14, 4, 14, 4)
        head.setSpacing(12)
        for w in (label("Tables", "section"), self.which, self.filter, self.count):
            head.addWidget(w)
        head.addStretch(1)
        head.addWidget(shut)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addLayout(head)
        whole.addWidget(self.library)
        for table in self.tables.values():
            whole.addWidget(table, 1)
        session.changed.connect(self._changed)
        self.show_kind("structures")

    @property
    def table(self) -> Records:
        """The table that is shown."""
        return self.tables[self.kind]

    def show_kind(self, kind: Kind) -> None:
        """Shows one of the tables."""
        self.kind = kind
        for k, t in self.tables.items():
            t.setVisible(k == kind)
        self.library.setVisible(kind in SHELVES)
        self.which.show_choice(list(KINDS).index(kind))
        self.refresh()

    def _filter(self, text: str) -> None:
        for t in self.tables.values():
            t.set_words(text)
        self._counted()

    def _counted(self) -> None:
        shown, whole = self.table.proxy.rowCount(), len(self.table.records.ids)
        self.count.setText(f"{whole}" if shown == whole else f"{shown} of {whole}")

    def _changed(self, old: State, new: State) -> None:
        if self.isVisible() and any(getattr(old, n) is not getattr(new, n) for n in ("shown", "pipes", "structures")):
            self.refresh()

    def refresh(self) -> None:
        """Shows the state."""
        self.table.refresh(self.session.state)
        if self.kind in SHELVES:
            self.library.refresh()
        self._counted()
