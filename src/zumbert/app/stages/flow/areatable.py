"""The table of areas: cells typed and pasted as undo steps, a row picks its area."""

from typing import Any

from PySide6.QtCore import QItemSelectionModel, Qt

from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.tables.model import ModelIndex, RecordModel
from zumbert.app.tables.records import Records
from zumbert.edits.areas import set_area_texts
from zumbert.edits.fields import FieldText
from zumbert.edits.grounditems import GroundItem
from zumbert.exchange.flowtables import area_table
from zumbert.exchange.tables import Table, in_units
from zumbert.model.ids import AreaId

FIELDS: tuple[str | None, ...] = ("name", "structure", "kind", "size", "coefficient", None, "entry")


class AreaModel(RecordModel):
    """Rows of areas; a changed cell is an undo step."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen, "areas")

    def table_of(self, s: State) -> Table:
        """The areas of the state."""
        return in_units(area_table(s.shown.facts), s.units)

    def _fields(self) -> list[str | None]:
        return list(FIELDS)

    def editable(self, row: int, column: int) -> bool:
        area = self.session.state.current.project.areas.get(self.ids[row])
        field = FIELDS[column]
        return area is not None and field is not None and (field != "size" or area.size is not None)

    def setData(self, index: ModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        field, text = FIELDS[index.column()], str(value).strip()
        if field is None or text == self.texts[index.row()][index.column()]:
            return False
        key = self.ids[index.row()]
        return self.session.edit(
            "Change an area", lambda p, f: set_area_texts(p, [(key, field, text)])
        )

    def choices(self, column: int) -> list[str]:
        p = self.session.state.current.project
        if FIELDS[column] == "kind":
            return [k.name for k in p.area_kinds]
        return [s.label for s in p.structures.values()] if FIELDS[column] == "structure" else []

    def _value(self, column: int, text: str) -> str:
        return text


class AreaTable(Records):
    """The area of the row that is chosen is the one that is selected."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen, "areas", AreaModel(session, pen))

    def _take(self, name: str, edits: list[FieldText]) -> None:
        texts = [(AreaId(e.thing), e.field, e.text) for e in edits]
        self.session.edit(name, lambda p, f: set_area_texts(p, texts))

    def _select(self) -> None:
        chosen = self.chosen()
        if not self._following and len(chosen) == 1:
            item = GroundItem("area", next(iter(chosen)))
            if self.session.state.chosen.item != item:
                self.session.pick(item)

    def _follow(self, s: State) -> None:
        if (
            s.chosen.item is None
            or s.chosen.item.kind != "area"
            or s.chosen.item.id not in self.records.ids
        ):
            return
        if self.chosen() == frozenset({s.chosen.item.id}):
            return
        at = self.proxy.mapFromSource(
            self.records.index(self.records.ids.index(s.chosen.item.id), 0)
        )
        self._following = True
        flags = QItemSelectionModel.SelectionFlag
        self.selectionModel().select(at, flags.ClearAndSelect | flags.Rows)
        self._following = False
        self.scrollTo(at)
