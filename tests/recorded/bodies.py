"""Bodies and pieces of shapes whose figures are recorded."""

import numpy as np
from scipy.spatial import Delaunay

from tests.recorded.plain import plain
from zumbert.geometry import cut, mesh, overlay, prisms, segments
from zumbert.geometry.placing import by_pairs
from zumbert.geometry.space import between_pieces, nearest


def tried(make, *arguments):
    """What a function gives, or why it refuses."""
    try:
        return plain(make(*arguments))
    except ValueError as e:
        return str(e)


def ground(rng, n=60):
    """A surface: hills over a plane, a pit and a level place."""
    xy = np.vstack([rng.uniform(0, 40, (n, 2)), [(0, 0), (40, 0), (0, 40), (40, 40)]])
    z = (
        10
        + 0.1 * xy[:, 0]
        + np.sin(xy[:, 0] / 5)
        + np.cos(xy[:, 1] / 6)
        + rng.normal(0, 0.1, len(xy))
    )
    z[np.hypot(xy[:, 0] - 20, xy[:, 1] - 20) < 6] = 9.0
    return np.column_stack([xy, z]), Delaunay(xy).simplices


def bodies(seed):
    """Bodies, prisms, distances in space, and meshes that are parted."""
    rng = np.random.default_rng(seed)
    path = np.column_stack([np.cumsum(rng.uniform(1, 4, (4, 2)), axis=0), rng.uniform(0, 2, 4)])
    made = [
        mesh.rod(path, 0.6),
        mesh.tube(path, 0.5, 0.7),
        mesh.rings([mesh.circle(1, 2, z, 1.2) for z in (0.0, 2.0, 2.5)]),
    ]
    h, a = rng.uniform(-1, 1, (8, 3)), rng.uniform(1, 5, 8)
    h[0], h[1, 0], h[2] = 0.0, 0.0, 0.4
    p, q = rng.uniform(0, 5, (2, 6, 2, 3))
    q[0] = p[0] + (0, 0, 1)
    q[1, 1] = q[1, 0]
    vertices, faces = ground(rng, 20)
    way = np.array([(-2, 11), (18, 20), (44, 23)], float)
    pairs = [((0.0, 1.0), (5.0, 6.0))], [((0.0, 0.0), (1.0, 1.0)), ((3.0, 1.0), (2.0, 9.0))]
    parted = cut.parted(mesh.Mesh(vertices, faces), way)
    xy = rng.uniform(0, 9, (4, 3, 2))
    return {
        "bodies": [
            plain(
                [m.volume, m.closed, len(m.faces), mesh.corner_normals(m), mesh.outward(m).volume]
            )
            for m in made
        ],
        "merged": plain(mesh.merged(made).volume),
        "rings": plain(mesh.around(path, 0.5)),
        "prisms": plain(
            [
                prisms.areas(xy),
                prisms.volumes(a, h),
                prisms.volumes_of_sorted(a, np.sort(h, axis=1)),
                prisms.covered(a, h),
                prisms.stretches_over(a, h[:, 0], h[:, 1]),
            ]
        ),
        "apart": plain([nearest(p, q), between_pieces(p, q)]),
        "parted": plain([parted.left, parted.right]),
        "left": plain(cut.on_left(way, rng.uniform(0, 40, (30, 2)))),
        "placing": [tried(by_pairs, known) for known in pairs],
    }


def pieces(seed):
    """Pieces of drawings: what is caught near a place, chains, crossings; and polygons that are
    cut.
    """
    rng = np.random.default_rng(seed)
    places = rng.integers(0, 12, (16, 2)).astype(float)
    xy = np.hstack([places[rng.integers(0, 16, 24)], places[rng.integers(0, 16, 24)]])
    xy[5] = xy[4]
    index = segments.Index(xy, places[:4])
    at = rng.uniform(0, 12, (10, 2))
    way = places[:5] + 0.37
    s = np.r_[0.0, np.cumsum(np.hypot(*np.diff(way, axis=0).T))]
    p = rng.uniform(0, 9, (6, 4, 2))
    p = p[
        np.arange(6)[:, None],
        np.argsort(np.arctan2(*(p - p.mean(axis=1, keepdims=True)).transpose(2, 0, 1)), axis=1)[
            :, ::-1
        ],
    ]
    normal = rng.normal(0, 1, (6, 2))
    return {
        "boxed": plain(
            [index.boxed(2, 2, 5, 6), index.boxed(20, 20, 30, 30), index.centres_near(6, 6, 3)]
        ),
        "caught": [
            sorted(map(str, plain(segments.catches(index, *map(float, q), 1.5)))) for q in at
        ],
        "far": plain([segments.distances(xy, *map(float, q)) for q in at]),
        "chains": plain([segments.chain(xy, i) for i in range(len(xy))]),
        "crossed": plain(segments.crossed_at(way, s, xy)),
        "cut": plain(
            [
                overlay.cut(p, normal, (normal * 4.5).sum(axis=1)),
                overlay.cut_by(p, rng.uniform(-1, 1, (6, 4))),
            ]
        ),
        "shape": plain(
            [
                overlay.area(p),
                overlay.corner_counts(p),
                overlay.triangles(p),
                overlay.trimmed(np.repeat(p, 2, axis=1)),
            ]
        ),
    }
