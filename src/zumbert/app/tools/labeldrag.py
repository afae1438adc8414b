"""Moving a label of the plan by hand."""

from math import cos, hypot, sin
from typing import TYPE_CHECKING

import numpy as np

from zumbert.app.tools.tool import Place
from zumbert.drawing.marks import Target
from zumbert.drawing.plan import label_base
from zumbert.edits.labels import set_label_at
from zumbert.model.project import Project

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.views.planview import PlanView

START = 4.0  # drawing units: a shorter way of the mouse is a click
UP = 4.0  # drawing units from a text's baseline to the line by which it is taken hold of


class LabelDrag:
    """idle -press-> pressed -4 units-> dragging -release-> idle (done); pressed -release-> idle (a click);
    Esc -> idle (nothing done).
    """

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.key: str | None = None
        self.dragging = False
        self._from = Place(0, 0)
        self._start = (0.0, 0.0)
        self._project: Project | None = None

    def press(self, view: "PlanView", target: Target, at: Place) -> None:
        """Takes a label under the cursor."""
        first = next(t for t in view.targets if t.kind == "label" and t.id == target.id)
        kept = self.session.state.kept
        base = label_base(kept.facts, target.id, view.sight)
        (x0, y0), (x1, y1) = first.xy.tolist()
        turn = float(np.arctan2(y1 - y0, x1 - x0))
        x, y = (x0, y0) if target.id in kept.project.structures else ((x0 + x1) / 2, (y0 + y1) / 2)
        self._start = x - UP * sin(turn) - base[0], y + UP * cos(turn) - base[1]
        self.key, self._from, self.dragging, self._project = target.id, at, False, None

    def drag(self, at: Place) -> None:
        """Follows the mouse once it has gone far enough."""
        if self.key is None or (not self.dragging and hypot(at.x - self._from.x, at.y - self._from.y) < START):
            return
        self.dragging = True
        moved = round(self._start[0] + at.x - self._from.x, 1), round(self._start[1] + at.y - self._from.y, 1)
        self._project = set_label_at(self.session.state.kept.project, self.key, moved)  # type: ignore[arg-type]
        self.session.preview(self._project)

    def finish(self) -> bool:
        """Commits the move as one undo step; tells whether anything was dragged."""
        project, dragged = self._project, self.dragging
        self.key, self._project, self.dragging = None, None, False
        if project is not None:
            self.session.apply("Move a label", project)
        return dragged

    def cancel(self) -> bool:
        """Leaves the label where it was."""
        if self.key is None:
            return False
        self.key, self._project, self.dragging = None, None, False
        self.session.preview(None)
        return True
