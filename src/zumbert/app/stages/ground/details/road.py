"""A road: its points, profiles, strip and gradients."""

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QCheckBox, QHBoxLayout

from zumbert.app.panels.fields import offer
from zumbert.app.panels.numbertable import Cells, NumberTable
from zumbert.app.panels.rows import label, rule, wrapped
from zumbert.app.stages.ground.details.detail import SHOWN, Detail
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.app.tools.roads import points_of
from zumbert.edits.ground import set_profile
from zumbert.edits.roads import (
    remove_profile,
    rename_road,
    set_near,
    set_points,
    set_pvis,
    set_start,
    set_strip,
)
from zumbert.geometry.intersections import Intersection
from zumbert.geometry.profile import Pvi
from zumbert.geometry.strip import StripAt
from zumbert.model.display import Units
from zumbert.model.road import Road, Strip


class RoadDetail(Detail):
    """Points, profiles and strip of a road, each as a table; the same things are dragged in the
    drawings.
    """

    def build(self) -> None:
        r, u = self.record, self.session.units
        self.name = self.field("Name", "road name", self._rename)
        self.start = self.field(f"Starts at, {u.m}", "road start", self._start)
        self.near = self.field(f"Section shows within, {u.m}", "road near", self._near)
        self.near.setPlaceholderText("only its own")
        self.near.setToolTip(
            "Structures of other roads, or of none, that stand so near are in its long section too"
        )
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self._head(
            "Points in plan", ("Add by click", "add points", lambda: self.acts.take("road-points"))
        )
        bends = ("x", "y", "R", "L in", "L out")
        self.points = NumberTable("points", bends, self._points, lambda i: self._choose("ip", i))
        self.whole.addWidget(self.points)
        self.no_points = wrapped("Points with one radius each cannot describe its curves.", "small")
        self.whole.addWidget(self.no_points)
        self._head(
            "Profile",
            ("New", "new profile", lambda: self.acts.new_profile()),
            ("Remove", "remove profile", self._drop),
        )
        self.profile = self.combo("In force", f"profile {r.name}", (), self._profile)
        self.pvis = NumberTable(
            "vertical points",
            ("Chainage", "Level", "Curve"),
            self._pvis,
            lambda i: self._choose("pvi", i),
        )
        self.whole.addWidget(self.pvis)
        self._head("Strip", ("Add a section", "add section", self._add_section))
        heads = ("from", "left", "right", "l %", "r %", "kerb", "verge", "v %")
        self.strip = NumberTable("strip", heads, self._strip)
        self.strip.setToolTip(
            "Chainage, widths, crossfalls left and right (negative falls outward), kerb, verge "
            "and its crossfall"
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
        road: Road = self.session.state.current.project.roads[self.item.id]
        return road

    def _choose(self, kind: str, i: int) -> None:
        if self.session.state.chosen.part != (kind, i):
            self.session.set(part=(kind, i))

    def _rename(self, text: str) -> None:
        self.edit("Rename a road", lambda p, f: rename_road(p, self._road.id, text))

    @told(None)
    def _start(self, text: str) -> None:
        value = self.session.units.typed_chainage(text)
        self.edit(
            f"Change the start of {self._name()}", lambda p, f: set_start(p, self._road.id, value)
        )

    @told(None)
    def _near(self, text: str) -> None:
        value = self.session.units.typed(text) if text.strip() else None
        self.edit(
            f"Change what the section of {self._name()} shows",
            lambda p, f: set_near(p, self._road.id, value),
        )

    @told(None)
    def _numbers(self, cells: Cells) -> list[list[float]] | None:
        u = self.session.units
        return [[u.typed(t) if t.strip() else 0.0 for t in row] for row in cells]

    def _points(self, cells: Cells) -> bool:
        rows = self._numbers(cells)
        if rows is None:
            return False
        old = list(points_of(self._road))
        new = [
            _as_before(Intersection(*row), old, i, self.session.units) for i, row in enumerate(rows)
        ]
        return self.edit(
            f"Change the points of {self._name()}", lambda p, f: set_points(p, self._road.id, new)
        )

    def _pvis(self, cells: Cells) -> bool:
        rows, road = self._numbers(cells), self._road
        if rows is None or road.design is None:
            return False
        old, u, index = road.profiles[road.design].pvis, self.session.units, road.design
        new = []
        for i, (ch, z, long) in enumerate(rows):
            before = old[i] if i < len(old) and len(rows) == len(old) else None
            same = before is not None and u.full(before.length) == u.full(long)
            if before is not None and same:
                ch = before.chainage if u.full(before.chainage) == u.full(ch) else ch
                z = before.level if u.full(before.level) == u.full(z) else z
                new.append(replace(before, chainage=ch, level=z))
            else:
                new.append(Pvi(ch, z, long))
        new.sort(key=lambda p: p.chainage)
        return self.edit(
            f"Change the profile of {road.name}", lambda p, f: set_pvis(p, road.id, index, new)
        )

    def _profile(self, index: Any) -> None:
        self.edit(
            f"Change the profile of {self._name()}",
            lambda p, f: set_profile(p, self._road.id, index),
        )

    def _drop(self) -> None:
        index = self._road.design
        if index is None:
            self.session.refused.emit("No design profile is in force.")
            return
        self.edit(
            f"Remove a profile of {self._name()}",
            lambda p, f: remove_profile(p, self._road.id, index),
        )

    def _sections(self) -> tuple[StripAt, ...]:
        strip = self._road.strip
        return () if strip is None else strip.sections

    @told(False)
    def _strip(self, cells: Cells) -> bool:
        u = self.session.units
        rows = [
            StripAt(
                chainage=u.typed_chainage(a),
                left=u.typed(b),
                right=u.typed(c),
                crossfall_left=u.typed_slope(d, always=True),
                crossfall_right=u.typed_slope(e, always=True),
                kerb=u.typed(f),
                verge=u.typed(g),
                verge_crossfall=u.typed_slope(h, always=True),
            )
            for a, b, c, d, e, f, g, h in cells
        ]
        return self._set_strip(tuple(rows))

    def _set_strip(self, sections: tuple[StripAt, ...], **values: Any) -> bool:
        road = self._road
        strip = None
        if sections:
            strip = replace(road.strip or Strip(sections=sections), sections=sections, **values)
        return self.edit(
            f"Change the strip of {road.name}", lambda p, f: set_strip(p, road.id, strip)
        )

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
        near = "" if r.near is None else u.full(r.near)
        for w, text in ((self.name, r.name), (self.start, u.full(r.start)), (self.near, near)):
            if not w.isModified():
                w.setText(text)
        self.words.setText(
            f"{u.chainage(a.start)} to {u.chainage(a.end)}, {u.long(a.length)}, "
            f"{len(a.elements)} elements"
        )
        line = points_of(r)
        self.points.setVisible(bool(line))
        self.no_points.setVisible(not line)
        self.points.show_cells([[u.full(v, SHOWN) for v in _values(p)] for p in line])
        choices = [
            (None, "no profile", ""),
            *((i, p.name, "") for i, p in enumerate(r.profiles) if p.kind == "design"),
        ]
        offer(self.profile, choices, r.design)
        pvis = () if r.design is None else r.profiles[r.design].pvis
        self.pvis.setVisible(bool(pvis))
        self.pvis.show_cells(
            [[u.full(p.chainage), u.full(p.level), u.full(p.length)] for p in pvis]
        )
        sections = () if r.strip is None else r.strip.sections
        self.strip.setVisible(bool(sections))
        self.strip.show_cells([_section_cells(x, u) for x in sections])
        self.surface.setChecked(r.strip is not None and r.strip.surface)
        if not self.deep.isModified():
            self.deep.setText("" if r.strip is None else u.full(r.strip.depth))
        fault = facts.surfaces.faults.get(r.id)
        self.fault.setText("" if fault is None else f"The strip gives no surface: {fault}.")
        self.fault.setVisible(fault is not None)


def _as_before(new: Intersection, old: list[Intersection], i: int, u: Units) -> Intersection:
    """A row of the table with the digits that its texts do not show, where a text is as it was."""
    if i >= len(old):
        return new
    pairs = zip(new.__struct_fields__, _values(new), _values(old[i]), strict=True)
    return Intersection(
        **{k: b if u.full(a, SHOWN) == u.full(b, SHOWN) else a for k, a, b in pairs}
    )


def _values(p: Intersection) -> tuple[float, ...]:
    """The fields of a point in their order."""
    return (p.x, p.y, p.radius, p.clothoid_in, p.clothoid_out)


def _section_cells(x: StripAt, u: Units) -> list[str]:
    def percent(v: float) -> str:
        return f"{v * 100:.3f}".rstrip("0").rstrip(".")

    return [
        u.full(x.chainage),
        u.full(x.left),
        u.full(x.right),
        percent(x.crossfall_left),
        percent(x.crossfall_right),
        u.full(x.kerb),
        u.full(x.verge),
        percent(x.verge_crossfall),
    ]
