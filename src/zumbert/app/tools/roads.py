"""Dragging the points of a road: intersection points and radii in plan, vertical points and
curves in the section.
"""

from collections.abc import Callable
from html import escape
from typing import TYPE_CHECKING

from msgspec.structs import replace

from zumbert.analysis.runline import RunKey
from zumbert.app.told import told
from zumbert.app.tools.drag import Drag
from zumbert.app.tools.near import PLACE
from zumbert.app.tools.tool import EitherClickTool, MousePlace, Plan, Section, View, Words
from zumbert.drawing.marks import Composed, Mark, Stroke, Target, points
from zumbert.drawing.roadhandles import profile_rings, road_rings
from zumbert.edits.placesnaps import place_snap
from zumbert.edits.roads import editable, set_points, set_pvis, with_point, with_pvi
from zumbert.edits.typed import changed_by
from zumbert.errors import EditError
from zumbert.geometry.intersections import Intersection, intersections_of, radius_through
from zumbert.geometry.profile import Profile, Pvi
from zumbert.model.ids import RoadId
from zumbert.model.project import Project
from zumbert.model.road import Road

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.state import State

PARTS = ("ip", "radius", "pvi", "curve")
WORDS = {"ip": "Move point", "radius": "Change the radius at point", "pvi": "Move vertical point",
         "curve": "Change the curve at vertical point"}  # fmt: skip
EDIT_LETTERS = frozenset("rl")


def road_in_hand(s: "State") -> Road | None:
    """The road whose points are shown: the one selected in the stage Ground."""
    if s.look.stage.picks != "ground" or s.chosen.item is None or s.chosen.item.kind != "road":
        return None
    return s.shown.project.roads.get(RoadId(s.chosen.item.id))


def points_of(road: Road) -> tuple[Intersection, ...]:
    """The intersection points of a road, told from its pieces where it came in pieces; none
    where they cannot be.
    """
    if road.points:
        return road.points
    try:
        return intersections_of(road.elements)
    except ValueError:
        return ()


def plan_handles(s: "State", view: Plan, hot: str | None) -> Composed:
    """The rings of the road in hand, over the plan."""
    road = road_in_hand(s)
    line = points_of(road) if road is not None else ()
    at = s.chosen.part[1] if s.chosen.part is not None and s.chosen.part[0] == "ip" else None
    return road_rings(line, view.sight, s.units, hot, at) if line else Composed([], [], [])


def section_handles(s: "State", view: Section, hot: str | None) -> Composed:
    """The rings of the road in hand, over its long section."""
    road = road_in_hand(s)
    if road is None or road.design is None or s.look.run_key != RunKey("road", road.id):
        return Composed([], [], [])
    at = s.chosen.part[1] if s.chosen.part is not None and s.chosen.part[0] == "pvi" else None
    return profile_rings(road.profiles[road.design].pvis, view.sight, hot, at)


class RoadDrag(Drag):
    """A ring of a road in hand: by the mouse, or (without a place) for the keyboard."""

    hint = (
        "Release to set it. Alt: no snaps. Type a place, r60 20 20, a level, +0.15 or l80. Esc: "
        "as it was."
    )
    takes_text = True

    def __init__(
        self,
        session: "Session",
        base: Project,
        road: RoadId,
        part: tuple[str, int],
        at: MousePlace | None,
    ) -> None:
        super().__init__(session, at)
        self.base, self.road, self.part = base, base.roads[road], part
        # rings of vertical points are drawn where a profile is in force
        self._design = self.road.design or 0
        self._grab = (0.0, 0.0)  # from the cursor to the ring, drawing units
        kind, i = part
        self.name = f"{WORDS[kind]} {i + 1} of {self.road.name}"

    @classmethod
    def press(
        cls, session: "Session", view: View | None, target: Target, at: MousePlace | None = None
    ) -> "RoadDrag | None":
        """Takes a ring; a road that came in pieces is told by its points from then on."""
        item, part = session.state.chosen.item, (target.kind, int(target.id))
        if item is None:
            return None
        current, road = session.state.current.project, RoadId(item.id)
        try:
            base = editable(current, road) if target.kind in ("ip", "radius") else current
        except EditError as e:
            session.refused.emit(str(e))
            return None
        made = cls(session, base, road, part, at)
        if at is not None:
            made._grab = float(target.xy[0, 0]) - at.x, float(target.xy[0, 1]) - at.y
        if target.kind in ("ip", "pvi"):
            session.set(part=part)
        return made

    def plan_move(self, view: Plan, at: MousePlace) -> None:
        self._try(lambda: self._in_plan(view, self._ring(at)))

    def section_move(self, view: Section, at: MousePlace) -> None:
        self._try(lambda: self._in_section(view, self._ring(at)))

    def _ring(self, at: MousePlace) -> MousePlace:
        """Where the ring is, for a place of the cursor."""
        return at._replace(x=at.x + self._grab[0], y=at.y + self._grab[1])

    @told(None)
    def _try(self, make: Callable[[], Project]) -> None:
        self.show(make())

    def _pvis(self) -> list[Pvi]:
        return list(self.road.profiles[self._design].pvis)

    def _in_plan(self, view: Plan, at: MousePlace) -> Project:
        world = view.world(at.x, at.y)
        if world is None:
            raise EditError("There is no such place in the straightened plan.")
        line, (kind, i) = list(self.road.points), self.part
        if kind == "radius":
            step = 0.0 if at.alt else 1.0
            radius = radius_through(line, i, *world)
            line[i] = replace(
                line[i], radius=max(1.0, round(radius / step) * step if step else round(radius, 2))
            )
        else:
            snap = None if at.alt else place_snap(self._without(), *world, PLACE / view.sight.scale)
            x, y = (
                (snap.x, snap.y) if snap is not None else (round(world[0], 2), round(world[1], 2))
            )
            line[i] = replace(line[i], x=x, y=y)
        return set_points(self.base, self.road.id, line)

    def _without(self) -> Project:
        """The project without the road in hand, whose own points are not to catch it."""
        return replace(
            self.base, roads={k: r for k, r in self.base.roads.items() if k != self.road.id}
        )

    def _in_section(self, view: Section, at: MousePlace) -> Project:
        pvis, (kind, i) = self._pvis(), self.part
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
        return set_pvis(self.base, self.road.id, self._design, pvis)

    def meant(self, text: str) -> Project:
        t = text.strip().lower()
        (kind, i), road, u = self.part, self.road, self.base.units
        if kind in ("ip", "radius"):
            line = list(road.points)
            if t.startswith("r") or kind == "radius":
                values = [u.typed(v) for v in t.removeprefix("r").split()]
                if not 1 <= len(values) <= 3:
                    raise EditError('Type a radius as "r60", with clothoids "r60 20 20".')
                own = (line[i].clothoid_in, line[i].clothoid_out)
                a, b = own if len(values) == 1 else (values[1], values[-1])
                line[i] = replace(line[i], radius=values[0], clothoid_in=a, clothoid_out=b)
            else:
                parts = t.split(",")
                if len(parts) != 2:
                    raise EditError('Type a place as "x,y", or a radius as "r60".')
                line[i] = replace(line[i], x=u.typed(parts[0]), y=u.typed(parts[1]))
            return set_points(self.base, road.id, line)
        pvis = self._pvis()
        if t.startswith("l") or kind == "curve":
            pvis[i] = Pvi(pvis[i].chainage, pvis[i].level, u.typed(t.removeprefix("l")))
        else:
            parts = t.split()
            ch = u.typed_chainage(parts[0]) if len(parts) == 2 else pvis[i].chainage
            pvis[i] = replace(
                pvis[i], chainage=ch, level=changed_by(parts[-1] if parts else "", pvis[i].level, u)
            )
        return set_pvis(self.base, road.id, self._design, pvis)

    def words(self) -> Words | None:
        s = self.session.state
        road = road_in_hand(s)
        if road is None:
            return None
        (kind, i), u = self.part, s.units
        if kind in ("ip", "radius"):
            line = points_of(road)
            p = line[i]
            long = s.shown.facts.roads[road.id].alignment.length
            lines = (
                (
                    f"radius <b>{u.length(p.radius)}</b>, clothoids {u.length(p.clothoid_in)} and "
                    f"{u.length(p.clothoid_out)}"
                ),
                f"{escape(road.name)} is <b>{u.long(long)}</b> long",
            )
            if kind == "radius":
                return Words(f"Radius at point {i + 1}", u.length(p.radius), u.m, lines)
            return Words(
                f"Point {i + 1}", f"{u.coordinate(p.x)},{u.coordinate(p.y)}", "x,y or r60", lines
            )
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


class AddPointTool(EitherClickTool):
    """A click in plan puts an intersection point into the road selected, a click in the long
    section a vertical point; both may be typed: "x,y", "chainage level" or "chainage level length".
    Esc puts the tool down.
    """

    hint = (
        "Click in the plan for an intersection point, in the long section for a vertical point. "
        "Esc: put down."
    )

    def __init__(self, session: "Session", road: RoadId) -> None:
        super().__init__(session)
        self.road = road
        self.at: tuple[str, float, float] | None = None

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        world = view.world(at.x, at.y)
        self.at = None if world is None else ("plan", round(world[0], 2), round(world[1], 2))

    def section_move(self, view: Section, at: MousePlace, pressed: bool) -> None:
        self.at = (
            "section",
            round(view.sight.s_at(at.x) * 2) / 2,
            round(view.sight.z_at(at.y) / 0.005) * 0.005,
        )

    def clicked(self) -> bool:
        if self.at is not None:
            self._add(*self.at)
        return True

    def _add(self, kind: str, a: float, b: float, long: float = 0.0) -> bool:
        what = "a point" if kind == "plan" else "a vertical point"
        name = self.session.state.current.project.roads[self.road].name
        make = with_point if kind == "plan" else with_pvi
        return self.session.edit(
            f"Add {what} to {name}", lambda p, f: make(p, self.road, a, b, long)
        )

    def takes_entry(self) -> bool:
        return True

    @told(False)
    def entry(self, text: str) -> bool:
        u = self.session.units
        place, parts = text.split(","), text.split()
        if len(place) == 2:
            return self._add("plan", u.typed(place[0]), u.typed(place[1]))
        if len(parts) not in (2, 3):
            raise EditError('Type "x,y" for a point, or "chainage level" for a vertical one.')
        long = u.typed(parts[2]) if len(parts) == 3 else 0.0
        return self._add("section", u.typed_chainage(parts[0]), u.typed(parts[1]), long)

    def plan_over(self, view: Plan) -> Composed:
        return Composed(plan_handles(self.session.state, view, None).marks, [], [])

    def section_over(self, view: Section) -> Composed:
        marks: list[Mark] = [*section_handles(self.session.state, view, None).marks]
        if self.at is not None and self.at[0] == "section" and view.mouse is not None:
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
        return Words(
            "Vertical point at", f"{u.coordinate(a)} {u.level(b)}", "chainage level length"
        )
