"""Rows of structures and pipes as Qt asks for them: shown, sorted, edited as undo steps."""

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import (
    QAbstractTableModel,
    QCollator,
    QLocale,
    QModelIndex,
    QPersistentModelIndex,
    QSortFilterProxyModel,
    Qt,
)

from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.theme import qcolor
from zumbert.app.values import edit_field
from zumbert.checks.sentences import remark
from zumbert.edits.fields import FieldText
from zumbert.edits.holds import may_change
from zumbert.exchange.tables import (
    Table,
    cell_text,
    columns_of,
    pipe_table,
    structure_table,
    text_column,
)
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field
from zumbert.model.quantity import ONE_IN, PERCENT
from zumbert.model.typed import MINUS

ModelIndex = QModelIndex | QPersistentModelIndex


def fields(kind: str) -> list[Field]:
    """The fields that are the columns of a table of structures or pipes."""
    return columns_of(STRUCTURE_FIELDS if kind == "structures" else PIPE_FIELDS)


REMARKS = text_column("Remarks")
MAY = text_column("May change")  # what sizing and edits of many may change


def table_of(s: State, kind: str) -> Table:
    """The schedule of structures or pipes, and what each row breaks."""
    table = structure_table(s.shown.facts) if kind == "structures" else pipe_table(s.shown.facts)
    found = s.shown.findings.by_structure if kind == "structures" else s.shown.findings.by_pipe
    ids: Any = getattr(s.shown.project, kind)
    remarks = (" ".join(remark(s.shown.facts, f) for f in found.get(k, ())) for k in ids)
    first, *rest = table.columns
    mays = (may_change(r) for r in ids.values())
    rows = tuple(
        (row[0], text, may, *row[1:])
        for row, text, may in zip(table.rows, remarks, mays, strict=True)
    )
    return replace(table, columns=(first, REMARKS, MAY, *rest), rows=rows)


class RecordModel(QAbstractTableModel):
    """Rows of structures or pipes; a changed cell is an undo step."""

    def __init__(self, session: Session, pen: Pen, kind: str) -> None:
        super().__init__()
        self.session, self.pen, self.kind = session, pen, kind
        self.ids: list[Any] = []
        self.collator = QCollator(QLocale(QLocale.Language.English))  # S2 before S10
        self.collator.setNumericMode(True)
        self.collator.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.table = Table(name="", columns=(), rows=())
        self.fields: list[str | None] = []
        self.texts: list[list[str]] = []

    def table_of(self, s: State) -> Table:
        """The table of a state."""
        return table_of(s, self.kind)

    def show_state(self, s: State) -> None:
        """Shows the state; rows stay where they are while their records do."""
        table = self.table_of(s)
        ids = list(getattr(s.shown.project, self.kind))
        texts = [
            [cell_text(c, v) for v, c in zip(row, table.columns, strict=True)] for row in table.rows
        ]
        same = ids == self.ids and table.columns == self.table.columns
        if not same:
            self.beginResetModel()
        old, self.ids, self.table, self.texts = self.texts, ids, table, texts
        self.fields = self._fields()
        if not same:
            self.endResetModel()
            return
        for i, (a, b) in enumerate(zip(old, texts, strict=True)):
            if a != b:
                self.dataChanged.emit(self.index(i, 0), self.index(i, len(table.columns) - 1))

    def _fields(self) -> list[str | None]:
        """The field of each column; None where it cannot be typed over."""
        first, *rest = (f.key if f.edit else None for f in fields(self.kind))
        return [first, None, None, *rest]

    def _field(self, column: int) -> Field | None:
        """The field of a column of structures or pipes."""
        return {f.key: f for f in fields(self.kind)}.get(self.fields[column] or "")

    def rowCount(self, parent: ModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.ids)

    def columnCount(self, parent: ModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.table.columns)

    def headerData(
        self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        return (
            self.table.columns[section].title if way == Qt.Orientation.Horizontal else section + 1
        )

    def editable(self, row: int, column: int) -> bool:
        """Whether a cell can be typed over: what is derived cannot, nor a chainage of a free
        structure.
        """
        if self.fields[column] is None:
            return False
        field, record = (
            self._field(column),
            getattr(self.session.state.current.project, self.kind).get(self.ids[row]),
        )
        return field is not None and record is not None and field.when(record)

    def flags(self, index: ModelIndex) -> Qt.ItemFlag:
        out = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return (
            out | Qt.ItemFlag.ItemIsEditable if self.editable(index.row(), index.column()) else out
        )

    def data(self, index: ModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        i, j = index.row(), index.column()
        column = self.table.columns[j]
        if role == Qt.ItemDataRole.DisplayRole:
            return self.texts[i][j]
        if role == Qt.ItemDataRole.EditRole:
            return self._whole(i, j)
        if role == Qt.ItemDataRole.UserRole:  # for sorting
            value = self.table.rows[i][j]
            return (
                value is None,
                value
                if isinstance(value, (int, float))
                else self.collator.sortKey(str(value or "")),
            )
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignLeft if column.of is None else Qt.AlignmentFlag.AlignRight
            return int(side | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.ForegroundRole:
            ink = "breach" if column is REMARKS else "ink" if self.editable(i, j) else "ink-2"
            return qcolor(ink, self.pen.theme)
        if role == Qt.ItemDataRole.ToolTipRole:
            return self.texts[i][j] if column is REMARKS else None
        return None

    def setData(self, index: ModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        field, text = self.fields[index.column()], str(value).strip()
        if field is None or text in (
            self.texts[index.row()][index.column()],
            self._whole(index.row(), index.column()),
        ):
            return False
        return edit_field(self.session, self.ids[index.row()], field, text)

    def _whole(self, row: int, column: int) -> str:
        """A cell as it is typed over and copied: with a hyphen for a minus, and a slope says
        what it is.
        """
        text, of = self.texts[row][column], self.table.columns[column].of
        if isinstance(self.table.rows[row][column], str) or not text:
            return text
        return f"{'1:' * (of is ONE_IN)}{text.replace(MINUS, '-')}{'%' * (of is PERCENT)}"

    def choices(self, column: int) -> list[str]:
        """The words that a column takes, where they are few."""
        field = self._field(column)
        return [] if field is None else field.offered(self.session.state.current.project)

    def cell_edits(
        self, rows: list[int], columns: list[int], cells: list[list[str]]
    ) -> list[FieldText] | str:
        """Pasted texts as edits, or the sentence that says which cell does not fit."""
        out: list[FieldText] = []
        for i, line in enumerate(cells):
            for j, text in enumerate(line):
                if i >= len(rows) or j >= len(columns):
                    return (
                        f"{len(cells)} rows and {max(map(len, cells))} columns do not fit: "
                        f"{len(rows)} rows and {len(columns)} columns are left from the cell that "
                        "is chosen."
                    )
                row, column = rows[i], columns[j]
                if text.strip() in (self.texts[row][column], self._whole(row, column)):
                    continue
                head = self.table.columns[column].head
                where = f"{self.texts[row][0]}, {head}"
                field = self.fields[column]
                if field is None or not self.editable(row, column):
                    return (
                        f'{where}: "{text}" cannot go there, it follows from other values. '
                        "Nothing was pasted."
                    )
                out.append(
                    FieldText(self.ids[row], field, self._value(column, text.strip()), where)
                )
        return out

    def _value(self, column: int, text: str) -> str:
        """A pasted number is a value, never a step from now."""
        known = self._field(column)
        steps = known is not None and known.kind.number and known.stored
        if steps and text[:1] in ("+", "-", "\u2212") and text[1:]:
            return f"={text.removeprefix('+')}"
        return text


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

    def filterAcceptsRow(self, row: int, parent: ModelIndex) -> bool:
        if not self.words:
            return True
        whole = " ".join(self.model.texts[row]).lower()
        return all(w in whole for w in self.words)

    def lessThan(self, a: ModelIndex, b: ModelIndex) -> bool:
        role = Qt.ItemDataRole.UserRole
        return bool(self.model.data(a, role) < self.model.data(b, role))
