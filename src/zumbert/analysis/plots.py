"""Plots: the plan of a trench or pit on the ground, as triangles. Levels of pipes play no part,
so a dragged level keeps them.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from zumbert.analysis.cells import Cells, pit_cells, trench_cells
from zumbert.analysis.digs import Dig
from zumbert.analysis.groundkinds import kinds_at
from zumbert.analysis.roads import RoadFacts
from zumbert.analysis.strata import Layer
from zumbert.analysis.strips import Strips
from zumbert.analysis.surfaces import Ground, Surfaces
from zumbert.geometry.elements import Array
from zumbert.geometry.groundpieces import GroundPieces, lower_of, of_strips, of_tin, under
from zumbert.geometry.overlay import area as areas_of
from zumbert.geometry.overlay import triangles
from zumbert.geometry.prisms import areas
from zumbert.geometry.tin import Tin
from zumbert.model.ids import RoadId
from zumbert.model.trench import Upper

WIDEN = 1.6  # by which sides grow that do not reach the ground yet
TALLEST = 60.0  # m over the bottom: sides that have not come out of the ground by there never do
NO_GROUND = "no ground over all of it"
SAME_AREA = 1e-7  # of a cell: less of it may be missing


class Corners(NamedTuple):
    """Triangles of a surface over a dig, with what does not change while levels do."""

    area: Array  # (n), m², in plan; negative where a surface is taken off again
    top: Array  # (n, 3), m above datum
    s: Array  # (n, 3), m along the pipe
    rise: Array  # (n, 3), m: the floor over the bottom
    zone: Array  # (n), m over the bottom: the height at which the strip that it lies in ends
    bottom: np.ndarray  # (n): whether it lies over the bottom, not over a side


class Plot(Struct, frozen=True, eq=False):
    """The plan of one trench or pit: its upper surface, the tops of the strata under that, and
    the kinds of ground.
    """

    upper: Corners
    strata: tuple[
        tuple[str, Corners, float], ...
    ]  # name, triangles of its top and how far it lies under them, m
    kind: np.ndarray  # of each triangle of the upper surface
    whole: bool  # whether the upper surface covers it
    tall: float = 0.0  # m over the bottom to which its sides are made


Roads = dict[RoadId, RoadFacts]


class World(Struct, frozen=True, eq=False):
    """The ground of all plots."""

    surfaces: Surfaces
    roads: Roads
    layers: tuple[Layer, ...]
    stripped: float
    of: tuple[object, ...] = ()  # what it was made from


def pieces_of(ground: Ground | None, p: Array) -> GroundPieces | None:
    """A surface over polygons."""
    if ground is None:
        return None
    if isinstance(ground, Tin):
        return of_tin(ground, p)
    if isinstance(ground, Strips):
        return of_strips(ground.lines, ground.tins, p)
    raise TypeError(f"{ground!r} is neither of triangles nor of strips")


def upper_pieces(world: World, upper: Upper, p: Array) -> GroundPieces | None:
    """The upper surface of digs over polygons; None where the project has none."""
    existing = pieces_of(world.surfaces.existing, p)
    existing = None if existing is None else existing.lowered(world.stripped)
    formation = world.surfaces.formation
    if upper == "formation":
        return pieces_of(formation, p)
    if upper == "existing" or formation is None:
        return existing
    if existing is None:
        return pieces_of(formation, p)
    for tin in (formation,) if isinstance(formation, Tin) else formation.tins:  # type: ignore[attr-defined]
        existing = lower_of(existing, tin, p)
    return existing


def trench_plots(world: World, digs: Sequence[Dig]) -> list[Plot]:
    """The plots of trenches; sides that do not come out of the ground are made wider until they
    do.
    """
    out: list[Plot | None] = [None] * len(digs)
    tall = {i: dig.tall for i, dig in enumerate(digs)}
    while tall:
        rows = list(tall)
        made = _plots(world, [digs[i] for i in rows], list(tall.values()))
        for i, plot in zip(rows, made, strict=True):
            if digs[i].sloped and tall[i] < TALLEST and _buried(plot, digs[i].low, tall[i]):
                tall[i] = min(TALLEST, tall[i] * WIDEN)
            else:
                out[i] = plot
                del tall[i]
    return [p for p in out if p is not None]


def _buried(plot: Plot, low: float, tall: float) -> bool:
    """Whether the outer edge of a side lies under the ground."""
    c = plot.upper
    edge = ~c.bottom[:, None] & (c.rise > tall - 1e-6)
    return bool((edge & (c.top - low - c.rise > 0)).any())


def _plots(world: World, digs: Sequence[Dig], tall: Sequence[float]) -> list[Plot]:
    cells = trench_cells(digs, tall)
    out: list[Plot | None] = [None] * len(digs)
    for upper in sorted({d.upper for d in digs}):
        mine = [i for i, d in enumerate(digs) if d.upper == upper]
        made = plots_of(world, upper, cells, mine, [digs[i].low for i in mine], list(tall))
        for i, plot in zip(mine, made, strict=True):
            out[i] = plot
    return [p for p in out if p is not None]


def pit_plots(world: World, upper: Upper, outlines: Sequence[Array]) -> list[Plot]:
    """The plots of pits or chambers with these outlines."""
    cells = pit_cells(outlines)
    return plots_of(world, upper, cells, list(range(len(outlines))), None, [0.0] * len(outlines))


def plots_of(
    world: World,
    upper: Upper,
    cells: Cells,
    owners: list[int],
    lows: list[float] | None,
    tall: list[float],
) -> list[Plot]:
    """The plots of some owners of cells, with one upper surface."""
    mine = np.flatnonzero(np.isin(cells.owner, owners))
    p = cells.xy[mine]
    top = upper_pieces(world, upper, p)
    if top is None:
        none, flat = np.zeros(0), np.zeros((0, 3))
        nothing = Corners(none, flat, flat, flat, none, np.zeros(0, bool))
        return [Plot(nothing, (), np.zeros(0, int), False, tall[i]) for i in owners]
    whole = _whole(cells, mine, top, owners, lows)
    upper_corners, split, xy = _corners(cells, mine, top, owners)
    middle = xy.mean(axis=1)
    kind = kinds_at(world.roads, middle[:, 0], middle[:, 1])
    strata = [(layer.name, *_stratum(world, layer, upper, top)) for layer in world.layers]
    made = {id(s): _corners(cells, mine, s, owners)[:2] for _, s, _ in strata if s is not top}
    out = []
    for n, i in enumerate(owners):
        a, b = split[n], split[n + 1]
        own = []
        for name, s, under_it in strata:
            c, at = (upper_corners, split) if s is top else made[id(s)]
            own.append((name, Corners(*(v[at[n] : at[n + 1]] for v in c)), under_it))
        out.append(
            Plot(
                Corners(*(v[a:b] for v in upper_corners)), tuple(own), kind[a:b], whole[n], tall[i]
            )
        )
    return out


def _stratum(
    world: World, layer: Layer, upper: Upper, top: GroundPieces
) -> tuple[GroundPieces, float]:
    """The top of a stratum under the upper surface, and how far it lies under the pieces that
    are given.
    """
    formation = world.surfaces.formation if upper != "existing" else None
    roofs, by = list(layer.roofs), 0.0
    if (
        formation is None
    ):  # the upper surface is existing ground: what lies under that by a depth needs no cut
        own = [r for r in roofs if r.tin is None]
        by = max([0.0, *(r.lowered - world.stripped for r in own)])
        roofs = [r for r in roofs if r.tin is not None]
    elif all(r.tin is None and r.lowered == 0.0 for r in roofs):
        roofs = []
    for r in roofs:
        tin = world.surfaces.existing if r.tin is None else r.tin
        if tin is not None:
            top = under(top.lowered(by), tin, r.lowered)
            by = 0.0
    return top, by


def _corners(
    cells: Cells, mine: np.ndarray, of: GroundPieces, owners: list[int]
) -> tuple[Corners, list[int], Array]:
    """The triangles of pieces in the order of their owners, where each owner's begin, and their
    corners in plan.
    """
    piece, at = triangles(of.xy)
    cell = mine[of.row[piece]]
    place = np.full(max(owners, default=0) + 1, -1)
    place[owners] = np.arange(len(owners))
    order = np.argsort(place[cells.owner[cell]], kind="stable")
    piece, at, cell = piece[order], at[order], cell[order]
    xy = of.xy[piece[:, None], at]
    size = areas(xy) * of.weight[piece]
    top = of._replace(plane=of.plane[piece]).level(xy)
    zone = cells.top[cell]
    corners = Corners(
        size, top, cells.distance(cell, xy), cells.height(cell, xy), zone, cells.side[cell] == 0
    )
    starts = np.searchsorted(place[cells.owner[cell]], np.arange(len(owners) + 1)).tolist()
    return corners, starts, xy


def _whole(
    cells: Cells, mine: np.ndarray, top: GroundPieces, owners: list[int], lows: list[float] | None
) -> list[bool]:
    """Whether the upper surface covers each dig: the bottom all over, a side from the bottom out to
    where the floor comes out of the ground.
    """
    size = areas_of(cells.xy[mine])
    found = np.bincount(top.row, weights=areas_of(top.xy) * top.weight, minlength=len(mine))
    short = found < size * (1 - SAME_AREA) - 1e-9
    bare = np.zeros(len(mine), bool)
    bare[short & (cells.side[mine] == 0)] = True
    for i in np.flatnonzero(short & (cells.side[mine] != 0)).tolist():
        bare[i] = _open(cells, int(mine[i]), top, i, lows, owners)
    open_ones = set(cells.owner[mine[bare]].tolist())
    return [i not in open_ones for i in owners]


def _open(
    cells: Cells,
    cell: int,
    top: GroundPieces,
    row: int,
    lows: list[float] | None,
    owners: list[int],
) -> bool:
    """Whether the ground ends on a side before the side comes out of it: over an edge of the ground
    the floor lies under it. Where a side has no ground at all, whether the trench is deeper than
    the height at which that strip begins.
    """
    low = lows[owners.index(int(cells.owner[cell]))] if lows is not None else 0.0
    pieces = np.flatnonzero(top.row == row)
    if not pieces.size:
        return bool((top.level(top.xy) - low).max(initial=0.0) > cells.rise[cell])
    part = top._replace(xy=top.xy[pieces], plane=top.plane[pieces])
    over = part.level(part.xy) - low - cells.height(np.full(len(pieces), cell), part.xy)
    outline = cells.xy[cell]
    edge = np.roll(outline, -1, axis=0) - outline
    sides: dict[tuple[float, ...], float] = {}
    for xy, h in zip(part.xy, over, strict=True):
        for a, b, ha, hb in zip(xy, np.roll(xy, -1, axis=0), h, np.roll(h, -1), strict=True):
            ends = sorted((tuple(np.round(a, 6).tolist()), tuple(np.round(b, 6).tolist())))
            key = (*ends[0], *ends[1])
            if (
                ends[0] != ends[1]
                and sides.pop(key, None) is None
                and not _on_rim(outline, edge, a, b)
            ):
                sides[key] = max(float(ha), float(hb))
    return any(h > 1e-6 for h in sides.values())


def _on_rim(outline: Array, edge: Array, a: Array, b: Array) -> bool:
    """Whether both ends of a piece's edge lie on one side of its cell."""
    size = np.hypot(edge[:, 0], edge[:, 1])
    size = np.where(size > 0, size, 1.0)
    off = [
        np.abs(edge[:, 0] * (p[1] - outline[:, 1]) - edge[:, 1] * (p[0] - outline[:, 0])) / size
        for p in (a, b)
    ]
    return bool((np.maximum(*off) < 1e-6).any())
