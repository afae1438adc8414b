"""The page of areas: what is drawn next, all areas, and the table of kinds."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QGridLayout, QListWidget, QListWidgetItem, QWidget

from zumbert.app.panels.fields import ValueField, choice, offer
from zumbert.app.panels.numbertable import NumberTable
from zumbert.app.panels.rows import Stack, chip, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.edits.areas import change_area, remove_areas, set_area_kinds, set_area_texts
from zumbert.edits.grounditems import GroundItem
from zumbert.model.area import Area, AreaKind
from zumbert.model.display import number
from zumbert.model.ids import AreaId, StructureId
from zumbert.model.rain import Rain
from zumbert.model.typed import typed_number

if TYPE_CHECKING:
    from zumbert.app.stages.flow.flowacts import FlowActs

NOWHERE = ""


class AreasPage(QWidget):
    """Each change is an undo step."""

    def __init__(self, session: Session, pen: Pen, acts: "FlowActs") -> None:
        super().__init__()
        self.session, self.pen, self.acts = session, pen, acts
        self.kind = choice(pen, "kind of the next area", [])
        self.kind.activated.connect(lambda i: session.set(area_kind=self.kind.itemData(i)))
        self.verge = QCheckBox("with the verge")
        self.verge.setObjectName("areas with verge")
        self.list = QListWidget()
        self.list.setObjectName("areas")
        self.list.setAccessibleName("Areas")
        self.list.setFixedHeight(150)
        self.list.currentRowChanged.connect(self._picked)
        self.filling = False
        self.empty = wrapped(
            (
                "No areas yet: draw one, take closed lines of a drawing, or the road between its "
                "gullies."
            ),
            "second",
        )
        self.name, self.extent = (
            ValueField("area name", self._take_name),
            ValueField("area size", self._take_size),
        )
        self.coefficient = ValueField("area coefficient", self._take_coefficient)
        self.entry = ValueField("area entry", self._take_entry)
        self.own_kind, self.to = choice(pen, "area kind", []), choice(pen, "area drains to", [])
        self.own_kind.activated.connect(lambda i: self._change(kind=self.own_kind.itemData(i)))
        self.to.activated.connect(lambda i: self._change(structure=self.to.itemData(i) or None))
        self.one = QWidget()
        self.kinds = NumberTable("kinds of areas", ("Kind", "Coefficient"), self._take_kinds)
        self._build()

    def _build(self) -> None:
        whole = Stack(self, 5)
        whole.addLayout(fields([("Next area", self.kind)], 84))
        grid = QGridLayout()
        ways = (
            ("Draw", "draw area", lambda: self.acts.take("area")),
            ("From a line", "area from line", lambda: self.acts.take("area-line")),
            ("From layers …", "areas of layers", self.acts.from_layers),
            ("From the road", "areas of road", lambda: self.acts.from_road(self.verge.isChecked())),
            ("Type a size", "area by size", self.acts.by_size),
            ("Drop path", "drop path", lambda: self.acts.take("drop-path")),
            ("Catchment", "catchment", lambda: self.acts.take("catchment")),
            ("Import …", "import areas", self.acts.import_files),
        )
        for i, (text, name, run) in enumerate(ways):
            grid.addWidget(chip(text, name, run), i // 3, i % 3)
        whole.addLayout(grid)
        whole.addWidget(self.verge)
        whole.addWidget(rule())
        whole.addWidget(self.empty)
        whole.addWidget(self.list)
        inner = Stack(self.one, 4)
        rows = [
            ("Name", self.name),
            ("Kind", self.own_kind),
            ("Drains to", self.to),
            ("Size", self.extent),
            ("Coefficient", self.coefficient),
            ("Entry, min", self.entry),
        ]
        inner.addLayout(fields(rows, 84))
        line = QGridLayout()
        line.addWidget(
            chip("Assign by a click", "assign area", lambda: self.acts.take("assign")), 0, 0
        )
        line.addWidget(chip("To the nearest", "assign nearest", self.acts.assign_nearest), 0, 1)
        line.addWidget(chip("Delete", "delete area", self.delete), 0, 2)
        inner.addLayout(line)
        whole.addWidget(self.one)
        whole.addWidget(rule())
        whole.addWidget(label("Kinds and their coefficients", "section"))
        whole.addWidget(self.kinds)
        whole.addWidget(chip("Add a kind", "add kind", self.add_kind))

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self, s: State) -> None:
        """Shows the state."""
        p, u, facts = s.shown.project, s.units, s.shown.facts
        kinds = [(k.name, k.name, "") for k in p.area_kinds]
        offer(self.kind, kinds, s.held.area_kind)
        keys = list(facts.areas)
        texts = []
        for f in facts.areas.values():
            to = p.structures[f.area.structure].label if f.area.structure is not None else "nowhere"
            texts.append(f"{f.area.name}: {u.square(f.size, 0)} to {to}")
        self.filling = True
        if [self.list.item(i).text() for i in range(self.list.count())] != texts:
            self.list.clear()
            for key, text in zip(keys, texts, strict=True):
                item = QListWidgetItem(text)
                item.setData(Qt.ItemDataRole.UserRole, key)
                self.list.addItem(item)
        picked = self.picked
        self.list.setCurrentRow(keys.index(picked) if picked in keys else -1)
        self.filling = False
        self.empty.setVisible(not keys)
        self.list.setVisible(bool(keys))
        self.one.setVisible(picked is not None and picked in facts.areas)
        if picked is not None and picked in facts.areas:
            self._show_one(s, facts.areas[picked].area)
        self.kinds.show_cells([[k.name, number(k.coefficient, 2)] for k in p.area_kinds])

    def _show_one(self, s: State, area: Area) -> None:
        p, u, f = s.shown.project, s.units, s.shown.facts.areas[area.id]
        self.name.show_value(area.name, False)
        offer(self.own_kind, [(k.name, k.name, "") for k in p.area_kinds], area.kind)
        offer(
            self.to,
            [(NOWHERE, "nowhere", ""), *((k, r.label, "") for k, r in p.structures.items())],
            area.structure or NOWHERE,
        )
        self.extent.show_value(u.square(f.size, 1), False)
        self.extent.setReadOnly(area.size is None)
        usual = next(k.coefficient for k in p.area_kinds if k.name == area.kind)
        self.coefficient.setPlaceholderText(number(usual, 2))
        self.coefficient.show_value(
            "" if area.coefficient is None else number(area.coefficient, 2), False
        )
        self.entry.setPlaceholderText(number((p.rain or Rain()).entry, 1))
        self.entry.show_value("" if area.entry is None else number(area.entry, 1), False)

    @property
    def picked(self) -> AreaId | None:
        """The area that is selected."""
        item = self.session.state.chosen.item
        return AreaId(item.id) if item is not None and item.kind == "area" else None

    def _picked(self, row: int) -> None:
        if not self.filling and row >= 0:
            self.session.pick(
                GroundItem("area", self.list.item(row).data(Qt.ItemDataRole.UserRole))
            )

    # -- what is done ------------------------------------------------------------------------------

    def _change(self, **values: object) -> bool:
        key = self.picked
        if key is None:
            return False
        structure = values.get("structure")
        if structure is not None:
            values["structure"] = StructureId(str(structure))
        return self.session.edit("Change an area", lambda p, f: change_area(p, key, **values))

    def _take_name(self, text: str) -> bool:
        return self._change(name=text)

    def _take_size(self, text: str) -> bool:
        key = self.picked
        if key is None or self.session.state.current.project.areas[key].size is None:
            return False
        return self._typed(key, "size", text)

    def _take_coefficient(self, text: str) -> bool:
        return self._optional("coefficient", text)

    def _take_entry(self, text: str) -> bool:
        return self._optional("entry", text)

    def _optional(self, name: str, text: str) -> bool:
        key = self.picked
        if key is None:
            return False
        return self._typed(key, name, text)

    def _typed(self, key: AreaId, name: str, text: str) -> bool:
        return self.session.edit(
            "Change an area", lambda p, f: set_area_texts(p, [(key, name, text)])
        )

    def delete(self) -> None:
        """Takes the selected area out."""
        key = self.picked
        if key is not None:
            self.session.edit("Delete an area", lambda p, f: remove_areas(p, [key]))

    def add_kind(self) -> None:
        """Adds a kind to the table, to be renamed there."""
        taken = {k.name for k in self.session.state.current.project.area_kinds}
        name = next(n for i in range(1, len(taken) + 2) if (n := f"kind {i}") not in taken)
        self.session.edit(
            "Add a kind of area",
            lambda p, f: set_area_kinds(p, [*p.area_kinds, AreaKind(name, 0.5)]),
        )

    def _take_kinds(self, cells: list[list[str]]) -> bool:
        def kinds() -> list[AreaKind]:
            return [AreaKind(name.strip(), typed_number(value)) for name, value in cells]

        return self.session.edit(
            "Change the kinds of areas", lambda p, f: set_area_kinds(p, kinds(), renamed=True)
        )
