"""The takeoff as a table: each row lights up what is in it, and its rate can be typed."""

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QWidget

from zumbert.analysis.quantities import quantities
from zumbert.analysis.takeoff import GROUPINGS, Depth, Grouping, Item, takeoff
from zumbert.analysis.trench import Trenches, trenches
from zumbert.analysis.union import Net, union
from zumbert.app.panels.fields import choice
from zumbert.app.panels.rows import label
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.tables.model import ModelIndex, RecordModel
from zumbert.app.tables.records import Records
from zumbert.edits.digging import set_rate
from zumbert.exchange.quantitytables import takeoff_table
from zumbert.exchange.tables import Column, cell_text, in_units
from zumbert.model.project import LENGTH_BASES, LengthBasis
from zumbert.model.typed import typed_number

AT_ONCE = 1000  # pipes: of more the union is that of the stage Trench, or none


COUNT = Column("")


class TakeoffModel(RecordModel):
    """Items of the takeoff; ids are their keys."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen, "quantities")
        self.by: Grouping = "network"
        self.to: Depth = "invert"
        self.basis: LengthBasis | None = None
        self.items: tuple[Item, ...] = ()
        self._made: tuple[object, ...] | None = None
        self._dug: Trenches | None = None
        self._net: tuple[Trenches, Net] | None = None

    def show_state(self, s: State) -> None:
        """Shows the takeoff of the state; nothing where that is the same."""
        key = (s.shown, s.dug.trenches, s.dug.net, self.by, self.to, self.basis)
        if self._made is not None and all(
            a is b or a == b for a, b in zip(key, self._made, strict=True)
        ):
            return
        self._made = key
        dug = self._dug = s.dug.trenches or trenches(s.shown.facts, self._dug)
        self.items = takeoff(
            s.shown.facts, quantities(dug, self.basis, self._union(s, dug)), self.by, self.to
        )
        self.beginResetModel()
        self.ids = [i.key for i in self.items]
        self.table = in_units(takeoff_table(s.shown.facts, self.items, True), s.units)
        money = len(self.table.columns) - 2
        self.texts = [
            [
                cell_text(COUNT if not item.unit and j < money else c, v)
                for j, (v, c) in enumerate(zip(r, self.table.columns, strict=True))
            ]
            for r, item in zip(self.table.rows, self.items, strict=True)
        ]  # pieces are whole
        self.fields = ["rate" if c.head == "Rate" else None for c in self.table.columns]
        self.endResetModel()

    def _union(self, s: State, dug: Trenches) -> Net:
        known = next(
            (net for net in (s.dug.net, self._net) if net is not None and net[0] is dug), None
        )
        if known is None:
            known = (
                dug,
                union(dug) if len(dug.pipes) <= AT_ONCE and not s.previewing else Net({}, {}, ()),
            )
            self._net = known
        return known[1]

    def _field(self, column: int) -> None:
        return None

    def editable(self, row: int, column: int) -> bool:
        """A rate can be typed."""
        return self.fields[column] == "rate"

    def choices(self, column: int) -> list[str]:
        """No cell takes only a few words."""
        return []

    def setData(self, index: ModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        item, text = self.items[index.row()], str(value).strip()
        if (
            not self.editable(index.row(), index.column())
            or text == self.texts[index.row()][index.column()]
        ):
            return False
        times = self._per_unit(index.row())
        return self.session.edit(
            f"Rate of {item.name}",
            lambda p, f: set_rate(
                p, item.name, item.unit, typed_number(text) / times if text else None
            ),
        )

    def _per_unit(self, row: int) -> float:
        """SI units in the unit that the row is shown in."""
        shown = self.table.rows[row][4]
        item = self.items[row].quantity
        return item / shown if isinstance(shown, (int, float)) and shown and item else 1.0

    def cell_edits(self, rows: list[int], columns: list[int], cells: list[list[str]]) -> str:
        """Items are not pasted over."""
        return "The takeoff follows from the project: only a rate can be typed, one at a time."


class TakeoffTable(Records):
    """The table; what is selected in it lights up in both drawings."""

    records: TakeoffModel

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen, "quantities", TakeoffModel(session, pen))
        self.bar: TakeoffBar = TakeoffBar(self, pen)

    def refresh(self, s: State) -> None:
        """Shows the state; the rows that are chosen stay chosen."""
        chosen = self.chosen()
        self._following = True
        self.records.show_state(s)
        self._following = False
        if not self._sized and self.records.ids:
            self.resizeColumnsToContents()
            self._sized = True
        if chosen != self.chosen():
            self._choose(chosen)

    def _choose(self, keys: frozenset[Any]) -> None:
        from PySide6.QtCore import QItemSelection, QItemSelectionModel

        found, last = QItemSelection(), self.proxy.columnCount() - 1
        for i, key in enumerate(self.records.ids):
            at = self.proxy.mapFromSource(self.records.index(i, 0))
            if key in keys and at.isValid():
                found.select(at, self.proxy.index(at.row(), last))
        self._following = True
        self.selectionModel().select(found, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self._following = False

    def _select(self) -> None:
        """Lights up what is in the rows."""
        if self._following:
            return
        keys = self.chosen()
        mine = [i for i in self.records.items if i.key in keys]
        pipes = frozenset(k for i in mine for k in i.pipes)
        structures = frozenset(k for i in mine for k in i.structures)
        self.session.select(pipes=pipes, structures=structures, follow=False)

    def _follow(self, s: State) -> None:
        """Items are not what is selected in the drawings."""


class TakeoffBar(QWidget):
    """How the takeoff is grouped, on which length basis, and to what structures are deep."""

    def __init__(self, table: TakeoffTable, pen: Pen) -> None:
        super().__init__()
        self.table = table
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 4)
        row.setSpacing(8)
        self.by = choice(pen, "takeoff by", [(g, g) for g in GROUPINGS])
        self.basis = choice(
            pen,
            "takeoff basis",
            [("", "as the project"), *((b, b.replace("-", " ")) for b in LENGTH_BASES)],
        )
        self.to = choice(pen, "takeoff depth to", [("invert", "invert"), ("sump", "sump")])
        for words, box in (
            ("Grouped by", self.by),
            ("Length", self.basis),
            ("Depth of structures to", self.to),
        ):
            row.addWidget(label(words, "second"))
            row.addWidget(box)
            box.activated.connect(lambda _: self._turn())
        row.addStretch(1)

    def _turn(self) -> None:
        records = self.table.records
        records.by, records.to = self.by.currentData(), self.to.currentData()
        records.basis = self.basis.currentData() or None
        self.table.refresh(self.table.session.state)
