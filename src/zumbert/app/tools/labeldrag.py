"""Moving a label of the plan by hand."""

from math import cos, sin
from typing import TYPE_CHECKING

import numpy as np

from zumbert.app.tools.drag import Drag
from zumbert.app.tools.near import STRAY
from zumbert.app.tools.tool import MousePlace, Plan
from zumbert.drawing.marks import Target
from zumbert.drawing.plan import label_base
from zumbert.edits.labels import set_label_at

if TYPE_CHECKING:
    from zumbert.app.session import Session

UP = 4.0  # drawing units from a text's baseline to the line by which it is taken hold of


class LabelDrag(Drag):
    """A label of the plan in hand."""

    hint = "Release to set the label down. Esc: as it was."
    stray = STRAY

    def __init__(self, session: "Session", view: Plan, target: Target, at: MousePlace) -> None:
        super().__init__(session, at)
        self.key, self.name, self._from = target.id, "Move a label", at
        first = next(t for t in view.targets if t.kind == "label" and t.id == target.id)
        current = session.state.current
        base = label_base(current.facts, target.id, view.sight)
        (x0, y0), (x1, y1) = first.xy.tolist()
        turn = float(np.arctan2(y1 - y0, x1 - x0))
        x, y = (
            (x0, y0) if target.id in current.project.structures else ((x0 + x1) / 2, (y0 + y1) / 2)
        )
        self._base = x - UP * sin(turn) - base[0], y + UP * cos(turn) - base[1]

    def plan_move(self, view: Plan, at: MousePlace) -> None:
        moved = (
            round(self._base[0] + at.x - self._from.x, 1),
            round(self._base[1] + at.y - self._from.y, 1),
        )
        self.show(set_label_at(self.session.state.current.project, self.key, moved))
