"""Dragging the points of a road: intersection points and radii in plan, vertical points and curves in the section."""

from html import escape
from typing import TYPE_CHECKING, cast

from msgspec.structs import replace

from zumbert.app.tools.tool import Place, Tool, Words
from zumbert.drawing.marks import Composed, Mark, Stroke, Target, points
from zumbert.drawing.roadhandles import profile_rings, road_rings
from zumbert.edits.placesnaps import place_snap
from zumbert.edits.roads import editable, set_points, set_pvis, with_point, with_pvi
from zumbert.edits.typed import changed_by, number, typed_chainage
from zumbert.errors import EditError
from zumbert.geometry.intersections import Intersection, intersections_of, radius_through
from zumbert.geometry.profile import Profile, Pvi
from zumbert.model.ids import RoadId
from zumbert.model.project import Project
from zumbert.model.road import Road

if TYPE_CHECKING:
    from zumbert.app.session import Session, State
    from zumbert.app.views.planview import PlanView
    from zumbert.app.views.sectionview import SectionView
    from zumbert.app.views.view import DrawingView

PARTS = ("ip", "radius", "pvi", "curve")
SNAP = 9.0  # drawing units
EDIT_LETTERS = frozenset("rl")


def road_in_hand(s: "State") -> Road | None:
    """The road whose points are shown: the one selected in the stage Ground."""
    if s.stage != "ground" or s.thing is None or s.thing.kind != "road":
        return None
    return s.shown.project.roads.get(RoadId(s.thing.id))


def points_of(road: Road) -> tuple[Intersection, ...]:
    """The intersection points of a road, told from its pieces where it came in pieces; none where they cannot be."""
    if road.points:
        return road.points
    try:
        return intersections_of(road.elements)
    except ValueError:
        return ()


def road_handles(s: "State", view: "DrawingView", hot: str | None) -> Composed:
    """The rings of the road in hand, over plan or long section."""
    road = road_in_hand(s)
    if road is None:
        return Composed([], [], [])
    part = s.part
    if view.kind == "plan":
        line = points_of(road)
        at = part[1] if part is not None and part[0] == "ip" else None
        return road_rings(line, cast("PlanView", view).sight, s.units, hot, at) if line else Composed([], [], [])
    shown = s.run_key is not None and s.run_key.kind == "road" and s.run_key.id == road.id
    if not shown or road.design is None:
        return Composed([], [], [])
    at = part[1] if part is not None and part[0] == "pvi" else None
    return profile_rings(road.profiles[road.design].pvis, cast("SectionView", view).sight, hot, at)


class RoadDrag:
    """idle -press on a ring-> dragging -release-> idle (done); typing -Enter-> idle (done); Esc -> idle (nothing)."""

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.part: tuple[str, int] | None = None
        self.typing = False
        self._project: Project | None = None
        self._base: Project | None = None
        self._grab = (0.0, 0.0)  # from the cursor to the ring, drawing units

    @property
    def active(self) -> bool:
        return self.part is not None

    def begin(self, target: Target, at: Place | None = None) -> None:
        """Takes a ring; a road that came in pieces is told by its points from then on."""
        thing = self.session.state.thing
        if thing is None:
            return
        kept = self.session.state.kept.project
        try:
            self._base = editable(kept, RoadId(thing.id)) if target.kind in ("ip", "radius") else kept
        except EditError as e:
            self.session.refused.emit(str(e))
            return
        self.part, self._project, self.typing = (target.kind, int(target.id)), None, False
        self._grab = (0.0, 0.0) if at is None else (float(target.xy[0, 0]) - at.x, float(target.xy[0, 1]) - at.y)
        if target.kind in ("ip", "pvi"):
            self.session.set(part=self.part)

    @property
    def _road(self) -> Road:
        assert self._base is not None and self.session.state.thing is not None  # noqa: S101 - while a ring is in hand
        return self._base.roads[RoadId(self.session.state.thing.id)]

    def drag(self, view: "DrawingView", at: Place) -> None:
        """Follows the mouse."""
        if self.part is None or self._base is None:
            return
        kind, i = self.part
        at = at._replace(x=at.x + self._grab[0], y=at.y + self._grab[1])
        try:
            if view.kind == "plan":
                self._look(self._plan(cast("PlanView", view), at, kind, i))
            else:
                self._look(self._section(cast("SectionView", view), at, kind, i))
        except EditError as e:
            self.session.refused.emit(str(e))

    def _look(self, project: Project) -> None:
        self._project = project
        self.session.preview(project)

    def _plan(self, view: "PlanView", at: Place, kind: str, i: int) -> Project:
        assert self._base is not None  # noqa: S101 - while a ring is in hand
        world = view.world(at.x, at.y)
        if world is None:
            raise EditError("There is no such place in the straightened plan.")
        line = list(self._road.points)
        if kind == "radius":
            step = 0.0 if at.alt else 1.0
            radius = radius_through(line, i, *world)
            line[i] = replace(line[i], radius=max(1.0, round(radius / step) * step if step else round(radius, 2)))
        else:
            snap = None if at.alt else place_snap(self._without(), *world, SNAP / view.sight.scale)
            x, y = (snap.x, snap.y) if snap is not None else (round(world[0], 2), round(world[1], 2))
            line[i] = replace(line[i], x=x, y=y)
        return set_points(self._base, self._road.id, line)

    def _without(self) -> Project:
        """The project without the road in hand, whose own points are not to catch it."""
        assert self._base is not None  # noqa: S101 - while a ring is in hand
        return replace(self._base, roads={k: r for k, r in self._base.roads.items() if k != self._road.id})

    def _section(self, view: "SectionView", at: Place, kind: str, i: int) -> Project:
        assert self._base is not None and self._road.design is not None  # noqa: S101 - while a ring is in hand
        pvis = list(self._road.profiles[self._road.design].pvis)
        ch, z = view.sight.s_at(at.x), view.sight.z_at(at.y)
        if kind == "curve":
            step = 0.01 if at.alt else 1.0
            long = max(step, round(2 * abs(ch - pvis[i].chainage) / step) * step)
            pvis[i] = Pvi(pvis[i].chainage, pvis[i].level, long)
        else:
            across, up = (0.01, 0.001) if at.alt else (0.5, 0.005)
            ch, z = round(ch / across) * across, round(z / up) * up
            if at.shift:
                ch = pvis[i].chainage
            pvis[i] = replace(pvis[i], chainage=round(ch, 6), level=round(z, 6))
        return set_pvis(self._base, self._road.id, self._road.design, pvis)

    def finish(self) -> bool:
        """Commits as one undo step."""
        project, part = self._project, self.part
        name = self._road.name if part is not None and self._base is not None else ""
        self._clear()
        if project is None or part is None:
            return False
        words = {"ip": "Move point", "radius": "Change the radius at point", "pvi": "Move vertical point",
                 "curve": "Change the curve at vertical point"}[part[0]]  # fmt: skip
        self.session.apply(f"{words} {part[1] + 1} of {name}", project)
        return True

    def _clear(self) -> None:
        self.part, self._project, self._base, self.typing = None, None, None, False

    def cancel(self) -> bool:
        """Leaves all as it was."""
        if self.part is None:
            return False
        self._clear()
        self.session.preview(None)
        return True

    def entry(self, text: str) -> bool:
        """A typed value: a place, a radius (r60 20 20), a level (+0.15), a curve length (l80)."""
        try:
            self._look(self._typed(text.strip().lower()))
        except (EditError, ValueError) as e:
            self.session.refused.emit(str(e))
            return False
        return self.finish()

    def _typed(self, t: str) -> Project:
        assert self.part is not None and self._base is not None  # noqa: S101 - while a ring is in hand
        (kind, i), road, u = self.part, self._road, self._base.units
        if kind in ("ip", "radius"):
            line = list(road.points)
            if t.startswith("r") or kind == "radius":
                values = [number(v, u) for v in t.removeprefix("r").split()]
                if not 1 <= len(values) <= 3:
                    raise EditError('Type a radius as "r60", with clothoids "r60 20 20".')
                own = (line[i].clothoid_in, line[i].clothoid_out)
                a, b = own if len(values) == 1 else (values[1], values[-1])
                line[i] = replace(line[i], radius=values[0], clothoid_in=a, clothoid_out=b)
            else:
                parts = t.split(",")
                if len(parts) != 2:
                    raise EditError('Type a place as "x,y", or a radius as "r60".')
                line[i] = replace(line[i], x=number(parts[0], u), y=number(parts[1], u))
            return set_points(self._base, road.id, line)
        assert road.design is not None  # noqa: S101 - a profile is in force
        pvis = list(road.profiles[road.design].pvis)
        if t.startswith("l") or kind == "curve":
            pvis[i] = Pvi(pvis[i].chainage, pvis[i].level, number(t.removeprefix("l"), u))
        else:
            parts = t.split()
            ch = typed_chainage(parts[0], u) if len(parts) == 2 else pvis[i].chainage
            pvis[i] = replace(pvis[i], chainage=ch, level=changed_by(parts[-1] if parts else "", pvis[i].level, u))
        return set_pvis(self._base, road.id, road.design, pvis)

    def words(self) -> Words | None:
        """The entry line while a ring is in hand."""
        s = self.session.state
        road = road_in_hand(s)
        if self.part is None or road is None:
            return None
        (kind, i), u = self.part, s.units
        if kind in ("ip", "radius"):
            line = points_of(road)
            p = line[i]
            long = s.shown.facts.roads[road.id].alignment.length
            lines = (f"radius <b>{u.length(p.radius)}</b>, clothoids {u.length(p.clothoid_in)} and {u.length(p.clothoid_out)}",
                     f"{escape(road.name)} is <b>{u.long(long)}</b> long")  # fmt: skip
            if kind == "radius":
                return Words(f"Radius at point {i + 1}", u.length(p.radius), u.m, lines)
            return Words(f"Point {i + 1}", f"{u.coordinate(p.x)},{u.coordinate(p.y)}", "x,y or r60", lines)
        if road.design is None:
            return None
        pvis = road.profiles[road.design].pvis
        profile = Profile(pvis)
        grades = [u.slope(float(g)) for g in profile.grades]
        before, beyond = grades[i - 1] if i else "–", grades[i] if i < len(grades) else "–"
        lines = (
            f"grades <b>{before}</b> and <b>{beyond}</b>",
            f"curve {u.long(float(profile.before[i] + profile.beyond[i]))}",
        )
        if kind == "curve":
            return Words(f"Curve at vertical point {i + 1}", u.length(pvis[i].length), u.m, lines)
        value = f"{u.coordinate(pvis[i].chainage)} {u.level(pvis[i].level)}"
        return Words(f"Vertical point {i + 1}", value, "chainage level", lines)


class AddPointTool(Tool):
    """A click in plan puts an intersection point into the road selected, a click in the long section a vertical point;
    both may be typed: "x,y", "chainage level" or "chainage level length". Esc puts the tool down.
    """

    hint = "Click in the plan for an intersection point, in the long section for a vertical point. Esc: put down."

    def __init__(self, session: "Session", road: RoadId) -> None:
        super().__init__(session)
        self.road = road
        self.at: tuple[str, float, float] | None = None

    def move(self, view: "DrawingView", at: Place, held: bool) -> None:
        if view.kind == "plan":
            world = view.world(at.x, at.y)
            self.at = None if world is None else ("plan", round(world[0], 2), round(world[1], 2))
        else:
            sight = cast("SectionView", view).sight
            self.at = ("section", round(sight.s_at(at.x) * 2) / 2, round(sight.z_at(at.y) / 0.005) * 0.005)

    def press(self, view: "DrawingView", at: Place) -> bool:
        self.move(view, at, False)
        if self.at is not None:
            kind, a, b = self.at
            self._add(kind, a, b)
        return True

    def _add(self, kind: str, a: float, b: float, long: float = 0.0) -> bool:
        what = "a point" if kind == "plan" else "a vertical point"
        name = self.session.state.kept.project.roads[self.road].name
        make = with_point if kind == "plan" else with_pvi
        return self.session.edit(f"Add {what} to {name}", lambda p, f: make(p, self.road, a, b, long))

    def takes_entry(self, view: "DrawingView") -> bool:
        return True

    def entry(self, text: str) -> bool:
        u = self.session.units
        try:
            if "," in text:
                x, y = (number(t, u) for t in text.split(","))
                return self._add("plan", x, y)
            parts = text.split()
            if len(parts) not in (2, 3):
                raise EditError('Type "x,y" for a point, or "chainage level" for a vertical one.')
            long = number(parts[2], u) if len(parts) == 3 else 0.0
            return self._add("section", typed_chainage(parts[0], u), number(parts[1], u), long)
        except (EditError, ValueError) as e:
            self.session.refused.emit(str(e))
            return False

    def over(self, view: "DrawingView") -> Composed:
        made = road_handles(self.session.state, view, None)
        marks: list[Mark] = [*made.marks]
        if self.at is not None and self.at[0] == "section" and view.kind == "section" and view.mouse is not None:
            x, y = view.mouse.x, view.mouse.y
            marks.append(Stroke("tangent", points((x - 6, y), (x + 6, y))))
            marks.append(Stroke("tangent", points((x, y - 6), (x, y + 6))))
        return Composed(marks, [], [])

    def words(self) -> Words | None:
        if self.at is None:
            return None
        u, (kind, a, b) = self.session.units, self.at
        if kind == "plan":
            return Words("Point at", f"{u.coordinate(a)},{u.coordinate(b)}", "x,y")
        return Words("Vertical point at", f"{u.coordinate(a)} {u.level(b)}", "chainage level length")
