"""The fields that structures and pipes share: status, network, road, bearing, holds."""

from collections.abc import Callable, Iterable
from math import radians
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QPushButton, QWidget

from zumbert.analysis.runline import RunKey
from zumbert.app.panels.fields import Combo, ValueField
from zumbert.app.panels.pointed import Pointed
from zumbert.app.panels.rows import Stack, chip, label
from zumbert.app.panels.sharedwords import (
    adjustment_words,
    bearing_words,
    cover_offset_words,
    offer_common,
    shared_fields,
    sump_depth_words,
    sump_words,
    tick_common,
)
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.theme import NAMES
from zumbert.app.told import told
from zumbert.edits.basis import set_basis
from zumbert.edits.change import (
    adjust_rim,
    rim_on,
    set_anchor,
    set_cover,
    set_outfall,
    set_rotation,
    set_sump,
    set_sump_depth,
)
from zumbert.edits.fields import set_shared
from zumbert.edits.join import along_road, curved, turned
from zumbert.edits.labels import set_label_at
from zumbert.edits.runs import leave_out, left_out, name_run
from zumbert.edits.several import hold
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field
from zumbert.model.ids import PipeId, RoadId, StructureId
from zumbert.model.pipe import InvertBasis
from zumbert.model.project import Project, invert_basis
from zumbert.model.quantity import ANGLE
from zumbert.model.structure import Anchored, OnSurface, Structure

WHERE: dict[InvertBasis, str] = {"centres": "at centres", "walls": "at inner walls"}


class SharedFields(QWidget):
    """Shows and edits the selection, one undo step a change. A half-ticked box means that only
    some have it.
    """

    def __init__(self, session: Session, pen: Pen, structures: bool, pipes: bool) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.shared = shared_fields()
        self.choices = {f.key: self._choice(f) for f in self.shared}
        self.road = self._combo(pen, "anchored to")
        self.basis = self._combo(pen, "inverts quoted")
        self.basis.activated.connect(lambda _: self._basis())
        self.bearing = ValueField("bearing", self._bearing)
        self.cover = ValueField("cover off", self._cover)
        self.rim = self._combo(pen, "rim on")
        self.rim.activated.connect(lambda _: self._rim())
        self.adjust = ValueField("rim adjusted", self._adjust)
        self.sump_depth = ValueField("sump depth", self._sump_depth)
        self.sump = ValueField("sump at", self._sump)
        self.cover.setToolTip(
            "Along its bearing and to the right of it, from the middle of the chamber: 0.25 0"
        )
        self.back = chip("Reset label position", "label back", self._label_back)
        self.left_out = self._tick("left out of the run shown", lambda on: self._leave_out(on))
        self.outfall = self._tick("water leaves here: an outfall", lambda on: self._outfall(on))
        size = "type and size" if structures and pipes else "type" if structures else "size"
        self.holds = {
            what: self._tick(text, lambda on, what=what: self._keep(what, on))  # type: ignore[misc]
            for what, text in (
                ("size", f"hold {size}"),
                ("slope", "hold slope"),
                ("up", "hold upper invert"),
                ("down", "hold lower invert"),
            )
        }
        self.buttons: dict[str, QPushButton] = {}
        self.road.activated.connect(lambda _: self._road())
        whole = Stack(self, 4)
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(3)
        grid.setColumnMinimumWidth(0, NAMES)
        grid.setColumnStretch(1, 1)
        rows: list[tuple[str, QWidget]] = [(f.title, self.choices[f.key]) for f in self.shared]
        if pipes:
            rows.append(("Inverts quoted", self.basis))
        if structures:
            rows += [
                ("Anchored to", self.road),
                ("Bearing, \u00b0", self.bearing),
                (f"Cover offset, {session.units.m}", self.cover),
                ("Rim on", self.rim),
                (f"Rim adjustment, {session.units.m}", self.adjust),
                (f"Sump depth, {session.units.m}", self.sump_depth),
                ("Sump level", self.sump),
            ]
        for i, (text, w) in enumerate(rows):
            grid.addWidget(label(text, "second"), i, 0)
            grid.addWidget(w, i, 1)
        whole.addLayout(grid)
        whole.addWidget(self.back, 0, Qt.AlignmentFlag.AlignLeft)
        for tick in (self.left_out, self.outfall):
            tick.setVisible(structures)
            if structures:
                whole.addWidget(tick)
        held = QGridLayout()
        held.setContentsMargins(0, 0, 0, 0)
        held.setVerticalSpacing(2)
        for i, (what, tick) in enumerate(self.holds.items()):
            tick.setVisible(pipes or what == "size")
            if pipes or what == "size":
                held.addWidget(tick, i // 2, i % 2)
        whole.addLayout(held)
        if pipes:
            line = QHBoxLayout()
            line.setContentsMargins(0, 2, 0, 0)
            for name, text, run in (
                ("turn", "Turn the flow", self._turn),
                ("curve", "Curve with road", lambda: self._curve(True)),
                ("straight", "Straighten", lambda: self._curve(False)),
            ):
                self.buttons[name] = chip(text, name, run)
                Pointed(self.buttons[name], session, run)
                line.addWidget(self.buttons[name])
            line.addStretch(1)
            whole.addLayout(line)

    def _combo(self, pen: Pen, name: str) -> Combo:
        box = Combo(pen).as_wide_as_its_column()
        box.setObjectName(name)
        box.setAccessibleName(name.capitalize())
        return box

    def _choice(self, field: Field) -> Combo:
        box = self._combo(self.pen, field.key)
        box.activated.connect(lambda _: self._choose(field, box.currentData()))
        return box

    def _tick(self, text: str, run: Callable[[bool], None]) -> QCheckBox:
        box = QCheckBox(text)
        box.setObjectName(text)
        box.clicked.connect(lambda _=False: run(box.checkState() != Qt.CheckState.Unchecked))
        Pointed(box, self.session, lambda: run(box.checkState() != Qt.CheckState.Checked))
        return box

    # -- what is selected --------------------------------------------------------------------------

    def _chosen(self) -> tuple[list[StructureId], list[PipeId]]:
        s = self.session.state
        project = s.current.project
        structures = [k for k in s.chosen.structures if k in project.structures]
        return structures, [p for p in s.chosen.pipes if p in project.pipes]

    def _name(self) -> str:
        structures, pipes = self._chosen()
        project = self.session.state.current.project
        labels = [project.structures[k].label for k in structures]
        labels += [project.pipes[p].label for p in pipes]
        return labels[0] if len(labels) == 1 else f"{len(labels)} things"

    def refresh(self, s: State) -> None:
        """Shows the state."""
        project = s.shown.project
        structures = [project.structures[k] for k in s.chosen.structures if k in project.structures]
        pipes = [project.pipes[p] for p in s.chosen.pipes if p in project.pipes]
        both: list[Any] = [*structures, *pipes]
        facts = s.shown.facts
        for field in self.shared:
            words = [(w, w) for w in field.offered(project)]
            now = {
                STRUCTURE_FIELDS[field.key].read(facts, facts.structures[t.id]) for t in structures
            }
            now |= {PIPE_FIELDS[field.key].read(facts, facts.pipes[p.id]) for p in pipes}
            offer_common(self.choices[field.key], words, now)
        if pipes:
            bases = {replace(p, invert_basis=None) for p in pipes}
            usual = {WHERE[invert_basis(project, p)] for p in bases}
            offer_common(
                self.basis,
                [
                    ("", f"as the network, {usual.pop()}" if len(usual) == 1 else "as the network"),
                    *WHERE.items(),
                ],
                {p.invert_basis or "" for p in pipes},
            )
        roads = [(r.id, r.name) for r in project.roads.values()]
        anchors = {t.place.road if isinstance(t.place, Anchored) else "" for t in structures}
        offer_common(self.road, [*roads, ("", "no road: free")], anchors)
        self.bearing.show_value(bearing_words(structures), False)
        self.cover.show_value(cover_offset_words(structures, s.units), False)
        if structures:
            self._show_levels(s, structures)
        self.back.setVisible(any(r.label_at is not None for r in both))
        self.left_out.setVisible(s.look.run_key is not None and bool(structures))
        if s.look.run_key is not None:
            without = left_out(project, s.look.run_key)
            tick_common(self.left_out, [t.id in without for t in structures])
            what = "road" if s.look.run_key.kind == "road" else "run"
            self.left_out.setText(f"left out of the section of this {what}")
        tick_common(self.outfall, [t.outfall for t in structures])
        tick_common(self.holds["size"], [r.hold_size for r in both])
        for what in ("slope", "up", "down"):
            tick_common(self.holds[what], [getattr(p, f"hold_{what}") for p in pipes])
        if "straight" in self.buttons:
            self.buttons["straight"].setEnabled(any(p.through is not None for p in pipes))

    def _show_levels(self, s: State, structures: list[Structure]) -> None:
        """Rim and sump: on what and by how much, derived or own."""
        u, project, names = s.units, s.shown.project, s.shown.facts.surfaces
        rims = {t.rim.surface if isinstance(t.rim, OnSurface) else "fixed" for t in structures}
        words = [
            ("design", names.name("design")),
            ("existing", names.name("existing")),
            ("fixed", "a fixed level"),
        ]
        offer_common(self.rim, words, rims)
        adjusted = adjustment_words(structures, u)
        self.adjust.setEnabled(bool(adjusted))
        self.adjust.show_value(adjusted, False)
        self.sump_depth.show_value(sump_depth_words(structures, project, u), False)
        self.sump.show_value(sump_words(structures, u), False)

    # -- edits -------------------------------------------------------------------------------------

    def _choose(self, field: Field, word: str | None) -> None:
        structures, pipes = self._chosen()
        if word is not None:
            self.session.edit(
                field.edit.format(self._name()),
                lambda p, f: set_shared(p, f, structures, pipes, field.key, word),
            )

    def _basis(self) -> None:
        basis, pipes = self.basis.currentData(), self._chosen()[1]
        if basis is not None:
            name = f"Quote {self._name()} {WHERE.get(basis, 'as the network')}"
            self.session.edit(name, lambda p, f: set_basis(p, pipes, basis or None))

    def _road(self) -> None:
        road, (structures, _) = self.road.currentData(), self._chosen()
        if road is None:
            return
        target = RoadId(road) if road else None
        name = f"Anchor {self._name()}" if road else f"Free {self._name()}"
        self._each(name, structures, lambda p, f, k: set_anchor(p, f, k, target))

    def _bearing(self, text: str) -> bool:
        text, (structures, _) = text.strip(), self._chosen()
        try:
            turn = (
                None
                if text in ("", "square", "square to the road")
                else radians(self.session.units.typed(text, of=ANGLE) % 360)
            )
        except ValueError:
            self.session.refused.emit(
                f'"{text}" is no bearing: type degrees from north, or leave it empty for square.'
            )
            return False
        return self._each(
            f"Turn {self._name()}", structures, lambda p, f, k: set_rotation(p, k, turn)
        )

    def _cover(self, text: str) -> bool:
        (structures, _), u = self._chosen(), self.session.units
        try:
            at = (
                [u.typed(t) for t in text.split()]
                if text.strip() not in ("", "in the middle")
                else [0.0, 0.0]
            )
            along, right = at
        except ValueError:
            self.session.refused.emit(
                f'"{text}" is no place of a cover: type how far along its bearing and to the '
                "right, such as 0.25 0."
            )
            return False
        name = f"Set the cover of {self._name()}"
        return self._each(name, structures, lambda p, f, k: set_cover(p, k, (along, right)))

    def _rim(self) -> None:
        surface, (structures, _) = self.rim.currentData(), self._chosen()
        if surface:
            self._each(
                f"Change the rim of {self._name()}",
                structures,
                lambda p, f, k: rim_on(p, f, k, surface),
            )

    def _number(self, text: str, empty: tuple[str, ...]) -> float | None:
        """A typed length or level (m), None for a word that stands for none. Raises TypedError."""
        t = text.strip().lower()
        return (
            None if t == "" or any(t.startswith(w) for w in empty) else self.session.units.typed(t)
        )

    @told(False)
    def _typed(
        self, text: str, empty: tuple[str, ...], name: str, edit: Callable[..., Project]
    ) -> bool:
        """One edit of each selected structure by a typed value; a text that means nothing is
        told.
        """
        value = self._number(text, empty)
        return self._each(
            f"{name} of {self._name()}", self._chosen()[0], lambda p, f, k: edit(p, k, value)
        )

    def _adjust(self, text: str) -> bool:
        return self._typed(
            text, ("none",), "Adjust the rim", lambda p, k, v: adjust_rim(p, k, v or 0.0)
        )

    def _sump_depth(self, text: str) -> bool:
        return self._typed(text, ("by type",), "Set the sump", set_sump_depth)

    def _sump(self, text: str) -> bool:
        return self._typed(text, ("derived",), "Set the sump", set_sump)

    def _label_back(self) -> None:
        structures, pipes = self._chosen()
        self._each(
            "Put labels back", [*structures, *pipes], lambda p, f, k: set_label_at(p, k, None)
        )

    def _leave_out(self, on: bool) -> None:
        """Leaves structures out of the section of a road or named run. A run without a name gets
        one, since the list belongs to it.
        """
        self.session.preview(None)  # what pointing at it shows may have another run
        s, chosen = self.session.state, self._chosen()[0]
        if s.look.run_key is None or s.look.run is None:
            return
        where = "road" if s.look.run_key.kind == "road" else "run"
        name = f"{'Leave' if on else 'Show'} {self._name()} {'out of' if on else 'in'} the {where}"
        key, kept, called = s.look.run_key, list[RunKey](), s.look.run.name

        def make(project: Project, facts: Any) -> Project:
            of = key
            if key.kind in ("run", "path"):
                project, ident = name_run(project, key, called)
                of = RunKey("named", ident)
                kept.append(of)
            return leave_out(project, of, chosen, on)

        if self.session.edit(name, make) and kept:
            self.session.show_run(kept[0])

    def _outfall(self, on: bool) -> None:
        name = f"Declare {self._name()} an outfall" if on else f"{self._name()} is no outfall"
        self._each(name, self._chosen()[0], lambda p, f, k: set_outfall(p, k, on))

    def _keep(self, what: str, on: bool) -> None:
        structures, pipes = self._chosen()
        verb = "Hold" if on else "Let go"
        words = {"up": "upper invert", "down": "lower invert"}.get(what, what)
        self.session.edit(
            f"{verb} the {words} of {self._name()}",
            lambda p, f: hold(p, structures, pipes, what, on),
        )

    def _turn(self) -> None:
        pipes = self._chosen()[1]
        self.session.edit(f"Turn the flow of {self._name()}", lambda p, f: turned(p, f, pipes))

    def _curve(self, curve: bool) -> None:
        pipes = self._chosen()[1]
        name = f"{'Curve' if curve else 'Straighten'} {self._name()}"
        if curve:
            self._each(name, pipes, along_road)
        else:
            self._each(name, pipes, lambda p, f, k: curved(p, f, k, None))

    def _each(self, name: str, keys: Iterable[Any], edit: Callable[..., Project]) -> bool:
        """One edit for each of them, as one undo step."""

        def make(project: Project, facts: Any) -> Project:
            for k in keys:
                project = edit(project, facts, k)
            return project

        return self.session.edit(name, make)
