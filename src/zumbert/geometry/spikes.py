"""Spikes: vertices of a surface that lie far off their neighbours, and not by chance."""

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.kept import kept
from zumbert.geometry.tin import Tin
from zumbert.geometry.triangulate import Fault

SPIKE = 2.0  # m off the plane of its neighbours, to start with

NEIGHBOURS = 16  # of a vertex, that tell whether it is a spike
ROUNDS_OF_FIT = 6
ROUNDS = 20  # a spike that goes may bare another beside it
# holds a plane that its places, all in a row, leave free; it adds its doubt to the scatter
RIDGE = 1e-6
LEAST_SCATTER = 0.005  # m: no survey is finer
SAMPLE = 4096  # vertices that tell the usual scatter, at least where there are as many
# times the scatter: farther off by chance is one vertex in some hundred thousand, with sixteen
# neighbours
BY_CHANCE = 8.0
KEPT = 2  # surfaces whose neighbours are: looked at in another unit

Rows = NDArray[np.int64]


def spikes(tin: Tin, height: float = SPIKE, unit: float = 1.0) -> list[Fault]:
    """Vertices more than a height (m) off the plane through their neighbours, and so far off that
    chance does not do it; one unit of the surface is `unit` m, and the faults are in m.

    The plane is that of the sixteen nearest vertices, by Tukey's biweight: a neighbour that is a
    spike itself has no say. What chance does is told by the scatter of those neighbours about it
    and by how well they hold the plane over the vertex: where they stand in a row, or all on one
    side, it takes more. On clean ground with normal scatter fewer than one vertex in a hundred
    thousand is told, whatever the scatter (a test counts them).
    """
    among = _among(tin)
    if among is None:
        return []
    rows, off = _odd(among, _may(among, height / unit), height / unit, unit, _usual(among, unit))
    v = tin.vertices[among.used[rows]]
    places = np.column_stack([v[:, :2], off]) * unit
    numbers = among.used[rows].tolist()
    return [
        Fault("spike", x, y, by, i) for (x, y, by), i in zip(places.tolist(), numbers, strict=True)
    ]


def all_spikes(tin: Tin, height: float, unit: float = 1.0) -> list[int]:
    """The numbers of all vertices that are spikes: of those, too, that come to light when
    another beside them is gone.
    """
    among = _among(tin)
    if among is None:
        return []
    gone, usual = np.zeros(len(among.used), bool), _usual(among, unit)
    rows, _ = _odd(among, _may(among, height / unit), height / unit, unit, usual)
    for _ in range(ROUNDS):
        gone[rows] = True
        if not len(rows) or len(gone) - gone.sum() <= among.near.shape[1]:
            break
        touched = np.flatnonzero(~gone & gone[among.near].any(axis=1))
        among = _without(among, gone, touched)
        rows, _ = _odd(among, touched, height / unit, unit, usual)
    return [int(v) for v in among.used[gone]]


class _Among(NamedTuple):
    """How the vertices of a surface lie among their neighbours, in its own unit."""

    used: Rows  # the numbers of the vertices that faces have (n,)
    xy: Array  # (n, 2) about their mean
    z: Array  # (n,)
    tree: Any  # over xy
    near: Rows  # the nearest of each (n, k)
    reach: Array  # how far off the farthest of those is (n,)
    off: Array  # how far each lies off the plane of least squares through them (n,)
    worst: Array  # how far the worst of them does (n,)


@kept(KEPT)
def _among(tin: Tin) -> _Among | None:
    from scipy.spatial import cKDTree

    used = tin.used
    v = tin.vertices[used]
    k = min(NEIGHBOURS, len(v) - 1)
    if k < 5:
        return None
    xy = v[:, :2] - v[:, :2].mean(axis=0)
    tree = cKDTree(xy)
    near, reach = _nearest(tree, xy, np.arange(len(v)), np.zeros(len(v), bool), k)
    among = _Among(used, xy, v[:, 2], tree, near, reach, reach, reach)
    d, z = _about(among, np.arange(len(v)))
    plane, _ = _planes_through(d, z, np.ones_like(z))
    rest = np.abs(z - plane[:, :1] - (d * plane[:, None, 1:]).sum(axis=2))
    return among._replace(off=np.abs(plane[:, 0]), worst=rest.max(axis=1))


def _nearest(tree: Any, xy: Array, rows: Rows, gone: Mask, k: int) -> tuple[Rows, Array]:
    """The k places nearest to some of them, without those that are gone, and how far the
    farthest is.
    """
    asked = k + 1
    while True:
        far, near = tree.query(xy[rows], min(asked, len(xy)))
        kept = (near != rows[:, None]) & ~gone[near]
        if asked >= len(xy) or (kept.sum(axis=1) >= k).all():
            break
        asked *= 2
    kept &= np.cumsum(kept, axis=1) <= k
    return near[kept].reshape(-1, k), np.maximum(far[kept].reshape(-1, k)[:, -1], 1e-6)


def _without(among: _Among, gone: Mask, touched: Rows) -> _Among:
    """The same with other neighbours for those vertices that have lost some."""
    near, reach = among.near.copy(), among.reach.copy()
    near[touched], reach[touched] = _nearest(among.tree, among.xy, touched, gone, near.shape[1])
    return among._replace(near=near, reach=reach)


def _about(among: _Among, rows: Rows) -> tuple[Array, Array]:
    """The neighbours of some vertices as these see them: shares of their reach (n, k, 2), and
    levels above them (n, k).
    """
    near = among.near[rows]
    d = (among.xy[near] - among.xy[rows, None]) / among.reach[rows, None, None]
    return d, among.z[near] - among.z[rows, None]


def _may(among: _Among, height: float) -> Rows:
    """The vertices that need a closer look: the others lie well enough."""
    return np.flatnonzero((among.off > height / 4) | (among.worst > height / 4))


def _usual(among: _Among, unit: float) -> float:
    """The usual scatter of neighbours: of sixteen by chance a few lie very well."""
    some = np.arange(0, len(among.used), 1 + len(among.used) // SAMPLE)
    return float(np.median(_robust(*_about(among, some), unit)[2]))


def _odd(among: _Among, rows: Rows, height: float, unit: float, usual: float) -> tuple[Rows, Array]:
    """Which of some vertices are spikes, and how far (in the surface's unit) they lie off."""
    off, hold, scatter = _robust(*_about(among, rows), unit)
    odd = (np.abs(off) > height) & (
        np.abs(off) > BY_CHANCE * np.maximum(scatter, usual) * np.sqrt(1.0 + hold)
    )
    return rows[odd], off[odd]


def _robust(d: Array, z: Array, unit: float) -> tuple[Array, Array, Array]:
    """How far vertices lie off the planes through their neighbours (n, k, 2 and n, k), by Tukey's
    biweight; how the scatter of the neighbours goes on to the level over the vertex (its square, 1:
    as it is); and that scatter.
    """
    if not len(z):
        return np.zeros(0), np.zeros(0), np.zeros(0)
    weight = np.ones_like(z)
    for _ in range(ROUNDS_OF_FIT):
        plane, normal = _planes_through(d, z, weight)
        rest = z - plane[:, :1] - (d * plane[:, None, 1:]).sum(axis=2)
        scatter = np.maximum(1.4826 * np.median(np.abs(rest), axis=1), LEAST_SCATTER / unit)
        weight = np.clip(1.0 - (rest / (6.0 * scatter[:, None])) ** 2, 0.0, None) ** 2
    return -plane[:, 0], np.asarray(np.linalg.inv(normal)[:, 0, 0]), scatter


def _planes_through(d: Array, z: Array, weight: Array) -> tuple[Array, Array]:
    """Planes (level over the vertex and two slopes) through neighbours by weighted least
    squares, and their normal matrices.
    """
    x, y = d[:, :, 0], d[:, :, 1]
    wx, wy = weight * x, weight * y
    normal, right = np.empty((len(z), 3, 3)), np.empty((len(z), 3))
    for i, j, value in (
        (0, 0, weight),
        (0, 1, wx),
        (0, 2, wy),
        (1, 1, wx * x),
        (1, 2, wx * y),
        (2, 2, wy * y),
    ):
        normal[:, i, j] = normal[:, j, i] = value.sum(axis=1)
    for i, value in enumerate((weight, wx, wy)):
        right[:, i] = (value * z).sum(axis=1)
    normal += RIDGE * np.eye(3)
    return np.asarray(np.linalg.solve(normal, right[:, :, None])[:, :, 0]), normal
