"""The panels of one structure and of several things."""

from collections import Counter
from collections.abc import Callable
from functools import partial
from math import degrees

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from zumbert.analysis.facts import Facts
from zumbert.analysis.selecting import WAYS, Chosen, more
from zumbert.app.panels.levelsofmany import LevelsOfMany
from zumbert.app.panels.rows import (
    WHY,
    Combo,
    FixButton,
    Sign,
    Stack,
    ValueField,
    ValueRow,
    clear,
    label,
    offer,
    pair,
    previewed,
    rule,
    wrapped,
)
from zumbert.app.panels.traits import Traits
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.app.values import delete_selected, edit_field
from zumbert.checks.check import rule_of
from zumbert.checks.rim import off_surface
from zumbert.checks.sentences import sentence
from zumbert.edits.change import fits, size_fits, size_words
from zumbert.edits.fixes import fixes
from zumbert.edits.join import copied
from zumbert.edits.several import Several, moved, set_sizes, set_types
from zumbert.edits.typed import changed_by
from zumbert.errors import ZumbertError
from zumbert.model.catalogue import ENDS
from zumbert.model.display import counted
from zumbert.model.ids import PipeId, SizeKey, StructureId, TypeKey
from zumbert.model.pipe import Pipe
from zumbert.model.structure import Anchored, Structure

CELLS = (60, 40, 30, 54, 46, 46)  # drawing units: widths of the columns of pipes
MOST_FOUND = 12  # findings that a panel lists
MANY = 200  # things: of more it is not told which types and sizes fit them


class StructurePanel(QWidget):
    """Shows and edits one structure."""

    def __init__(self, session: Session, pen: Pen, structure: StructureId) -> None:
        super().__init__()
        self.session, self.pen, self.structure = session, pen, structure
        self.title, self.sub = label("", "title"), label("", "second")
        self.type_box = Combo(pen).as_wide_as_its_column()
        self.type_box.setAccessibleName("Type")
        self.type_box.setObjectName("structure type")
        self.type_box.activated.connect(lambda _: edit_field(session, structure, "type", self.type_box.currentData()))
        self.fit = wrapped("", "small")
        self.type_box.highlighted.connect(self._say_fit)
        self.name = ValueField("label", self._taker("label"))
        self.rows: dict[str, ValueRow] = {}
        self.traits = Traits(session, pen, True, False)
        self.pipes, self.found = QGridLayout(), QVBoxLayout()
        self.mend = QVBoxLayout()
        self._mended: object = None
        self.cells: list[list[QWidget]] = []  # of each pipe here
        self._ends: list[tuple[PipeId, str]] = []  # its id, and which end of it is here
        self._build()

    def _build(self) -> None:
        whole = Stack(self)
        whole.addLayout(pair(self.title, label("1 selected", "second")))
        whole.addWidget(self.sub)
        whole.addWidget(rule())
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setColumnMinimumWidth(0, 98)
        grid.setColumnStretch(1, 1)
        for i, (text, w) in enumerate((("Label", self.name), ("Type", self.type_box))):
            grid.addWidget(label(text, "second"), i, 0)
            grid.addWidget(w, i, 1)
        whole.addLayout(grid)
        whole.addWidget(self.fit)
        whole.addSpacing(4)
        whole.addWidget(rule())
        place = self.session.state.shown.project.structures[self.structure].place
        fields = ("chainage", "offset") if isinstance(place, Anchored) else ("x", "y")
        for key in (*fields, "ground", "design", "rim", "depth", "sump", "next_slope"):
            take = self._taker(key) if key in (*fields, "rim", "next_slope") else None
            row = ValueRow(self.pen, key, take)
            row.field.setObjectName(f"value {key}")
            row.setFixedHeight(39 if key in ("rim", "sump") else 27)
            self.rows[key] = row
            whole.addWidget(row)
        whole.addWidget(rule())
        whole.addWidget(label("Pipes here", "section"))
        whole.addLayout(self.pipes)
        whole.addWidget(rule())
        whole.addLayout(self.found)
        whole.addLayout(self.mend)
        whole.addWidget(self.traits)
        whole.addStretch(1)

    def _types(self, facts: Facts) -> None:
        """Types that fit come first; those that do not follow, greyed, and say why when they are looked at."""
        project, now = facts.project, facts.project.structures[self.structure].type
        kinds = [t for t in project.types.values() if t.allowed or t.key == now]
        offer(
            self.type_box,
            [(t.key, t.name, "" if t.key == now else fits(project, facts, self.structure, t.key)) for t in kinds], now,
        )  # fmt: skip
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
        u = s.units
        facts = s.shown.facts
        f = facts.structures.get(self.structure)
        if f is None:
            return
        project, r = facts.project, f.structure
        kind = project.types[r.type]
        self.title.setText(f"{kind.name.split()[0]} {r.label}" if kind.kind != "catchpit" else f"Catch pit {r.label}")
        road = project.roads[f.place.road].name if f.place.road else "away from roads"
        where = f"on {road}" if isinstance(r.place, Anchored) else f"free, nearest {road}" if f.place.road else road
        self.sub.setText(f"{r.service.capitalize()}, {r.status}, {where}")
        self.name.show_value(r.label, False)
        if not s.previewing:
            self._types(facts)
        self.traits.refresh(s)
        p, names = f.place, s.shown.facts.surfaces
        for key, value in (
            ("chainage", u.chainage(p.chainage)), ("offset", u.offset(p.offset)),
            ("x", u.coordinate(p.x, 3)), ("y", u.coordinate(p.y, 3)), ("ground", u.level(p.ground)), ("design", u.level(p.design)),
            ("depth", u.level(f.depth)),
        ):  # fmt: skip
            if key in self.rows:
                source = {"ground": names.name("existing"), "design": names.name("design")}.get(key, "")
                aside = source if getattr(p, key, None) is not None else ""
                title = "Depth to invert" if key == "depth" else key.capitalize()
                self.rows[key].show_row(title, value, None, "", aside)
        follows = f"follows {names.name(p.rim_from)}"
        if p.rim_from == "fixed":
            off = off_surface(f)
            follows = "fixed level" if off is None else f"fixed, {u.step(off[0])} off"
        self.rows["rim"].show_row("Rim", u.level(p.rim), None, "" if p.rim is None else follows)
        under = "fixed" if r.sump is not None else "from the lowest invert"
        floating = f.sump_level is not None and f.place.ground is not None and f.sump_level > f.place.ground
        under = "lies over the ground!" if floating else under
        self.rows["sump"].show_row("Sump level", u.level(f.sump_level), None, under)
        self.rows["next_slope"].setVisible(not f.pipes_out and kind.kind not in ENDS)
        laid = "as laid" if r.next_slope is None else u.slope(r.next_slope)
        self.rows["next_slope"].show_row("Next slope", laid, None, "", "of the next pipe down")
        self._pipes(s)
        show_findings(self.found, self.pen, s, (self.structure,))
        self._mends(s)

    def _mends(self, s: State) -> None:
        """A button for each edit that mends a finding of it."""
        if s.previewing or self._mended is s.kept:
            return
        self._mended = s.kept
        clear(self.mend)
        for finding in s.picture.found(self.structure):
            for fix in fixes(s.kept.project, s.kept.facts, finding):
                run = partial(self.session.apply, fix.text, fix.project)
                self.mend.addWidget(FixButton(self.pen, fix.text, fix.figure, run))

    def _pipes(self, s: State) -> None:
        """Each pipe at the structure: whence or where to, its bearing from here, DN, invert, crown, drop to the outlet. A click
        on its name picks it; its invert and drop are typed over.
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
            rows.append((
                f"from {far}" if inlet else f"to {far}", f"{away % 360:.0f}\u00b0", u.dn_number(g.dn), u.level(invert),
                u.level(invert + g.inside), u.level(min(drops)) if drops else "",
            ))  # fmt: skip
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
            head.setFixedSize(CELLS[j], 17)
            self.pipes.addWidget(head, 0, j)
        self.cells = []
        for i in range(n):
            name = QPushButton()
            name.setProperty("role", "thing")
            name.clicked.connect(lambda _=False, i=i: self._pick(i))
            cells: list[QWidget] = [
                name, label(), label(), ValueField(f"invert {i}", partial(self._typed, i, "invert")), label(),
                ValueField(f"drop {i}", partial(self._typed, i, "drop")),
            ]  # fmt: skip
            for j, cell in enumerate(cells):
                cell.setFixedSize(CELLS[j], 19)  # of a fixed size: another text lays nothing out anew
                self.pipes.addWidget(cell, i + 1, j)
            self.cells.append(cells)

    def _pick(self, i: int) -> None:
        self.session.select(pipes=frozenset({self._ends[i][0]}))

    def _typed(self, i: int, what: str, text: str) -> bool:
        pipe, end = self._ends[i]
        return edit_field(self.session, pipe, f"{what}_{end}", text)


def show_findings(layout: QVBoxLayout, pen: Pen, s: State, keys: tuple[str, ...]) -> None:
    """The findings of some things, each with its sign and sentence; where only their sentences changed, those."""
    every = [f for key in keys for f in s.picture.found(key)]
    found = every[:MOST_FOUND]
    heads: list[tuple[str, str]] = [
        (f.severity, f"{f.severity.capitalize()}: {rule_of(f.rule).title.lower()}") for f in found
    ]
    if len(every) > len(found):
        heads.append(("", f"and {len(every) - len(found)} more: the stage Checks lists them"))
    if layout.property("heads") != str(heads):
        layout.setProperty("heads", str(heads))
        clear(layout)
        for severity, text in heads:
            head = QHBoxLayout()
            if severity:
                head.addWidget(Sign(pen, severity))
            head.addWidget(label(text, severity or "small"))
            head.addStretch(1)
            layout.addLayout(head)
            layout.addWidget(wrapped(""))
    for i, finding in enumerate(found):
        item = layout.itemAt(2 * i + 1)
        says = item.widget() if item is not None else None
        if isinstance(says, QLabel):
            says.setText(sentence(s.shown.facts, finding))


class SeveralPanel(QWidget):
    """Shows the count and the shared values of several things, and edits them all in one step."""

    def __init__(self, session: Session, pen: Pen, structures: bool, pipes: bool) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.title, self.sub = label("", "title"), wrapped("", "second")
        self.size_box, self.type_box = Combo(pen).as_wide_as_its_column(), Combo(pen).as_wide_as_its_column()
        self.size_box.setObjectName("sizes of all")
        self.type_box.setObjectName("types of all")
        self.size_label, self.type_label = (
            label("Size of all pipes", "second"),
            label("Type of all structures", "second"),
        )
        self.says = label("", "small")
        self.size_box.activated.connect(lambda i: self._change(self.size_box, i))
        self.type_box.activated.connect(lambda i: self._change(self.type_box, i))
        self.size_box.highlighted.connect(lambda i: self._say(self.size_box, i))
        self.type_box.highlighted.connect(lambda i: self._say(self.type_box, i))
        self.traits = Traits(session, pen, structures, pipes)
        self.by = {"along": QLineEdit(), "across": QLineEdit()}
        self.copy_by, self.copy_to = QLineEdit(), Combo(pen)
        self.found = QVBoxLayout()
        self._build(structures, pipes)

    def _build(self, structures: bool, pipes: bool) -> None:
        whole = Stack(self, 6)
        for w in (
            self.title, self.sub, self.says, rule(), self.size_label, self.size_box, self.type_label, self.type_box, self.traits,
        ):  # fmt: skip
            whole.addWidget(w)
        whole.addWidget(rule())
        if structures:
            whole.addLayout(self._moving())
        if pipes:
            whole.addLayout(self._copying())
            whole.addWidget(rule())
            self.levels = LevelsOfMany(self.session)
            whole.addWidget(self.levels)
        whole.addWidget(rule())
        whole.addWidget(label("Select more", "section"))
        grid = QGridLayout()
        grid.setSpacing(4)
        for i, (how, text) in enumerate(WAYS):
            b = QPushButton(text)
            b.setProperty("role", "chip")
            b.setObjectName(f"more {how}")
            b.clicked.connect(lambda _=False, how=how: select_more(self.session, how))
            grid.addWidget(b, i // 2, i % 2)
        whole.addLayout(grid)
        whole.addWidget(rule())
        whole.addLayout(self.found)
        whole.addStretch(1)
        whole.addSpacing(14)  # apart from all else: it ends what the rest works on
        whole.addWidget(rule())
        remove = QPushButton("Delete \u2026")
        remove.setObjectName("delete selected")
        remove.clicked.connect(lambda: delete_selected(self.session, self))
        whole.addWidget(remove)
        previewed(self, self.session)
        for field in self.by.values():
            field.textEdited.connect(lambda _: self.session.trial(self._move))
        self.copy_by.textEdited.connect(lambda _: self.session.trial(self._copy))

    def _moving(self) -> QHBoxLayout:
        """Fields that move all of them by numbers."""
        line = QHBoxLayout()
        line.addWidget(label("Move by", "second"))
        for name, field in self.by.items():
            field.setObjectName(f"move {name}")
            field.setAccessibleName(f"Move by, {name} the road")
            field.setPlaceholderText(f"{name}, {self.session.units.m}")
            field.returnPressed.connect(self._move)
            line.addWidget(field)
        return line

    def _copying(self) -> QHBoxLayout:
        """A copy of the selected run at another offset, or on another road."""
        line = QHBoxLayout()
        line.addWidget(label("Copy", "second"))
        self.copy_by.setObjectName("copy by")
        self.copy_by.setAccessibleName("Copy, how far to the right")
        self.copy_by.setPlaceholderText(f"to the right, {self.session.units.m}")
        self.copy_by.returnPressed.connect(self._copy)
        self.copy_to.setObjectName("copy to")
        self.copy_to.setAccessibleName("Copy to a road")
        go = QPushButton("Copy")
        go.setProperty("role", "chip")
        go.setObjectName("copy run")
        go.clicked.connect(lambda: self._copy())
        for w in (self.copy_by, self.copy_to, go):
            line.addWidget(w)
        return line

    def _copy(self) -> None:
        s = self.session.state
        try:
            by = changed_by(self.copy_by.text() or "0", 0.0, s.units)
            made, new = copied(s.kept.project, s.kept.facts, s.pipes, self.copy_to.currentData(), by)
        except ZumbertError as e:
            self.session.refused.emit(str(e))
            return
        fresh = frozenset(k for k in made.pipes if k not in s.kept.project.pipes)
        if self.session.trying:
            self.session.preview(made, fresh | new)
            return
        self.session.apply(f"Copy a run of {counted(len(s.pipes), 'pipe')}", made)
        self.session.select(fresh, new, follow=False)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        u = s.units
        project = s.shown.project
        roads = [(None, "same road"), *((r.id, r.name) for r in project.roads.values())]
        if self.copy_to.count() != len(roads):
            self.copy_to.clear()
            for key, text in roads:
                self.copy_to.addItem(text, key)
        pipes = [project.pipes[p] for p in s.pipes if p in project.pipes]
        structures = [project.structures[k] for k in s.structures if k in project.structures]
        self.title.setText(f"{len(pipes) + len(structures)} selected")
        counts = Counter(u.dn(s.shown.facts.pipes[p.id].dn) for p in pipes)
        counts.update(project.types[k.type].name for k in structures)
        total = sum(s.shown.facts.pipes[p.id].span.length for p in pipes)
        listed = ", ".join(f"{n} {what}" for what, n in sorted(counts.items()))
        self.sub.setText(f"{listed}. {u.long(total)} of pipe, centre plan." if pipes else f"{listed}.")
        if not s.previewing:  # not asked on each frame of a drag
            self._offers(s, pipes, structures)
        for w in (self.size_box, self.size_label):
            w.setVisible(bool(pipes))
        for w in (self.type_box, self.type_label):
            w.setVisible(bool(structures))
        held = sum(p.keep_size for p in pipes) + sum(k.keep_size for k in structures)
        if not s.previewing:
            self.says.setText(f"{held} of them {'is' if held == 1 else 'are'} held" if held else "")
            self.says.setVisible(bool(held))
        self.traits.refresh(s)
        show_findings(self.found, self.pen, s, (*sorted(s.pipes), *sorted(s.structures)))

    def _offers(self, s: State, pipes: list[Pipe], structures: list[Structure]) -> None:
        """Sizes and types, those that fit all that is selected first."""
        project, facts = s.shown.project, s.shown.facts
        few = len(pipes) + len(structures) <= MANY
        _offer(
            self.size_box, [(z.key, size_words(project, z)) for z in project.sizes.values() if z.allowed],
            {str(p.size) for p in pipes}, few, lambda k: [size_fits(project, p.id, SizeKey(k)) for p in pipes],
        )  # fmt: skip
        _offer(
            self.type_box, [(t.key, t.name) for t in project.types.values() if t.allowed], {k.type for k in structures},
            few, lambda k: [fits(project, facts, t.id, TypeKey(k)) for t in structures],
        )  # fmt: skip

    def _made(self, box: Combo, i: int) -> Several | None:
        """What a choice would make; nothing for the one in front that stands for several."""
        key, s = box.itemData(i), self.session.state
        if not key:
            return None
        project = s.kept.project
        return set_sizes(project, s.pipes, key) if box is self.size_box else set_types(project, s.structures, key)

    def _say(self, box: Combo, i: int) -> None:
        """How many a choice would change, before it is taken."""
        made = self._made(box, i)
        self.says.setText(made.reach.words if made is not None else "")
        self.says.setVisible(made is not None)

    def _change(self, box: Combo, i: int) -> None:
        made = self._made(box, i)
        if made is None:
            return
        what = "size of" if box is self.size_box else "type of"
        self.session.apply(f"Change the {what} {made.reach.change}", made.project)
        if self.session.trying:
            return
        if made.reach.held:
            self.session.refused.emit(f"{made.reach.change} changed, {made.reach.held} held and left as they are.")
        self.refresh(self.session.state)

    def _move(self) -> None:
        s = self.session.state
        try:
            along, across = (changed_by(f.text() or "0", 0.0, s.units) for f in self.by.values())
        except ZumbertError as e:
            self.session.refused.emit(str(e))
            return
        structures = s.structures
        name = f"Move {counted(len(structures), 'structure')}"
        taken = self.session.edit(name, lambda p, f: moved(p, f, structures, along, across))
        if taken and not self.session.trying:
            for f in self.by.values():
                f.clear()


def select_more(session: Session, how: str) -> None:
    """Widens the selection in one of WAYS."""
    s = session.state
    found = more(s.kept.facts, Chosen(s.pipes, s.structures), how)
    session.select(found.pipes, found.structures, follow=False)


def _offer(
    box: Combo, items: list[tuple[str, str]], now: set[str], few: bool, why: Callable[[str], list[str]]
) -> None:  # fmt: skip
    """The choices that fit all that is selected come first; for the others it is told how many they do not fit."""
    out = [("", "different", "")]
    for key, text in items:
        bad = [w for w in why(key) if w] if few else []
        out.append((key, text, f"does not fit {len(bad)} of them: {bad[0]}" if bad else ""))
    offer(box, out, next(iter(now)) if len(now) == 1 else "")
