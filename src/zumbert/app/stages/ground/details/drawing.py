"""A drawing by others: its unit, layers, and whether its file has changed."""

from typing import Any

from PySide6.QtWidgets import QCheckBox

from zumbert.app.panels.rows import label, wrapped
from zumbert.app.stages.ground.details.detail import Detail
from zumbert.app.state import State
from zumbert.edits.ground import in_units, show_layers
from zumbert.model.background import UNITS
from zumbert.model.display import counted


class DrawingDetail(Detail):
    def build(self) -> None:
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self.unit = self.combo(
            "One unit is", "unit", [(v, k) for k, v in UNITS.items()], self._unit
        )
        self.again = self.button("Read it again", "read again", lambda: self.acts.read_again())
        self.whole.addWidget(self.again)
        self.structures = self.button(
            "Structures from it \u2026", "structures from it", lambda: self.acts.structures_from()
        )
        self.whole.addWidget(self.structures)
        self.whole.addWidget(
            self.button("Place by points", "place", lambda: self.acts.take("place"))
        )
        self.whole.addWidget(label("Layers", "section"))
        self.layers: dict[str, QCheckBox] = {}
        for name in self.record.layers:
            box = QCheckBox(name)
            box.setObjectName(f"layer {name}")
            box.clicked.connect(lambda _=False, n=name: self._toggle(n))
            self.layers[name] = box
            self.whole.addWidget(box)

    def still_shown(self, s: State) -> bool:
        same = self.item is not None and self.item == s.chosen.item
        return same and tuple(self.layers) == self.record.layers

    def _unit(self, metres: Any) -> None:
        key = self.record.id
        self.edit(f"Change the unit of {self._name()}", lambda p, f: in_units(p, key, metres))

    def _toggle(self, layer: str) -> None:
        b = self.session.state.current.project.backgrounds[self.record.id]
        word = "Show" if layer in b.off else "Hide"
        self.edit(f"{word} layer {layer}", lambda p, f: show_layers(p, b.id, b.off ^ {layer}))

    def show_record(self, s: State, r: Any) -> None:
        changed_now = s.file.stale and r.id in s.file.stale
        self.words.setText(
            f"{counted(len(r.segments), 'segment')}. "
            + ("Its file has changed since it was read." if changed_now else r.source or "")
        )
        self.again.setVisible(r.source is not None)
        self.structures.setVisible(bool(r.places))
        self.unit.setCurrentIndex(
            min(range(self.unit.count()), key=lambda i: abs(self.unit.itemData(i) - r.metres))
        )
        for name, box in self.layers.items():
            box.setChecked(name not in r.off)
