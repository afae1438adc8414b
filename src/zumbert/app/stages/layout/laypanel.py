"""The panel of the tool that lays runs."""

from typing import get_args

from msgspec.structs import replace
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from zumbert.app.panels.fields import Aside, Combo, offer
from zumbert.app.panels.found import show_findings
from zumbert.app.panels.rows import (
    SegmentedButton,
    Stack,
    clear,
    fields,
    label,
    pair,
    rule,
    wrapped,
)
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.layout.lay import LayTool
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.edits.change import sizes_for, type_misfit, types_for
from zumbert.edits.layoptions import Edge, LayOptions
from zumbert.model.ids import SizeKey, TypeKey
from zumbert.model.structure import SERVICES, STATUSES

EDGES: tuple[Edge, ...] = get_args(Edge)


class LayPanel(QWidget):
    """The next pipe or structure, where its levels come from, and what has been placed."""

    def __init__(self, session: Session, pen: Pen, tool: LayTool) -> None:
        super().__init__()
        self.session, self.pen, self.tool = session, pen, tool
        self.count, self.sub = label("", "second"), label("", "second")
        self.type_box, self.size_box = (Combo(pen).as_wide_as_its_column() for _ in range(2))
        self.fits = label("", "small")
        self.type_box.setObjectName("next type")
        self.size_box.setObjectName("next size")
        self.levels = SegmentedButton(("Cover", "Slope", "Level"), self._levels)
        self.edge = SegmentedButton(
            ("Middle", "Outer", "Inner"), lambda i: self._set(edge=EDGES[i])
        )
        self.edge.setToolTip(
            "What of a structure stands at the place: outer is its edge away from the centre line"
        )
        self.by_level = False
        self.mode = SegmentedButton(
            ("Run", "Place", "Join"), lambda i: tool.set_mode(("run", "alone", "join")[i])
        )
        self.way = SegmentedButton(("Downstream", "Upstream"), lambda i: self._set(up=i == 1))
        self.slope, self.start, self.level = QLineEdit(), QLineEdit(), QLineEdit()
        self.level.setObjectName("lay level")
        self.level.setPlaceholderText("by cover")
        self.level.editingFinished.connect(self._level)
        self.level_label = label("Next invert", "second")
        self.slope.setObjectName("lay slope")
        Aside(self.slope, lambda text: session.units.understood(text))
        self.start.setObjectName("lay start")
        self.start.setPlaceholderText("from the rules")
        self.slope.editingFinished.connect(self._slope)
        self.start.editingFinished.connect(self._start)
        self.slope_label = label("Slope", "second")
        self.placed = QGridLayout()
        self.found = QVBoxLayout()
        self.network, self.service, self.status = (
            Combo(pen).as_wide_as_its_column() for _ in range(3)
        )
        kinds = (
            (self.network, "network", ()),
            (self.service, "service", SERVICES),
            (self.status, "status", STATUSES),
        )
        for box, name, words in kinds:
            box.setObjectName(f"next {name}")
            box.setAccessibleName(f"Next {name}")
            for w in words:
                box.addItem(w.capitalize(), w)
            box.activated.connect(lambda _, b=box, n=name: self._set(**{n: b.currentData()}))
        self.type_box.activated.connect(
            lambda _: self._set(type=TypeKey(self.type_box.currentData()))
        )
        self.size_box.activated.connect(
            lambda _: self._set(size=SizeKey(self.size_box.currentData()))
        )
        self._build()

    def _build(self) -> None:
        whole = Stack(self, 5)
        whole.addLayout(pair(label("Lay a run", "title"), self.count))
        whole.addWidget(self.sub)
        whole.addWidget(rule())
        whole.addWidget(self.mode)
        whole.addWidget(label("Next structure", "section"))
        whole.addLayout(fields((("Type", self.type_box),), 78))
        whole.addWidget(self.fits)
        whole.addLayout(fields((("Placed by", self.edge),), 78))
        whole.addWidget(rule())
        whole.addWidget(label("Next pipe", "section"))
        more = fields(
            (
                ("Size", self.size_box),
                ("Direction", self.way),
                ("Levels from", self.levels),
                ("First invert", self.start),
            ),
            106,
        )
        for i, (name, field) in enumerate(
            ((self.slope_label, self.slope), (self.level_label, self.level)), 4
        ):
            more.addWidget(name, i, 0)
            more.addWidget(field, i, 1)
        more.addWidget(label("Network", "second"), 6, 0)
        more.addWidget(self.network, 6, 1)
        kinds = QHBoxLayout()
        kinds.addWidget(self.service)
        kinds.addWidget(self.status)
        more.addWidget(label("Service, status", "second"), 7, 0)
        more.addLayout(kinds, 7, 1)
        whole.addLayout(more)
        whole.addWidget(rule())
        whole.addLayout(self.placed)
        whole.addLayout(self.found)
        whole.addStretch(1)

    def _way(self) -> LayOptions:
        return self.tool.way

    def _set(self, **values: object) -> None:
        self.session.set(way=replace(self._way(), **values))

    def _levels(self, i: int) -> None:
        self.by_level = i == 2
        self._set(slope=self._way().slope or 0.01 if i == 1 else None, level=None)

    @told(None)
    def _level(self) -> None:
        text = self.level.text().strip()
        self._set(level=self.session.units.typed(text) if text else None)

    @told(None)
    def _slope(self) -> None:
        self._set(slope=self.session.units.typed_slope(self.slope.text()))

    @told(None)
    def _start(self) -> None:
        text = self.start.text().strip()
        self._set(start=self.session.units.typed(text) if text else None)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        u = s.units
        project, way = s.shown.project, self._way()
        last = self.tool.last
        self.count.setText(f"{len(self.tool.placed)} placed")
        standard = project.standards[project.networks[way.network].standard].name
        self.sub.setText(f"{way.service.capitalize()}, {way.status}. Standard: {standard}")
        offer(self.type_box, types_for(project, way.size), way.type)
        offer(self.size_box, sizes_for(project, way.type, last), way.size)
        why = type_misfit(project, way.type, way.size)
        self.fits.setText(why)
        self.fits.setVisible(bool(why))
        self.edge.show_choice(EDGES.index(way.edge))
        offer(self.network, [(n.id, n.name, "") for n in project.networks.values()], way.network)
        for box, value in ((self.service, way.service), (self.status, way.status)):
            box.setCurrentIndex(box.findData(value))
        self.mode.show_choice(("run", "alone", "join").index(self.tool.mode))
        by_level = self.by_level or way.level is not None
        self.levels.show_choice(2 if by_level else 0 if way.slope is None else 1)
        for w in (self.level, self.level_label):
            w.setVisible(by_level)
        if not self.level.hasFocus():
            self.level.setText("" if way.level is None else u.level(way.level))
        self.way.show_choice(1 if way.up else 0)
        for w in (self.slope, self.slope_label):
            w.setVisible(way.slope is not None)
        if not self.slope.hasFocus() and way.slope is not None:
            self.slope.setText(u.slope(way.slope))
        if not self.start.hasFocus():
            self.start.setText("" if way.start is None else u.level(way.start))
        self._placed(s)
        show_findings(self.found, self.pen, s, tuple(self._ours(s, last)))

    def _ours(self, s: State, last: str | None) -> list[str]:
        """The last placed and the pipe in preview, whose findings matter now; a run in hand has
        no outfall yet.
        """
        out = [k for k in s.held.fresh if k in s.shown.facts.pipes]
        for key, pipe in s.shown.project.pipes.items():
            if last in (pipe.up, pipe.down) and key not in out:
                out.append(key)
        return out[:3]

    def _placed(self, s: State) -> None:
        u = s.units
        clear(self.placed)
        for i, text in enumerate(("Placed", "Chainage", "Offset", "Rim", "Depth")):
            self.placed.addWidget(label(text, "small"), 0, i)
        shown = [*self.tool.placed[::-1][:8]]
        for row, placed in enumerate(shown, 1):
            f = s.shown.facts.structures.get(placed.structure)
            if f is None:
                continue
            cells = (
                f.structure.label,
                u.chainage(f.place.chainage),
                u.offset(f.place.offset),
                u.level(f.place.rim),
                u.length(f.depth),
            )
            for i, text in enumerate(cells):
                self.placed.addWidget(label(text, "section" if i == 0 else ""), row, i)
        if not shown:
            self.placed.addWidget(wrapped("Nothing placed yet.", "second"), 1, 0, 1, 5)
