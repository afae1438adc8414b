"""Surfaces over polygons in plan: the pieces of one, the lower of two, what of one lies under
another.

They are a sum: each piece has a weight, 1 or -1, and the pieces over a place add up to one surface.
So the lower of two surfaces is both of them less the higher one where both are, and nothing has to
be cut away.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Array
from zumbert.geometry.overlay import Rows, area, cut_by, laid_on, stacked
from zumbert.geometry.tin import Tin


class GroundPieces(NamedTuple):
    """Pieces of a surface over polygons."""

    row: Rows  # the polygon that a piece lies over
    xy: Array  # (n, k, 2), m
    # (n, 5): x, y and level of a point of its plane, and the slopes of the level in x and in y
    plane: Array
    weight: Array  # (n)

    def level(self, xy: Array) -> Array:
        """Levels (m) of the planes at points (n, k, 2), a row a piece."""
        p = self.plane
        return np.asarray(
            p[:, 2:3] + p[:, 3:4] * (xy[:, :, 0] - p[:, :1]) + p[:, 4:] * (xy[:, :, 1] - p[:, 1:2])
        )

    def lowered(self, by: float) -> "GroundPieces":
        """The same a depth (m) lower."""
        if not by:
            return self
        plane = self.plane.copy()
        plane[:, 2] -= by
        return self._replace(plane=plane)


def joined(*several: GroundPieces) -> GroundPieces:
    """The sum of several."""
    parts = [s for s in several if len(s.row)] or [several[0]]
    return GroundPieces(
        np.concatenate([s.row for s in parts]),
        stacked([s.xy for s in parts]),
        np.concatenate([s.plane for s in parts]),
        np.concatenate([s.weight for s in parts]),
    )


def of_tin(tin: Tin, p: Array) -> GroundPieces:
    """A surface over polygons (n, k, 2); what it does not cover is missing."""
    found = laid_on(tin, p)
    return GroundPieces(found.row, found.xy, tin.planes(found.face), np.ones(len(found.row)))


def of_strips(lines: Sequence[Alignment], tins: Sequence[Tin], p: Array) -> GroundPieces:
    """The strips of several roads over polygons: where two overlap, a piece is of the road
    nearer to its middle.
    """
    made = of_tin(tins[0], p)
    for i in range(1, len(tins)):
        other = of_tin(tins[i], p)
        over = _over(made, tins[i])
        middle = over.xy.mean(axis=1)
        far = np.stack([a.foot(middle[:, 0], middle[:, 1])[2] for a in lines[: i + 1]])
        wins = far[i] < np.nan_to_num(far[:i], nan=np.inf).min(axis=0)
        plane = np.where(wins[:, None], over.own, over.other)
        made = joined(made, other, GroundPieces(over.row, over.xy, plane, -over.weight))
    return made


class _Over(NamedTuple):
    """Where pieces and a surface both are: pieces with the planes of both."""

    row: Rows
    xy: Array
    own: Array
    other: Array
    weight: Array


def _over(pieces: GroundPieces, tin: Tin, lowered: float = 0.0) -> _Over:
    found = laid_on(tin, pieces.xy)
    other = tin.planes(found.face)
    other[:, 2] -= lowered
    return _Over(
        pieces.row[found.row], found.xy, pieces.plane[found.row], other, pieces.weight[found.row]
    )


def _parted(over: _Over) -> tuple[GroundPieces, GroundPieces]:
    """The pieces with the lower of both planes, and with the higher; each is cut where the two
    are level.
    """
    one = GroundPieces(over.row, over.xy, over.own, over.weight)
    two = one._replace(plane=over.other)
    rise = one.level(over.xy) - two.level(over.xy)
    below, xy_below = cut_by(over.xy, rise)
    above, xy_above = cut_by(over.xy, -rise)
    real = [area(xy) > 1e-13 for xy in (xy_below, xy_above)]
    parts = [
        (rows[r], xy[r])
        for rows, xy, r in zip((below, above), (xy_below, xy_above), real, strict=True)
    ]

    def picked(first: Array, second: Array) -> GroundPieces:
        (a, p), (b, q) = parts
        return joined(
            GroundPieces(over.row[a], p, first[a], over.weight[a]),
            GroundPieces(over.row[b], q, second[b], over.weight[b]),
        )

    return picked(over.own, over.other), picked(over.other, over.own)


def lower_of(pieces: GroundPieces, tin: Tin, p: Array) -> GroundPieces:
    """The lower of pieces over polygons and a surface; where one of the two is missing, the
    other.
    """
    _, higher = _parted(_over(pieces, tin))
    return joined(pieces, of_tin(tin, p), higher._replace(weight=-higher.weight))


def under(pieces: GroundPieces, tin: Tin, lowered: float = 0.0) -> GroundPieces:
    """The lower of pieces and a surface a depth (m) lower, only where both are."""
    return _parted(_over(pieces, tin, lowered))[0]
