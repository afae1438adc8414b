"""Surfaces: levels, ground sections, triangulation and contours against compiled peers."""

import sys
from collections.abc import Iterator
from itertools import count

import numpy as np

from benchmarks.measure import Figure, median_ms
from zumbert.geometry.contours import contours
from zumbert.geometry.tin import Tin
from zumbert.geometry.triangulate import triangulate


def irregular(n: int, seed: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """An irregular surface of about 2 n triangles: vertices and faces."""
    side = int(np.sqrt(n))
    rng = np.random.default_rng(seed)
    gx, gy = np.meshgrid(np.arange(side) * 5.0, np.arange(side) * 5.0, indexing="ij")
    gx, gy = gx + rng.uniform(-2.4, 2.4, gx.shape), gy + rng.uniform(-2.4, 2.4, gy.shape)
    z = 20 + 6 * np.sin(gx / 90) * np.cos(gy / 70) + rng.normal(0, 0.1, gx.shape)
    made = triangulate(np.column_stack([gx.ravel(), gy.ravel(), z.ravel()]))
    return made.vertices, made.faces


def surfaces() -> Iterator[Figure]:
    try:
        from matplotlib.figure import Figure as Sheet
        from matplotlib.tri import Triangulation
        from scipy.spatial import Delaunay
    except ImportError:
        print(
            "surfaces: its peers matplotlib and scipy are not here, ./test installs them",
            file=sys.stderr,
        )
        return
    vertices, faces = irregular(100_000)
    extent = vertices[:, :2].max()
    rng = np.random.default_rng(2)
    x, y = rng.uniform(10, extent - 10, (2, 1_000_000))
    tin, peer = Tin(vertices, faces), Triangulation(vertices[:, 0], vertices[:, 1], faces)
    build = median_ms(lambda: Tin(vertices, faces).face_at(0.0, 0.0), 3)
    peer_build = median_ms(
        lambda: Triangulation(vertices[:, 0], vertices[:, 1], faces).get_trifinder(), 3
    )
    finder = peer.get_trifinder()
    level = median_ms(lambda: tin.level(x, y), 3)
    find = median_ms(lambda: finder(x, y), 1)
    yield Figure("level at a million points, 200k triangles", level, find, level / find, 0.12)
    yield Figure("  building the finder", build, peer_build, build / peer_build, 0.5)
    levels = np.linspace(vertices[:, 2].min(), vertices[:, 2].max(), 52)[1:-1]
    ours = median_ms(lambda: contours(tin, levels), 5)
    theirs = median_ms(lambda: Sheet().subplots().tricontour(peer, vertices[:, 2], levels), 3)
    yield Figure("contours, 200k triangles, 50 levels", ours, theirs, ours / theirs, 0.35)
    points = np.column_stack([rng.uniform(0, 2000, (105_000, 2)), rng.uniform(0, 5, 105_000)])
    at = rng.uniform(50, 1900, (5_000, 1, 2))
    lines = np.concatenate([at, at + rng.uniform(-8, 8, at.shape)], axis=1)
    breaks = list(np.concatenate([lines, rng.uniform(0, 5, (5_000, 2, 1))], axis=2))
    shifts = count()  # the same places again would be found again, not triangulated
    ours = median_ms(lambda: triangulate(points + next(shifts), breaks), 3)
    theirs = median_ms(lambda: Delaunay(points[:, :2]), 3)
    yield Figure("triangulation, 105k points, 5k breaklines", ours, theirs, ours / theirs, 0.4)
    yield from _sections(tin, extent)


def _sections(tin: Tin, extent: float) -> Iterator[Figure]:
    """Ground lines of 10,000 pipes against finding the crossed edges with an STRtree."""
    import shapely

    rng = np.random.default_rng(3)
    a = rng.uniform(60, extent - 60, (10_000, 2))
    angle = rng.uniform(0, 2 * np.pi, 10_000)
    b = a + 50 * np.column_stack([np.cos(angle), np.sin(angle)])
    f = np.sort(
        np.vstack([tin.faces[:, [0, 1]], tin.faces[:, [1, 2]], tin.faces[:, [2, 0]]]), axis=1
    )
    edges = shapely.linestrings(tin.vertices[np.unique(f, axis=0), :2])
    tree = shapely.STRtree(edges)

    def by_tree() -> object:
        lines = shapely.linestrings(np.stack([a, b], axis=1))
        line, edge = tree.query(lines, predicate="intersects")
        return shapely.get_coordinates(shapely.intersection(lines[line], edges[edge]))

    ours, theirs = median_ms(lambda: tin.sections(a, b), 3), median_ms(by_tree, 3)
    yield Figure("ground lines of 10,000 pipes of 50 m", ours, theirs, ours / theirs, 0.15)
