"""An alignment from its intersection points, each with a radius and the lengths of its
clothoids; and back.
"""

from collections.abc import Sequence
from itertools import pairwise
from math import atan2, cos, hypot, pi, sin

import numpy as np
from msgspec import Struct

from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.elements import Arc, Straight

Piece = Straight | Arc | Clothoid
FIT = 1e-6  # m: tangents may overlap by rounding


class Intersection(Struct, frozen=True):
    """A point where two tangents meet (m): radius 0 leaves a corner; the first and the last
    point are the ends.
    """

    x: float
    y: float
    radius: float = 0.0  # m
    clothoid_in: float = 0.0  # m, length of the clothoid before the arc
    clothoid_out: float = 0.0  # m, and behind it


class _Curve(Struct, frozen=True):
    """The curve at one point: tangent lengths (m) and its pieces."""

    before: float
    beyond: float
    pieces: tuple[Piece, ...]


def elements_through(points: Sequence[Intersection]) -> tuple[Piece, ...]:
    """The pieces of the alignment through intersection points.

    With shift p = Y - R (1 - cos a) and advance k = X - R sin a of each clothoid (X, Y its end, a =
    length / 2R the angle that it turns), the tangents of a turn d are k1 + (R + p2 - (R + p1) cos
    d) / sin d, and the same with 1 and 2 changed over (J. C. Rogers, geometry of transition curves;
    exact for the clothoid). Raises ValueError with the numbers of points whose curves do not fit.
    """
    if len(points) < 2:
        raise ValueError("a road needs at least two points")
    for i, (a, b) in enumerate(pairwise(points), 1):
        if hypot(b.x - a.x, b.y - a.y) < 1e-3:
            raise ValueError(f"points {i} and {i + 1} are one place")
    empty = _Curve(0.0, 0.0, ())
    curves = [empty, *(_curve(points, i) for i in range(1, len(points) - 1)), empty]
    out: list[Piece] = []
    at = points[0].x, points[0].y
    for i in range(1, len(points)):
        a, b = points[i - 1], points[i]
        long = hypot(b.x - a.x, b.y - a.y)
        rest = long - curves[i - 1].beyond - curves[i].before
        if rest < -FIT:
            raise ValueError(
                f"the curves at points {i} and {i + 1} need {-rest:.2f} m more between them"
            )
        share = (long - curves[i].before) / long
        to = a.x + (b.x - a.x) * share, a.y + (b.y - a.y) * share
        if rest > FIT:
            out.append(Straight(*at, *to))
        out += curves[i].pieces
        if curves[i].pieces:
            last = curves[i].pieces[-1]
            to = last.x1, last.y1
        at = to
    return tuple(out)


def _curve(points: Sequence[Intersection], i: int) -> _Curve:
    """The curve at an inner point; a corner where the radius is 0 or nothing turns."""
    a, p, b = points[i - 1 : i + 2]
    first, second = atan2(p.x - a.x, p.y - a.y), atan2(b.x - p.x, b.y - p.y)
    turn = (second - first + pi) % (2 * pi) - pi  # positive to the right
    if p.radius <= 0 or abs(turn) < 1e-9:
        return _Curve(0.0, 0.0, ())
    d, r = abs(turn), p.radius
    if d > pi - 1e-3:
        raise ValueError(f"at point {i + 1} the road turns back on itself")
    a1, a2 = p.clothoid_in / (2 * r), p.clothoid_out / (2 * r)
    if a1 + a2 > d + 1e-9:
        most = d * r
        raise ValueError(
            f"at point {i + 1} the clothoids turn more than the road does: with this radius "
            f"they add up to {2 * most:.2f} m at most"
        )
    (k1, p1), (k2, p2) = _advance(p.clothoid_in, r), _advance(p.clothoid_out, r)
    before = k1 + (r + p2 - (r + p1) * cos(d)) / sin(d)
    beyond = k2 + (r + p1 - (r + p2) * cos(d)) / sin(d)
    return _Curve(before, beyond, _pieces(p, first, before, turn, d - a1 - a2))


def _advance(length: float, radius: float) -> tuple[float, float]:
    """Advance k and shift p (m) of a clothoid from a straight to a radius."""
    if length <= 0:
        return 0.0, 0.0
    c = Clothoid(0.0, 0.0, 0.0, length, 0.0, 1 / radius)
    a = length / (2 * radius)
    return c.y1 - radius * sin(a), c.x1 - radius * (1 - cos(a))


def _pieces(
    p: Intersection, bearing: float, before: float, turn: float, sweep: float
) -> tuple[Piece, ...]:
    side = 1.0 if turn > 0 else -1.0
    k = side / p.radius
    x, y = p.x - before * sin(bearing), p.y - before * cos(bearing)
    out: list[Piece] = []
    if p.clothoid_in > 0:
        c = Clothoid(x, y, bearing % (2 * pi), p.clothoid_in, 0.0, k)
        out.append(c)
        x, y, bearing = c.x1, c.y1, bearing + side * p.clothoid_in / (2 * p.radius)
    if sweep * p.radius > FIT:
        xc, yc = x + side * p.radius * cos(bearing), y - side * p.radius * sin(bearing)
        bearing += side * sweep
        x1, y1 = xc - side * p.radius * cos(bearing), yc + side * p.radius * sin(bearing)
        out.append(Arc(x, y, x1, y1, xc, yc, side > 0))
        x, y = x1, y1
    if p.clothoid_out > 0:
        out.append(Clothoid(x, y, bearing % (2 * pi), p.clothoid_out, k, 0.0))
    return tuple(out)


def intersections_of(elements: Sequence[Piece]) -> tuple[Intersection, ...]:
    """The intersection points that give an alignment again within 1 mm.

    Raises ValueError where none do: two arcs of different radii in a row, a clothoid between two
    radii, or corners.
    """
    points = [Intersection(elements[0].x0, elements[0].y0)]
    points += [intersection_of(group) for group in groups(elements)]
    last = elements[-1]
    points.append(Intersection(last.x1, last.y1))
    kept = [
        p
        for i, p in enumerate(points)
        if i == 0 or hypot(p.x - points[i - 1].x, p.y - points[i - 1].y) > 1e-3
    ]
    made = elements_through(kept)
    if len(made) < 1 or abs(sum(e.length for e in made) - sum(e.length for e in elements)) > 1e-3:
        raise ValueError("its curves are not those of intersection points with one radius each")
    return tuple(kept)


def groups(elements: Sequence[Piece]) -> list[list[Piece]]:
    """The runs of curved pieces between straights; two straights in a row meet in a corner of
    their own.
    """
    out: list[list[Piece]] = []
    now: list[Piece] = []
    for a, b in zip(elements, [*elements[1:], None], strict=True):
        if isinstance(a, Straight):
            if isinstance(b, Straight):
                out.append([a])
        else:
            now.append(a)
            if b is None or isinstance(b, Straight):
                out.append(now)
                now = []
    return out


def intersection_of(group: list[Piece]) -> Intersection:
    """Where the tangents of a run of curved pieces meet. Raises ValueError where one radius does
    not tell it.
    """
    if isinstance(group[0], Straight):
        return Intersection(group[0].x1, group[0].y1)
    arcs = [e for e in group if isinstance(e, Arc)]
    ins, outs = group[0], group[-1]
    spiral_in = ins if isinstance(ins, Clothoid) and ins.k0 == 0 else None
    spiral_out = outs if isinstance(outs, Clothoid) and outs.k1 == 0 else None
    if len(arcs) > 1 or len(group) != len(arcs) + (spiral_in is not None) + (
        spiral_out is not None
    ):
        raise ValueError(
            "it has a curve of several radii, which intersection points cannot describe"
        )
    radius = (
        arcs[0].radius
        if arcs
        else 1 / abs((spiral_in or spiral_out).k1 or (spiral_in or spiral_out).k0)  # type: ignore[union-attr]
    )
    zero = np.array(0.0)
    b0, b1 = float(ins.bearing(zero)), float(outs.bearing(np.array(outs.length)))
    turn = (b1 - b0 + pi) % (2 * pi) - pi
    if abs(sin(turn)) < 1e-9:
        raise ValueError("a curve turns by half a circle")
    dx, dy = outs.x1 - ins.x0, outs.y1 - ins.y0
    t = (dx * cos(b1) - dy * sin(b1)) / (sin(b0) * cos(b1) - cos(b0) * sin(b1))
    return Intersection(
        ins.x0 + t * sin(b0),
        ins.y0 + t * cos(b0),
        radius,
        spiral_in.length if spiral_in else 0.0,
        spiral_out.length if spiral_out else 0.0,
    )


def bisector_point(points: Sequence[Intersection], i: int) -> tuple[float, float] | None:
    """The middle of the curve at an inner point; None where there is no curve, or it does not
    fit.
    """
    try:
        curve = _curve(points, i)
    except ValueError:
        return None
    rest = sum(p.length for p in curve.pieces) / 2
    for e in curve.pieces:
        if rest <= e.length + FIT:
            x, y = e.point(np.array(rest), np.array(0.0))
            return float(x), float(y)
        rest -= e.length
    return None


def radius_through(points: Sequence[Intersection], i: int, x: float, y: float) -> float:
    """The radius (m) of the plain arc at an inner point that passes as near to its corner as a
    place does.

    The middle of an arc is R (1 / cos(d / 2) - 1) from the corner of a turn d.
    """
    a, p, b = points[i - 1 : i + 2]
    turn = abs((atan2(b.x - p.x, b.y - p.y) - atan2(p.x - a.x, p.y - a.y) + pi) % (2 * pi) - pi)
    away = 1 / cos(turn / 2) - 1
    return hypot(x - p.x, y - p.y) / away if away > 1e-9 else 0.0


def through_polyline(
    xy: Sequence[Sequence[float]], tolerance: float = 0.02
) -> tuple[Intersection, ...]:
    """Intersection points for a drawn polyline: runs of three corners or more on one circle,
    between two straights, become a curve of its radius; other corners stay corners. No place of the
    polyline is left by more than about a tolerance (m).
    """
    p = [(float(x), float(y)) for x, y, *_ in xy]
    out: list[Intersection] = [Intersection(*p[0])]
    i = 1
    while i < len(p) - 1:
        j = _arc_end(p, i, tolerance)
        corner = _corner(p, i, j) if j - i >= 2 and j < len(p) - 1 else None
        if corner is None:
            out.append(Intersection(*p[i]))
            i += 1
        else:
            out.append(corner)
            i = j + 1
    out.append(Intersection(*p[-1]))
    return tuple(out)


def pieces_through(xy: Sequence[Sequence[float]], tolerance: float = 0.005) -> list[Straight | Arc]:
    """The straights and arcs of a drawn polyline, in order: four places or more on one circle, at
    even steps that turn by less than 35 degrees each, are an arc from the first to the last of
    them, whether or not what adjoins it touches it. Repeated places are passed over; arcs lie
    within a tolerance (m) of their places.
    """
    p = [(float(x), float(y)) for x, y, *_ in xy]
    p = [
        a for i, a in enumerate(p) if i == 0 or hypot(a[0] - p[i - 1][0], a[1] - p[i - 1][1]) > 1e-6
    ]
    out: list[Straight | Arc] = []
    i = 0
    while i < len(p) - 1:
        j = _arc_end(p, i, tolerance) if _even(p, i) else i
        circle = _circle(p, i, (i + j) // 2, j) if j - i >= 3 else None
        if circle is None:
            out.append(Straight(*p[i], *p[i + 1]))
            i += 1
        else:
            (x0, y0), (x1, y1), (x2, y2) = p[i], p[i + 1], p[j]
            right = (x1 - x0) * (p[i + 2][1] - y1) - (y1 - y0) * (p[i + 2][0] - x1) < 0
            out.append(Arc(x0, y0, x2, y2, circle[0], circle[1], right))
            i = j
    return out


def _even(p: Sequence[tuple[float, float]], i: int) -> bool:
    """Whether the two steps from a place on are as of an arc: alike in length, and turning a
    little.
    """
    if i + 2 >= len(p):
        return False
    (ax, ay), (bx, by) = ((p[k + 1][0] - p[k][0], p[k + 1][1] - p[k][1]) for k in (i, i + 1))
    turn = abs(atan2(ax * by - ay * bx, ax * bx + ay * by))
    return 1 / 1.5 <= hypot(ax, ay) / hypot(bx, by) <= 1.5 and 1e-6 < turn < 35 * pi / 180


def _circle(
    p: Sequence[tuple[float, float]], a: int, b: int, c: int
) -> tuple[float, float, float] | None:
    (x0, y0), (x1, y1), (x2, y2) = p[a], p[b], p[c]
    d = 2 * ((x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0))
    if abs(d) < 1e-9:
        return None
    s1, s2 = (x1 - x0) ** 2 + (y1 - y0) ** 2, (x2 - x0) ** 2 + (y2 - y0) ** 2
    ux, uy = ((y2 - y0) * s1 - (y1 - y0) * s2) / d, ((x1 - x0) * s2 - (x2 - x0) * s1) / d
    return x0 + ux, y0 + uy, hypot(ux, uy)


def _arc_end(p: Sequence[tuple[float, float]], i: int, tolerance: float) -> int:
    """The last corner on the circle through corners i, i + 1 and i + 2; i itself where there is
    none.
    """
    circle = _circle(p, i, i + 1, i + 2) if i + 2 < len(p) else None
    if circle is None:
        return i
    x, y, r = circle
    step = hypot(p[i + 1][0] - p[i][0], p[i + 1][1] - p[i][1])
    j = i + 2
    while j + 1 < len(p):
        on = abs(hypot(p[j + 1][0] - x, p[j + 1][1] - y) - r) <= tolerance
        near = hypot(p[j + 1][0] - p[j][0], p[j + 1][1] - p[j][1]) <= 1.5 * step
        if not (on and near):
            break
        j += 1
    return j


def _corner(p: Sequence[tuple[float, float]], i: int, j: int) -> Intersection | None:
    """The point of an arc through corners i to j whose neighbouring straights touch it; None
    where they do not.
    """
    circle = _circle(p, i, (i + j) // 2, j)
    if circle is None:
        return None
    x, y, r = circle
    for at, to in ((i, i - 1), (j, j + 1)):
        ux, uy = p[to][0] - p[at][0], p[to][1] - p[at][1]
        off = abs(ux * (p[at][0] - x) + uy * (p[at][1] - y)) / (hypot(ux, uy) * r)
        if off > 0.02:  # about a degree off the tangent
            return None
    b0 = atan2(p[i][0] - p[i - 1][0], p[i][1] - p[i - 1][1])
    b1 = atan2(p[j + 1][0] - p[j][0], p[j + 1][1] - p[j][1])
    det = sin(b0) * cos(b1) - cos(b0) * sin(b1)
    if abs(det) < 1e-6:
        return None
    t = ((p[j][0] - p[i][0]) * cos(b1) - (p[j][1] - p[i][1]) * sin(b1)) / det
    return Intersection(p[i][0] + t * sin(b0), p[i][1] + t * cos(b0), r)
