"""Facts of areas: their rings, sizes and where they drain to; a stretch of a road follows the
road and its gullies.
"""

from collections.abc import Mapping

import numpy as np
from msgspec import Struct

from zumbert.analysis.places import PlaceFacts
from zumbert.analysis.roads import RoadFacts
from zumbert.geometry.elements import Array
from zumbert.geometry.strip import at_chainages
from zumbert.model.area import Area, RoadSide
from zumbert.model.ids import AreaId, RoadId, StructureId
from zumbert.model.project import Project

STEP = 1.0  # m between points of the edge of a stretch of a road


class AreaFacts(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """Everything derived for an area."""

    area: Area
    ring: Array | None  # corners (n, 2), m; None: it has a typed size alone
    size: float  # m²
    coefficient: float
    entry: float | None  # min, its own
    lies_by: tuple[object, ...] = ()  # along a road: the road, and where its two gullies are

    @property
    def ca(self) -> float:
        """Coefficient times size, m²."""
        return self.coefficient * self.size


def ring_size(ring: Array) -> float:
    """The size (m²) of a ring of corners, whichever way it runs."""
    x, y = ring[:, 0] - ring[0, 0], ring[:, 1] - ring[0, 1]
    return float(abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))) / 2


def areas(
    project: Project,
    roads: Mapping[RoadId, RoadFacts],
    places: Mapping[StructureId, PlaceFacts],
    old: Mapping[AreaId, AreaFacts],
) -> dict[AreaId, AreaFacts]:
    """The facts of all areas; those whose record and whose road are the same are kept."""
    usual = {k.name: k.coefficient for k in project.area_kinds}
    return {k: _facts(a, usual, roads, places, old.get(k)) for k, a in project.areas.items()}


def _facts(
    a: Area,
    usual: Mapping[str, float],
    roads: Mapping[RoadId, RoadFacts],
    places: Mapping[StructureId, PlaceFacts],
    old: AreaFacts | None,
) -> AreaFacts:
    coefficient = usual[a.kind] if a.coefficient is None else a.coefficient
    lies_by = () if a.along is None else _lies_by(a.along, roads, places)
    if (
        old is not None
        and old.area is a
        and old.coefficient == coefficient
        and old.lies_by == lies_by
    ):
        return old
    ring = (
        road_side_ring(a.along, roads, places)
        if a.along is not None
        else np.array(a.ring, float)
        if a.ring
        else None
    )
    size = ring_size(ring) if ring is not None and len(ring) > 2 else a.size or 0.0
    return AreaFacts(
        area=a, ring=ring, size=size, coefficient=coefficient, entry=a.entry, lies_by=lies_by
    )


def _lies_by(
    side: RoadSide, roads: Mapping[RoadId, RoadFacts], places: Mapping[StructureId, PlaceFacts]
) -> tuple[object, ...]:
    """All that the ring of a stretch goes by besides its record."""
    ends = (None if k is None else places.get(k) for k in (side.first, side.last))
    return roads[side.road], *(None if p is None else (p.x, p.y) for p in ends)


def chainages_of(
    side: RoadSide, roads: Mapping[RoadId, RoadFacts], places: Mapping[StructureId, PlaceFacts]
) -> tuple[float, float]:
    """From where to where (m along the road) a stretch goes; the same twice where a gully is not
    on it any more.
    """
    r = roads[side.road]
    ends = []
    for key, own in ((side.first, r.alignment.start), (side.last, r.alignment.end)):
        place = None if key is None else places.get(key)
        at = (
            own
            if place is None or place.x is None or place.y is None
            else float(r.alignment.project(place.x, place.y)[0])
        )
        ends.append(at if at == at else own)
    return min(ends), max(ends)


def road_side_ring(
    side: RoadSide, roads: Mapping[RoadId, RoadFacts], places: Mapping[StructureId, PlaceFacts]
) -> Array | None:
    """The ring of a stretch of a road, from crown (or other kerb) to kerb or back of verge; None
    without a strip.
    """
    r = roads[side.road]
    if r.road.strip is None:
        return None
    a, b = chainages_of(side, roads, places)
    if b - a < 1e-6:
        return None
    own = [s.chainage for s in r.road.strip.sections if a < s.chainage < b]
    ch = np.unique(np.concatenate([np.linspace(a, b, max(2, int((b - a) / STEP) + 1)), own]))
    s = at_chainages(r.road.strip.sections, ch)
    sign, out = (1.0, s["right"]) if side.side == "right" else (-1.0, s["left"])
    far = out + (s["verge"] if side.verge else 0.0)
    inner = (
        -(s["left"] if side.side == "right" else s["right"]) if side.whole else np.zeros_like(ch)
    )
    lines = [np.column_stack(r.alignment.point(ch, sign * off)) for off in (inner, far)]
    ring = np.vstack([lines[0], lines[1][::-1]])
    return ring[~np.isnan(ring).any(axis=1)]
