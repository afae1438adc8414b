"""An area of land."""

from typing import Any

from zumbert.app.panels.numbertable import Cells, NumberTable
from zumbert.app.panels.rows import wrapped
from zumbert.app.stages.ground.details.detail import Detail
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.edits.land import area_of
from zumbert.model.land import LAND_WORDS


class LandDetail(Detail):
    def build(self) -> None:
        self.name = self.field(
            "Name",
            "land name",
            lambda t: self.change("Rename an area", name=t.strip() or self.record.name),
        )
        self.kind = self.combo(
            "Kind",
            "land kind",
            list(LAND_WORDS.items()),
            lambda k: self.change("Change an area", kind=k),
        )
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self.ring = NumberTable("corners", ("x", "y"), self._ring)
        self.whole.addWidget(self.ring)

    @told(False)
    def _ring(self, cells: Cells) -> bool:
        u = self.session.units
        ring = tuple((u.typed(a), u.typed(b)) for a, b in cells)
        if len(ring) < 3 or abs(area_of(ring)) < 1e-3:
            self.session.refused.emit(
                "An area of land needs three corners or more that are not on one line."
            )
            return False
        return self.change(f"Change the corners of {self._name()}", ring=ring)

    def show_record(self, s: State, r: Any) -> None:
        if not self.name.isModified():
            self.name.setText(r.name)
        self.kind.setCurrentIndex(self.kind.findData(r.kind))
        self.words.setText(s.units.area(abs(area_of(r.ring))))
        self.ring.show_cells([[s.units.full(x), s.units.full(y)] for x, y in r.ring])
