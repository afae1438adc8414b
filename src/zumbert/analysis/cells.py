"""Trenches and pits as convex cells in plan: over each the floor of the dig is one plane."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from zumbert.analysis.digs import Dig
from zumbert.geometry.elements import Array
from zumbert.geometry.mesh import circle
from zumbert.geometry.overlay import stacked
from zumbert.geometry.stretches import expanded

CHUNK = 5.0  # m: cells of a trench that are this long find their triangles fast


class Cells(Struct, frozen=True, kw_only=True, eq=False):
    """Cells in plan. On a cell the distance along the pipe and the height over the bottom are
    linear.
    """

    owner: np.ndarray  # (n): which trench or pit of those asked for
    xy: Array  # (n, k, 2), m, anticlockwise
    at: Array  # (n, 2), m: a point of the axis
    along: Array  # (n, 2): unit vector in flow direction; 0 for a pit
    s: Array  # (n), m: distance at that point
    scale: Array  # (n): distance along an arc over that along its chord
    side: Array  # (n): 1 left of the axis, -1 right, 0 over the bottom
    out: Array  # (n), m from the axis where the strip begins
    rise: Array  # (n), m over the bottom there
    grad: Array  # (n): height over the bottom per metre out
    top: Array  # (n), m over the bottom: the height at which the strip ends

    def distance(self, row: np.ndarray, xy: Array) -> Array:
        """Distances along the pipe (m) at points (m, k, 2) of cells."""
        d = self.along[row]
        p = xy - self.at[row][:, None]
        return np.asarray(
            self.s[row][:, None]
            + self.scale[row][:, None] * (p[:, :, 0] * d[:, :1] + p[:, :, 1] * d[:, 1:])
        )

    def height(self, row: np.ndarray, xy: Array) -> Array:
        """Heights of the floor over the bottom (m) at points of cells."""
        d, side = self.along[row], self.side[row][:, None]
        p = xy - self.at[row][:, None]
        left = p[:, :, 1] * d[:, :1] - p[:, :, 0] * d[:, 1:]
        return np.asarray(
            self.rise[row][:, None]
            + self.grad[row][:, None] * (side * left - self.out[row][:, None])
        )


class _Links(NamedTuple):
    """Pieces of the axes of trenches: places, distances and the vectors to the left by which the
    cells of two meet.
    """

    owner: np.ndarray
    p: Array  # (n, 2, 2): both ends, m
    left: Array  # (n, 2, 2)
    s: Array  # (n, 2), m


def trench_cells(digs: Sequence[Dig], tall: Sequence[float], chunk: float = CHUNK) -> Cells:
    """The cells of trenches, with sides up to heights (m) over their bottoms; none is longer
    than a chunk (m).
    """
    rows = [i for i, dig in enumerate(digs) if dig.length > 1e-9]
    links = _links(digs, rows, chunk)
    d = links.p[:, 1] - links.p[:, 0]
    long = np.hypot(d[:, 0], d[:, 1])
    d = d / np.maximum(long, 1e-12)[:, None]
    strips = [_strips(digs[i], tall[i]) for i in rows]
    count = np.array([len(t) for t in strips], np.int64)
    first = np.cumsum(count) - count
    every = np.concatenate([np.zeros((0, 5)), *strips])
    place = np.full(len(digs), -1)
    place[rows] = np.arange(len(rows))
    mine = place[links.owner]
    link, strip = expanded(first[mine], count[mine])
    side, out, out_to, rise, rise_to = every[strip].T
    inner, outer = (
        np.where(side < 0, -out_to, out)[:, None],
        np.where(side < 0, -out, out_to)[:, None],
    )
    p, left = links.p[link], links.left[link]
    xy = np.stack(
        [p[:, k] + u * left[:, k] for k, u in ((0, inner), (1, inner), (1, outer), (0, outer))],
        axis=1,
    )
    wide = out_to - out
    return Cells(
        owner=links.owner[link],
        xy=xy,
        at=p[:, 0],
        along=d[link],
        s=links.s[link, 0],
        scale=((links.s[:, 1] - links.s[:, 0]) / np.maximum(long, 1e-12))[link],
        side=side,
        out=np.where(side == 0, 0.0, out),
        rise=rise,
        grad=np.where(wide > 0, (rise_to - rise) / np.where(wide > 0, wide, 1.0), 0.0),
        top=rise_to,
    )


def _strips(dig: Dig, tall: float) -> Array:
    """The strips of a trench (n, 5): which side, and from and to where, out and up; the bottom
    first.
    """
    half = dig.width / 2
    rows = [
        (0.0, -half, half, 0.0, 0.0),
        *((side, *strip) for strip in dig.sides(tall) for side in (1.0, -1.0)),
    ]
    return np.array(rows)


def _links(digs: Sequence[Dig], rows: Sequence[int], chunk: float) -> _Links:
    parts = [_curved(i, digs[i], chunk) for i in rows if digs[i].span.arc is not None]
    straight = [i for i in rows if digs[i].span.arc is None]
    if straight:
        parts.append(_straight(straight, [digs[i] for i in straight], chunk))
    if not parts:
        return _Links(
            np.zeros(0, np.int64), np.zeros((0, 2, 2)), np.zeros((0, 2, 2)), np.zeros((0, 2))
        )
    return _Links(*(np.concatenate(values) for values in zip(*parts, strict=True)))


def _straight(rows: Sequence[int], digs: Sequence[Dig], chunk: float) -> _Links:
    ends = np.array(
        [
            (g.span.up.x, g.span.up.y, g.span.down.x, g.span.down.y, g.begin, g.end, g.span.length)
            for g in digs
        ],
        float,
    )
    a, d = ends[:, :2], (ends[:, 2:4] - ends[:, :2]) / ends[:, 6:]
    begin, long = ends[:, 4], ends[:, 5] - ends[:, 4]
    count = np.maximum(1, np.ceil(long / chunk)).astype(np.int64)
    which, nth = expanded(np.zeros(len(rows), np.int64), count)
    s = begin[which][:, None] + (long / count)[which][:, None] * np.stack([nth, nth + 1], axis=1)
    p = a[which][:, None] + d[which][:, None] * s[:, :, None]
    left = np.stack([-d[:, 1], d[:, 0]], axis=1)[which]
    return _Links(np.array(rows, np.int64)[which], p, np.stack([left, left], axis=1), s)


def _curved(row: int, dig: Dig, chunk: float) -> _Links:
    """The chords of an arc; where two meet their cells meet on the bisector."""
    n = max(int(np.ceil(dig.length / chunk)), len(dig.span.chords()) - 1)
    s = np.linspace(dig.begin, dig.end, n + 1)
    p = dig.span.points(s)
    d = np.diff(p, axis=0)
    d = d / np.hypot(d[:, 0], d[:, 1])[:, None]
    left = np.column_stack([-d[:, 1], d[:, 0]])
    turn = np.concatenate([left[:1], left[:-1] + left[1:], left[-1:]])
    turn[1:-1] /= np.maximum(1e-9, (turn[1:-1] * left[1:]).sum(axis=1))[:, None]
    return _Links(
        np.full(n, row),
        np.stack([p[:-1], p[1:]], axis=1),
        np.stack([turn[:-1], turn[1:]], axis=1),
        np.stack([s[:-1], s[1:]], axis=1),
    )


def pit_outline(x: float, y: float, sides: tuple[float, float | None], bearing: float) -> Array:
    """The corners of a pit or chamber (m), anticlockwise: a circle as a polygon of its area, a
    rectangle turned to a bearing.
    """
    wide, across = sides
    if across is None:
        return circle(x, y, 0.0, wide)[:, :2]
    ahead = np.array([np.sin(bearing), np.cos(bearing)]) * wide / 2
    left = np.array([-np.cos(bearing), np.sin(bearing)]) * across / 2
    return np.asarray(
        np.array([x, y]) + np.array([-ahead - left, ahead - left, ahead + left, -ahead + left])
    )


def pit_cells(outlines: Sequence[Array]) -> Cells:
    """A cell for each outline; its floor is level."""
    n = len(outlines)
    zero, flat = np.zeros(n), np.zeros((n, 2))
    xy = stacked([o[None] for o in outlines]) if n else np.zeros((0, 4, 2))
    return Cells(
        owner=np.arange(n),
        xy=xy,
        at=xy[:, 0],
        along=flat,
        s=zero,
        scale=np.ones(n),
        side=zero,
        out=zero,
        rise=zero,
        grad=zero,
        top=zero,
    )
