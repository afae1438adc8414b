"""The page of trench types: each row drawn with its dimensions as fields, and which networks and
pipes take it.
"""

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from zumbert.app.panels.fields import Combo, ValueField, choice
from zumbert.app.panels.recordacts import RecordActs, RecordKind
from zumbert.app.panels.rows import Stack, chip, clear, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.trench.sketch import TrenchSketch
from zumbert.app.state import State
from zumbert.edits.networks import change_network
from zumbert.edits.trenchtypes import (
    add_size,
    add_trench_type,
    copied_trench_type,
    dimension_meant,
    remove_size,
    remove_trench_type,
    rename_trench_type,
    set_pipe_trench,
    set_size_range,
    set_size_value,
    set_trench_upper,
    set_trench_value,
)
from zumbert.errors import EditError
from zumbert.exchange.trenchtoml import read_trench, shipped_trenches, write_trench
from zumbert.model.display import Units, counted
from zumbert.model.ids import TrenchTypeId
from zumbert.model.project import Project
from zumbert.model.trench import SIZE_FIELDS, TYPE_FIELDS, UPPER_WORDS, TrenchSize, TrenchType

TRENCH_TYPES = RecordKind(
    "trench type", "Trench types (*.toml)", lambda p: p.trench_types, add_trench_type,
    copied_trench_type, remove_trench_type,
    read_trench, write_trench, shipped_trenches,
)  # fmt: skip


class TypesPage(QWidget):
    """One type and one of its rows at a time. Each change is an undo step; while a dimension is
    typed, both drawings show it.
    """

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.key: TrenchTypeId | None = None
        self.row = 0
        self._filled: object = None
        self.which, self.rows = (self._combo(n) for n in ("trench type", "trench row"))
        self.acts = RecordActs(session, pen, TRENCH_TYPES, lambda: self.key, self._turn)
        self.which.activated.connect(lambda _: self._turn(self.which.currentData()))
        self.rows.activated.connect(lambda i: self._to_row(i))
        self.name = self._field("trench name", self._rename)
        self.dn = self._field("trench dn", lambda text: self._range(text, self.ground.text()))
        self.ground = self._field("trench ground", lambda text: self._range(self.dn.text(), text))
        self.dn.setPlaceholderText("any size")
        self.ground.setPlaceholderText("any ground")
        self.dn.setToolTip("Up to and including this size; empty: any size")
        self.ground.setToolTip("The stratum that the pipe lies in; empty: any")
        self.sketch = TrenchSketch(pen, self._dimension)
        for field in self.sketch.fields.values():
            field.try_out(session)
        self.values = {k: self._field(f"trench {k}", partial(self._value, k)) for k in TYPE_FIELDS}
        self.upper = choice(
            pen, "trench upper", [(k, v.capitalize()) for k, v in UPPER_WORDS.items()]
        )
        self.upper.activated.connect(
            lambda _: self._edit(
                "Change what is dug from", set_trench_upper, self.upper.currentData()
            )
        )
        self.networks, self.own = QGridLayout(), Stack(None, 3)
        self.selected = choice(pen, "trench of selected", [])
        self.selected.activated.connect(lambda _: self._give())
        for box in (self.upper, self.selected):
            box.as_wide_as_its_column()
        self._build()

    def _combo(self, name: str) -> Combo:
        made = Combo(self.pen)
        made.setObjectName(name)
        made.setAccessibleName(name.capitalize())
        return made.as_wide_as_its_column()

    def _field(self, name: str, take: Callable[[str], bool]) -> ValueField:
        made = ValueField(name, take)
        made.setAlignment(Qt.AlignmentFlag.AlignLeft)
        return made

    def _build(self) -> None:
        whole = Stack(self, 5)
        whole.addWidget(self.which)
        whole.addWidget(self.acts)
        whole.addWidget(self.name)
        whole.addWidget(rule())
        line = QHBoxLayout()
        line.addWidget(self.rows, 1)
        for text, name, run in (
            ("Add a row", "add row", self._add_row),
            ("Remove", "remove row", self._remove_row),
        ):
            line.addWidget(chip(text, name, run))
        whole.addLayout(line)
        whole.addLayout(fields([("Sizes up to", self.dn), ("In ground", self.ground)]))
        whole.addWidget(self.sketch)
        whole.addWidget(rule())
        whole.addWidget(label("For all sizes", "section"))
        rows: list[tuple[str, QWidget]] = [
            (TYPE_FIELDS[k].title, f) for k, f in self.values.items()
        ]
        whole.addLayout(fields([*rows, ("Dug from", self.upper)], 150))
        whole.addWidget(rule())
        whole.addWidget(label("Where it is used", "section"))
        self.networks.setColumnStretch(1, 1)
        whole.addLayout(self.networks)
        whole.addWidget(self.selected)
        whole.addLayout(self.own)

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self, s: State) -> None:
        """Shows the state."""
        project, u = s.shown.project, s.units
        if self.key not in project.trench_types:
            self.key = next(iter(project.networks.values())).trench
        trench = project.trench_types[self.key]
        self.row = min(self.row, len(trench.sizes) - 1)
        self._fill(s, project, trench)
        size = trench.sizes[self.row]
        self.name.show_value(trench.name, False)
        self.dn.show_value("" if size.dn is None else u.dn_number(size.dn), False)
        self.ground.show_value(size.ground, False)
        self.sketch.show_size(u, size, self._outside(s, trench, size))
        for key, field in self.values.items():
            field.show_value(u.full(getattr(trench, key), 4), False)
        self.upper.setCurrentIndex(self.upper.findData(trench.upper))

    def _outside(self, s: State, trench: TrenchType, size: TrenchSize) -> float:
        """Outside diameter (m) of the pipe that is drawn: the selected one, or the largest that
        the row is for.
        """
        facts = s.shown.facts
        chosen = [facts.pipes[k] for k in s.chosen.pipes if k in facts.pipes]
        fit = [
            f for f in chosen or facts.pipes.values() if trench.size_for(f.dn, size.ground) is size
        ]
        if fit:
            return max(f.inside + 2 * f.wall for f in fit)
        return 0.4 if size.dn is None else size.dn / 1000 * 1.25

    def _fill(self, s: State, project: Project, trench: TrenchType) -> None:
        own = [(k, p.label, p.trench) for k, p in project.pipes.items() if p.trench is not None]
        key = (project.trench_types, project.networks, self.key, self.row, own, s.chosen.pipes)
        if self._filled == key:
            return
        self._filled = key
        self.which.clear()
        for k, t in project.trench_types.items():
            self.which.addItem(t.name, k)
        self.which.setCurrentIndex(self.which.findData(self.key))
        self.acts.refresh()
        self.rows.clear()
        for size in trench.sizes:
            self.rows.addItem(row_words(s.units, size))
        self.rows.setCurrentIndex(self.row)
        names = [(k, t.name) for k, t in project.trench_types.items()]
        clear(self.networks)
        for i, n in enumerate(project.networks.values()):
            box = choice(self.pen, f"trench of {n.name}", names, n.trench)
            box.activated.connect(partial(self._take, n.id, box))
            self.networks.addWidget(label(n.name, "second"), i, 0)
            self.networks.addWidget(box, i, 1)
            box.as_wide_as_its_column()
        self.selected.clear()
        pipes = [p for p in s.chosen.pipes if p in project.pipes]
        self.selected.addItem(
            f"{counted(len(pipes), 'selected pipe')}: trench …"
            if pipes
            else "Select pipes to give them another"
        )
        self.selected.addItem("as their network", "")
        for k, name in names:
            self.selected.addItem(name, k)
        self.selected.setEnabled(bool(pipes))
        clear(self.own)
        for pipe, text, of in own[:12]:
            line = QHBoxLayout()
            line.addWidget(wrapped(f"{text}: {project.trench_types[of].name}", "second"), 1)
            line.addWidget(
                chip("As the network", f"trench of {text}", partial(self._as_network, pipe))
            )
            self.own.addLayout(line)
        if len(own) > 12:
            self.own.addWidget(label(f"and {len(own) - 12} more", "small"))

    # -- what is changed ---------------------------------------------------------------------------

    def _edit(self, words: str, edit: Callable[..., Project], *values: Any) -> bool:
        key = self.key
        return self.session.edit(words, lambda p, f: edit(p, key, *values))

    def _dimension(self, key: str, text: str) -> bool:
        u, row, trench = self.session.units, self.row, self.key
        if trench is None:
            return False
        return self.session.edit(
            f"{SIZE_FIELDS[key].title} {text or 'none'}",
            lambda p, f: set_size_value(p, trench, row, key, dimension_meant(u, key, text)),
        )

    def _value(self, key: str, text: str) -> bool:
        u, trench = self.session.units, self.key
        if trench is None:
            return False
        return self.session.edit(
            f"{TYPE_FIELDS[key].title} {text}",
            lambda p, f: set_trench_value(p, trench, key, u.typed(text)),
        )

    def _range(self, dn: str, ground: str) -> bool:
        row, trench = self.row, self.key
        if trench is None:
            return False
        words = f"A row for {dn or 'any size'}{' in ' + ground if ground.strip() else ''}"
        return self.session.edit(
            words, lambda p, f: set_size_range(p, trench, row, _dn(p, dn), ground)
        )

    def _rename(self, text: str) -> bool:
        return self._edit(f"Rename a trench type {text}", rename_trench_type, text)

    def _take(self, network: Any, box: Combo, _: int) -> None:
        key = box.currentData()
        self.session.edit(
            f"Dig {box.currentText()}", lambda p, f: change_network(p, network, trench=key)
        )

    def _give(self) -> None:
        key, pipes = self.selected.currentData(), [*self.session.state.chosen.pipes]
        words = self.selected.currentText()
        if key is not None:
            self.session.edit(
                f"Trench {words} for {counted(len(pipes), 'pipe')}",
                lambda p, f: set_pipe_trench(p, pipes, key or None),
            )
        self._filled = None
        self.refresh(self.session.state)

    def _as_network(self, pipe: Any) -> None:
        self.session.edit("Dig it as its network", lambda p, f: set_pipe_trench(p, [pipe], None))

    def _turn(self, key: TrenchTypeId) -> None:
        self.key, self.row = key, 0
        self.refresh(self.session.state)

    def _to_row(self, i: int) -> None:
        self.row = i
        self.refresh(self.session.state)

    def _add_row(self) -> None:
        key = self.key
        if key is None:
            return
        sizes = self.session.state.current.project.trench_types[key].sizes
        known = [r.dn for r in sizes if r.dn is not None]
        dn = max(known) + 150.0 if known else 300.0
        if self._edit(f"A trench for up to {dn:g}", add_size, dn):
            self._to_row(len(sizes))

    def _remove_row(self) -> None:
        self._edit("Remove a row of a trench type", remove_size, self.row)


def row_words(u: Units, size: TrenchSize) -> str:
    """The use of a row."""
    dn = "Any size" if size.dn is None else f"Up to {u.dn(size.dn)}"
    return f"{dn}, in {size.ground}" if size.ground else dn


def _dn(project: Project, text: str) -> float | None:
    """A typed size in mm; none for no text."""
    if not text.strip():
        return None
    dn = project.units.typed_dn(text)
    if dn <= 0:
        raise EditError("A size is more than 0.")
    return dn
