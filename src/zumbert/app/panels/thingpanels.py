"""What is selected of ground, roads, drawings, land, services, spot levels and files: its values, edited in place."""

from collections.abc import Callable, Sequence
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QPushButton, QSlider, QVBoxLayout, QWidget

from zumbert.analysis.surfaces import levels
from zumbert.app.panels.numbertable import Cells, NumberTable
from zumbert.app.panels.rows import Combo, choice, label, pair, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.app.tools.roads import points_of
from zumbert.edits.ground import in_units, leave_out_spikes, set_profile, set_role, show_layers
from zumbert.edits.land import area_of, sound_service
from zumbert.edits.roads import remove_profile, rename_road, set_near, set_points, set_pvis, set_start, set_strip
from zumbert.edits.things import Thing, changed, record, removed, set_strength, set_view, thing_name
from zumbert.errors import EditError
from zumbert.geometry.intersections import Intersection
from zumbert.geometry.profile import Pvi
from zumbert.geometry.spikes import SPIKE
from zumbert.geometry.strip import StripAt
from zumbert.model.background import UNITS
from zumbert.model.display import NONE, Units, counted
from zumbert.model.land import LAND_WORDS
from zumbert.model.road import Road, Strip
from zumbert.model.service import SERVICE_KINDS

Act = Callable[[str], None]
SHOWN = 2  # decimals of a road's points in their table
ROLES = (
    ("existing", "existing ground"), ("design", "design surface"), ("formation", "formation"), ("rock", "rock"),
    ("none", "no role"),
)  # fmt: skip


def detail(session: Session, pen: Pen, s: State, act: Act) -> "Detail":
    """The panel of what is selected; of how ground is shown where nothing is."""
    if s.thing is None or s.thing.kind == "pin" or record(s.shown.project, s.thing) is None:
        return ViewDetail(session, pen, None, act)
    kinds: dict[str, type[Detail]] = {
        "surface": SurfaceDetail, "road": RoadDetail, "background": DrawingDetail, "land": LandDetail,
        "service": ServiceDetail, "spot": SpotDetail, "attachment": FileDetail,
    }  # fmt: skip
    return kinds[s.thing.kind](session, pen, s.thing, act)


def full(value: float, u: Units, decimals: int = 3) -> str:
    """A length for a field that is edited: no digit that the project holds is lost above a decimal."""
    text = f"{u.shown(value):.{decimals}f}".rstrip("0").rstrip(".")
    return text or "0"


class _Slider(QSlider):
    """The wheel scrolls the panel, and changes no value that happens to lie under the pointer."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Detail(QWidget):
    """Base of the details: a title, how strongly it is drawn, and a button that takes it away."""

    def __init__(self, session: Session, pen: Pen, thing: Thing | None, act: Act) -> None:
        super().__init__()
        self.session, self.pen, self.thing, self.act = session, pen, thing, act
        self.setObjectName("detail")
        self.whole = QVBoxLayout(self)
        self.whole.setContentsMargins(0, 0, 0, 0)
        self.whole.setSpacing(5)
        self.title = label("", "strong")
        self._told = ""  # the name that the fields tell
        if thing is not None:
            remove = self.button("Remove", "remove", self._remove)
            remove.setProperty("role", "chip")
            self.whole.addLayout(pair(self.title, remove))
            self.build()
            if hasattr(record(session.state.shown.project, thing), "strength"):
                self.strength = _Slider(Qt.Orientation.Horizontal)
                self.strength.setRange(10, 100)
                self.strength.setObjectName("strength")
                self.strength.setAccessibleName("How strongly it is drawn, per cent")
                self.strength.sliderReleased.connect(self._faded)
                self.strength.valueChanged.connect(lambda _: None if self.strength.isSliderDown() else self._faded())
                self.pair_row("Strength", self.strength)
        else:
            self.build()

    @property
    def record(self) -> Any:
        assert self.thing is not None  # noqa: S101 - details of things have one
        return record(self.session.state.shown.project, self.thing)

    def build(self) -> None:
        """The fields of this kind."""

    def kept(self, s: State) -> bool:
        """Whether it can go on showing what is selected."""
        return self.thing == s.thing

    def refresh(self, s: State) -> None:
        """Shows the state."""
        if self.thing is None:
            return
        r = record(s.shown.project, self.thing)
        if r is None:
            return
        name = thing_name(s.shown.project, self.thing)
        self.title.setText(name)
        if name != self._told:
            fields: list[QWidget] = [*self.findChildren(QLineEdit), *self.findChildren(Combo)]
            for w in fields:  # it tells what it belongs to where the title is out of sight, too
                if w.accessibleName() and w.toolTip() in ("", f"{w.accessibleName()}: {self._told}"):
                    w.setToolTip(f"{w.accessibleName()}: {name}")
            self._told = name
        if hasattr(r, "strength"):
            self.strength.blockSignals(True)
            self.strength.setValue(round(r.strength * 100))
            self.strength.blockSignals(False)
        self.show_record(s, r)

    def show_record(self, s: State, r: Any) -> None:
        """Shows the values of this kind."""

    # -- pieces --------------------------------------------------------------------------------------------------------

    def edit(self, words: str, make: Callable[..., Any]) -> bool:
        return self.session.edit(words, make)

    def _name(self) -> str:
        assert self.thing is not None  # noqa: S101 - details of things have one
        return thing_name(self.session.state.kept.project, self.thing)

    def _remove(self) -> None:
        thing = self.thing
        assert thing is not None  # noqa: S101 - details of things have one
        self.edit(f"Remove {self._name()}", lambda p, f: removed(p, thing))

    def _faded(self) -> None:
        thing, value = self.thing, self.strength.value() / 100
        assert thing is not None  # noqa: S101 - details of things have one
        self.edit(f"Fade {self._name()}", lambda p, f: set_strength(p, thing, value))

    def change(self, words: str, **values: Any) -> bool:
        """Replaces fields of the record as one undo step."""
        thing = self.thing
        assert thing is not None  # noqa: S101 - details of things have one
        return self.edit(words, lambda p, f: changed(p, thing, **values))

    def button(self, text: str, name: str, run: Callable[[], object]) -> QPushButton:
        b = QPushButton(text)
        b.setObjectName(name)
        b.clicked.connect(lambda: run())
        return b

    def pair_row(self, text: str, w: QWidget) -> None:
        """A name with a field at its right."""
        row = QHBoxLayout()
        row.addWidget(label(text, "second"))
        row.addStretch(1)
        w.setFixedWidth(200 if text == "Name" else 150)
        row.addWidget(w)
        self.whole.addLayout(row)

    def field(self, text: str, name: str, take: Callable[[str], object]) -> QLineEdit:
        """A text field with its name; Enter or leaving takes it."""
        out = QLineEdit()
        out.setObjectName(name)
        out.setAccessibleName(text)

        def finished() -> None:
            if out.isModified():
                out.setModified(False)
                take(out.text())
                self.refresh(self.session.state)

        out.editingFinished.connect(finished)
        self.pair_row(text, out)
        return out

    def combo(self, text: str, name: str, choices: Sequence[tuple[Any, str]], take: Callable[[Any], object]) -> Combo:
        """A choice with its name."""
        out = choice(self.pen, name, choices)
        out.setAccessibleName(text)
        out.activated.connect(lambda _: take(out.currentData()))
        self.pair_row(text, out)
        return out

    def typed(self, text: str) -> float | None:
        """A typed length in m; a refusal is told, and None."""
        try:
            return self.session.units.typed(text)
        except ValueError as e:
            self.session.refused.emit(str(e))
            return None


class ViewDetail(Detail):
    """How ground is shown: the interval of contours, and slope shading."""

    def build(self) -> None:
        self.whole.addWidget(label("Contours and shading", "strong"))
        self.contours = self.field("Contours each", "contours", self._contours)
        self.contours.setPlaceholderText("by the scale")
        self.shading = QCheckBox("Shade the ground by its slope")
        self.shading.setObjectName("shading")
        self.shading.clicked.connect(
            lambda on: self.edit("Shade slopes" if on else "Shade no slopes", lambda p, f: set_view(p, shading=on))
        )
        self.whole.addWidget(self.shading)

    def _contours(self, text: str) -> None:
        value = self.typed(text) if text.strip() else None
        if value is not None or not text.strip():
            self.edit("Change the contours", lambda p, f: set_view(p, contours=value))

    def refresh(self, s: State) -> None:
        settings = s.shown.project.settings
        if not self.contours.isModified():
            self.contours.setText("" if settings.contours is None else f"{full(settings.contours, s.units)}")
        self.shading.setChecked(settings.shading)


class SurfaceDetail(Detail):
    def build(self) -> None:
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self.role = self.combo("Role", f"role {self.record.name}", ROLES, self._role)
        row = QHBoxLayout()
        self.spike = QLineEdit(full(SPIKE, self.session.units))
        self.spike.setObjectName("spike height")
        self.spike.setAccessibleName("Height of a spike")
        self.spike.setFixedWidth(52)
        row.addWidget(label("Spikes over", "second"))
        row.addWidget(self.spike)
        row.addWidget(label(self.session.units.m, "second"))
        row.addStretch(1)
        row.addWidget(self.button("Leave out", "leave out spikes", self._spikes))
        self.whole.addLayout(row)
        self.whole.addWidget(self.button("Place by points", "place", lambda: self.act("place")))

    def _role(self, role: Any) -> None:
        key = self.record.id
        self.edit(f"Change the role of {self._name()}", lambda p, f: set_role(p, key, role))

    def _spikes(self) -> None:
        height = self.typed(self.spike.text())
        if height is None:
            return
        try:
            project, count = leave_out_spikes(self.session.state.kept.project, self.record.id, height)
        except EditError as e:
            self.session.refused.emit(str(e))
            return
        if not count:
            self.session.refused.emit(f"No vertex is more than {self.session.units.long(height)} off its neighbours.")
            return
        self.session.apply(f"Leave out {counted(count, 'spike')} of {self._name()}", project)

    def show_record(self, s: State, r: Any) -> None:
        u, z = s.units, r.vertices[:, 2]
        self.words.setText(
            f"{counted(len(r.faces), 'face')}, {counted(len(r.vertices), 'point')}, level {u.length(z.min())} to {u.long(z.max())}"
            if len(z)
            else "empty"
        )
        self.role.setCurrentIndex(self.role.findData(r.role))


class RoadDetail(Detail):
    """Points, profiles and strip of a road, each as a table; the same things are dragged in the drawings."""

    def build(self) -> None:
        r, u = self.record, self.session.units
        self.name = self.field("Name", "road name", self._rename)
        self.start = self.field(f"Starts at, {u.m}", "road start", self._start)
        self.near = self.field(f"Section shows within, {u.m}", "road near", self._near)
        self.near.setPlaceholderText("only its own")
        self.near.setToolTip("Structures of other roads, or of none, that stand so near are in its long section too")
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self._head("Points in plan", ("Add by click", "add points", lambda: self.act("road-points")))
        bends = ("x", "y", "R", "L in", "L out")
        self.points = NumberTable("points", bends, self._points, lambda i: self._choose("ip", i))
        self.whole.addWidget(self.points)
        self.no_points = wrapped("Its curves cannot be told by points with one radius each.", "small")
        self.whole.addWidget(self.no_points)
        self._head(
            "Profile", ("New", "new profile", lambda: self.act("new-profile")), ("Remove", "remove profile", self._drop)
        )
        self.profile = self.combo("In force", f"profile {r.name}", (), self._profile)
        self.pvis = NumberTable(
            "vertical points", ("Chainage", "Level", "Curve"), self._pvis, lambda i: self._choose("pvi", i)
        )
        self.whole.addWidget(self.pvis)
        self._head("Strip", ("Add a section", "add section", self._add_section))
        heads = ("from", "left", "right", "l %", "r %", "kerb", "verge", "v %")
        self.strip = NumberTable("strip", heads, self._strip)
        self.strip.setToolTip(
            "Chainage, widths, crossfalls left and right (negative falls outward), kerb, verge and its crossfall"
        )
        self.whole.addWidget(self.strip)
        self.surface = QCheckBox("gives design surface and formation")
        self.surface.setObjectName("strip surface")
        self.surface.clicked.connect(self._surface)
        self.whole.addWidget(self.surface)
        self.deep = self.field(f"Construction depth, {u.m}", "strip depth", self._depth)
        self.fault = wrapped("", "breach")
        self.whole.addWidget(self.fault)

    def _head(self, text: str, *buttons: tuple[str, str, Callable[[], object]]) -> None:
        self.whole.addWidget(rule())
        row = QHBoxLayout()
        row.addWidget(label(text, "section"))
        row.addStretch(1)
        for words, name, run in buttons:
            b = self.button(words, name, run)
            b.setProperty("role", "chip")
            row.addWidget(b)
        self.whole.addLayout(row)

    @property
    def _road(self) -> Road:
        road: Road = self.session.state.kept.project.roads[self.thing.id]  # type: ignore[union-attr]
        return road

    def _choose(self, kind: str, i: int) -> None:
        if self.session.state.part != (kind, i):
            self.session.set(part=(kind, i))

    def _rename(self, text: str) -> None:
        self.edit("Rename a road", lambda p, f: rename_road(p, self._road.id, text))

    def _start(self, text: str) -> None:
        try:
            value = self.session.units.typed_chainage(text)
        except ValueError as e:
            self.session.refused.emit(str(e))
            return
        self.edit(f"Change the start of {self._name()}", lambda p, f: set_start(p, self._road.id, value))

    def _near(self, text: str) -> None:
        try:
            value = self.session.units.typed(text) if text.strip() else None
        except ValueError as e:
            self.session.refused.emit(str(e))
            return
        self.edit(f"Change what the section of {self._name()} shows", lambda p, f: set_near(p, self._road.id, value))

    def _numbers(self, cells: Cells) -> list[list[float]] | None:
        u = self.session.units
        try:
            return [[u.typed(t) if t.strip() else 0.0 for t in row] for row in cells]
        except ValueError as e:
            self.session.refused.emit(str(e))
            return None

    def _points(self, cells: Cells) -> bool:
        rows = self._numbers(cells)
        if rows is None:
            return False
        old = list(points_of(self._road))
        new = [_as_before(Intersection(*row), old, i, self.session.units) for i, row in enumerate(rows)]
        return self.edit(f"Change the points of {self._name()}", lambda p, f: set_points(p, self._road.id, new))

    def _pvis(self, cells: Cells) -> bool:
        rows, road = self._numbers(cells), self._road
        if rows is None or road.design is None:
            return False
        old, u, index = road.profiles[road.design].pvis, self.session.units, road.design
        new = []
        for i, (ch, z, long) in enumerate(rows):
            before = old[i] if i < len(old) and len(rows) == len(old) else None
            same = before is not None and full(before.length, u) == full(long, u)
            if before is not None and same:
                ch = before.chainage if full(before.chainage, u) == full(ch, u) else ch
                z = before.level if full(before.level, u) == full(z, u) else z
                new.append(replace(before, chainage=ch, level=z))
            else:
                new.append(Pvi(ch, z, long))
        new.sort(key=lambda p: p.chainage)
        return self.edit(f"Change the profile of {road.name}", lambda p, f: set_pvis(p, road.id, index, new))

    def _profile(self, index: Any) -> None:
        self.edit(f"Change the profile of {self._name()}", lambda p, f: set_profile(p, self._road.id, index))

    def _drop(self) -> None:
        index = self._road.design
        if index is None:
            self.session.refused.emit("No design profile is in force.")
            return
        self.edit(f"Remove a profile of {self._name()}", lambda p, f: remove_profile(p, self._road.id, index))

    def _sections(self) -> tuple[StripAt, ...]:
        strip = self._road.strip
        return () if strip is None else strip.sections

    def _strip(self, cells: Cells) -> bool:
        u = self.session.units
        try:
            rows = [
                StripAt(
                    chainage=u.typed_chainage(a), left=u.typed(b), right=u.typed(c),
                    crossfall_left=u.typed_slope(d + "%"), crossfall_right=u.typed_slope(e + "%"),
                    kerb=u.typed(f), verge=u.typed(g), verge_crossfall=u.typed_slope(h + "%"),
                )
                for a, b, c, d, e, f, g, h in cells
            ]  # fmt: skip
        except ValueError as e:
            self.session.refused.emit(str(e))
            return False
        return self._set_strip(tuple(rows))

    def _set_strip(self, sections: tuple[StripAt, ...], **values: Any) -> bool:
        road = self._road
        strip = None
        if sections:
            strip = replace(road.strip or Strip(sections=sections), sections=sections, **values)
        return self.edit(f"Change the strip of {road.name}", lambda p, f: set_strip(p, road.id, strip))

    def _add_section(self) -> None:
        """One more cross-section: as the last one, 50 m on; the first with plain widths."""
        old, road = self._sections(), self._road
        fresh = (
            replace(old[-1], chainage=old[-1].chainage + 50.0)
            if old
            else StripAt(chainage=road.start, left=3.0, right=3.0)
        )
        self._set_strip((*old, fresh))

    def _surface(self, on: bool) -> None:
        if not self._sections():
            self.session.refused.emit("Add a section to the strip first.")
            self.surface.setChecked(False)
            return
        self._set_strip(self._sections(), surface=on)

    def _depth(self, text: str) -> None:
        value = self.typed(text)
        if value is not None and self._sections():
            self._set_strip(self._sections(), depth=value)

    def show_record(self, s: State, r: Any) -> None:
        u, facts = s.units, s.shown.facts
        a = facts.roads[r.id].alignment
        near = "" if r.near is None else full(r.near, u)
        for w, text in ((self.name, r.name), (self.start, full(r.start, u)), (self.near, near)):
            if not w.isModified():
                w.setText(text)
        self.words.setText(
            f"{u.chainage(a.start)} to {u.chainage(a.end)}, {u.long(a.length)}, {len(a.elements)} elements"
        )
        line = points_of(r)
        self.points.setVisible(bool(line))
        self.no_points.setVisible(not line)
        self.points.show_cells([[full(v, u, SHOWN) for v in _values(p)] for p in line])
        choices = [("no profile", None), *((p.name, i) for i, p in enumerate(r.profiles) if p.kind == "design")]
        if [self.profile.itemText(i) for i in range(self.profile.count())] != [t for t, _ in choices]:
            self.profile.clear()
            for text, key in choices:
                self.profile.addItem(text, key)
        self.profile.setCurrentIndex(max(0, self.profile.findData(r.design)))
        pvis = () if r.design is None else r.profiles[r.design].pvis
        self.pvis.setVisible(bool(pvis))
        self.pvis.show_cells([[full(p.chainage, u), full(p.level, u), full(p.length, u)] for p in pvis])
        sections = () if r.strip is None else r.strip.sections
        self.strip.setVisible(bool(sections))
        self.strip.show_cells([_section_cells(x, u) for x in sections])
        self.surface.setChecked(r.strip is not None and r.strip.surface)
        if not self.deep.isModified():
            self.deep.setText("" if r.strip is None else full(r.strip.depth, u))
        fault = facts.surfaces.faults.get(r.id)
        self.fault.setText("" if fault is None else f"The strip gives no surface: {fault}.")
        self.fault.setVisible(fault is not None)


def _as_before(new: Intersection, old: list[Intersection], i: int, u: Units) -> Intersection:
    """A row of the table with the digits that its texts do not show, where a text is as it was."""
    if i >= len(old):
        return new
    pairs = zip(new.__struct_fields__, _values(new), _values(old[i]), strict=True)
    return Intersection(**{k: b if full(a, u, SHOWN) == full(b, u, SHOWN) else a for k, a, b in pairs})


def _values(p: Intersection) -> tuple[float, ...]:
    """The fields of a point in their order."""
    return (p.x, p.y, p.radius, p.clothoid_in, p.clothoid_out)


def _section_cells(x: StripAt, u: Units) -> list[str]:
    def percent(v: float) -> str:
        return f"{v * 100:.3f}".rstrip("0").rstrip(".")

    return [
        full(x.chainage, u), full(x.left, u), full(x.right, u), percent(x.crossfall_left), percent(x.crossfall_right),
        full(x.kerb, u), full(x.verge, u), percent(x.verge_crossfall),
    ]  # fmt: skip


class DrawingDetail(Detail):
    def build(self) -> None:
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self.unit = self.combo("One unit is", "unit", [(v, k) for k, v in UNITS.items()], self._unit)
        self.again = self.button("Read it again", "read again", lambda: self.act("read-again"))
        self.whole.addWidget(self.again)
        self.structures = self.button(
            "Structures from it \u2026", "structures from it", lambda: self.act("structures-from")
        )
        self.whole.addWidget(self.structures)
        self.whole.addWidget(self.button("Place by points", "place", lambda: self.act("place")))
        self.whole.addWidget(label("Layers", "section"))
        self.layers: dict[str, QCheckBox] = {}
        for name in self.record.layers:
            box = QCheckBox(name)
            box.setObjectName(f"layer {name}")
            box.clicked.connect(lambda _=False, n=name: self._toggle(n))
            self.layers[name] = box
            self.whole.addWidget(box)

    def kept(self, s: State) -> bool:
        same = self.thing is not None and self.thing == s.thing
        return same and tuple(self.layers) == self.record.layers

    def _unit(self, metres: Any) -> None:
        key = self.record.id
        self.edit(f"Change the unit of {self._name()}", lambda p, f: in_units(p, key, metres))

    def _toggle(self, layer: str) -> None:
        b = self.session.state.kept.project.backgrounds[self.record.id]
        word = "Show" if layer in b.off else "Hide"
        self.edit(f"{word} layer {layer}", lambda p, f: show_layers(p, b.id, b.off ^ {layer}))

    def show_record(self, s: State, r: Any) -> None:
        changed_now = s.stale and r.id in s.stale
        self.words.setText(
            f"{counted(len(r.segments), 'segment')}. "
            + ("Its file has changed since it was read." if changed_now else r.source or "")
        )
        self.again.setVisible(r.source is not None)
        self.structures.setVisible(bool(r.places))
        self.unit.setCurrentIndex(min(range(self.unit.count()), key=lambda i: abs(self.unit.itemData(i) - r.metres)))
        for name, box in self.layers.items():
            box.setChecked(name not in r.off)


class LandDetail(Detail):
    def build(self) -> None:
        self.name = self.field(
            "Name", "land name", lambda t: self.change("Rename an area", name=t.strip() or self.record.name)
        )
        self.kind = self.combo(
            "Kind", "land kind", list(LAND_WORDS.items()), lambda k: self.change("Change an area", kind=k)
        )
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self.ring = NumberTable("corners", ("x", "y"), self._ring)
        self.whole.addWidget(self.ring)

    def _ring(self, cells: Cells) -> bool:
        u = self.session.units
        try:
            ring = tuple((u.typed(a), u.typed(b)) for a, b in cells)
        except ValueError as e:
            self.session.refused.emit(str(e))
            return False
        if len(ring) < 3 or abs(area_of(ring)) < 1e-3:
            self.session.refused.emit("An area of land needs three corners or more that are not on one line.")
            return False
        return self.change(f"Change the corners of {self._name()}", ring=ring)

    def show_record(self, s: State, r: Any) -> None:
        if not self.name.isModified():
            self.name.setText(r.name)
        self.kind.setCurrentIndex(self.kind.findData(r.kind))
        self.words.setText(s.units.area(abs(area_of(r.ring))))
        self.ring.show_cells([[full(x, s.units), full(y, s.units)] for x, y in r.ring])


class ServiceDetail(Detail):
    def build(self) -> None:
        u = self.session.units
        self.name = self.field(
            "Label", "service label", lambda t: self.change("Rename a service", label=t.strip() or self.record.label)
        )
        self.kind = self.combo(
            "Kind", "service kind", [(k, k) for k in SERVICE_KINDS], lambda k: self.change("Change a service", kind=k)
        )
        self.wide = self.field(f"Outside size, {u.m}", "service size", lambda t: self._set("size", t))
        self.clearance = self.field(f"Clearance, {u.m}", "service clearance", lambda t: self._set("clearance", t))
        self.places = NumberTable("places", ("x", "y", "level"), self._places)
        self.whole.addWidget(self.places)

    def _rename(self, text: str) -> None:
        self.change("Rename a service", label=text.strip() or self.record.label)

    def _set(self, name: str, text: str) -> None:
        value, r = self.typed(text), self.record
        if value is None:
            return
        try:
            sound_service(self.session.state.kept.project, **{"size": r.size, "clearance": r.clearance, name: value})
        except EditError as e:
            self.session.refused.emit(str(e))
            return
        self.change(f"Change {self._name()}", **{name: value})

    def _places(self, cells: Cells) -> bool:
        u = self.session.units
        try:
            points = tuple((u.typed(a), u.typed(b), u.typed(c) if c.strip(f" {NONE}") else None) for a, b, c in cells)
        except ValueError as e:
            self.session.refused.emit(str(e))
            return False
        if len(points) < 2:
            self.session.refused.emit("A service needs two places or more.")
            return False
        return self.change(f"Change the places of {self._name()}", points=points)

    def show_record(self, s: State, r: Any) -> None:
        u = s.units
        for w, text in ((self.name, r.label), (self.wide, full(r.size, u)), (self.clearance, full(r.clearance, u))):
            if not w.isModified():
                w.setText(text)
        self.kind.setCurrentIndex(self.kind.findData(r.kind))
        self.places.show_cells([[full(x, u), full(y, u), NONE if z is None else full(z, u)] for x, y, z in r.points])


class SpotDetail(Detail):
    def build(self) -> None:
        choices = (("existing", "existing ground"), ("design", "design surface"), ("formation", "formation"))
        self.follows = self.combo(
            "Follows", "spot follows", choices, lambda k: self.change("Change a spot level", follows=k)
        )
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)

    def show_record(self, s: State, r: Any) -> None:
        found, u = s.shown.facts.surfaces, s.units
        z = float(levels(getattr(found, r.follows), r.x, r.y))
        self.follows.setCurrentIndex(self.follows.findData(r.follows))
        where = f"x {u.coordinate(r.x)}, y {u.coordinate(r.y)}"
        self.words.setText(f"{u.level(None if z != z else z)} {u.m}, {found.name(r.follows)}; {where}")


class FileDetail(Detail):
    def build(self) -> None:
        self.note = self.field("Note", "file note", lambda t: self.change("Note a file", note=t))
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self.whole.addWidget(self.button("Save a copy …", "save a copy", lambda: self.act("file-copy")))

    def show_record(self, s: State, r: Any) -> None:
        if not self.note.isModified():
            self.note.setText(r.note)
        inside = f"kept inside, {len(r.data or b'') / 1024:.1f} kB"
        self.words.setText(inside if r.data is not None else f"linked: {r.path}")
