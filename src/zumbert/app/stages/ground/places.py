"""Tools that take places in plan, one after another, by clicks or typed: spot levels, land,
services, roads.
"""

from html import escape
from typing import TYPE_CHECKING

from zumbert.app.told import told
from zumbert.app.tools.tool import MousePlace, Plan
from zumbert.drawing.marks import Mark
from zumbert.edits.ground import place_background, place_surface
from zumbert.edits.grounditems import GroundItem, item_name
from zumbert.edits.land import add_land, add_service, area_of
from zumbert.edits.notes import add_spot
from zumbert.edits.roads import new_road, road_name
from zumbert.errors import EditError
from zumbert.geometry.intersections import Intersection
from zumbert.geometry.placing import by_pairs
from zumbert.model.ids import BackgroundId, SurfaceId
from zumbert.model.land import LAND_WORDS, LandKind
from zumbert.model.note import Follows
from zumbert.model.project import Project
from zumbert.model.service import ServiceKind

if TYPE_CHECKING:
    from zumbert.app.session import Session
from zumbert.app.tools.points import Point, PointTool


class SpotTool(PointTool):
    """A click pins a spot level that follows a surface."""

    letters = frozenset()
    least = 1
    head = "Level at"

    def __init__(self, session: "Session", follows: Follows = "existing") -> None:
        super().__init__(session)
        self.follows: Follows = follows

    hint = "Click to pin a spot level. Enter: another surface. Esc: put down."

    def done(self) -> bool:
        """Another of the surfaces that there are."""
        found = self.session.state.current.facts.surfaces
        kinds: list[Follows] = [
            k for k in ("existing", "design", "formation") if getattr(found, k) is not None
        ]
        if kinds:
            self.follows = (
                kinds[(kinds.index(self.follows) + 1) % len(kinds)]
                if self.follows in kinds
                else kinds[0]
            )
        return True

    def placed_one(self) -> None:
        if self.placed:
            x, y = self.placed.pop()
            self.session.edit("Pin a spot level", lambda p, f: add_spot(p, x, y, self.follows))

    def draft(self, view: Plan, places: list[Point]) -> list[Mark]:
        return []

    def lines(self) -> tuple[str, ...]:
        if self.at is None:
            return ()
        found = self.session.state.current.facts.surfaces
        tin = getattr(found, self.follows)
        z = float("nan") if tin is None else float(tin.level(*self.at))
        return (
            (
                f"<b>{self.session.units.level(None if z != z else z)}</b> "
                f"{escape(found.name(self.follows))}"
            ),
        )


class PlacingTool(PointTool):
    """Places a drawing or surface by pairs of points: a point of it, where that goes, and once more
    to turn and scale it.

    Enter after the first pair shifts it alone; the second pair ends it by itself.
    """

    hint = (
        "Click a point of it, then where that goes; once more to turn and scale it. Enter: shift "
        "alone. Backspace: take back."
    )
    heads = ("A point of it", "goes to", "A second point of it", "goes to")

    def __init__(self, session: "Session", item: GroundItem) -> None:
        super().__init__(session)
        self.item = item

    @property
    def head(self) -> str:  # type: ignore[override]
        return self.heads[min(len(self.placed), 3)]

    def placed_one(self) -> None:
        if len(self.placed) == 4:
            self.done()
        elif len(self.placed) == 2:
            self.session.preview(self._made())
        elif len(self.placed) < 2:
            self.session.preview(None)

    def _take(self, place: Point) -> None:
        self.placed.append(place)  # a point may stay where it is
        self.placed_one()

    def _made(self) -> Project:
        current = self.session.state.current.project
        pairs = list(zip(self.placed[::2], self.placed[1::2], strict=False))
        try:
            placing = by_pairs(pairs)
        except ValueError as e:
            raise EditError(f"{str(e).capitalize()}: choose points apart.") from e
        if self.item.kind == "surface":
            return place_surface(current, SurfaceId(self.item.id), placing)
        return place_background(current, BackgroundId(self.item.id), placing)

    def finish(self) -> bool:
        name = item_name(self.session.state.current.project, self.item)
        return self.session.edit(f"Place {name}", lambda p, f: self._made())


class LandTool(PointTool):
    """Corner after corner of an area; Enter closes it."""

    hint = "Click the corners of the area. Enter: close it. Backspace: take back. Esc: give up."
    least, closed = 3, True

    def __init__(self, session: "Session", kind: LandKind) -> None:
        super().__init__(session)
        self.kind: LandKind = kind

    @told(False)
    def finish(self) -> bool:
        current = self.session.state.current.project
        project, key = add_land(current, self.kind, self.placed)
        if self.session.apply(f"Draw {project.land[key].name}", project):
            self.session.pick(GroundItem("land", key))
        return True

    def lines(self) -> tuple[str, ...]:
        places = [*self.placed, self.at] if self.at is not None else self.placed
        area = (
            f"{LAND_WORDS[self.kind]}, {self.session.units.area(abs(area_of(places)))}"
            if len(places) > 2
            else ""
        )
        return (*super().lines(), area)


class ServiceTool(PointTool):
    """Place after place along a service; each may be typed with its level: "x,y,z"."""

    hint = (
        'Click along the service, or type "x,y,level". Enter: done. Backspace: take back. Esc: '
        "give up."
    )

    def __init__(self, session: "Session", kind: ServiceKind) -> None:
        super().__init__(session)
        self.kind: ServiceKind = kind
        self.levels: list[float | None] = []

    def placed_one(self) -> None:
        self.levels = [*self.levels, None][: len(self.placed)]

    @told(False)
    def entry(self, text: str) -> bool:
        parts = text.split(",")
        if len(parts) != 3:
            return super().entry(text)
        x, y, z = (self.session.units.typed(t) for t in parts)
        self._take((x, y))
        self.levels[-1] = z
        return True

    @told(False)
    def finish(self) -> bool:
        points = [(x, y, z) for (x, y), z in zip(self.placed, self.levels, strict=True)]
        project, key = add_service(self.session.state.current.project, self.kind, points)
        if self.session.apply(f"Draw {project.services[key].label}", project):
            self.session.pick(GroundItem("service", key))
        return True

    def done(self) -> bool:
        out = super().done()
        if not self.placed:
            self.levels = []
        return out

    def cancel(self) -> bool:
        self.levels = []
        return super().cancel()


class RoadTool(PointTool):
    """Intersection point after intersection point; "r60" gives the last one a radius, "r60 20
    20" clothoids too.
    """

    letters = frozenset("dr")

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.curves: list[tuple[float, float, float]] = []

    @property
    def hint(self) -> str:  # type: ignore[override]
        if not self.placed:
            return "Click where the road begins, or type x,y. Esc: put down."
        return (
            "Click the next point. r60 20 20: radius and clothoids of the last. Enter: done. "
            "Backspace: take back. Esc: give up."
        )

    def placed_one(self) -> None:
        self.curves = [*self.curves, (0.0, 0.0, 0.0)][: len(self.placed)]

    def points(self, places: list[Point]) -> tuple[Intersection, ...]:
        """The intersection points in hand."""
        curves = [*self.curves, (0.0, 0.0, 0.0)][: len(places)]
        return tuple(Intersection(x, y, *c) for (x, y), c in zip(places, curves, strict=True))

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        super().plan_move(view, at, pressed)
        self._look()

    def _look(self) -> None:
        """The road as it would be, live, with its ground in the long section."""
        places = [*self.placed, self.at] if self.at is not None else self.placed
        current = self.session.state.current.project
        try:
            self.session.preview(
                new_road(current, road_name(current), self.points(places))
                if len(places) > 1
                else None
            )
        except EditError:
            self.session.preview(None)

    @told(False)
    def entry(self, text: str) -> bool:
        if not text.strip().lower().startswith("r"):
            return super().entry(text)
        values = [self.session.units.typed(t) for t in text.strip()[1:].split()]
        if not self.placed or not 1 <= len(values) <= 3 or min(values) < 0:
            raise EditError(
                'Type "r60", or "r60 20 20" with the lengths of both clothoids, once a point '
                "is placed."
            )
        both = values[1:2] * 2 if len(values) == 2 else values[1:] or [0.0, 0.0]
        self.curves[-1] = (values[0], *both)  # type: ignore[assignment]
        self._look()
        return True

    @told(False)
    def finish(self) -> bool:
        current = self.session.state.current.project
        name = road_name(current)
        project = new_road(current, name, self.points(self.placed))
        if self.session.apply(f"Make {name}", project):
            self.session.pick(GroundItem("road", next(reversed(project.roads))))
        self.curves = []
        return True

    def cancel(self) -> bool:
        self.curves = []
        return super().cancel()
