"""Where structures stand: position, bearing, chainage, ground, design and rim."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from zumbert.analysis.roads import RoadFacts, nearest
from zumbert.analysis.surfaces import Surfaces, levels
from zumbert.geometry.elements import Array
from zumbert.model.ids import RoadId, TypeKey
from zumbert.model.structure import Anchored, FixedRim, Structure


class PlaceFacts(Struct, frozen=True, kw_only=True):
    """The place of a structure; None where a value does not exist."""

    type: TypeKey
    x: float | None  # m; None: anchored beyond the end of its road
    y: float | None
    bearing: float  # radians clockwise from north: its road's direction, or its fixed rotation
    road: RoadId | None  # the road that it is anchored to, else the nearest
    chainage: float | None  # m
    offset: float | None  # m, positive to the right
    ground: float | None  # m above datum: existing ground
    design: float | None  # m above datum: design surface
    rim: float | None  # m above datum
    rim_from: str | None  # design, existing, fixed


def places(
    structures: Sequence[Structure], roads: dict[RoadId, RoadFacts], surfaces: Surfaces
) -> list[PlaceFacts]:
    """Places of structures, in their order; all computed together."""
    n = len(structures)
    x, y, ch, off, bearing = (np.full(n, np.nan) for _ in range(5))
    road: list[RoadId | None] = [None] * n
    by_road: dict[RoadId | None, list[int]] = {}
    for i, s in enumerate(structures):
        by_road.setdefault(s.place.road if isinstance(s.place, Anchored) else None, []).append(i)
    for key, rows in by_road.items():
        if key is None:
            _free(structures, rows, roads, road, x, y, ch, off, bearing)
        else:
            _anchored(structures, rows, roads[key], road, x, y, ch, off, bearing)
    ground, design = levels(surfaces.existing, x, y), levels(surfaces.design, x, y)
    cells = zip(
        *(_nones(a) for a in (x, y, ch, off, ground, design)), bearing.tolist(), strict=True
    )
    return [
        _place(s, road[i], *row) for i, (s, row) in enumerate(zip(structures, cells, strict=True))
    ]


def _anchored(
    structures: Sequence[Structure],
    rows: list[int],
    facts: RoadFacts,
    road: list[RoadId | None],
    x: Array,
    y: Array,
    ch: Array,
    off: Array,
    bearing: Array,
) -> None:
    c = np.array([structures[i].place.chainage for i in rows])  # type: ignore[union-attr]
    o = np.array([structures[i].place.offset for i in rows])  # type: ignore[union-attr]
    ch[rows], off[rows] = c, o
    x[rows], y[rows] = facts.alignment.point(c, o)
    bearing[rows] = facts.alignment.bearing(c)
    for i in rows:
        road[i] = facts.road.id


def _free(
    structures: Sequence[Structure],
    rows: list[int],
    roads: dict[RoadId, RoadFacts],
    road: list[RoadId | None],
    x: Array,
    y: Array,
    ch: Array,
    off: Array,
    bearing: Array,
) -> None:
    px = np.array([structures[i].place.x for i in rows])  # type: ignore[union-attr]
    py = np.array([structures[i].place.y for i in rows])  # type: ignore[union-attr]
    near = nearest(roads, px, py)
    x[rows], y[rows], ch[rows], off[rows] = px, py, near.chainage, near.offset
    keys = list(roads)
    for k, i in enumerate(rows):
        at = int(near.road[k])
        road[i] = keys[at] if at >= 0 else None
        on = at >= 0 and not np.isnan(near.chainage[k])
        bearing[i] = float(roads[keys[at]].alignment.bearing(near.chainage[k])) if on else 0.0


def _nones(a: Array) -> list[float | None]:
    values = a.tolist()
    return [None if v != v else v for v in values] if np.isnan(a).any() else values


def _place(
    s: Structure,
    road: RoadId | None,
    x: float | None,
    y: float | None,
    ch: float | None,
    off: float | None,
    ground: float | None,
    design: float | None,
    bearing: float,
) -> PlaceFacts:
    rim, source = _rim(s, ground, design)
    return PlaceFacts(
        type=s.type,
        x=x,
        y=y,
        bearing=bearing if s.rotation is None else s.rotation,
        road=road,
        chainage=ch,
        offset=off,
        ground=ground,
        design=design,
        rim=rim,
        rim_from=source,
    )


def _rim(
    s: Structure, ground: float | None, design: float | None
) -> tuple[float | None, str | None]:
    if isinstance(s.rim, FixedRim):
        return s.rim.level, "fixed"
    use, source = (
        (design, "design")
        if s.rim.surface == "design" and design is not None
        else (ground, "existing")
    )
    return (None, None) if use is None else (use + s.rim.adjustment, source)
