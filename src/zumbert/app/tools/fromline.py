"""Making a road, an area of land or a service from a line of a drawing by others."""

from typing import TYPE_CHECKING, Literal

import numpy as np

from zumbert.app.told import told
from zumbert.app.tools.near import PLACE
from zumbert.app.tools.tool import NOTHING, MousePlace, Plan, Tool, Words
from zumbert.drawing.marks import Composed
from zumbert.drawing.strokes import strokes
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.land import add_land, add_service, area_of
from zumbert.edits.placesnaps import index_of
from zumbert.edits.roads import new_road, road_name
from zumbert.geometry.elements import Array
from zumbert.geometry.intersections import through_polyline
from zumbert.geometry.segments import chain, distances
from zumbert.model.land import LandKind
from zumbert.model.project import Project
from zumbert.model.service import ServiceKind

if TYPE_CHECKING:
    from zumbert.app.session import Session

Purpose = (
    tuple[Literal["road"], None]
    | tuple[Literal["land"], LandKind]
    | tuple[Literal["service"], ServiceKind]
)


class LineTool(Tool):
    """ready -a line under the cursor-> shown with its whole chain."""

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.line: Array | None = None  # (n, 2), m: the chain under the cursor
        self._on: tuple[str, int] | None = None

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        world = view.world(at.x, at.y)
        within = PLACE / view.sight.scale
        found = None if world is None else self._nearest(world, within)
        if found is None:
            self.line, self._on = None, None
        elif found != self._on:
            b = next(
                b
                for k, b in self.session.state.current.project.backgrounds.items()
                if k == found[0]
            )
            self._on, self.line = found, chain(b.segments, found[1])

    def _nearest(self, world: tuple[float, float], within: float) -> tuple[str, int] | None:
        """The drawing and the number of the nearest piece that is shown."""
        best: tuple[float, tuple[str, int]] | None = None
        for key, b in self.session.state.current.project.backgrounds.items():
            if not b.shown or not len(b.segments):
                continue
            x, y = world
            rows = index_of(b).boxed(x - within, y - within, x + within, y + within)
            on = np.array([name not in b.off for name in b.layers], bool)[b.layer[rows]]
            rows = rows[on]
            if len(rows):
                far = distances(b.segments[rows], x, y)
                i = int(far.argmin())
                if far[i] <= within and (best is None or far[i] < best[0]):
                    best = float(far[i]), (key, int(rows[i]))
        return None if best is None else best[1]

    def plan_over(self, view: Plan) -> Composed:
        if self.line is None:
            return NOTHING
        return Composed([*strokes("halo", view.sight.to_drawing(self.line))], [], [])


class FromLineTool(LineTool):
    """ready -a line under the cursor-> shown with its whole chain -click-> taken. Esc puts the
    tool down.
    """

    def __init__(self, session: "Session", purpose: Purpose) -> None:
        super().__init__(session)
        self.purpose = purpose

    @property
    def hint(self) -> str:  # type: ignore[override]
        what = {"road": "a road", "land": "an area of land", "service": "a service"}[
            self.purpose[0]
        ]
        return (
            f"Click a line of a drawing to make {what} of it. Enter: the other way round. Esc: "
            "put down."
        )

    @told(True)
    def plan_press(self, view: Plan, at: MousePlace) -> bool:
        self.plan_move(view, at, False)
        if self.line is None:
            self.session.refused.emit("There is no line of a drawing here: click on one.")
            return True
        name, project, item = self._made(self.session.state.current.project, self.line)
        self.session.apply(name, project)
        self.session.pick(item)
        return True

    def _made(self, project: Project, line: Array) -> tuple[str, Project, GroundItem]:
        kind, what = self.purpose
        places = [(float(x), float(y)) for x, y in line]
        if kind == "road":
            name = road_name(project)
            made = new_road(project, name, through_polyline(places))
            return f"Make {name}", made, GroundItem("road", next(reversed(made.roads)))
        if kind == "land":
            made, key = add_land(project, what, places)  # type: ignore[arg-type]
            return f"Make {made.land[key].name}", made, GroundItem("land", key)
        made, service = add_service(project, what, [(x, y, None) for x, y in places])  # type: ignore[arg-type]
        return f"Make {made.services[service].label}", made, GroundItem("service", service)

    def done(self) -> bool:
        """Turned round: a road's chainages begin at the other end."""
        if self.line is None:
            return False
        self.line = self.line[::-1]
        return True

    def words(self) -> Words | None:
        if self.line is None:
            return None
        u = self.session.units
        long = float(np.hypot(*np.diff(self.line, axis=0).T).sum())
        ring = len(self.line) > 3 and bool(np.hypot(*(self.line[0] - self.line[-1])) < 0.01)
        area = f"area {u.area(abs(area_of(self.line[:-1].tolist())))}" if ring else "open"
        return Words("Line", u.length(long), u.m, (f"{len(self.line) - 1} pieces, {area}",))
