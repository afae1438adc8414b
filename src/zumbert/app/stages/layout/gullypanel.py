"""The panel of the tool that sets gullies: what they are, where they stand, and a stretch of
them at once.
"""

from PySide6.QtWidgets import QCheckBox, QLineEdit, QPushButton, QWidget

from zumbert.app.panels.fields import choice
from zumbert.app.panels.rows import SegmentedButton, Stack, abreast, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.layout.gully import GullyTool, gully_types, sizes_of
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.edits.gullies import GulliesSet, catch_spacing
from zumbert.errors import EditError
from zumbert.model.display import counted
from zumbert.model.ids import RoadId
from zumbert.model.quantity import SQUARE


class GullyPanel(QWidget):
    """Each field changes the tool in hand; the last section sets a whole stretch."""

    def __init__(self, session: Session, pen: Pen, tool: GullyTool) -> None:
        super().__init__()
        self.session, self.tool = session, tool
        u = session.units
        self.kind = choice(
            pen, "gully type", gully_types(session), tool.way.type
        ).as_wide_as_its_column()
        self.kind.activated.connect(lambda _: tool.set(type=self.kind.currentData()))
        self.lead = choice(
            pen, "lead size", sizes_of(session), tool.way.lead
        ).as_wide_as_its_column()
        self.lead.activated.connect(lambda _: tool.set(lead=self.lead.currentData()))
        self.stand = SegmentedButton(("At kerb", "At offset"), self._stand)
        self.offset, self.reach = QLineEdit(), QLineEdit(u.full(tool.way.reach))
        self.fields = {n: QLineEdit() for n in ("from", "to", "each")}
        self.catch, self.wide = QLineEdit(), QLineEdit()
        self.low = QCheckBox("and one at each low point")
        self.low.setChecked(True)
        self.says = wrapped("", "second")
        whole = Stack(self, 5)
        whole.addWidget(label("Gullies", "title"))
        whole.addWidget(
            wrapped(
                "In pairs across the road, each lead to the nearest manhole or pipe in reach.",
                "second",
            )
        )
        whole.addWidget(rule())
        rows = (
            ("Type", self.kind),
            ("Lead", self.lead),
            ("Position", self.stand),
            (f"Offset, {u.m}", self.offset),
            (f"Reach of leads, {u.m}", self.reach),
        )
        whole.addLayout(fields(rows))
        whole.addWidget(rule())
        whole.addWidget(label("Along the road", "section"))
        for name, field in (
            *self.fields.items(),
            ("catch area", self.catch),
            ("catch width", self.wide),
        ):
            field.setObjectName(f"gullies {name}")
            field.setAccessibleName(f"Gullies {name}")
        for field in (self.catch, self.wide):
            field.editingFinished.connect(self._catch)
        whole.addLayout(abreast((f"{name}, {u.m}", field) for name, field in self.fields.items()))
        whole.addLayout(
            abreast(
                (
                    (f"or each catches, {u.m}\u00b2", self.catch),
                    (f"of a width of, {u.m}", self.wide),
                )
            )
        )
        whole.addWidget(self.low)
        self.go = QPushButton("Place them")
        self.go.setObjectName("set gullies")
        self.go.setEnabled(False)
        self.go.clicked.connect(lambda: self._take())
        self.found = wrapped("Type a stretch and a spacing to see them.", "small")
        whole.addWidget(self.found)
        whole.addWidget(self.go)
        whole.addWidget(self.says)
        for field in self.fields.values():
            field.textEdited.connect(lambda _: self._look())
            field.returnPressed.connect(lambda: self._take())
        self.low.clicked.connect(lambda: self._look())
        self.made: GulliesSet | None = None
        self._road: RoadId | None = None
        whole.addStretch(1)
        self.offset.setObjectName("gully offset")
        self.reach.setObjectName("gully reach")
        self.offset.editingFinished.connect(self._stand_at)
        self.reach.editingFinished.connect(self._reach)

    @told(None)
    def _typed(self, text: str) -> float | None:
        return self.session.units.typed_chainage(text)

    def _stand(self, i: int) -> None:
        self.tool.set(offset=None if i == 0 else self.tool.way.offset or 2.8)
        self.refresh(self.session.state)

    def _stand_at(self) -> None:
        value = self._typed(self.offset.text()) if self.offset.text().strip() else None
        if value is not None:
            self.tool.set(offset=abs(value))

    def _reach(self) -> None:
        value = self._typed(self.reach.text())
        if value is not None and value > 0:
            self.tool.set(reach=value)

    @told(None)
    def _catch(self) -> None:
        """The spacing at which each gully catches an area of the road that drains to it."""
        u, texts = self.session.units, (self.catch.text().strip(), self.wide.text().strip())
        if not all(texts):
            return
        area, width = u.typed(texts[0], of=SQUARE), u.typed(texts[1])
        self.fields["each"].setText(u.full(catch_spacing(width, area), 2))
        self._look()

    def _look(self) -> None:
        """Shows the gullies of the stretch, or why there are none, as it is typed."""
        self.made, self._road = None, self.tool.road()
        texts = [f.text().strip() for f in self.fields.values()]
        try:
            if self._road is None or not all(texts):
                raise EditError("Type a stretch and a spacing to see them.")
            begin, end, each = (self.session.units.typed_chainage(t) for t in texts)
            self.made = self.tool.along(self._road, begin, end, each, self.low.isChecked())
        except EditError as e:
            self.session.preview(None)
            self.found.setText(str(e))
        else:
            name = self.session.state.current.project.roads[self._road].name
            alone = f", {len(self.made.alone)} join nothing" if self.made.alone else ""
            what = (
                f"{counted(len(self.made.gullies), 'gully', 'gullies')} and "
                f"{counted(len(self.made.pipes), 'lead')}"
            )
            self.found.setText(f"{what} on {name}{alone}")
        self.go.setEnabled(self.made is not None)

    def _take(self) -> None:
        if self.made is None or not self.session.state.previewing:
            self._look()  # the mouse has been over the drawing since
        if self.made is None or self._road is None:
            self.session.refused.emit(self.found.text())
            return
        made, self.made = self.made, None
        self.tool.take_along(self._road, made)
        self.found.setText(f"{counted(len(made.gullies), 'gully', 'gullies')} placed.")
        self.go.setEnabled(False)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        self.stand.show_choice(0 if self.tool.way.offset is None else 1)
        self.offset.setEnabled(self.tool.way.offset is not None)
        if not self.offset.hasFocus():
            self.offset.setText(
                "" if self.tool.way.offset is None else s.units.full(self.tool.way.offset)
            )
        road = self.tool.road()
        name = s.current.project.roads[road].name if road is not None else "no road"
        self.says.setText(f"On {name}. Point at another road, or pick it over the drawings.")
