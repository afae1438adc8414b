"""Several things at once: their count and shared values, edited all in one step."""

from collections import Counter
from collections.abc import Callable

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from zumbert.analysis.selecting import WAYS, Chosen, more
from zumbert.app.panels.fields import Combo, offer, previewed
from zumbert.app.panels.found import show_findings
from zumbert.app.panels.levelsofmany import LevelsOfMany
from zumbert.app.panels.ownlimits import OwnLimits
from zumbert.app.panels.rows import Stack, label, rule, wrapped
from zumbert.app.panels.sharedfields import SharedFields
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.app.values import delete_selected
from zumbert.edits.change import misfit, size_misfit
from zumbert.edits.join import copied
from zumbert.edits.several import Several, moved, set_sizes, set_types
from zumbert.edits.typed import changed_by
from zumbert.model.display import counted
from zumbert.model.ids import SizeKey, TypeKey
from zumbert.model.pipe import Pipe
from zumbert.model.project import size_words
from zumbert.model.structure import Structure

MANY = 200  # things: of more it is not told which types and sizes fit them


class SeveralPanel(QWidget):
    """Shows the count and the shared values of several things, and edits them all in one step."""

    def __init__(self, session: Session, pen: Pen, structures: bool, pipes: bool) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.title, self.sub = label("", "title"), wrapped("", "second")
        self.size_box, self.type_box = (
            Combo(pen).as_wide_as_its_column(),
            Combo(pen).as_wide_as_its_column(),
        )
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
        self.shared = SharedFields(session, pen, structures, pipes)
        self.by = {"along": QLineEdit(), "across": QLineEdit()}
        self.copy_by, self.copy_to = QLineEdit(), Combo(pen)
        self.found = QVBoxLayout()
        self.own = OwnLimits(session, pen)
        self._build(structures, pipes)

    def _build(self, structures: bool, pipes: bool) -> None:
        whole = Stack(self, 6)
        for w in (
            self.title,
            self.sub,
            self.says,
            rule(),
            self.size_label,
            self.size_box,
            self.type_label,
            self.type_box,
            self.shared,
        ):
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
        whole.addWidget(rule())
        whole.addWidget(self.own)
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

    @told(None)
    def _copy(self) -> None:
        s = self.session.state
        by = changed_by(self.copy_by.text() or "0", 0.0, s.units)
        made, new = copied(
            s.current.project, s.current.facts, s.chosen.pipes, self.copy_to.currentData(), by
        )
        fresh = frozenset(k for k in made.pipes if k not in s.current.project.pipes)
        if self.session.trying:
            self.session.preview(made, fresh | new)
            return
        self.session.apply(f"Copy a run of {counted(len(s.chosen.pipes), 'pipe')}", made)
        self.session.select(fresh, new, follow=False)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        u = s.units
        project = s.shown.project
        roads = [(None, "same road", ""), *((r.id, r.name, "") for r in project.roads.values())]
        offer(
            self.copy_to,
            roads,
            self.copy_to.currentData() if self.copy_to.currentData() in project.roads else None,
        )
        pipes = [project.pipes[p] for p in s.chosen.pipes if p in project.pipes]
        structures = [project.structures[k] for k in s.chosen.structures if k in project.structures]
        self.title.setText(f"{len(pipes) + len(structures)} selected")
        counts = Counter(u.dn(s.shown.facts.pipes[p.id].dn) for p in pipes)
        counts.update(project.types[k.type].name for k in structures)
        total = sum(s.shown.facts.pipes[p.id].span.length for p in pipes)
        listed = ", ".join(f"{n} {what}" for what, n in sorted(counts.items()))
        self.sub.setText(
            f"{listed}. {u.long(total)} of pipe, centre plan." if pipes else f"{listed}."
        )
        if not s.previewing:  # not asked on each frame of a drag
            self._offers(s, pipes, structures)
        for w in (self.size_box, self.size_label):
            w.setVisible(bool(pipes))
        for w in (self.type_box, self.type_label):
            w.setVisible(bool(structures))
        held = sum(p.hold_size for p in pipes) + sum(k.hold_size for k in structures)
        if not s.previewing:
            self.says.setText(f"{held} of them {'is' if held == 1 else 'are'} held" if held else "")
            self.says.setVisible(bool(held))
        self.shared.refresh(s)
        self.own.refresh(s)
        show_findings(
            self.found, self.pen, s, (*sorted(s.chosen.pipes), *sorted(s.chosen.structures))
        )

    def _offers(self, s: State, pipes: list[Pipe], structures: list[Structure]) -> None:
        """Sizes and types, those that fit all that is selected first."""
        project, facts = s.shown.project, s.shown.facts
        few = len(pipes) + len(structures) <= MANY
        _offer(
            self.size_box,
            [(z.key, size_words(project, z)) for z in project.sizes.values() if z.allowed],
            {str(p.size) for p in pipes},
            few,
            lambda k: [size_misfit(project, p.id, SizeKey(k)) for p in pipes],
        )
        _offer(
            self.type_box,
            [(t.key, t.name) for t in project.types.values() if t.allowed],
            {k.type for k in structures},
            few,
            lambda k: [misfit(project, facts, t.id, TypeKey(k)) for t in structures],
        )

    def _made(self, box: Combo, i: int) -> Several | None:
        """The project that a choice would make; nothing for the one in front that stands for
        several.
        """
        key, s = box.itemData(i), self.session.state
        if not key:
            return None
        project = s.current.project
        return (
            set_sizes(project, s.chosen.pipes, key)
            if box is self.size_box
            else set_types(project, s.chosen.structures, key)
        )

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
            self.session.refused.emit(
                f"{made.reach.change} changed, {made.reach.held} held and left as they are."
            )
        self.refresh(self.session.state)

    @told(None)
    def _move(self) -> None:
        s = self.session.state
        along, across = (changed_by(f.text() or "0", 0.0, s.units) for f in self.by.values())
        structures = s.chosen.structures
        name = f"Move {counted(len(structures), 'structure')}"
        taken = self.session.edit(name, lambda p, f: moved(p, f, structures, along, across))
        if taken and not self.session.trying:
            for f in self.by.values():
                f.clear()


def select_more(session: Session, how: str) -> None:
    """Widens the selection in one of WAYS."""
    s = session.state
    found = more(s.current.facts, Chosen(s.chosen.pipes, s.chosen.structures), how)
    session.select(found.pipes, found.structures, follow=False)


def _offer(
    box: Combo,
    items: list[tuple[str, str]],
    now: set[str],
    few: bool,
    why: Callable[[str], list[str]],
) -> None:
    """The choices that fit all that is selected come first; for the others it is told how many
    they do not fit.
    """
    out = [("", "different", "")]
    for key, text in items:
        bad = [w for w in why(key) if w] if few else []
        out.append((key, text, f"does not fit {len(bad)} of them: {bad[0]}" if bad else ""))
    offer(box, out, next(iter(now)) if len(now) == 1 else "")
