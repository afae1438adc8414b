"""The panels of one structure and of several things."""

from collections import Counter
from collections.abc import Callable

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from zumbert.app.panels.pipepanel import TITLES
from zumbert.app.panels.rows import Combo, Sign, Stack, ValueRow, clear, label, pair, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.app.values import delete_selected, edit_field
from zumbert.edits.change import set_size, set_type
from zumbert.model.ids import StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Anchored


class StructurePanel(QWidget):
    """Shows and edits one structure."""

    def __init__(self, session: Session, pen: Pen, structure: StructureId) -> None:
        super().__init__()
        self.session, self.pen, self.structure = session, pen, structure
        self.title, self.sub = label("", "title"), label("", "second")
        self.type_box = Combo(pen)
        self.type_box.setAccessibleName("Type")
        self.type_box.setObjectName("structure type")
        self.type_box.activated.connect(lambda _: edit_field(session, structure, "type", self.type_box.currentData()))
        self.rows: dict[str, ValueRow] = {}
        self.pipes, self.found = QGridLayout(), QVBoxLayout()
        self._build()

    def _build(self) -> None:
        whole = Stack(self)
        whole.addLayout(pair(self.title, label("1 selected", "second")))
        whole.addWidget(self.sub)
        whole.addWidget(rule())
        whole.addWidget(label("Type", "second"))
        whole.addWidget(self.type_box)
        whole.addSpacing(4)
        whole.addWidget(rule())
        place = self.session.state.shown.project.structures[self.structure].place
        fields = ("chainage", "offset") if isinstance(place, Anchored) else ("x", "y")
        for key in (*fields, "ground", "design", "rim", "depth", "sump"):
            take = self._taker(key) if key in (*fields, "rim") else None
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
        whole.addStretch(1)

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
        if self.type_box.count() == 0:
            for t in project.types.values():
                self.type_box.addItem(t.name, t.key)
        self.type_box.setCurrentIndex(self.type_box.findData(r.type))
        p, names = f.place, s.shown.facts.surfaces
        for key, value in (
            ("chainage", u.chainage(p.chainage)), ("offset", u.offset(p.offset)),
            ("x", u.coordinate(p.x, 3)), ("y", u.coordinate(p.y, 3)), ("ground", u.level(p.ground)), ("design", u.level(p.design)),
            ("depth", u.level(f.depth)),
        ):  # fmt: skip
            if key in self.rows:
                source = {"ground": names.name("existing"), "design": names.name("design")}.get(key, "")
                under = source if getattr(p, key, None) is not None else ""
                self.rows[key].show_row("Depth to invert" if key == "depth" else key.capitalize(), value, None, under)
        follows = "fixed level" if p.rim_from == "fixed" else f"follows {names.name(p.rim_from)}"
        self.rows["rim"].show_row("Rim", u.level(p.rim), None, "" if p.rim is None else follows)
        under = "fixed" if r.sump is not None else "from the lowest invert"
        self.rows["sump"].show_row("Sump level", u.level(f.sump_level), None, under)
        self._pipes(s)
        show_findings(self.found, self.pen, s, (self.structure,))

    def _pipes(self, s: State) -> None:
        """Each pipe at the structure: whence or where to, DN, invert, drop against the outlet."""
        u = s.units
        clear(self.pipes)
        f, project = s.shown.facts.structures[self.structure], s.shown.project
        for i, text in enumerate(("", "DN", "Invert", "Drop")):
            self.pipes.addWidget(label(text, "small"), 0, i)
        self.pipes.setColumnStretch(0, 1)
        row = 1
        for g in (*f.pipes_in, *f.pipes_out):
            inlet = g in f.pipes_in
            far = project.structures[g.pipe.up if inlet else g.pipe.down].label
            drops = [d.drop for d in f.drops if d.inlet == g.pipe.id]
            cells = (
                f"from {far}" if inlet else f"to {far}", u.dn_number(g.dn),
                u.level(g.pipe.invert_down if inlet else g.pipe.invert_up), u.level(min(drops)) if drops else "",
            )  # fmt: skip
            for i, text in enumerate(cells):
                self.pipes.addWidget(label(text, "" if i else "second"), row, i)
            row += 1


def show_findings(layout: QVBoxLayout, pen: Pen, s: State, keys: tuple[str, ...]) -> None:
    """The findings of some things, each with its sign and sentence."""
    clear(layout)
    for key in keys:
        for finding in s.picture.found(key):
            head = QHBoxLayout()
            head.addWidget(Sign(pen, finding.severity))
            head.addWidget(label(f"{finding.severity.capitalize()}: {TITLES[finding.rule].lower()}", finding.severity))
            head.addStretch(1)
            layout.addLayout(head)
            layout.addWidget(wrapped(finding.message))


class SeveralPanel(QWidget):
    """Shows the count and the shared values of several things, and edits them all in one step."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.title, self.sub = label("", "title"), wrapped("", "second")
        self.size_box, self.type_box = Combo(pen), Combo(pen)
        self.size_box.setObjectName("sizes of all")
        self.type_box.setObjectName("types of all")
        self.size_label, self.type_label = (
            label("Size of all pipes", "second"),
            label("Type of all structures", "second"),
        )
        self.size_box.activated.connect(lambda _: self._resize())
        self.type_box.activated.connect(lambda _: self._retype())
        self.remove = QPushButton("Delete")
        self.remove.clicked.connect(lambda: delete_selected(session))
        self.found = QVBoxLayout()
        whole = Stack(self, 6)
        for w in (
            self.title,
            self.sub,
            rule(),
            self.size_label,
            self.size_box,
            self.type_label,
            self.type_box,
            self.remove,
            rule(),
        ):
            whole.addWidget(w)
        whole.addLayout(self.found)
        whole.addStretch(1)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        u = s.units
        project = s.shown.project
        pipes = [project.pipes[p] for p in s.pipes if p in project.pipes]
        structures = [project.structures[k] for k in s.structures if k in project.structures]
        self.title.setText(f"{len(pipes) + len(structures)} selected")
        counts = Counter(u.dn(s.shown.facts.pipes[p.id].dn) for p in pipes)
        counts.update(project.types[k.type].name for k in structures)
        total = sum(s.shown.facts.pipes[p.id].span.length for p in pipes)
        listed = ", ".join(f"{n} {what}" for what, n in sorted(counts.items()))
        self.sub.setText(f"{listed}. {u.long(total)} of pipe, centre plan." if pipes else f"{listed}.")
        _choices(self.size_box, [(u.dn(z.dn), z.key) for z in project.sizes.values()], {str(p.size) for p in pipes})
        _choices(self.type_box, [(t.name, t.key) for t in project.types.values()], {k.type for k in structures})
        for w in (self.size_box, self.size_label):
            w.setVisible(bool(pipes))
        for w in (self.type_box, self.type_label):
            w.setVisible(bool(structures))
        show_findings(self.found, self.pen, s, (*sorted(s.pipes), *sorted(s.structures)))

    def _resize(self) -> None:
        key, pipes = self.size_box.currentData(), self.session.state.pipes

        def make(project: Project, facts: object) -> Project:
            for p in pipes:
                project = set_size(project, p, key)
            return project

        if key:
            self.session.edit(f"Change the size of {len(pipes)} pipes", make)

    def _retype(self) -> None:
        key, structures = self.type_box.currentData(), self.session.state.structures

        def make(project: Project, facts: object) -> Project:
            for k in structures:
                project = set_type(project, k, TypeKey(key))
            return project

        if key:
            self.session.edit(f"Change the type of {len(structures)} structures", make)


def _choices(box: Combo, items: list[tuple[str, str]], now: set[str]) -> None:
    if box.count() == 0:
        box.addItem("different", "")
        for text, key in items:
            box.addItem(text, key)
    box.setCurrentIndex(box.findData(next(iter(now))) if len(now) == 1 else 0)
