"""The space that is dug once: the union of all trenches and pits, and what they share by pairs.

Over each cell the floor of a dig is a plane, so the part of a cell where another dig lies deeper is
convex: the cell of the other, cut by the line on which both floors are level. These parts are taken
off a cell one after the other, and what is left over is nobody else's. Where two digs have
different upper surfaces, that of the deeper one counts.
"""

from collections.abc import Callable, Mapping
from typing import Literal, NamedTuple

import numpy as np
from msgspec import Struct

from zumbert.analysis.cells import Cells, pit_cells, trench_cells
from zumbert.analysis.digs import bottom_line, trench_type
from zumbert.analysis.groundkinds import KINDS, kinds_at
from zumbert.analysis.plots import World, upper_pieces
from zumbert.analysis.trench import Trenches
from zumbert.geometry.elements import Array
from zumbert.geometry.overlay import area, corner_counts, cut, stacked, triangles, trimmed
from zumbert.geometry.prisms import areas, covered, volumes
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.trench import Upper

LEAST = 0.001  # m³: less than a litre of shared space is not listed
# m²: less is shared in plan by a trench and the polygon that stands for the round pit at its end
SLIVER = 0.001
Key = PipeId | StructureId


class Overlap(NamedTuple):
    """Space that two digs share."""

    a: Key
    b: Key
    kind: Literal[
        "meet", "cross", "beside", "pit"
    ]  # two trenches at one structure, crossing or beside each other; or a pit
    volume: float  # m³
    outline: tuple[Array, ...]  # of the parts that they share in plan, m


class Net(Struct, frozen=True, eq=False):
    """The union of trenches and pits: ground that is dug once."""

    lost: dict[Key, float]  # m³ of each dig that is another's
    lost_area: dict[
        Key, dict[str, float]
    ]  # m² of its upper surface that is another's, by kind of ground
    overlaps: tuple[Overlap, ...]

    @property
    def shared(self) -> float:
        """All that would be counted twice, m³."""
        return sum(self.lost.values())


class _Solid(NamedTuple):
    """Cells of digs with the planes of their floors: x, y and level of a point, and slopes in x and
    in y; about an origin of their own, so that floors of one plane are known as such.
    """

    owner: np.ndarray
    xy: Array
    floor: Array
    upper: tuple[Upper, ...]  # of each owner
    origin: Array  # m

    @property
    def corners(self) -> np.ndarray:
        """How many corners the cells have."""
        return corner_counts(self.xy)


def union(dug: Trenches, tell: Callable[[float], None] = lambda share: None) -> Net:
    """The union of all trenches and pits that have a volume. Exact on the triangles of the ground,
    but for rounding: lines on which floors are level are told apart by 1e-9 m. `tell` is told how
    far it is, 0 to 1, and may end it by raising.
    """
    tell(0.0)
    keys: list[Key] = []
    solid = _solid(dug, keys)
    first, second = _pairs(solid)
    both_first, both_second = np.concatenate([first, second]), np.concatenate([second, first])
    order = np.lexsort((both_second, both_first))
    tell(0.1)
    parts = _deeper(solid, both_first[order], both_second[order], tell)
    volume, area_of = _over(dug.world, solid, parts)
    owner = solid.owner[parts.cell]
    lost = np.bincount(owner, weights=volume, minlength=len(keys))
    tops = [np.bincount(owner, weights=column, minlength=len(keys)) for column in area_of.T]
    tell(0.8)
    shared = _shared(solid, first, second)
    tell(0.9)
    return Net(
        {k: float(v) for k, v in zip(keys, lost, strict=True) if v > 1e-9},
        {
            k: {kind: float(t[i]) for kind, t in zip(KINDS, tops, strict=True) if t[i] > 1e-9}
            for i, k in enumerate(keys)
            if lost[i] > 0
        },
        _overlaps(dug, keys, solid, shared, _over(dug.world, solid, shared)[0]),
    )


def _solid(dug: Trenches, keys: list[Key]) -> _Solid:
    """The cells of all digs; fills `keys` with their owners."""
    project, pipes = (
        dug.facts.project,
        [
            t
            for t in dug.pipes.values()
            if t.excavation and t.dig is not None and t.plot is not None
        ],
    )
    pits = [p for p in dug.pits.values() if p.excavation and p.bottom is not None]
    digs = [t.dig for t in pipes if t.dig is not None]
    cells = trench_cells(digs, [t.plot.tall for t in pipes if t.plot is not None], np.inf)
    lines = np.array(
        [bottom_line(t.pipe, d.size.bedding) for t, d in zip(pipes, digs, strict=True)]
    ).reshape(-1, 2)
    around = pit_cells([p.plan.outline for p in pits])
    level = np.array([p.bottom or 0.0 for p in pits])
    flat = (
        np.column_stack([around.at, level, np.zeros((len(pits), 2))]) if pits else np.zeros((0, 5))
    )
    keys += [t.pipe.pipe.id for t in pipes] + [p.structure.structure.id for p in pits]
    uppers = [d.upper for d in digs] + [
        trench_type(project, p.structure.structure).upper for p in pits
    ]
    xy, floor = stacked([cells.xy, around.xy]), np.concatenate([_floors(cells, lines), flat])
    origin = xy[:, 0].mean(axis=0) if len(xy) else np.zeros(2)
    floor[:, :2] -= origin
    return _Solid(
        np.concatenate([cells.owner, around.owner + len(pipes)]),
        xy - origin,
        floor,
        tuple(uppers),
        origin,
    )


def _floors(cells: Cells, lines: Array) -> Array:
    """The planes of the floors of trench cells whose bottoms have levels at distance 0 and falls
    (n, 2).
    """
    level, slope = lines[cells.owner].T
    d, left = cells.along, np.column_stack([-cells.along[:, 1], cells.along[:, 0]])
    rise = -(slope * cells.scale)[:, None] * d + (cells.grad * cells.side)[:, None] * left
    at = level - slope * cells.s + cells.rise - cells.grad * cells.out
    return np.column_stack([cells.at, at, rise])


def _pairs(solid: _Solid) -> tuple[np.ndarray, np.ndarray]:
    """Pairs of cells of two digs that overlap in plan."""
    import shapely

    if not len(solid.owner):
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    shapes = shapely.polygons(solid.xy)
    a, b = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    keep = (a < b) & (solid.owner[a] != solid.owner[b])
    a, b = a[keep], b[keep]
    meet = shapely.area(shapely.intersection(shapes[a], shapes[b])) > SLIVER
    return a[meet], b[meet]


class _Parts(NamedTuple):
    """Parts of cells in plan: which cell's floor they have, which cell they are shared with."""

    cell: np.ndarray
    other: np.ndarray
    xy: Array


def _level(plane: Array, xy: Array) -> Array:
    return np.asarray(
        plane[:, 2:3]
        + plane[:, 3:4] * (xy[:, :, 0] - plane[:, :1])
        + plane[:, 4:] * (xy[:, :, 1] - plane[:, 1:2])
    )


class _Walls:
    """The half-planes of the part of a cell where another lies deeper: the sides of the other, and
    the line on which both floors are level. Of two that are level the one of the higher number
    counts as deeper.
    """

    def __init__(self, solid: _Solid, cell: np.ndarray, other: np.ndarray) -> None:
        q = solid.xy[other]
        e = np.roll(q, -1, axis=1) - q
        self.normal = np.stack([e[:, :, 1], -e[:, :, 0]], axis=2)
        self.offset = (self.normal * q).sum(axis=2)
        self.real = (np.abs(e) > 1e-12).any(axis=2)
        f, g = solid.floor[cell], solid.floor[other]
        apart = (f[:, 2] - f[:, 3] * f[:, 0] - f[:, 4] * f[:, 1]) - (
            g[:, 2] - g[:, 3] * g[:, 0] - g[:, 4] * g[:, 1]
        )
        self.normal = np.concatenate([self.normal, (g[:, 3:] - f[:, 3:])[:, None]], axis=1)
        self.offset = np.column_stack([self.offset, apart + np.where(other > cell, 1e-9, -1e-9)])
        self.real = np.column_stack([self.real, np.ones(len(cell), bool)])

    def inside(self, pair: np.ndarray, xy: Array) -> tuple[np.ndarray, Array]:
        """The parts of polygons, each in the cell of a pair, that lie in the part of that pair,
        with the numbers of the polygons.
        """
        rows = np.arange(len(pair))
        for k in range(self.normal.shape[1]):
            use = self.real[pair[rows], k]
            if use.any():
                mine = rows[use]
                kept, piece = _cut(xy[use], self.normal[pair[mine], k], self.offset[pair[mine], k])
                rows, xy = (
                    np.concatenate([rows[~use], mine[kept]]),
                    trimmed(stacked([xy[~use], piece])),
                )
        return rows, xy

    def beside(self, pair: np.ndarray, xy: Array) -> list[tuple[np.ndarray, Array]]:
        """The convex pieces of polygons that do not, with the numbers of the polygons."""
        rows, out = np.arange(len(pair)), list[tuple[np.ndarray, Array]]()
        for k in range(self.normal.shape[1]):
            use = np.flatnonzero(self.real[pair[rows], k])
            if not use.size:
                continue
            mine = rows[use]
            normal, offset = self.normal[pair[mine], k], self.offset[pair[mine], k]
            far, piece = _cut(xy[use], -normal, -offset)
            if len(far):
                out.append((mine[far], trimmed(piece)))
            kept, piece = _cut(xy[use], normal, offset)
            rest = np.setdiff1d(np.arange(len(rows)), use)
            rows, xy = np.concatenate([rows[rest], mine[kept]]), trimmed(stacked([xy[rest], piece]))
        return out


def _cut(p: Array, normal: Array, offset: Array) -> tuple[np.ndarray, Array]:
    rows, piece = cut(p, normal, offset)
    real = area(piece) > 1e-12
    return rows[real], piece[real]


def _deeper(
    solid: _Solid, cell: np.ndarray, other: np.ndarray, tell: Callable[[float], None]
) -> _Parts:
    """The parts of cells over which another dig lies deeper, none twice. Pairs are in the order
    of their cells.
    """
    walls = _Walls(solid, cell, other)
    mine, start, count = np.unique(cell, return_index=True, return_counts=True)
    found = [_Parts(cell[:0], other[:0], np.zeros((0, 4, 2)))]
    round_ones = solid.corners[mine] > 4
    for group, corners in (
        (np.flatnonzero(~round_ones), 4),
        (np.flatnonzero(round_ones), solid.xy.shape[1]),
    ):
        of, rest = group, solid.xy[mine[group], :corners]
        for turn in range(int(count[group].max(initial=0))):
            tell(0.1 + 0.6 * turn / int(count.max()))
            going = np.flatnonzero(count[of] > turn)
            pair = start[of[going]] + turn
            rows, piece = walls.inside(pair, rest[going])
            if not len(rows):
                continue
            taken = going[rows]
            found.append(_Parts(mine[of[taken]], other[pair[rows]], piece))
            left_over = walls.beside(pair[rows], rest[taken])
            whole = np.setdiff1d(np.arange(len(of)), taken)
            of, rest = (
                np.concatenate([of[whole], *(of[taken[r]] for r, _ in left_over)]),
                trimmed(stacked([rest[whole], *(p for _, p in left_over)])),
            )
    return _joined(found)


def _joined(parts: list[_Parts]) -> _Parts:
    return _Parts(
        np.concatenate([p.cell for p in parts]),
        np.concatenate([p.other for p in parts]),
        stacked([p.xy for p in parts]),
    )


def _shared(solid: _Solid, first: np.ndarray, second: np.ndarray) -> _Parts:
    """The overlaps of pairs of cells: each part has the floor of the one that lies higher there."""
    parts = [_Parts(first[:0], second[:0], np.zeros((0, 4, 2)))]
    for cell, other in ((first, second), (second, first)):
        for corners in {4, solid.xy.shape[1]}:
            some = np.flatnonzero((solid.corners[cell] > 4) == (corners > 4))
            mine, its = cell[some], other[some]
            rows, piece = _Walls(solid, mine, its).inside(
                np.arange(len(mine)), solid.xy[mine, :corners]
            )
            parts.append(_Parts(mine[rows], its[rows], piece))
    return _joined(parts)


def _over(world: World, solid: _Solid, parts: _Parts) -> tuple[Array, Array]:
    """The volume (m³) over the floor of each part, up to the upper surface of its own dig, and the
    area (m²) of that surface there by kind of ground.
    """
    out = np.zeros(len(parts.cell))
    tops = np.zeros((len(out), len(KINDS)))
    upper = np.array(solid.upper)[solid.owner[parts.cell]] if len(out) else np.zeros(0, str)
    for kind in set(upper.tolist()):
        rows = np.flatnonzero(upper == kind)
        top = upper_pieces(world, kind, parts.xy[rows] + solid.origin)
        if top is None:
            continue
        piece, at = triangles(top.xy)
        xy, which = top.xy[piece[:, None], at], rows[top.row[piece]]
        h = top._replace(plane=top.plane[piece]).level(xy) - _level(
            solid.floor[parts.cell[which]], xy - solid.origin
        )
        size = areas(xy) * top.weight[piece]
        out += np.bincount(which, weights=volumes(size, h), minlength=len(out))
        middle = xy.mean(axis=1)
        np.add.at(
            tops, (which, kinds_at(world.roads, middle[:, 0], middle[:, 1])), covered(size, h)
        )
    return out, tops


def _overlaps(
    dug: Trenches, keys: list[Key], solid: _Solid, parts: _Parts, volume: Array
) -> tuple[Overlap, ...]:
    """The pairs of digs that share space, the largest first."""
    a, b = solid.owner[parts.cell], solid.owner[parts.other]
    low, high = np.minimum(a, b), np.maximum(a, b)
    pair, which = np.unique(np.column_stack([low, high]), axis=0, return_inverse=True)
    total = np.bincount(which.ravel(), weights=volume, minlength=len(pair))
    order = np.argsort(which.ravel(), kind="stable")
    runs = (
        np.split(order, np.cumsum(np.bincount(which.ravel(), minlength=len(pair)))[:-1])
        if len(pair)
        else []
    )
    out = []
    for (i, j), v, rows in zip(pair.tolist(), total.tolist(), runs, strict=True):
        if v >= LEAST:
            seen = tuple(parts.xy[r] + solid.origin for r in rows.tolist() if volume[r] > 1e-6)
            out.append(Overlap(keys[i], keys[j], _kind(dug, keys[i], keys[j]), v, seen))
    return tuple(sorted(out, key=lambda o: -o.volume))


def _kind(dug: Trenches, a: Key, b: Key) -> Literal["meet", "cross", "beside", "pit"]:
    pipes: Mapping[str, object] = dug.pipes
    if a not in pipes or b not in pipes:
        return "pit"
    one, two = dug.pipes[a].pipe, dug.pipes[b].pipe
    if {one.pipe.up, one.pipe.down} & {two.pipe.up, two.pipe.down}:
        return "meet"
    ends = [np.array([s.point(0.0), s.point(s.length)]) for s in (one.span, two.span)]
    sides = [_sides(ends[0], ends[1]), _sides(ends[1], ends[0])]
    return "cross" if all(s[0] * s[1] < 0 for s in sides) else "beside"


def _sides(line: Array, points: Array) -> list[float]:
    """On which side of a line each of two points lies, by sign."""
    d = line[1] - line[0]
    return [float(d[0] * (p[1] - line[0, 1]) - d[1] * (p[0] - line[0, 0])) for p in points]
