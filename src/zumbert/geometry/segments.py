"""Line work of drawings: what lies near a place, where lines cross, and chains of segments that
go on.
"""

from typing import Any, NamedTuple

import numpy as np

from zumbert.geometry.elements import Array, Mask

JOIN = 1e-3  # m: ends nearer than this are one place


class Index:
    """Straight pieces (n, 4): x0, y0, x1, y1 in m, ready to be asked what lies near."""

    def __init__(self, xy: Array, centres: Array | None = None) -> None:
        import shapely

        self.xy = np.asarray(xy, float).reshape(-1, 4)
        self._tree: Any = shapely.STRtree(shapely.linestrings(self.xy.reshape(-1, 2, 2)))
        c = np.zeros((0, 2)) if centres is None else np.asarray(centres, float).reshape(-1, 2)
        self._centres = c[np.argsort(c[:, 0])]

    def boxed(self, x0: float, y0: float, x1: float, y1: float) -> np.ndarray:
        """The numbers of all pieces whose boxes meet a box, rising."""
        import shapely

        return np.asarray(np.sort(self._tree.query(shapely.box(x0, y0, x1, y1))))

    def centres_near(self, x: float, y: float, within: float) -> Array:
        """Centres of arcs and circles (n, 2) in the square about a place."""
        i, j = np.searchsorted(self._centres[:, 0], [x - within, x + within])
        near = self._centres[i:j]
        return np.asarray(near[np.abs(near[:, 1] - y) <= within])


class Catch(NamedTuple):
    """A place of the line work that the cursor is drawn to."""

    x: float
    y: float
    what: str  # end, crossing, centre, middle


def catches(
    index: Index, x: float, y: float, within: float, seen: Mask | None = None
) -> list[Catch]:
    """Ends, crossings, centres and middles within a distance (m) of a place; `seen` tells the
    pieces that count.

    Crossings are of pieces near the place with each other; where more than 60 are, of the 60
    nearest.
    """
    rows = index.boxed(x - within, y - within, x + within, y + within)
    if seen is not None:
        rows = rows[seen[rows]]
    near = index.xy[rows]
    found = [Catch(px, py, "end") for px, py in near.reshape(-1, 2).tolist()]
    found += [
        Catch(px, py, "crossing") for px, py in _crossings(near[_nearest(near, x, y, 60)]).tolist()
    ]
    found += [Catch(px, py, "centre") for px, py in index.centres_near(x, y, within).tolist()]
    found += [Catch(px, py, "middle") for px, py in ((near[:, :2] + near[:, 2:]) / 2).tolist()]
    return [c for c in found if np.hypot(c.x - x, c.y - y) <= within]


def _nearest(xy: Array, x: float, y: float, most: int) -> np.ndarray:
    if len(xy) <= most:
        return np.arange(len(xy))
    return np.argsort(distances(xy, x, y))[:most]


def distances(xy: Array, x: float, y: float) -> Array:
    """From a place to each piece (n, 4), m."""
    a, d = xy[:, :2], xy[:, 2:] - xy[:, :2]
    long = np.maximum((d**2).sum(axis=1), 1e-24)
    t = np.clip(((x - a[:, 0]) * d[:, 0] + (y - a[:, 1]) * d[:, 1]) / long, 0, 1)
    return np.asarray(np.hypot(a[:, 0] + t * d[:, 0] - x, a[:, 1] + t * d[:, 1] - y))


def _crossings(xy: Array) -> Array:
    """Where pieces cross each other, ends that merely meet left out."""
    i, j = np.triu_indices(len(xy), 1)
    p, r = xy[i, :2], xy[i, 2:] - xy[i, :2]
    q, s = xy[j, :2], xy[j, 2:] - xy[j, :2]
    det = r[:, 0] * s[:, 1] - r[:, 1] * s[:, 0]
    ok = np.abs(det) > 1e-12
    p, r, q, s, det = p[ok], r[ok], q[ok], s[ok], det[ok]
    d = q - p
    t, u = (
        (d[:, 0] * s[:, 1] - d[:, 1] * s[:, 0]) / det,
        (d[:, 0] * r[:, 1] - d[:, 1] * r[:, 0]) / det,
    )
    on = (t >= 0) & (t <= 1) & (u >= 0) & (u <= 1)
    ends = ((t < 1e-9) | (t > 1 - 1e-9)) & ((u < 1e-9) | (u > 1 - 1e-9))
    return np.asarray(p[on & ~ends] + t[on & ~ends, None] * r[on & ~ends])


def chain(xy: Array, at: int) -> Array:
    """The line (n, 2) that piece `at` is part of: it goes on both ways while one other piece, and
    only one, begins or ends there; back at its beginning it is a ring, its first place repeated at
    its end.
    """
    ends = np.round(xy.reshape(-1, 2) / JOIN).astype(np.int64)
    _, number = np.unique(ends, axis=0, return_inverse=True)
    number = number.reshape(-1, 2)
    order = np.argsort(number.ravel(), kind="stable")
    starts = np.searchsorted(number.ravel()[order], np.arange(number.max() + 2))

    def onward(piece: int, node: int) -> int | None:
        held = order[starts[node] : starts[node + 1]] // 2
        others = held[held != piece]
        return int(others[0]) if len(held) == 2 and len(others) == 1 else None

    def walk(piece: int, node: int) -> tuple[list[list[float]], bool]:
        out: list[list[float]] = []
        first = piece
        while True:
            nxt = onward(piece, node)
            if nxt is None:
                return out, False
            if nxt == first:
                return out, True
            side = 1 if number[nxt, 0] == node else 0
            out.append(xy[nxt].reshape(2, 2)[side].tolist())
            piece, node = nxt, int(number[nxt, side])

    a, b = xy[at, :2].tolist(), xy[at, 2:].tolist()
    ahead, ring = walk(at, int(number[at, 1]))
    if ring:
        return np.array([a, b, *ahead])
    behind, _ = walk(at, int(number[at, 0]))
    return np.array([*behind[::-1], a, b, *ahead])


def crossed_at(xy: Array, at: Array, pieces: Array) -> tuple[Array, np.ndarray]:
    """Where pieces (n, 4) cross a line of corners (k, 2) whose distances are `at` (k): distances
    along it, rising, and the numbers of the pieces. Pieces that run along the line cross it
    nowhere.
    """
    a, d = xy[:-1], np.diff(xy, axis=0)
    q, e = pieces[:, :2], pieces[:, 2:] - pieces[:, :2]
    det = d[:, None, 0] * e[None, :, 1] - d[:, None, 1] * e[None, :, 0]
    ok = np.abs(det) > 1e-12
    safe = np.where(ok, det, 1.0)
    g = q[None, :, :] - a[:, None, :]
    t = (g[:, :, 0] * e[None, :, 1] - g[:, :, 1] * e[None, :, 0]) / safe
    u = (g[:, :, 0] * d[:, None, 1] - g[:, :, 1] * d[:, None, 0]) / safe
    i, j = np.nonzero(ok & (t >= 0) & (t < 1) & (u >= 0) & (u <= 1))
    s = at[i] + t[i, j] * np.diff(at)[i]
    order = np.argsort(s, kind="stable")
    return np.asarray(s[order]), j[order]
