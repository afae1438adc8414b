"""The base of the tools that take places one after another."""

from typing import TYPE_CHECKING

import numpy as np

from zumbert.app.told import told
from zumbert.app.tools.near import PLACE
from zumbert.app.tools.tool import ClickTool, MousePlace, Plan, Words, road_shown
from zumbert.drawing.marks import Composed, Mark
from zumbert.drawing.roadhandles import line_draft, snap_ring
from zumbert.edits.placesnaps import place_snap
from zumbert.edits.typed import typed_point
from zumbert.geometry.segments import Catch
from zumbert.model.ids import RoadId

if TYPE_CHECKING:
    from zumbert.app.session import Session


Point = tuple[float, float]


class PointTool(ClickTool):
    """ready -place-> placing -place-> placing … -Enter or double click-> ready (done); Backspace
    takes back the last place, Esc gives up all of them, Esc again puts the tool down.
    """

    letters = frozenset("d")
    places = True
    least = 2  # places that make something
    head = "MousePlace"
    closed = False

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.placed: list[Point] = []
        self.at: Point | None = None
        self.snap: Catch | None = None

    # -- what becomes of the places ----------------------------------------------------------------

    def finish(self) -> bool:
        """Makes something of the places; False, and told, where that cannot be."""
        return True

    def placed_one(self) -> None:
        """A place came or went."""

    def draft(self, view: Plan, places: list[Point]) -> list[Mark]:
        """How the places look while they are in hand."""
        return line_draft(places, view.sight, self.closed)

    # -- events ------------------------------------------------------------------------------------

    def clicked(self) -> bool:
        if self.at is not None:
            self._take(self.at)
        return True

    def _take(self, place: Point) -> None:
        if (
            self.placed
            and np.hypot(place[0] - self.placed[-1][0], place[1] - self.placed[-1][1]) < 1e-6
        ):
            return
        self.placed.append(place)
        self.placed_one()

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        world = view.world(at.x, at.y)
        self.snap = None
        if world is not None and not at.alt:
            self.snap = place_snap(
                self.session.state.current.project, *world, PLACE / view.sight.scale
            )
        if self.snap is not None:
            self.at = self.snap.x, self.snap.y
        else:
            self.at = None if world is None else (round(world[0], 2), round(world[1], 2))

    def done(self) -> bool:
        if len(self.placed) < self.least:
            return bool(self.placed)
        if self.finish():
            self.placed = []
        return True

    def backspace(self) -> bool:
        if not self.placed:
            return False
        self.placed.pop()
        self.placed_one()
        return True

    def cancel(self) -> bool:
        had = bool(self.placed)
        self.placed = []
        self.session.preview(None)
        return had

    def ends(self) -> None:
        self.cancel()

    def takes_entry(self) -> bool:
        return True

    def _road(self) -> RoadId | None:
        return road_shown(self.session)

    @told(False)
    def entry(self, text: str) -> bool:
        last = self.placed[-1] if self.placed else None
        self._take(typed_point(text, self.session.state.current.facts, self._road(), last))
        return True

    def plan_over(self, view: Plan) -> Composed:
        places = [*self.placed, self.at] if self.at is not None else self.placed
        marks = self.draft(view, places)
        if self.snap is not None:
            drawn = view.drawn(self.snap.x, self.snap.y)
            if drawn is not None:
                marks += snap_ring(*drawn, self.snap.what.capitalize())
        return Composed(marks, [], [])

    def words(self) -> Words | None:
        if self.at is None:
            return None
        u, lines = self.session.units, self.lines()
        value = f"{u.coordinate(self.at[0])},{u.coordinate(self.at[1])}"
        return Words(self.head, value, self.snap.what if self.snap is not None else "x,y", lines)

    def lines(self) -> tuple[str, ...]:
        """The values that follow from the next place."""
        if not self.placed or self.at is None:
            return ()
        (x0, y0), (x1, y1) = self.placed[-1], self.at
        bearing = np.degrees(np.arctan2(x1 - x0, y1 - y0)) % 360
        return (
            (
                f"<b>{self.session.units.long(float(np.hypot(x1 - x0, y1 - y0)))}</b>, bearing "
                f"{bearing:.1f}°"
            ),
        )
