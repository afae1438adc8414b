"""Edits of roads: intersection points, profiles, strips. Anchored structures move with their
road.
"""

from collections.abc import Sequence

from msgspec.structs import replace

from zumbert.analysis.facts import analyse
from zumbert.analysis.roads import pieces
from zumbert.edits.levels import slopes_kept
from zumbert.edits.records import free_name, with_one
from zumbert.edits.setup import add_road
from zumbert.errors import EditError
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.intersections import Intersection, elements_through, intersections_of
from zumbert.geometry.profile import Profile, Pvi
from zumbert.model.display import Units
from zumbert.model.ids import RoadId
from zumbert.model.levels import on_land
from zumbert.model.project import Project
from zumbert.model.road import Road, RoadProfile, Strip
from zumbert.model.structure import Anchored


def with_road(project: Project, road: Road) -> Project:
    """The project with a road's record replaced."""
    return replace(project, roads=with_one(project.roads, road.id, road))


def new_road(
    project: Project, name: str, points: Sequence[Intersection], start: float = 0.0
) -> Project:
    """The project with a road through intersection points. Raises EditError where its curves do
    not fit.
    """
    _fitting(name, points)
    project = add_road(project, name, (), start)
    key = next(reversed(project.roads))
    return with_road(project, replace(project.roads[key], points=tuple(points)))


def road_name(project: Project) -> str:
    """A name that no road has yet."""
    taken = {r.name for r in project.roads.values()}
    return next(n for n in (f"Road {i}" for i in range(1, len(taken) + 2)) if n not in taken)


def _fitting(name: str, points: Sequence[Intersection]) -> None:
    try:
        elements_through(points)
    except ValueError as e:
        raise EditError(f'"{name}": {e}.') from e


def set_points(project: Project, road: RoadId, points: Sequence[Intersection]) -> Project:
    """The project with a road through other intersection points; what is anchored to it goes with
    it.

    Raises EditError where curves do not fit, or where a structure's chainage would lie beyond the
    end of the road.
    """
    record = project.roads[road]
    if tuple(points) == record.points:
        return project
    _fitting(record.name, points)
    record = replace(record, points=tuple(points), elements=())
    _holds_all(project, record)
    made = with_road(project, record)
    held = [k for k, p in project.pipes.items() if p.hold_slope]
    return slopes_kept(project, analyse(project), made, held) if held else made


def _holds_all(project: Project, road: Road) -> None:
    line = Alignment(pieces(road), road.start)
    beyond = [
        s.label
        for s in project.structures.values()
        if isinstance(s.place, Anchored)
        and s.place.road == road.id
        and not line.start - 1e-6 <= s.place.chainage <= line.end + 1e-6
    ]
    if beyond:
        names = ", ".join(beyond[:3]) + (" and more" if len(beyond) > 3 else "")
        u = project.units
        raise EditError(
            f'"{road.name}" would run from {u.chainage(line.start)} to {u.chainage(line.end)}, '
            f"and {names} would stand "
            "beyond it: move them first."
        )


def editable(project: Project, road: RoadId) -> Project:
    """The project with a road that came in pieces told by intersection points, in the same place.

    Raises EditError where its curves are such that intersection points cannot tell them.
    """
    record = project.roads[road]
    if record.points:
        return project
    try:
        points = intersections_of(record.elements)
    except ValueError as e:
        raise EditError(f'"{record.name}" cannot be changed point by point: {e}.') from e
    return with_road(project, replace(record, points=points, elements=()))


def set_near(project: Project, road: RoadId, near: float | None) -> Project:
    """The project with a road whose long section shows what stands within a distance (m) of it, or
    (None) only its own.

    Raises EditError for a distance below 0.
    """
    if near is not None and not 0 <= near <= 1000:
        raise EditError(
            f"A long section shows what stands within 0 to {project.units.long(1000.0)} of "
            "its road."
        )
    record = project.roads[road]
    if record.near == near:
        return project
    return replace(project, roads=with_one(project.roads, road, replace(record, near=near)))


def set_start(project: Project, road: RoadId, start: float) -> Project:
    """The project with another start chainage (m) of a road; profiles, strip and what is
    anchored keep their places.
    """
    record = project.roads[road]
    by = start - record.start
    if not by:
        return project
    profiles = tuple(
        replace(p, pvis=tuple(replace(v, chainage=v.chainage + by) for v in p.pvis))
        for p in record.profiles
    )
    strip = record.strip
    if strip is not None:
        strip = replace(
            strip, sections=tuple(replace(s, chainage=s.chainage + by) for s in strip.sections)
        )
    structures = {
        k: replace(s, place=replace(s.place, chainage=s.place.chainage + by))
        if isinstance(s.place, Anchored) and s.place.road == road
        else s
        for k, s in project.structures.items()
    }
    project = with_road(project, replace(record, start=start, profiles=profiles, strip=strip))
    return replace(project, structures=structures)


def rename_road(project: Project, road: RoadId, name: str) -> Project:
    """The project with a road of another name. Raises EditError for no name, or one that is
    taken.
    """
    name = free_name(project.roads, name, road, "road")
    record = project.roads[road]
    return project if record.name == name else with_road(project, replace(record, name=name))


# -- points ----------------------------------------------------------------------------------------


def with_point(project: Project, road: RoadId, x: float, y: float, _: float = 0.0) -> Project:
    """The project with an intersection point more, in the leg that is nearest; beyond an end it
    carries the road on.
    """
    project = editable(project, road)
    line = list(project.roads[road].points)
    new = Intersection(x, y)
    best = min(range(len(line) + 1), key=lambda i: _longer(line, i, new))
    line.insert(best, new)
    return set_points(project, road, line)


def _longer(line: list[Intersection], i: int, new: Intersection) -> float:
    """How much longer the chain of points gets with a new one before point i."""

    def far(a: Intersection, b: Intersection) -> float:
        return float(((a.x - b.x) ** 2 + (a.y - b.y) ** 2) ** 0.5)

    if i == 0:
        return far(new, line[0])
    if i == len(line):
        return far(line[-1], new)
    return far(line[i - 1], new) + far(new, line[i]) - far(line[i - 1], line[i])


def with_pvi(project: Project, road: RoadId, ch: float, level: float, long: float = 0.0) -> Project:
    """The project with a vertical point more in the profile in force. Raises EditError where
    none is.
    """
    record = project.roads[road]
    if record.design is None:
        raise EditError(f'"{record.name}" has no design profile in force: make one first.')
    pvis = sorted(
        [*record.profiles[record.design].pvis, Pvi(ch, level, long)], key=lambda p: p.chainage
    )
    return set_pvis(project, road, record.design, pvis)


def without_point(project: Project, road: RoadId, part: tuple[str, int]) -> Project:
    """The project without one point of a road: ("ip", number) or ("pvi", number). Raises
    EditError where too few are left.
    """
    kind, i = part
    if kind == "ip":
        project = editable(project, road)
        line = project.roads[road].points
        if len(line) <= 2:
            raise EditError("A road keeps two points at least.")
        return set_points(project, road, (*line[:i], *line[i + 1 :]))
    record = project.roads[road]
    if record.design is None:
        raise EditError(f"{record.name} has no design profile in force.")
    pvis = record.profiles[record.design].pvis
    if len(pvis) <= 2:
        raise EditError("A profile keeps two points at least.")
    return set_pvis(project, road, record.design, (*pvis[:i], *pvis[i + 1 :]))


# -- profiles --------------------------------------------------------------------------------------


def add_profile(project: Project, road: RoadId, name: str, pvis: Sequence[Pvi]) -> Project:
    """The project with one more design profile of a road; the first is in force at once, another
    when it is chosen. Raises EditError if it is none.
    """
    record = project.roads[road]
    _sound(record, name, pvis, project.units)
    profiles = (*record.profiles, RoadProfile(name=name, kind="design", pvis=tuple(pvis)))
    design = len(profiles) - 1 if record.design is None else record.design
    return with_road(project, replace(record, profiles=profiles, design=design))


def set_pvis(project: Project, road: RoadId, index: int, pvis: Sequence[Pvi]) -> Project:
    """The project with other vertical points of a profile. Raises EditError where they are no
    profile.
    """
    record = project.roads[road]
    profile = record.profiles[index]
    if profile.pvis == tuple(pvis):
        return project
    _sound(record, profile.name, pvis, project.units)
    profiles = (
        *record.profiles[:index],
        replace(profile, pvis=tuple(pvis)),
        *record.profiles[index + 1 :],
    )
    return with_road(project, replace(record, profiles=profiles))


def remove_profile(project: Project, road: RoadId, index: int) -> Project:
    """The project without a profile; where it was in force none is."""
    record = project.roads[road]
    profiles = (*record.profiles[:index], *record.profiles[index + 1 :])
    design = record.design
    if design is not None:
        design = None if design == index else design - (design > index)
    return with_road(project, replace(record, profiles=profiles, design=design))


def _sound(road: Road, name: str, pvis: Sequence[Pvi], units: Units) -> None:
    for p in pvis:
        on_land(p.level, units)
    try:
        Profile(pvis)
    except ValueError as e:
        raise EditError(f'The profile "{name}" of "{road.name}": {e}.') from e


# -- strips ----------------------------------------------------------------------------------------


def set_strip(project: Project, road: RoadId, strip: Strip | None) -> Project:
    """The project with the strip of a road. Raises EditError for widths that cannot be, or that
    a bend cannot hold.
    """
    record = project.roads[road]
    if strip == record.strip:
        return project
    if strip is not None:
        strip = replace(strip, sections=tuple(sorted(strip.sections, key=lambda s: s.chainage)))
        _possible(project, record, strip)
    return with_road(project, replace(record, strip=strip))


def _possible(project: Project, road: Road, strip: Strip) -> None:
    u = project.units
    if not strip.sections:
        raise EditError(f'The strip of "{road.name}" needs at least one cross-section.')
    for s in strip.sections:
        if not (
            0 <= s.left <= 100
            and 0 <= s.right <= 100
            and s.left + s.right > 0
            and 0 <= s.verge <= 100
        ):
            raise EditError(
                f'"{road.name}": a width of the strip is 0 to {u.long(100.0)}, and the road '
                "has some width."
            )
        if not (
            0 <= s.kerb <= 1
            and max(abs(s.crossfall_left), abs(s.crossfall_right), abs(s.verge_crossfall)) <= 0.5
        ):
            raise EditError(
                f'"{road.name}": a kerb is 0 to {u.long(1.0)}, a crossfall at most 50 %.'
            )
    if not 0 <= strip.depth <= 5:
        raise EditError(f'"{road.name}": the depth of construction is 0 to {u.long(5.0)}.')
    for piece in pieces(road):
        radius = getattr(piece, "radius", None)
        if radius is None:
            continue
        inner = _inner_side(piece)
        wide = max(getattr(s, inner) + s.verge for s in strip.sections)
        if wide >= radius - 0.01:
            raise EditError(
                f'"{road.name}": its strip is {u.long(wide)} wide on the inside of a bend of '
                f"{u.long(radius)} radius: "
                "make it narrower or the bend wider."
            )


def _inner_side(piece: object) -> str:
    """The side that a bend turns to."""
    turn = getattr(piece, "turn", None)
    if turn is None:
        turn = getattr(piece, "k0", 0.0) + getattr(piece, "k1", 0.0)
    return "right" if turn > 0 else "left"
