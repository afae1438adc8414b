"""Boxes about axes, which tell what can be near at all."""

from collections.abc import Sequence
from itertools import chain
from typing import TYPE_CHECKING, Any

import numpy as np
from msgspec import Struct

from zumbert.analysis.clearance import axis
from zumbert.analysis.pipes import PipeFacts
from zumbert.geometry.elements import Array
from zumbert.model.ids import PipeId

if TYPE_CHECKING:
    from zumbert.analysis.stages import Derived


class Axis(Struct, frozen=True, eq=False):
    """The axis of a pipe, wall to wall: pieces (n, 2, 3) in m, where they end along the pipe,
    and what it joins.
    """

    pieces: Array
    along: Array  # m, n + 1 of them
    radius: float  # m, outside
    joins: tuple[str, str]

    @property
    def box(self) -> Array:
        """The least and the greatest x, y and level of its outside, m."""
        flat = self.pieces.reshape(-1, 3)
        return np.concatenate([flat.min(axis=0) - self.radius, flat.max(axis=0) + self.radius])


class Boxes(Struct, frozen=True, eq=False):
    """The axes of all pipes with their boxes, (n, 6) in m, and the row of each."""

    keys: list[PipeId]
    row: dict[PipeId, int]
    axes: list[Axis]
    at: Array  # a column after the other in memory: they are searched a column at a time

    def take(self, rows: Any) -> tuple[list[PipeId], list[Axis]]:
        """The pipes of some rows, and their axes."""
        some = rows.tolist()
        return [self.keys[r] for r in some], [self.axes[r] for r in some]

    def of(self, key: PipeId) -> Axis:
        """The axis of a pipe."""
        return self.axes[self.row[key]]


def boxes(now: "Derived", old: Boxes | None) -> Boxes:
    """The axes and boxes of all pipes that have one; those that changed are put into a copy of
    the former ones.
    """
    facts: dict[PipeId, PipeFacts] = now["pipes"]
    fresh, gone = now.changed("pipes")
    if old is None or gone or len(fresh) > len(facts) / 2:
        return _all_boxes(dict(zip(facts, axes(list(facts.values())), strict=True)))
    made = dict(zip(fresh, axes([facts[k] for k in fresh]), strict=True))
    if any(a is None and k in old.row for k, a in made.items()):
        return _all_boxes({**dict(zip(old.keys, old.axes, strict=True)), **made})
    there = {k: a for k, a in made.items() if a is not None}
    new = [k for k in there if k not in old.row]
    keys, row, every = old.keys, old.row, old.axes.copy()
    if new:
        keys = keys + new
        row = {**row, **{k: i for i, k in enumerate(new, len(old.keys))}}
        every += [there[k] for k in new]
    at = (
        np.asfortranarray(np.concatenate([old.at, np.empty((len(new), 6))]))
        if new
        else old.at.copy(order="F")
    )
    at[[row[k] for k in there]] = _boxes(list(there.values()))
    for k, a in there.items():
        every[row[k]] = a
    return Boxes(keys, row, every, at)


def _all_boxes(made: dict[PipeId, Axis | None]) -> Boxes:
    known = {k: a for k, a in made.items() if a is not None}
    every = list(known.values())
    return Boxes(
        list(known), {k: i for i, k in enumerate(known)}, every, np.asfortranarray(_boxes(every))
    )


def wider(boxes: Array, by: float) -> Array:
    """Boxes grown by a distance (m) to all sides."""
    return np.hstack([boxes[:, :3] - by, boxes[:, 3:] + by])


def _boxes(axes: Sequence[Axis]) -> Array:
    if not axes:
        return np.zeros((0, 6))
    if all(len(a.pieces) == 1 for a in axes):
        both = np.concatenate([a.pieces for a in axes])
        wide = np.array([a.radius for a in axes])[:, None]
        return np.hstack([both.min(axis=1) - wide, both.max(axis=1) + wide])
    return np.array([a.box for a in axes])


def axes(pipes: Sequence[PipeFacts]) -> list[Axis | None]:
    """The axes of pipes; None for one that is abandoned, or has no place or no length. All
    straight ones are made together.
    """
    a = np.array([f.span.reach_up for f in pipes])
    b = np.array([f.span.length - f.span.reach_down for f in pipes])
    long = np.array([f.span.length for f in pipes])
    ends = np.array(
        [(f.span.up.x, f.span.up.y, f.span.down.x, f.span.down.y) for f in pipes], float
    ).reshape(-1, 2, 2)
    none = b <= a
    a, b = np.where(none, 0.0, a), np.where(none, long, b)
    slope = np.array([f.slope or 0.0 for f in pipes])
    start = np.array([f.pipe.invert_up + f.inside / 2 for f in pipes]) + slope * np.array(
        [f.quoted_from for f in pipes]
    )
    s = np.column_stack([a, b])
    share = np.divide(s, long[:, None], out=np.zeros_like(s), where=long[:, None] > 0)
    xy = ends[:, :1] + share[..., None] * (ends[:, 1:] - ends[:, :1])
    places = np.concatenate([xy, (start[:, None] - slope[:, None] * s)[..., None]], axis=2)
    known = np.isfinite(places).all(axis=(1, 2)) & (long > 0)
    out: list[Axis | None] = []
    for i, f in enumerate(pipes):
        if not known[i] or f.pipe.status == "abandoned":
            out.append(None)
            continue
        pieces, along = places[i : i + 1], s[i]
        if f.span.arc is not None:
            pieces = axis(f)
            along = np.array(
                [a[i], *(v for v in f.span.chords().tolist() if a[i] < v < b[i]), b[i]]
            )
        out.append(Axis(pieces, along, f.inside / 2 + f.wall, (f.pipe.up, f.pipe.down)))
    return out


def all_points(points: Sequence[Sequence[tuple[float, float, float | None]]]) -> Array:
    """All points of some lines, (n, 3); a level that is not known is NaN."""
    one_by_one = chain.from_iterable(chain.from_iterable(points))
    try:
        return np.fromiter(one_by_one, float).reshape(-1, 3)
    except TypeError:
        return np.array([p for line in points for p in line], float).reshape(-1, 3)
