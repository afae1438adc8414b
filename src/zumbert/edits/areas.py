"""Areas that drain to structures: drawn, typed, taken from drawings or from roads; what comes in
besides, and how it is shared.
"""

from collections.abc import Iterable, Sequence
from itertools import pairwise
from math import hypot, isfinite
from typing import Any

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.areas import road_side_ring
from zumbert.analysis.facts import Facts
from zumbert.edits.land import FAR, area_of
from zumbert.edits.records import free_name, with_one, with_pipe, with_structure
from zumbert.errors import EditError, known
from zumbert.geometry.elements import Array
from zumbert.model.area import Area, AreaKind, RoadSide
from zumbert.model.background import Background
from zumbert.model.ids import AreaId, PipeId, RoadId, StructureId
from zumbert.model.project import Project, with_id
from zumbert.model.quantity import MINUTES, RATIO, SQUARE

SMALLEST = 0.01  # m²


def add_area(
    project: Project,
    kind: str,
    *,
    ring: Sequence[tuple[float, float]] = (),
    size: float | None = None,
    structure: StructureId | None = None,
    name: str | None = None,
    along: RoadSide | None = None,
    coefficient: float | None = None,
    entry: float | None = None,
) -> tuple[Project, AreaId]:
    """The project with one area more, and its id. Raises EditError for one that holds nothing,
    or an unknown kind.
    """
    _known_kind(project, kind)
    corners = tuple((float(x), float(y)) for x, y in ring)
    if corners and corners[0] == corners[-1]:
        corners = corners[:-1]
    if along is None and not corners and size is None:
        raise EditError("An area has corners or a size.")
    if corners:
        if len(corners) < 3 or abs(area_of(corners)) < SMALLEST:
            raise EditError("An area needs three corners or more that are not on one line.")
        if not all(isfinite(v) and abs(v) < FAR for p in corners for v in p):
            raise EditError("A coordinate is no number, or far off the earth.")
    taken = {a.name for a in project.areas.values()}
    own = (
        name.strip()
        if name
        else next(
            n for i in range(1, len(taken) + 2) if (n := f"{kind.capitalize()} {i}") not in taken
        )
    )
    if own in taken:
        raise EditError(f'There is already an area "{own}": give this one another name.')
    project, key = with_id(project, "a")
    area = Area(
        id=AreaId(key),
        name=own,
        kind=kind,
        structure=structure,
        ring=corners,
        size=None if corners else size,
        along=along,
        coefficient=coefficient,
        entry=entry,
    )
    _sound(area)
    return replace(project, areas={**project.areas, area.id: area}), area.id


def change_area(project: Project, key: AreaId, **values: Any) -> Project:
    """The project with fields of one area replaced. Raises EditError for what it cannot be."""
    if "name" in values:
        values["name"] = free_name(project.areas, values["name"], key, "area")
    if "kind" in values:
        _known_kind(project, values["kind"])
    area = replace(project.areas[key], **values)
    _sound(area)
    return (
        project
        if area == project.areas[key]
        else replace(project, areas=with_one(project.areas, key, area))
    )


def _known_kind(project: Project, kind: str) -> None:
    names = [k.name for k in project.area_kinds]
    if kind not in names:
        raise EditError(f'There is no kind of area "{kind}": {known(kind, names)}')


def _sound(area: Area) -> None:
    if area.size is not None and not SMALLEST <= area.size <= 1e9:
        raise EditError("The size of an area is more than 0.")
    if area.coefficient is not None and not 0 <= area.coefficient <= 1:
        raise EditError("A runoff coefficient lies between 0 and 1.")
    if area.entry is not None and not 0 < area.entry <= 1440:
        raise EditError("A time of entry is more than 0 and at most a day.")


def set_area_texts(project: Project, texts: Iterable[tuple[AreaId, str, str]]) -> Project:
    """The project with typed values of areas: name, structure (a label, or nothing), kind, size,
    coefficient, entry. Raises EditError or TypedError.
    """
    u = project.units
    labels = {s.label: k for k, s in project.structures.items()}
    for key, field, text in texts:
        value: Any = text.strip()
        if field == "structure":
            if value and value not in labels:
                raise EditError(f'There is no structure "{value}": {known(value, labels)}')
            value = labels.get(value)
        elif field == "size":
            value = u.typed(value, of=SQUARE)
        elif field in ("coefficient", "entry"):
            value = u.typed(value, of=MINUTES if field == "entry" else RATIO) if value else None
        project = change_area(project, key, **{field: value})
    return project


def remove_areas(project: Project, keys: Iterable[AreaId]) -> Project:
    """The project without some areas."""
    gone = set(keys)
    return replace(project, areas={k: a for k, a in project.areas.items() if k not in gone})


def assign(project: Project, keys: Iterable[AreaId], structure: StructureId | None) -> Project:
    """The project with some areas drained to a structure, or to none."""
    areas = dict(project.areas)
    for k in keys:
        areas[k] = replace(areas[k], structure=structure)
    return replace(project, areas=areas)


def set_area_kinds(project: Project, kinds: Sequence[AreaKind], renamed: bool = False) -> Project:
    """The project with another table of kinds. Where rows are `renamed`, areas of a kind follow the
    row that it stood in.

    Raises EditError where an area has a kind that is not in it.
    """
    names = [k.name for k in kinds]
    if renamed and len(kinds) == len(project.area_kinds):
        now = dict(zip([k.name for k in project.area_kinds], names, strict=True))
        areas = {
            k: replace(a, kind=now[a.kind]) if now[a.kind] != a.kind else a
            for k, a in project.areas.items()
        }
        project = replace(project, areas=areas)
    if len(set(names)) != len(names) or not all(n.strip() for n in names):
        raise EditError("Each kind of area has a name of its own.")
    if not all(0 <= k.coefficient <= 1 for k in kinds):
        raise EditError("A runoff coefficient lies between 0 and 1.")
    missing = next((a for a in project.areas.values() if a.kind not in names), None)
    if missing is not None:
        raise EditError(
            f'The area "{missing.name}" is of the kind "{missing.kind}": change it first.'
        )
    return replace(project, area_kinds=tuple(kinds))


def set_inflow(project: Project, structure: StructureId, inflow: float) -> Project:
    """The project with a fixed inflow (m³/s) at a structure. Raises EditError for a negative
    one.
    """
    if not 0 <= inflow <= 1000:
        raise EditError("An inflow is 0 or more.")
    return with_structure(project, structure, inflow=inflow)


def set_share(project: Project, pipe: PipeId, share: float | None) -> Project:
    """The project with the share (0 to 1) of its upper structure's flow that a pipe takes; None:
    what the others leave.

    Raises EditError beyond 0 to 1.
    """
    if share is not None and not 0 <= share <= 1:
        raise EditError("A share of flow lies between 0 and 1.")
    return with_pipe(project, pipe, share=share)


# -- where areas drain to --------------------------------------------------------------------------


def middle_of(ring: Array) -> tuple[float, float]:
    """A place inside a ring."""
    import shapely

    at = shapely.polygons(ring).representative_point()
    return float(at.x), float(at.y)


def nearest_structure(facts: Facts, ring: Array) -> StructureId | None:
    """The structure inside a ring, else the one nearest to its edge; outfalls and abandoned ones
    do not count.
    """
    import shapely

    shape = shapely.make_valid(shapely.polygons(ring))
    kinds, best = facts.project.types, None
    for key, place in facts.places.items():
        s = facts.project.structures[key]
        if (
            place.x is None
            or place.y is None
            or s.status == "abandoned"
            or kinds[s.type].kind in ("outfall", "headwall")
        ):
            continue
        at = shapely.points(place.x, place.y)
        away = float(shape.distance(at))
        if away == 0:
            away = -1 / (1 + hypot(*np.subtract(middle_of(ring), (place.x, place.y))))
        if best is None or away < best[0]:
            best = away, key
    return None if best is None else best[1]


def assign_nearest(project: Project, facts: Facts, keys: Iterable[AreaId]) -> Project:
    """The project with areas drained to the structure that each holds, else to the nearest."""
    for k in keys:
        ring = facts.areas[k].ring if k in facts.areas else None
        if ring is not None:
            project = assign(project, [k], nearest_structure(facts, ring))
    return project


# -- areas of drawings and roads -------------------------------------------------------------------


def closed_lines(drawing: Background, layer: str) -> list[Array]:
    """The closed lines (rings of corners, m) of a layer of a drawing, the largest first."""
    import shapely

    number = drawing.layers.index(layer)
    pieces = drawing.segments[drawing.layer == number].reshape(-1, 2, 2)
    if not len(pieces):
        return []
    found = shapely.get_parts(shapely.polygonize(list(shapely.linestrings(np.round(pieces, 6)))))
    rings = [
        np.asarray(shapely.get_coordinates(f.exterior))[:-1] for f in found if f.area >= SMALLEST
    ]
    return sorted(rings, key=lambda r: -abs(area_of(r.tolist())))


def areas_of_layers(
    project: Project, facts: Facts, drawing: Background, kinds: dict[str, str], drained: bool = True
) -> Project:
    """The project with an area for each closed line of some layers, of the kind of its layer;
    drained to what is inside or near.

    Raises EditError where none of the layers has a closed line.
    """
    made = 0
    for layer, kind in kinds.items():
        for ring in closed_lines(drawing, layer):
            structure = nearest_structure(facts, ring) if drained else None
            project, _ = add_area(
                project, kind, ring=[(x, y) for x, y in ring.tolist()], structure=structure
            )
            made += 1
    if not made:
        raise EditError("There is no closed line on these layers.")
    return project


def areas_of_road(project: Project, facts: Facts, road: RoadId, verge: bool = False) -> Project:
    """The project with an area for each stretch of a road's sides from gully to gully, drained to
    the gully at its lower end.

    They follow the road and the gullies. What a side had of this road before goes. Raises EditError
    without a strip or gullies.
    """
    r = facts.roads[road]
    if r.road.strip is None:
        raise EditError(f"{r.road.name} has no strip yet: give it its widths first.")
    gullies: dict[str, list[tuple[float, StructureId]]] = {"left": [], "right": []}
    for key, s in project.structures.items():
        place = facts.places[key]
        if (
            project.types[s.type].kind == "gully"
            and s.status != "abandoned"
            and place.x is not None
            and place.y is not None
        ):
            ch, off = (float(v) for v in r.alignment.project(place.x, place.y))
            if ch == ch and abs(off) < 20:
                gullies["right" if off > 0 else "left"].append((ch, key))
    if not any(gullies.values()):
        raise EditError(f"There is no gully along {r.road.name}: place some first.")
    old = {k for k, a in project.areas.items() if a.along is not None and a.along.road == road}
    project = remove_areas(project, old)
    for side, found in gullies.items():
        found.sort()
        for first, last in _stretches(facts, road, found):
            along = RoadSide(road=road, side=side, first=first, last=last, verge=verge)  # type: ignore[arg-type]
            if road_side_ring(along, facts.roads, facts.places) is not None:
                project, _ = add_area(
                    project,
                    "carriageway",
                    along=along,
                    structure=_lower(facts, road, found, first, last),
                )
    return project


def _stretches(
    facts: Facts, road: RoadId, found: list[tuple[float, StructureId]]
) -> list[tuple[StructureId | None, StructureId | None]]:
    """From one end of the road to the first gully, from each to the next, and to the other end."""
    if not found:
        return []
    keys: list[StructureId | None] = [None, *(k for _, k in found), None]
    return list(pairwise(keys))


def _lower(
    facts: Facts,
    road: RoadId,
    found: list[tuple[float, StructureId]],
    first: StructureId | None,
    last: StructureId | None,
) -> StructureId | None:
    """The gully at the lower end of a stretch by the road's profile; the one that there is, at
    an end of the road.
    """
    if first is None or last is None:
        return first or last
    at = {k: ch for ch, k in found}
    profile = facts.roads[road].profile
    levels = {
        k: float(profile.level(np.array([at[k]]))[0]) if profile is not None else np.nan
        for k in (first, last)
    }
    if levels[first] != levels[first] or levels[last] != levels[last]:
        return last
    return first if levels[first] < levels[last] else last
