"""The panel of the tool that makes pipes from a line."""

from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QLineEdit, QPushButton, QWidget

from zumbert.app.panels.fields import choice
from zumbert.app.panels.found import show_findings
from zumbert.app.panels.rows import SegmentedButton, Stack, abreast, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.layout.gully import sizes_of
from zumbert.app.stages.layout.linepipes import LinePipesTool
from zumbert.app.state import State
from zumbert.app.told import told


class LinePanel(QWidget):
    """The choice of what the line becomes, and of a stretch of the road to take instead of a
    line.
    """

    def __init__(self, session: Session, pen: Pen, tool: LinePipesTool) -> None:
        super().__init__()
        self.session, self.pen, self.tool = session, pen, tool
        project, u, way = session.state.current.project, session.units, tool.way
        chambers = [
            (t.key, t.name) for t in project.types.values() if t.kind != "joint" and t.allowed
        ]
        self.kind = choice(pen, "line type", chambers, way.way.type)
        self.kind.activated.connect(lambda _: self._way(type=self.kind.currentData()))
        self.size_box = choice(pen, "line size", sizes_of(session), way.way.size)
        self.size_box.activated.connect(lambda _: self._way(size=self.size_box.currentData()))
        self.joint = way.corner
        self.corner = SegmentedButton(("Joints", "Chambers"), self._corner)
        self.corner.show_choice(0)
        self.spacing = self._field("line spacing", "no limit", self._spacing)
        self.ends = {n: self._field(f"line {n}", "", None) for n in ("from", "to", "offset")}
        self.found = Stack(None, 4)
        whole = Stack(self, 5)
        whole.addWidget(label("Pipes from a line", "title"))
        whole.addWidget(
            wrapped(
                (
                    "A line of a drawing, or a stretch of the road: the pipes show which way "
                    "water runs."
                ),
                "second",
            )
        )
        whole.addWidget(rule())
        rows: tuple[tuple[str, QWidget], ...] = (
            ("Chambers", self.kind),
            ("Pipes", self.size_box),
            ("At its corners", self.corner),
            (f"Greatest spacing, {u.m}", self.spacing),
        )
        whole.addLayout(fields(rows, 124))
        whole.addWidget(rule())
        whole.addWidget(label("Along the road", "section"))
        whole.addLayout(abreast((f"{name}, {u.m}", field) for name, field in self.ends.items()))
        for name, text, run in (
            ("show stretch", "Show them", self._stretch),
            ("turn line", "Turn the flow", tool.turn),
            ("take line", "Create", tool.take),
        ):
            b = QPushButton(text)
            b.setObjectName(name)
            b.clicked.connect(lambda _=False, run=run: run())
            whole.addWidget(b)
        whole.addLayout(self.found)
        whole.addStretch(1)

    def _field(self, name: str, empty: str, take: Any) -> QLineEdit:
        field = QLineEdit()
        field.setObjectName(name)
        field.setAccessibleName(name.capitalize())
        field.setPlaceholderText(empty)
        if take is not None:
            field.editingFinished.connect(take)
        else:
            field.returnPressed.connect(self._stretch)
        return field

    def _way(self, **values: object) -> None:
        self.tool.set(way=replace(self.tool.way.way, **values))
        if "type" in values and self.tool.way.corner != self.joint:
            self.tool.set(corner=values["type"])

    def _corner(self, i: int) -> None:
        self.tool.set(corner=self.joint if i == 0 else self.tool.way.way.type)

    @told(None)
    def _spacing(self) -> None:
        text = self.spacing.text().strip()
        self.tool.set(spacing=self.session.units.typed(text) if text else None)

    def _stretch(self) -> None:
        texts = [f.text().strip() for f in self.ends.values()]
        self.tool.entry(" ".join(t for t in texts if t))

    def refresh(self, s: State) -> None:
        """Shows the findings of what is shown."""
        made = self.tool.made
        show_findings(self.found, self.pen, s, made.pipes[:4] if made is not None else ())
