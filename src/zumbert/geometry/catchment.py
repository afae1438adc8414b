"""The ground that drains to a place, on a grid of drop directions."""

from collections.abc import Callable, Sequence
from heapq import heapify, heappop, heappush
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.tin import Tin

MOST = 300_000  # cells; of more the spacing is wider
BESIDE = 2  # cells: a hollow so near to a place is the one that it stands in
AROUND = ((-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1))


class Catchments(NamedTuple):
    """The ground parted by what it drains to: a number for each cell (-1 where there is no
    ground), rows from south to north.
    """

    label: NDArray[
        np.int64
    ]  # index of the place; after those the border, then the pits that are no place
    corner: tuple[float, float]  # m, of the lower left cell
    spacing: float  # m
    pits: Array  # (n, 2): the other pits, m

    def size(self, i: int) -> float:
        """The size (m²) of what drains to a place."""
        return float((self.label == i).sum()) * self.spacing**2


def catchments(
    tin: Tin,
    places: Sequence[tuple[float, float]],
    spacing: float = 1.0,
    tell: Callable[[float], None] = lambda share: None,
) -> Catchments:
    """The ground that drains to each of some places (m), to the border, and to pits. A cell drains
    to the lower of its eight neighbours that lies steepest below it; one that has none, to where
    its hollow spills. An edge between two catchments is right to about a cell.
    """
    low, high = (
        np.asarray(tin.vertices)[tin.used][:, :2].min(axis=0),
        np.asarray(tin.vertices)[tin.used][:, :2].max(axis=0),
    )
    while np.prod(np.ceil((high - low) / spacing) + 1) > MOST:
        spacing *= 1.25
    nx, ny = (int(v) + 1 for v in np.ceil((high - low) / spacing))
    gx, gy = np.meshgrid(
        low[0] + (np.arange(nx) + 0.5) * spacing, low[1] + (np.arange(ny) + 0.5) * spacing
    )
    z = tin.level(gx.ravel(), gy.ravel()).reshape(ny, nx)
    ground = ~np.isnan(z)
    label = np.full((ny, nx), -2, np.int64)
    label[~ground] = -1
    seeds = _seeds(z, ground, places, (float(low[0]), float(low[1])), spacing)
    pits: list[tuple[float, float]] = []
    first_pit = len(places) + 1
    for kind, r, c in seeds:
        if label[r, c] != -2:
            continue
        beside = next(
            (
                i
                for i, pr, pc in seeds
                if i < len(places) and max(abs(pr - r), abs(pc - c)) <= BESIDE
            ),
            None,
        )
        if kind == first_pit and beside is not None:  # the very hollow that the place stands in
            label[r, c] = beside
        elif kind == first_pit:
            pits.append((float(gx[r, c]), float(gy[r, c])))
            label[r, c] = len(places) + len(pits)
        else:
            label[r, c] = kind
    _flood(z, label, tell)
    return Catchments(
        label, (float(low[0]), float(low[1])), spacing, np.array(pits, float).reshape(-1, 2)
    )


def _seeds(
    z: Array,
    ground: Mask,
    places: Sequence[tuple[float, float]],
    corner: tuple[float, float],
    spacing: float,
) -> list[tuple[int, int, int]]:
    """Cells that drain nowhere else: those of the places, then the border, then hollows; each
    with what it is.
    """
    ny, nx = z.shape
    out = []
    for i, (x, y) in enumerate(places):
        c, r = int((x - corner[0]) // spacing), int((y - corner[1]) // spacing)
        if 0 <= r < ny and 0 <= c < nx and ground[r, c]:
            out.append((i, r, c))
    wide = np.pad(ground, 1)
    inner = np.ones_like(ground)
    padded = np.pad(np.where(ground, z, np.inf), 1, constant_values=np.inf)
    lowest = np.full_like(z, np.inf)
    for dr, dc in AROUND:
        inner &= wide[1 + dr : 1 + dr + ny, 1 + dc : 1 + dc + nx]
        lowest = np.minimum(lowest, padded[1 + dr : 1 + dr + ny, 1 + dc : 1 + dc + nx])
    edge = ground & ~inner
    hollow = ground & inner & (z < lowest)
    out += [(len(places), int(r), int(c)) for r, c in np.argwhere(edge & (z <= lowest + 1e-12))]
    out += [(len(places) + 1, int(r), int(c)) for r, c in np.argwhere(hollow)]
    out += [(len(places), int(r), int(c)) for r, c in np.argwhere(edge & _faces_out(z, ground))]
    return out


def _faces_out(z: Array, ground: Mask) -> Mask:
    """Cells at the border over which the ground falls outward: the side that lies inward of them
    is higher.
    """
    ny, nx = z.shape
    out = np.zeros_like(ground)
    for dr, dc in ((0, 1), (0, -1), (1, 0), (-1, 0)):
        there = np.full_like(z, np.nan)
        rows, cols = slice(max(0, -dr), ny - max(0, dr)), slice(max(0, -dc), nx - max(0, dc))
        there[rows, cols] = z[
            slice(max(0, dr), ny - max(0, -dr)), slice(max(0, dc), nx - max(0, -dc))
        ]
        beyond = np.full_like(z, np.nan)
        beyond[slice(max(0, dr), ny - max(0, -dr)), slice(max(0, dc), nx - max(0, -dc))] = z[
            rows, cols
        ]
        out |= ground & np.isnan(beyond) & (there > z)
    return out


def _flood(z: Array, label: NDArray[np.int64], tell: Callable[[float], None]) -> None:
    """Gives every cell the label of where it drains to, from the lowest up; hollows go where
    they spill.
    """
    ny, nx = z.shape
    levels, labels = z.tolist(), label.tolist()
    seeds = {(int(r), int(c)) for r, c in np.argwhere(label >= 0)}
    todo = [(levels[r][c], r, c) for r, c in seeds]
    heapify(todo)
    done = [[v >= 0 for v in row] for row in labels]
    count, every = 0, max(1, int((label >= -2).sum()))
    while todo:
        spill, r, c = heappop(todo)
        count += 1
        if not count % 20_000:
            tell(count / every)
        for dr, dc in AROUND:
            i, j = r + dr, c + dc
            if 0 <= i < ny and 0 <= j < nx and not done[i][j] and labels[i][j] == -2:
                done[i][j] = True
                labels[i][j] = labels[r][c]
                heappush(todo, (max(spill, levels[i][j]), i, j))
        if (r, c) not in seeds:
            labels[r][c] = _steepest(levels, labels, done, r, c, ny, nx)
    label[:] = labels


def _steepest(
    levels: list[list[float]],
    labels: list[list[int]],
    done: list[list[bool]],
    r: int,
    c: int,
    ny: int,
    nx: int,
) -> int:
    """The label of the neighbour that lies steepest below a cell; its own where none is lower."""
    own, best, found = levels[r][c], 0.0, labels[r][c]
    for dr, dc in AROUND:
        i, j = r + dr, c + dc
        if 0 <= i < ny and 0 <= j < nx and done[i][j]:
            fall = (own - levels[i][j]) / (1.4142135623730951 if dr and dc else 1.0)
            if fall > best:
                best, found = fall, labels[i][j]
    return found


def outline(found: Catchments, i: int) -> Array | None:
    """The outer ring (n, 2) of what drains to a place, simplified within half a cell; None where
    that is less than a cell.
    """
    import shapely

    rows, cols = np.nonzero(found.label == i)
    if not len(rows):
        return None
    x, y, s = (
        found.corner[0] + cols * found.spacing,
        found.corner[1] + rows * found.spacing,
        found.spacing,
    )
    whole = shapely.union_all(shapely.box(x, y, x + s, y + s))
    parts = sorted(shapely.get_parts(whole), key=lambda p: -p.area)
    ring = shapely.get_coordinates(parts[0].simplify(s / 2).exterior)[:-1]
    return np.asarray(ring) if len(ring) > 2 else None
