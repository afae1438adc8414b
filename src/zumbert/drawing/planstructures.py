"""Structures in plan: each as it stands, turned and to scale."""

from collections.abc import Iterator
from math import cos, sin

import numpy as np

from zumbert.drawing.marks import Disc, Fill, Mark, Segments, Stroke, cross, lozenge, notch, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import PlanSight
from zumbert.geometry.elements import Array
from zumbert.model.catalogue import StructureType
from zumbert.model.ids import StructureId
from zumbert.model.structure import Structure

COVER = 9.0  # drawing units: covers at least this wide are drawn
_SQUARE = ((-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0))


def severity_sign(severity: str | None, x: float, y: float, over: float = 8.0) -> Iterator[Mark]:
    """The notch of a breach, the lozenge of a caution or the faint notch of what is decided, its
    middle so far over the place.
    """
    if severity == "breach":
        yield Fill("breach", notch(x, y), "paper-rim")
    elif severity == "caution":
        yield Stroke("caution", lozenge(x, y - over), closed=True)
    elif severity == "decided":
        yield Stroke("decided", notch(x, y), closed=True)


def structure_marks(
    picture: Picture, key: StructureId, x: float, y: float, sight: PlanSight
) -> Iterator[Mark]:
    """A structure at its drawing place, with its cover where it is near, crossed out where it is
    abandoned.
    """
    s = picture.facts.project.structures[key]
    kind = picture.facts.project.types[s.type]
    edge = (
        "preview"
        if key in picture.fresh
        else "structure"
        if s.status == "proposed"
        else "structure-existing"
    )
    if kind.kind == "gully":
        yield from _gully(picture, s, x, y, sight)
    elif kind.kind in ("headwall", "outfall"):
        yield from _headwall(picture, key, x, y, sight, edge)
    elif kind.kind == "joint":
        yield Disc("ink", x, y, 2.5)
    elif kind.across is not None:
        yield from _box(picture, key, kind, x, y, sight, edge)
    else:
        true = kind.inside / 2 * sight.scale
        if kind.outside / 2 * sight.scale > 7:
            yield Disc("chamber-wall", x, y, kind.outside / 2 * sight.scale, "chamber")
        yield Disc("field", x, y, max(5.0, true), edge)
    if kind.frame * sight.scale >= COVER:
        yield from _cover(picture, key, kind.frame * sight.scale, x, y, sight)
    if s.status == "abandoned":
        yield Segments("crossed", cross(x, y, 7.0))


def _box(
    picture: Picture,
    key: StructureId,
    kind: StructureType,
    x: float,
    y: float,
    sight: PlanSight,
    edge: str,
) -> Iterator[Mark]:
    """A rectangular chamber, turned as it stands; never smaller than can be seen."""
    angle = _direction(picture, key, x, y, sight)
    long, wide = kind.inside * sight.scale / 2, (kind.across or kind.inside) * sight.scale / 2
    grow = max(1.0, 4.5 / max(min(long, wide), 1e-9))
    long, wide = long * grow, wide * grow
    wall = kind.wall * sight.scale
    if grow == 1.0 and wall > 1.5:
        outer = points(*((a * (long + wall), b * (wide + wall)) for a, b in _SQUARE))
        yield Fill("chamber-wall", turned(outer, x, y, angle), "chamber")
    inner = points(*((a * long, b * wide) for a, b in _SQUARE))
    yield Fill("field", turned(inner, x, y, angle), edge)


def _cover(
    picture: Picture, key: StructureId, wide: float, x: float, y: float, sight: PlanSight
) -> Iterator[Mark]:
    """The cover's opening, where it sits on the chamber: along its bearing and to the right of
    it.
    """
    s = picture.facts.project.structures[key]
    angle = _direction(picture, key, x, y, sight)
    along, right = s.cover[0] * sight.scale, s.cover[1] * sight.scale
    c, n = cos(angle), sin(angle)
    yield Disc(
        "plate", x + along * c - right * n, y + along * n + right * c, wide / 2, "chamber-inner"
    )


def _direction(picture: Picture, key: StructureId, x: float, y: float, sight: PlanSight) -> float:
    """The drawing angle of a structure's bearing (radians, from right, y downwards)."""
    p = picture.facts.places[key]
    wx, wy = p.x or 0.0, p.y or 0.0
    ahead = sight.to_drawing(
        np.array([[wx + 0.5 * np.sin(p.bearing), wy + 0.5 * np.cos(p.bearing)]])
    )[0]
    return 0.0 if np.isnan(ahead).any() else float(np.arctan2(ahead[1] - y, ahead[0] - x))


def turned(shape: Array, x: float, y: float, angle: float) -> Array:
    """A shape (n, 2) turned clockwise by an angle (radians) and put at a place."""
    c, s = np.cos(angle), np.sin(angle)
    return np.column_stack(
        [x + shape[:, 0] * c - shape[:, 1] * s, y + shape[:, 0] * s + shape[:, 1] * c]
    )


def _gully(picture: Picture, s: Structure, x: float, y: float, sight: PlanSight) -> Iterator[Mark]:
    """A box with a middle bar, square to the road."""
    angle = _direction(picture, s.id, x, y, sight)
    grow = max(1.0, 0.45 * sight.scale / 6.8)
    box = points((-3.4, -2.6), (3.4, -2.6), (3.4, 2.6), (-3.4, 2.6)) * grow
    role = "gully" if s.service == "storm" else "gully-foul"
    yield Fill("field", turned(box, x, y, angle), role)
    yield Stroke(role, turned(points((0, -2.6), (0, 2.6)) * grow, x, y, angle))


def _headwall(
    picture: Picture, key: StructureId, x: float, y: float, sight: PlanSight, edge: str
) -> Iterator[Mark]:
    """A wall with two wings, facing its pipe with its back, unless it is turned by hand."""
    f = picture.facts.structures[key]
    angle = 0.0
    spans = [(g.span, max(0.0, g.span.length - 1.0)) for g in f.pipes_in] + [
        (g.span, 1.0) for g in f.pipes_out
    ]
    if f.structure.rotation is not None:
        angle = _direction(picture, key, x, y, sight)
    elif spans:
        span, s = spans[0]
        a = sight.to_drawing(np.array([span.point(min(s, span.length))]))[0]
        angle = 0.0 if np.isnan(a).any() else float(np.arctan2(y - a[1], x - a[0]))
    wall = points((5.0, -10.0), (0.0, -6.0), (0.0, 6.0), (5.0, 10.0))
    yield Stroke(edge, turned(wall, x, y, angle))
