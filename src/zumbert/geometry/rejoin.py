"""Elements as files give them: joined where they miss each other a little, and tangent again
where rounding has bent them.
"""

from collections.abc import Sequence
from itertools import pairwise
from math import hypot, pi, sqrt

import numpy as np
from msgspec.structs import replace

from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.elements import Arc, Array, Straight
from zumbert.geometry.intersections import Intersection, elements_through, groups, intersection_of

Piece = Straight | Arc | Clothoid
MOST = 0.05  # m: elements that miss each other by more are not one alignment
NEAR = 0.005  # m: elements are made tangent where their ends move by no more
KINK = 0.01  # radians: elements that turn by more at their joint meet in a corner that is meant
# intersection points: of more the best fit would take long, and the tangents' own crossings are
# taken
FEW = 60
STEPS, DIFFERENCE = 3, 1e-4  # of the best fit; m


def joined(pieces: Sequence[Piece]) -> tuple[tuple[Piece, ...], float]:
    """The pieces with each beginning where the one before ends, and the greatest distance (m) that
    was closed.

    Raises ValueError where two miss each other by more than 5 cm.
    """
    out, worst = [pieces[0]], 0.0
    for b in pieces[1:]:
        a = out[-1]
        gap = hypot(b.x0 - a.x1, b.y0 - a.y1)
        if gap > MOST:
            raise ValueError(f"two of its elements miss each other by {gap:.3f} m")
        worst = max(worst, gap)
        out.append(_from(b, a.x1, a.y1) if gap > 0 else b)
    return tuple(out), worst


def _from(piece: Piece, x: float, y: float) -> Piece:
    """A piece that begins at a place near its own beginning; an arc keeps its radius and its
    end.
    """
    if isinstance(piece, Clothoid):
        return replace(piece, x0=x, y0=y)
    if isinstance(piece, Straight):
        return replace(piece, x0=x, y0=y)
    dx, dy = piece.x1 - x, piece.y1 - y
    chord = hypot(dx, dy)
    r = max(piece.radius, chord / 2)
    if chord < 1e-9:
        return piece
    high = sqrt(max(0.0, r**2 - chord**2 / 4))
    side = (
        1.0 if piece.clockwise == (piece.sweep <= pi) else -1.0
    )  # the centre lies right of the chord
    return replace(
        piece,
        x0=x,
        y0=y,
        xc=x + dx / 2 + side * high * dy / chord,
        yc=y + dy / 2 - side * high * dx / chord,
    )


def tangent(pieces: Sequence[Piece]) -> tuple[Piece, ...]:
    """The pieces with straights that touch their curves exactly, where coordinates rounded to a
    millimetre have bent their joints: then a place near a bend has one chainage and offset, and
    they lead back to it. Their ends move by 5 mm at most (least squares over all ends); alignments
    of compound curves, or with corners, stay as they are.
    """
    if not _kinks(pieces):
        return tuple(pieces)
    try:
        points = _crossings(pieces)
        made = elements_through(_fitted(points, pieces))
    except ValueError:
        return tuple(pieces)
    return (
        made
        if len(made) == len(pieces) and np.abs(_apart(made, pieces)).max() <= NEAR
        else tuple(pieces)
    )


def _kinks(pieces: Sequence[Piece]) -> bool:
    """Whether some joints turn by what rounding makes, and none by more."""
    turns = [
        float(b.bearing(np.array(0.0)) - a.bearing(np.array(a.length)) + pi) % (2 * pi) - pi
        for a, b in pairwise(pieces)
    ]
    return any(abs(t) > 1e-9 for t in turns) and all(abs(t) < KINK for t in turns)


def _crossings(pieces: Sequence[Piece]) -> list[Intersection]:
    """Intersection points of the straights themselves, which are long; of curves without one on
    either side their own.

    Raises ValueError where the curves are not those of intersection points.
    """
    first, last = pieces[0], pieces[-1]
    inner = [intersection_of(g) for g in groups(pieces)]
    points = [Intersection(first.x0, first.y0), *inner, Intersection(last.x1, last.y1)]
    straights = [p for p in pieces if isinstance(p, Straight)]
    if len(straights) != len(points) - 1:
        return points
    for i, (a, b) in enumerate(pairwise(straights), 1):
        u, v = (a.x1 - a.x0, a.y1 - a.y0), (b.x1 - b.x0, b.y1 - b.y0)
        det = u[0] * v[1] - u[1] * v[0]
        if abs(det) < 1e-6 * hypot(*u) * hypot(*v):
            continue
        t = ((b.x0 - a.x0) * v[1] - (b.y0 - a.y0) * v[0]) / det
        points[i] = replace(points[i], x=a.x0 + t * u[0], y=a.y0 + t * u[1])
    return points


def _fitted(points: list[Intersection], pieces: Sequence[Piece]) -> list[Intersection]:
    """Intersection points moved so that the elements through them end as near as can be to those of
    the file: Gauss and Newton's method for least squares, with slopes by differences. It begins
    within millimetres, so that a few steps are enough.
    """
    if not 2 < len(points) <= FEW:
        return points

    def moved(d: Array) -> list[Intersection]:
        at = d.reshape(-1, 2).tolist()
        inner = [
            replace(p, x=p.x + dx, y=p.y + dy) for p, (dx, dy) in zip(points[1:-1], at, strict=True)
        ]
        return [points[0], *inner, points[-1]]

    def off(d: Array) -> Array:
        made = elements_through(moved(d))
        if len(made) != len(pieces):
            raise ValueError("its elements are not those of its intersection points")
        return _apart(made, pieces)

    d = np.zeros(2 * (len(points) - 2))
    for _ in range(STEPS):
        now = off(d)
        slopes = np.column_stack(
            [(off(d + DIFFERENCE * e) - now) / DIFFERENCE for e in np.eye(len(d))]
        )
        d = d - np.linalg.lstsq(slopes, now, rcond=None)[0]
    return moved(d)


def _apart(a: Sequence[Piece], b: Sequence[Piece]) -> Array:
    """How far (m) the ends of elements lie from those of others, in x and y."""
    return np.array([(p.x1 - q.x1, p.y1 - q.y1) for p, q in zip(a, b, strict=True)], float).ravel()
