"""Volumes of 1,000 trenches against the same by the geometry library, their union, and what
follows a dragged level.
"""

from collections.abc import Iterator
from math import log10

import numpy as np
import shapely
from msgspec.structs import replace

from benchmarks.measure import Figure, median_ms
from benchmarks.networks import network
from zumbert.analysis import analyse
from zumbert.analysis.digs import Dig, bottom_line
from zumbert.analysis.estimate import estimate
from zumbert.analysis.facts import Facts
from zumbert.analysis.plots import trench_plots
from zumbert.analysis.trench import Trenches, TrenchFacts, trenches
from zumbert.analysis.union import union
from zumbert.analysis.volumes import Floor, Heights
from zumbert.edits.levels import set_invert
from zumbert.geometry.elements import Array
from zumbert.model.project import Project
from zumbert.model.trench import TrenchSize

PIPES = 1_000
Plane = tuple[Array, float, Array]  # a point of its plane, the level there, and its slopes
SIZE = TrenchSize(width=1.1, vertical_height=0.9, batter=0.5)


def trenched(pipes: int, apart: float = 1.0) -> Project:
    """A network whose trenches slope above 0.9 m; with runs nearer to each other than usual they
    share space.
    """
    project = network(pipes)
    [kind] = project.trench_types.values()
    structures = project.structures
    if apart != 1.0:
        structures = {
            k: replace(s, place=replace(s.place, y=s.place.y * apart))
            for k, s in structures.items()
        }
    return replace(
        project, trench_types={kind.id: replace(kind, sizes=(SIZE,))}, structures=structures
    )


def trench_volumes() -> Iterator[Figure]:
    project = trenched(PIPES)
    facts = analyse(project)
    dug = trenches(facts)
    digs: list[Dig] = list(dug.made["digs"].values())
    floors = [
        Floor(*bottom_line(t.pipe, d.size.bedding))
        for t, d in zip(dug.pipes.values(), digs, strict=True)
    ]
    ours = median_ms(
        lambda: Heights([p.upper for p in trench_plots(dug.world, digs)], floors).over().sum(), 5
    )
    spent = median_ms(lambda: by_library(facts, dug), 1)
    theirs = by_library(facts, dug)
    mine = sum(t.excavation or 0.0 for t in dug.pipes.values())
    if abs(theirs / mine - 1) > 1e-6:
        raise AssertionError(f"the volumes differ: {mine:.3f} and {theirs:.3f} m³")
    yield Figure("exact volumes of 1,000 trenches", ours, spent, ours / spent, 0.3)

    dense = trenches(analyse(trenched(500, 0.1)))
    shared = union(dense)
    spent = median_ms(lambda: union(dense), 3)
    gross = sum(t.excavation or 0.0 for t in dense.pipes.values())
    print(
        f"    {shared.shared / gross:.0%} of their volume is shared, by {len(shared.overlaps)} "
        "pairs"
    )
    yield Figure("union of 500 trenches and their pits", spent, None, spent, 1000.0)

    key = list(project.pipes)[PIPES // 2]
    moved = [
        analyse(set_invert(project, key, "up", project.pipes[key].invert_up - 0.01 * i), facts)
        for i in range(1, 9)
    ]
    exact = trenches(moved[0], dug).pipes[key].excavation or 0.0
    off = abs((estimate(moved[0], moved[0].pipes[key]) or 0.0) / exact - 1) * 100
    turn = iter(range(10**6))

    def step() -> None:
        f = moved[next(turn) % len(moved)]
        estimate(f, f.pipes[key])

    spent = median_ms(step, 50)
    yield Figure("estimate of a dragged trench", spent, None, spent, 2.0)
    yield Figure("estimate of a dragged trench, off by", off, None, off, 1.0, "%")
    few, many = (analyse(trenched(n)) for n in (1_000, 20_000))
    small, large = median_ms(lambda: trenches(few), 3), median_ms(lambda: trenches(many), 1)
    yield Figure(
        "trenches, exponent from 1k to 20k pipes",
        large,
        small,
        log10(large / small) / log10(20),
        1.15,
    )
    spent = median_ms(lambda: trenches(moved[next(turn) % len(moved)], dug), 50)
    yield Figure("its exact trench and both pits, with all shares", spent, None, spent, 4.0)


def by_library(facts: Facts, dug: Trenches) -> float:
    """The same volumes with polygons of the geometry library: each strip of a trench cut with each
    triangle that it meets, and the prism over each part.
    """
    tin = facts.surfaces.existing
    assert tin is not None
    triangles = shapely.polygons(tin.corners[:, :, :2])
    tree = shapely.STRtree(triangles)
    total = 0.0
    for t in dug.pipes.values():
        if t.dig is None or t.plot is None:
            continue
        for strip, floor in _strips(t, tin.origin):
            faces = tree.query(strip, predicate="intersects")
            parts = shapely.intersection(triangles[faces], strip)
            for part, plane in zip(parts.tolist(), tin.planes(faces), strict=True):
                total += _prism(part, plane, floor, tin.origin)
    return total


def _strips(t: TrenchFacts, origin: Array) -> Iterator[tuple[shapely.Polygon, Plane]]:
    """Bottom and sides of a straight trench as polygons, each with the plane of its floor."""
    assert t.dig is not None and t.plot is not None
    a, b = (
        np.array(t.pipe.span.point(t.begin)) - origin,
        np.array(t.pipe.span.point(t.end)) - origin,
    )
    d = (b - a) / np.hypot(*(b - a))
    left = np.array([-d[1], d[0]])
    slope = t.pipe.slope or 0.0
    half = t.dig.width / 2
    rows = [(0.0, -half, half, 0.0, 0.0)]
    for side in t.dig.sides(t.plot.tall):
        grad = (side.rise_to - side.rise) / (side.out_to - side.out)
        rows += [
            (1.0, side.out, side.out_to, side.rise, grad),
            (-1.0, -side.out_to, -side.out, side.rise, grad),
        ]
    for sign, u, v, rise, grad in rows:
        xy = np.array([a + u * left, b + u * left, b + v * left, a + v * left])
        inner = u if sign >= 0 else v
        at = a + inner * left
        yield shapely.Polygon(xy), (at, t.bottom(t.begin) + rise, -slope * d + sign * grad * left)


def _prism(part: shapely.Geometry, plane: Array, floor: Plane, origin: Array) -> float:
    """The volume over a floor under a plane, over a polygon."""
    at, level, rise = floor
    total = 0.0
    for polygon in getattr(part, "geoms", [part]):
        if polygon.geom_type != "Polygon" or polygon.is_empty:
            continue
        xy = np.array(polygon.exterior.coords[:-1])
        h = plane[2] + (xy + origin - plane[:2]) @ plane[3:] - level - (xy - at) @ rise
        if (h <= 0).all():
            continue
        if not (h >= 0).all():  # cut along the line on which both are level
            xy, h = _over(xy, h)
        for i in range(1, len(xy) - 1):
            e, f = xy[i] - xy[0], xy[i + 1] - xy[0]
            total += abs(e[0] * f[1] - e[1] * f[0]) / 2 * (h[0] + h[i] + h[i + 1]) / 3
    return total


def _over(xy: Array, h: Array) -> tuple[Array, Array]:
    points, heights = [], []
    for i in range(len(xy)):
        j = (i + 1) % len(xy)
        if h[i] >= 0:
            points.append(xy[i])
            heights.append(h[i])
        if h[i] * h[j] < 0:
            points.append(xy[i] + (xy[j] - xy[i]) * h[i] / (h[i] - h[j]))
            heights.append(0.0)
    return np.array(points), np.array(heights)
