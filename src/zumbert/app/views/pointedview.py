"""The thing under the pointer, shown in all drawings."""

from collections.abc import Iterable
from typing import Any

import numpy as np

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.tools.tool import MousePlace, Tool
from zumbert.app.views.layered import Layered
from zumbert.drawing.marks import Mark, Stroke, Target
from zumbert.drawing.strokes import strokes
from zumbert.edits.loose import nearest_distance

BESIDE = 60.0  # m beside a run within which the cursor tells a place along it


@guarded
class PointedView(Layered):
    """A drawing that tells what lies under the mouse, and shows what is pointed at in another."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        self.tool: Tool = Tool(session)
        self.hover: Target | None = None
        self.mouse: MousePlace | None = None

    @property
    def targets(self) -> Iterable[Target]:
        """All targets."""
        return ()

    def _tell_pointed(self) -> None:
        """All drawings show the pipe or structure that is pointed at in one of them."""
        hot = self.hover
        key = hot.id if hot is not None and hot.kind in ("pipe", "structure") else None
        if key != self.session.state.at.pointed:
            self.session.set(pointed=key)

    def pointed_marks(self) -> list[Mark]:
        """The thing that is pointed at in another drawing."""
        key = self.session.state.at.pointed
        if key is None or self.mouse is not None:
            return []
        marks: list[Mark] = []
        for t in self.targets:
            if t.id == key and t.kind == "pipe":
                marks += strokes("pointed", t.xy)
            elif t.id == key and t.kind == "structure":
                x, y = t.xy.mean(axis=0).tolist()
                a = np.linspace(0, 2 * np.pi, 25)
                marks.append(
                    Stroke("pointed", np.column_stack([x + 11 * np.cos(a), y + 11 * np.sin(a)]))
                )
        return marks

    def pipe_tip(self, pipe: Any, distance: float) -> None:
        """Tells all levels at a place along a pipe under the cursor, where one stays there."""
        from zumbert.analysis.probe import levels
        from zumbert.drawing.pins import told

        facts = self.session.state.shown.facts
        self.setToolTip(told(levels(facts.pipes[pipe], facts, distance), facts))

    def tell_world(self, place: tuple[float, float] | None) -> None:
        """Tells the place in plan (m) under the cursor, where along the run that is, and the
        levels of a pipe pointed at.
        """
        run, cursor = self.session.state.look.run, None
        if place is not None and run is not None and run.line is not None:
            ch, off = run.line.project(*place)
            cursor = float(ch) if not np.isnan(ch) and abs(float(off)) < BESIDE else None
        self.session.point_at(place, cursor)
        pipe = self.pipe_hovered
        if pipe is not None and place is not None:
            self.pipe_tip(
                pipe, nearest_distance(self.session.state.shown.facts.pipes[pipe].span, *place)
            )
        elif self.toolTip():
            self.setToolTip("")

    @property
    def pipe_hovered(self) -> Any:
        """The pipe that lies under the cursor, where no tool asks for more."""
        hot = self.hover
        if (
            hot is None
            or hot.kind != "pipe"
            or self.tool.kind
            or hot.id not in self.session.state.shown.facts.pipes
        ):
            return None
        return hot.id

    def clicked_nothing(self) -> None:
        """A click that hit nothing takes the selection away."""
        s = self.session.state
        if s.chosen.pipes or s.chosen.structures or s.chosen.item is not None:
            self.session.select()
