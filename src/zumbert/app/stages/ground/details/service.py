"""A service of others."""

from typing import Any

from zumbert.app.panels.numbertable import Cells, NumberTable
from zumbert.app.stages.ground.details.detail import Detail
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.edits.land import sound_service
from zumbert.model.display import NONE
from zumbert.model.service import SERVICE_KINDS


class ServiceDetail(Detail):
    def build(self) -> None:
        u = self.session.units
        self.name = self.field(
            "Label",
            "service label",
            lambda t: self.change("Rename a service", label=t.strip() or self.record.label),
        )
        self.kind = self.combo(
            "Kind",
            "service kind",
            [(k, k) for k in SERVICE_KINDS],
            lambda k: self.change("Change a service", kind=k),
        )
        self.wide = self.field(
            f"Outside size, {u.m}", "service size", lambda t: self._set("size", t)
        )
        self.clearance = self.field(
            f"Clearance, {u.m}", "service clearance", lambda t: self._set("clearance", t)
        )
        self.places = NumberTable("places", ("x", "y", "level"), self._places)
        self.whole.addWidget(self.places)

    def _rename(self, text: str) -> None:
        self.change("Rename a service", label=text.strip() or self.record.label)

    @told(None)
    def _set(self, name: str, text: str) -> None:
        value, r = self.typed(text), self.record
        if value is None:
            return
        sound_service(
            self.session.state.current.project,
            **{"size": r.size, "clearance": r.clearance, name: value},
        )
        self.change(f"Change {self._name()}", **{name: value})

    @told(False)
    def _places(self, cells: Cells) -> bool:
        u = self.session.units
        points = tuple(
            (u.typed(a), u.typed(b), u.typed(c) if c.strip(f" {NONE}") else None)
            for a, b, c in cells
        )
        if len(points) < 2:
            self.session.refused.emit("A service needs two places or more.")
            return False
        return self.change(f"Change the places of {self._name()}", points=points)

    def show_record(self, s: State, r: Any) -> None:
        u = s.units
        for w, text in (
            (self.name, r.label),
            (self.wide, u.full(r.size)),
            (self.clearance, u.full(r.clearance)),
        ):
            if not w.isModified():
                w.setText(text)
        self.kind.setCurrentIndex(self.kind.findData(r.kind))
        self.places.show_cells(
            [[u.full(x), u.full(y), NONE if z is None else u.full(z)] for x, y, z in r.points]
        )
