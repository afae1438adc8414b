"""The panels of one structure and of several things."""

from collections.abc import Callable
from functools import partial
from math import degrees

from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.app.panels.fields import WHY, Combo, ValueField, offer
from zumbert.app.panels.fixbuttons import FixButtons
from zumbert.app.panels.found import show_findings
from zumbert.app.panels.ownlimits import OwnLimits
from zumbert.app.panels.rows import Stack, ValueRow, clear, label, pair, rule, wrapped
from zumbert.app.panels.sharedfields import SharedFields
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.theme import NAMES, PIPES_HERE
from zumbert.app.values import edit_field
from zumbert.checks.rim import off_surface
from zumbert.edits.change import misfit
from zumbert.fields import STRUCTURE_FIELDS, panel_fields
from zumbert.model.catalogue import ENDS
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.structure import Anchored

TALL = ("rim", "sump")  # rows with a second line
# fields that say which surface they come from
SURFACES = {"ground": "existing", "design": "design"}


class StructurePanel(QWidget):
    """Shows and edits one structure, and another that is placed alike when it is turned to it."""

    def __init__(self, session: Session, pen: Pen, structure: StructureId) -> None:
        super().__init__()
        self.session, self.pen, self.structure = session, pen, structure
        self.title, self.sub = label("", "title"), label("", "second")
        self.type_box = Combo(pen).as_wide_as_its_column()
        self.type_box.setAccessibleName("Type")
        self.type_box.setObjectName("structure type")
        self.type_box.activated.connect(
            lambda _: edit_field(session, self.structure, "type", self.type_box.currentData())
        )
        self.fit = wrapped("", "small")
        self.type_box.highlighted.connect(self._say_fit)
        self.name = ValueField("label", self._taker("label"))
        self.rows: dict[str, ValueRow] = {}
        self.shared = SharedFields(session, pen, True, False)
        self.pipes, self.found = QGridLayout(), QVBoxLayout()
        self.mend = QVBoxLayout()
        self.own = OwnLimits(session, pen)
        self.cells: list[list[QWidget]] = []  # of each pipe here
        self._ends: list[tuple[PipeId, str]] = []  # its id, and which end of it is here
        self._build()
        self.turn_to(structure)

    @property
    def thing(self) -> StructureId:
        """The structure that it shows."""
        return self.structure

    def turn_to(self, structure: StructureId) -> None:
        """Shows another structure from now on: nothing stays of the one before. The keyboard
        stays where it is.
        """
        self.structure, self._turned = structure, True
        clear(self.mend)
        self.mends: list[FixButtons] = []
        self._mended: object = None
        self.own.begin()
        for field in self.findChildren(ValueField):
            field.setModified(False)

    def _build(self) -> None:
        whole = Stack(self)
        whole.addLayout(pair(self.title, label("1 selected", "second")))
        whole.addWidget(self.sub)
        whole.addWidget(rule())
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setColumnMinimumWidth(0, NAMES)
        grid.setColumnStretch(1, 1)
        for i, (text, w) in enumerate((("Label", self.name), ("Type", self.type_box))):
            grid.addWidget(label(text, "second"), i, 0)
            grid.addWidget(w, i, 1)
        whole.addLayout(grid)
        whole.addWidget(self.fit)
        whole.addSpacing(4)
        whole.addWidget(rule())
        record = self.session.state.shown.project.structures[self.structure]
        for field in panel_fields(STRUCTURE_FIELDS):
            if not field.when(record):
                continue
            row = ValueRow(self.pen, field.key, self._taker(field.key) if field.edit else None)
            row.field.setObjectName(f"value {field.key}")
            row.setFixedHeight(39 if field.key in TALL else 27)
            self.rows[field.key] = row
            whole.addWidget(row)
        whole.addWidget(rule())
        whole.addWidget(label("Pipes here", "section"))
        whole.addLayout(self.pipes)
        whole.addWidget(rule())
        whole.addLayout(self.found)
        whole.addLayout(self.mend)
        whole.addWidget(self.shared)
        whole.addSpacing(4)
        whole.addWidget(rule())
        whole.addWidget(self.own)
        whole.addStretch(1)

    def _types(self, facts: Facts) -> None:
        """Types that fit come first; those that do not follow, greyed, and say why when they are
        looked at.
        """
        project, now = facts.project, facts.project.structures[self.structure].type
        kinds = [t for t in project.types.values() if t.allowed or t.key == now]
        offer(
            self.type_box,
            [
                (
                    t.key,
                    t.name,
                    "" if t.key == now else misfit(project, facts, self.structure, t.key),
                )
                for t in kinds
            ],
            now,
        )
        self._say_fit(self.type_box.currentIndex())

    def _say_fit(self, i: int) -> None:
        """Why the type under the cursor does not fit."""
        why = self.type_box.itemData(i, WHY)
        self.fit.setText(why or "")
        self.fit.setVisible(bool(why))

    def _taker(self, field: str) -> Callable[[str], bool]:
        return lambda text: edit_field(self.session, self.structure, field, text)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        facts = s.shown.facts
        f = facts.structures.get(self.structure)
        if f is None or any(b.trying for b in self.mends):
            return
        project, r = facts.project, f.structure
        kind = project.types[r.type]
        self.title.setText(
            f"{kind.name.split()[0]} {r.label}"
            if kind.kind != "catchpit"
            else f"Catch pit {r.label}"
        )
        road = project.roads[f.place.road].name if f.place.road else "away from roads"
        where = (
            f"on {road}"
            if isinstance(r.place, Anchored)
            else f"free, nearest {road}"
            if f.place.road
            else road
        )
        self.sub.setText(f"{r.service.capitalize()}, {r.status}, {where}")
        self.name.show_value(r.label, False)
        if not s.previewing or self._turned:
            self._types(facts)
        self._turned = False
        self.shared.refresh(s)
        self.own.refresh(s)
        for key, row in self.rows.items():
            field = STRUCTURE_FIELDS[key]
            under, aside = _beside(facts, f, key)
            laid = key == "next_slope" and r.next_slope is None
            row.show_row(
                field.panel, "as laid" if laid else field.text(facts, f), None, under, aside
            )
        self.rows["next_slope"].setVisible(not f.pipes_out and kind.kind not in ENDS)
        self._pipes(s)
        show_findings(self.found, self.pen, s, (self.structure,))
        self._mends(s)

    def _mends(self, s: State) -> None:
        """A button for each edit that mends a finding of it."""
        if s.previewing or self._mended is s.current:
            return
        self._mended = s.current
        clear(self.mend)
        self.mends = []
        for finding in s.picture.found(self.structure):
            buttons = FixButtons(self.session, self.pen)
            buttons.offer(s, finding)
            self.mends.append(buttons)
            self.mend.addWidget(buttons)

    def _pipes(self, s: State) -> None:
        """Each pipe at the structure: whence or where to, its bearing from here, DN, invert, crown,
        drop to the outlet. A click on its name picks it; its invert and drop are typed over.
        """
        u = s.units
        f, project = s.shown.facts.structures[self.structure], s.shown.project
        rows: list[tuple[str, ...]] = []
        self._ends = []
        for g in (*f.pipes_in, *f.pipes_out):
            inlet = g in f.pipes_in
            far = project.structures[g.pipe.up if inlet else g.pipe.down].label
            drops = [d.drop for d in f.drops if d.inlet == g.pipe.id]
            invert = g.pipe.invert_down if inlet else g.pipe.invert_up
            away = degrees(g.span.bearing_down) + 180 if inlet else degrees(g.span.bearing)
            self._ends.append((g.pipe.id, "down" if inlet else "up"))
            rows.append(
                (
                    f"from {far}" if inlet else f"to {far}",
                    f"{away % 360:.0f}\u00b0",
                    u.dn_number(g.dn),
                    u.level(invert),
                    u.level(invert + g.inside),
                    u.level(min(drops)) if drops else "",
                )
            )
        if len(rows) != len(self.cells):
            self._lay_pipes(len(rows))
        for cells, texts in zip(self.cells, rows, strict=True):
            for cell, text in zip(cells, texts, strict=True):
                if isinstance(cell, ValueField):
                    cell.show_value(text, False)
                elif isinstance(cell, (QLabel, QPushButton)):
                    cell.setText(text)
            cells[5].setVisible(bool(texts[5]))

    def _lay_pipes(self, n: int) -> None:
        """The heads, and the cells of so many pipes."""
        clear(self.pipes)
        self.pipes.setHorizontalSpacing(2)
        for j, text in enumerate(("", "Bearing", "DN", "Invert", "Crown", "Drop")):
            head = label(text, "small")
            head.setFixedSize(PIPES_HERE[j], 17)
            self.pipes.addWidget(head, 0, j)
        self.cells = []
        for i in range(n):
            name = QPushButton()
            name.setProperty("role", "item")
            name.clicked.connect(lambda _=False, i=i: self._pick(i))
            cells: list[QWidget] = [
                name,
                label(),
                label(),
                ValueField(f"invert {i}", partial(self._typed, i, "invert")),
                label(),
                ValueField(f"drop {i}", partial(self._typed, i, "drop")),
            ]
            for j, cell in enumerate(cells):
                # of a fixed size: another text lays nothing out anew
                cell.setFixedSize(PIPES_HERE[j], 19)
                self.pipes.addWidget(cell, i + 1, j)
            self.cells.append(cells)

    def _pick(self, i: int) -> None:
        self.session.select(pipes=frozenset({self._ends[i][0]}))

    def _typed(self, i: int, what: str, text: str) -> bool:
        pipe, end = self._ends[i]
        return edit_field(self.session, pipe, f"{what}_{end}", text)


def _beside(facts: Facts, f: StructureFacts, key: str) -> tuple[str, str]:
    """The texts under the name of a row and beside its value."""
    p, u, names = f.place, facts.units, facts.surfaces
    if key in SURFACES and getattr(p, key) is not None:
        return "", names.name(SURFACES[key])
    if key == "rim" and p.rim is not None:
        off = off_surface(f) if p.rim_from == "fixed" else None
        fixed = "fixed level" if off is None else f"fixed, {u.step(off[0])} off"
        return fixed if p.rim_from == "fixed" else f"follows {names.name(p.rim_from)}", ""
    if key == "sump":
        floating = f.sump_level is not None and p.ground is not None and f.sump_level > p.ground
        under = "fixed" if f.structure.sump is not None else "from the lowest invert"
        return "lies over the ground!" if floating else under, ""
    return "", "of the next pipe down" if key == "next_slope" else ""
