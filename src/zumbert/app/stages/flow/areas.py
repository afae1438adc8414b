"""Tools of the stage Flow: areas drawn, taken from lines, drained by a click; the way of water over
the ground, and what drains to an inlet.
"""

from typing import TYPE_CHECKING, Any

import numpy as np

from zumbert.app.told import told
from zumbert.app.tools.fromline import LineTool
from zumbert.app.tools.points import PointTool
from zumbert.app.tools.tool import NOTHING, ClickTool, MousePlace, Plan, Tool, Words
from zumbert.drawing.marks import Composed, Disc, Mark, Text
from zumbert.drawing.strokes import strokes
from zumbert.edits.areas import add_area, assign, nearest_structure
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.land import area_of
from zumbert.errors import EditError
from zumbert.geometry.drop import DropPath, drop_path
from zumbert.geometry.tin import Tin
from zumbert.model.ids import AreaId, StructureId

if TYPE_CHECKING:
    from zumbert.app.session import Session

Ring = list[tuple[float, float]]
REACH = 30.0  # m: a drop path that ends so near to a structure drains to it
CAUGHT = 3.0  # m: one that passes so near to an inlet is caught by it


def drawn_area(
    session: "Session",
    ring: Ring,
    kind: str,
    structure: StructureId | None = None,
    size: float | None = None,
) -> bool:
    """Makes an area, drained to the structure inside or nearest to it where none is given, and
    selects it.
    """
    current = session.state.current
    to = structure
    if to is None and ring:
        to = nearest_structure(current.facts, np.array(ring))
    project, key = add_area(current.project, kind, ring=ring, size=size, structure=to)
    if session.apply(f"Draw {project.areas[key].name}", project):
        session.pick(GroundItem("area", key))
    return True


def kind_now(session: "Session") -> str:
    """The kind of the next area; the first where the one that was chosen is gone."""
    s = session.state
    kinds = [k.name for k in s.current.project.area_kinds]
    return s.held.area_kind if s.held.area_kind in kinds or not kinds else kinds[0]


class AreaTool(PointTool):
    """Corner after corner of an area; Enter closes it."""

    hint = "Click the corners of the area. Enter: close it. Backspace: take back. Esc: give up."
    least, closed = 3, True

    @told(False)
    def finish(self) -> bool:
        return drawn_area(self.session, self.placed, kind_now(self.session))

    def lines(self) -> tuple[str, ...]:
        places = [*self.placed, self.at] if self.at is not None else self.placed
        if len(places) < 3:
            return super().lines()
        to = nearest_structure(self.session.state.current.facts, np.array(places))
        label = (
            self.session.state.current.project.structures[to].label if to is not None else "nowhere"
        )
        return (
            *super().lines(),
            f"{kind_now(self.session)}, {self.session.units.area(abs(area_of(places)))} to {label}",
        )


class AreaLineTool(LineTool):
    """ready -a line under the cursor-> shown with its whole chain -click-> an area of it. Esc
    puts the tool down.
    """

    hint = "Click a closed line of a drawing to make an area of it. Esc: put down."
    plan_clicks = True

    @told(True)
    def plan_press(self, view: Plan, at: MousePlace) -> bool:
        self.plan_move(view, at, False)
        if self.line is None:
            raise EditError("There is no line of a drawing here: click on one.")
        ring = [(float(x), float(y)) for x, y in self.line.tolist()]
        if len(ring) < 4 or np.hypot(ring[0][0] - ring[-1][0], ring[0][1] - ring[-1][1]) > 0.01:
            raise EditError("This line is not closed: pick another, or draw the area.")
        return drawn_area(self.session, ring[:-1], kind_now(self.session))


class AssignTool(Tool):
    """ready -a structure-> the selected area drains there; -an area-> selected. Esc puts the
    tool down.
    """

    plan_clicks = True

    @property
    def hint(self) -> str:  # type: ignore[override]
        s = self.session.state
        if (
            s.chosen.item is None
            or s.chosen.item.kind != "area"
            or s.chosen.item.id not in s.current.project.areas
        ):
            return "Click the area that is to drain somewhere else. Esc: put down."
        name = s.current.project.areas[s.chosen.item.id].name
        return f"Click the structure that {name} drains to, or another area. Esc: put down."

    def plan_press(self, view: Plan, at: MousePlace) -> bool:
        from zumbert.drawing.flowmarks import area_at

        s, hit = self.session.state, view.hit(at.x, at.y)
        item = (
            s.chosen.item
            if s.chosen.item is not None
            and s.chosen.item.kind == "area"
            and s.chosen.item.id in s.current.project.areas
            else None
        )
        if (
            hit is not None
            and hit.kind == "structure"
            and hit.id in s.current.project.structures
            and item is not None
        ):
            name = s.current.project.areas[AreaId(item.id)].name
            label = s.current.project.structures[StructureId(hit.id)].label
            self.session.edit(
                f"Drain {name} to {label}",
                lambda p, f: assign(p, [AreaId(item.id)], StructureId(hit.id)),
            )
            self.session.pick(item)
            return True
        world = view.world(at.x, at.y)
        found = None if world is None else area_at(s.current.facts, *world)
        if found is None:
            return False
        self.session.pick(GroundItem("area", found))
        return True


def ground_of(session: "Session") -> Tin:
    """The existing ground. Raises EditError where there is none."""
    tin = session.state.current.facts.surfaces.existing
    if not isinstance(tin, Tin):
        raise EditError("There is no existing ground yet: import a surface first.")
    return tin


def caught_at(session: "Session", path: DropPath) -> StructureId | None:
    """The first inlet that a way down passes near to, else the structure near its end."""
    facts, project = session.state.current.facts, session.state.current.project
    keys = [
        k
        for k, p in facts.places.items()
        if p.x is not None and project.structures[k].status != "abandoned"
    ]
    if not keys or not len(path.xyz):
        return None
    xy = np.array([(facts.places[k].x, facts.places[k].y) for k in keys], float)
    import shapely

    line = (
        shapely.linestrings(path.xyz[:, :2])
        if len(path.xyz) > 1
        else shapely.points(*path.xyz[0, :2])
    )
    away = shapely.distance(line, shapely.points(xy))
    inlets = [
        i
        for i, k in enumerate(keys)
        if project.types[project.structures[k].type].inlet is not None and away[i] < CAUGHT
    ]
    if inlets and len(path.xyz) > 1:
        return keys[
            min(inlets, key=lambda i: float(shapely.line_locate_point(line, shapely.points(xy[i]))))
        ]
    end = np.hypot(*(xy - path.xyz[-1, :2]).T)
    i = int(end.argmin())
    return keys[i] if end[i] < REACH else None


class DropPathTool(Tool):
    """The way of water from the place under the cursor, live; with an area selected a click
    drains it to where the way ends.
    """

    plan_clicks = True

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.path: DropPath | None = None
        self.to: StructureId | None = None

    @property
    def hint(self) -> str:  # type: ignore[override]
        s = self.session.state
        if s.chosen.item is not None and s.chosen.item.kind == "area":
            return (
                "Move over the ground to see where water runs. Click: the selected area drains "
                "there. Esc: put down."
            )
        return "Move over the ground to see where water runs. Esc: put down."

    @told(None)
    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        world = view.world(at.x, at.y)
        self.path = None if world is None else drop_path(ground_of(self.session), *world)
        self.to = None if self.path is None else caught_at(self.session, self.path)

    def plan_press(self, view: Plan, at: MousePlace) -> bool:
        self.plan_move(view, at, False)
        s, to = self.session.state, self.to
        if (
            s.chosen.item is None
            or s.chosen.item.kind != "area"
            or s.chosen.item.id not in s.current.project.areas
            or to is None
        ):
            return self.path is not None
        key = AreaId(s.chosen.item.id)
        name, label = s.current.project.areas[key].name, s.current.project.structures[to].label
        item = s.chosen.item
        self.session.edit(f"Drain {name} to {label}", lambda p, f: assign(p, [key], to))
        self.session.pick(item)
        return True

    def plan_over(self, view: Plan) -> Composed:
        if self.path is None or not len(self.path.xyz):
            return NOTHING
        xy = view.sight.to_drawing(self.path.xyz[:, :2])
        marks: list[Mark] = list(strokes("drop-path", xy))
        x, y = xy[-1].tolist()
        if x == x:
            u, project = self.session.units, self.session.state.current.project
            fall = float(self.path.xyz[0, 2] - self.path.xyz[-1, 2])
            to = (
                f"to {project.structures[self.to].label}"
                if self.to is not None
                else f"to the {self.path.ended}"
            )
            marks += [
                Disc("field", x, y, 4.0, "drop-path"),
                Text("strong", f"{to}, falls {u.deep(fall)}", x + 9, y + 4, plate=True),
            ]
        return Composed(marks, [], [])

    def words(self) -> Words | None:
        return None


class CatchmentTool(ClickTool):
    """ready -a structure-> the ground that drains there is outlined and taken as an area."""

    hint = "Click the structure whose catchment is to be an area. Esc: put down."

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.inlet: StructureId | None = None

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        hit = view.hit(at.x, at.y)
        there = self.session.state.current.project.structures
        self.inlet = (
            StructureId(hit.id)
            if hit is not None and hit.kind == "structure" and hit.id in there
            else None
        )

    @told(True)
    def clicked(self) -> bool:
        if self.inlet is None:
            return False
        found = catchment_of(self.session, self.inlet)
        drawn_area(self.session, found, kind_now(self.session), self.inlet)
        return True


def catchment_of(session: "Session", key: StructureId) -> Ring:
    """The ring of what drains to a structure, among all structures that take water in. Raises
    EditError for none.
    """
    from zumbert.geometry.catchment import catchments, outline

    facts, project = session.state.current.facts, session.state.current.project
    takes: list[StructureId] = [key]
    takes += [
        k
        for k, s in project.structures.items()
        if k != key and project.types[s.type].inlet is not None
    ]
    places = [
        (float(p.x), float(p.y))
        for k in takes
        if (p := facts.places[k]).x is not None and p.y is not None
    ]
    ring = outline(catchments(ground_of(session), places), 0)
    label = project.structures[key].label
    if ring is None:
        raise EditError(f"No ground drains to {label}: it stands outside the surface.")
    return [(float(x), float(y)) for x, y in ring.tolist()]


AREA_TOOLS: dict[str, Any] = {
    "area": AreaTool, "area-line": AreaLineTool, "assign": AssignTool, "drop-path": DropPathTool,
    "catchment": CatchmentTool,
}  # fmt: skip
