"""The parts of pipes and structures that lie outside the land where work is allowed."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from zumbert.analysis.places import PlaceFacts
from zumbert.analysis.spans import Span
from zumbert.geometry.elements import Array
from zumbert.model.ids import LandId
from zumbert.model.land import Land, LandKind

ALLOWED: frozenset[LandKind] = frozenset({"reserve", "easement"})
SHORT = 1e-3  # m: shorter stretches are rounding, not land
Stretch = tuple[float, float]


def allowed(land: Mapping[LandId, Land]) -> Any:
    """The areas that work may lie in, as one prepared shape; None where no such area is drawn."""
    rings = [a.ring for a in land.values() if a.kind in ALLOWED]
    if not rings:
        return None
    import shapely

    whole = shapely.union_all([shapely.make_valid(shapely.Polygon(r)) for r in rings])
    shapely.prepare(whole)
    return whole


def outside(whole: Any, span: Span) -> list[Stretch]:
    """The stretches (m from the upstream reference point) of a pipe's axis outside the land, wall
    to wall.

    `whole` is what `allowed` gives; empty where that is None, and where the pipe stands nowhere.
    Straight pipes exactly; a curved one along chords that leave its arc by 5 mm at most.
    """
    a, b = span.reach_up, span.length - span.reach_down
    if whole is None or span.up.x is None or span.down.x is None or b - a <= SHORT:
        return []
    at = np.unique(np.concatenate([np.clip(span.chords(), a, b), [a, b]]))
    xy = span.points(at)
    return _beyond(whole, xy, at)


def _beyond(whole: Any, xy: Array, at: Array) -> list[Stretch]:
    """Stretches of a line of corners with distances `at` outside an area."""
    import shapely

    line = shapely.LineString(xy)
    if whole.covers(line):
        return []
    out: list[Stretch] = []
    for i in range(len(xy) - 1):
        long = float(np.hypot(*(xy[i + 1] - xy[i])))
        if long <= 0.0:
            continue
        grow = float(at[i + 1] - at[i]) / long
        for part in shapely.get_parts(shapely.difference(shapely.LineString(xy[i : i + 2]), whole)):
            if part.is_empty:
                continue
            ends = sorted(
                float(np.hypot(*(np.array(p) - xy[i]))) for p in (part.coords[0], part.coords[-1])
            )
            lo, hi = (float(at[i]) + e * grow for e in ends)
            if out and lo - out[-1][1] <= SHORT:
                out[-1] = (out[-1][0], hi)
            elif hi - lo > SHORT:
                out.append((lo, hi))
    return out


def stands_outside(whole: Any, place: PlaceFacts) -> float:
    """How far (m) a structure's reference point stands outside the land; 0 inside, or where no
    land is drawn.
    """
    if whole is None or place.x is None:
        return 0.0
    import shapely

    return float(shapely.distance(whole, shapely.Point(place.x, place.y)))
