"""The tool that measures lengths and areas in plan."""

from itertools import pairwise

import numpy as np

from zumbert.app.tools.points import Point, PointTool
from zumbert.app.tools.tool import Plan
from zumbert.drawing.marks import Mark
from zumbert.drawing.roadhandles import measured
from zumbert.edits.land import area_of


class MeasureTool(PointTool):
    """Length and area by clicks, with running totals; nothing of the project changes."""

    hint = (
        "Click along what is to be measured. Backspace: take back. Enter: start again. Esc: put "
        "down."
    )
    closed = True
    head = "Measure to"

    def draft(self, view: Plan, places: list[Point]) -> list[Mark]:
        return measured(places, view.sight, self.session.units)

    def totals(self) -> tuple[float, float]:
        """Length along the places (m) and area within them (m²), the cursor included."""
        places = [*self.placed, self.at] if self.at is not None and self.placed else self.placed
        long = sum(float(np.hypot(b[0] - a[0], b[1] - a[1])) for a, b in pairwise(places))
        return long, abs(area_of(places)) if len(places) > 2 else 0.0

    def lines(self) -> tuple[str, ...]:
        if not self.placed:
            return ()
        long, area = self.totals()
        u = self.session.units
        return (f"length <b>{u.long(long)}</b>", f"area <b>{u.area(area)}</b>" if area else "")
