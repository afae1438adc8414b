"""A surface from points, breaklines and boundaries, by constrained Delaunay triangulation."""

from collections.abc import Sequence
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.tin import Tin

SAME_PLACE = 1e-3  # m: points nearer than this in plan are one
SPIKE = 2.0  # m off the plane of its neighbours, to start with

WIDEST = 1e7  # m: no survey is wider
SLIVER = 1e-9  # m²: less of a face beside a boundary is none
NEIGHBOURS = 16  # of a vertex, that tell whether it is a spike
ROUNDS_OF_FIT = 6
RIDGE = 1e-6  # holds a plane that its places, all in a row, leave free; it adds its doubt to the scatter
LEAST_SCATTER = 0.005  # m: no survey is finer
SAMPLE = 4096  # vertices that tell the usual scatter, at least where there are as many
BY_CHANCE = (
    8.0  # times the scatter: farther off by chance is one vertex in some hundred thousand, with sixteen neighbours
)

Faces = NDArray[np.int64]


class Boundary(NamedTuple):
    """A ring (n, 2 or 3), m: the surface ends at an outer one, a void cuts a hole, an island fills part of a void."""

    xy: Array
    kind: Literal["outer", "void", "island"]


class Fault(NamedTuple):
    """Something in the data that is not as it should be: what, where (m), and by how much (m)."""

    kind: Literal["double point", "crossing breaklines", "spike"]
    x: float
    y: float
    by: float
    vertex: int = -1  # of the surface, for a spike


class Triangulated(NamedTuple):
    """Vertices (n, 3) in m, faces (m, 3), and the faults that were found and how each was settled."""

    vertices: Array
    faces: Faces
    faults: tuple[Fault, ...]


def triangulate(
    points: ArrayLike, breaklines: Sequence[ArrayLike] = (), boundaries: Sequence[Boundary] = ()
) -> Triangulated:
    """The surface over points (n, 3) in which each breakline (k, 3) is a chain of edges.

    Of points at one place (within 1 mm) the first counts; where their levels differ it is told. Where breaklines
    cross, a vertex is added at the mean of their levels there, and the difference is told. Boundaries clip the
    surface as it is. Raises ValueError where fewer than three places are given, or all on one
    line. Computed about a local origin, without which triangles are lost at survey coordinates.
    """
    lines = [np.asarray(b, float).reshape(-1, 3) for b in breaklines]
    all_points = np.vstack([np.asarray(points, float).reshape(-1, 3), *lines])
    if len(all_points) and not np.isfinite(all_points).all():
        raise ValueError("a coordinate is no number")
    if len(all_points) and np.ptp(all_points[:, :2], axis=0).max() > WIDEST:
        raise ValueError("its places lie more than 10,000 km apart: a coordinate is wrong")
    vertices, index, faults = _distinct(all_points)
    if len(vertices) < 3:
        raise ValueError("a surface needs at least three places")
    loose = len(all_points) - sum(map(len, lines))
    edges = _edges(index[loose:], np.cumsum([len(b) for b in lines], dtype=np.int64))
    made = _constrained(vertices, edges)
    if not len(made.faces):
        raise ValueError("all places of the surface lie on one line")
    rings = [b for b in boundaries if len(b.xy) >= 3]
    whole = clipped(made.vertices, made.faces, rings) if rings else (made.vertices, made.faces)
    if not len(whole[1]):
        raise ValueError("nothing of the surface lies inside its boundaries")
    return Triangulated(*whole, (*faults, *made.faults))


def crossed(breaklines: Sequence[ArrayLike], by: float = 1e-3) -> list[int]:
    """The numbers of breaklines that cross an earlier one at a level more than `by` (m) off it: of each two the later."""
    import shapely

    lines = [np.asarray(b, float).reshape(-1, 3) for b in breaklines]
    if not lines:
        return []
    p, q = np.vstack([b[:-1] for b in lines]), np.vstack([b[1:] for b in lines])
    of = np.repeat(np.arange(len(lines)), [len(b) - 1 for b in lines])
    tree = shapely.STRtree(shapely.linestrings(np.stack([p[:, :2], q[:, :2]], axis=1)))
    i, j = tree.query(tree.geometries, predicate="intersects")
    keep = of[i] < of[j]
    i, j = i[keep], j[keep]
    r, s, d = q[i] - p[i], q[j] - p[j], p[j] - p[i]
    det = r[:, 0] * s[:, 1] - r[:, 1] * s[:, 0]
    safe = np.where(np.abs(det) > 1e-12, det, np.nan)
    t, u = (d[:, 0] * s[:, 1] - d[:, 1] * s[:, 0]) / safe, (d[:, 0] * r[:, 1] - d[:, 1] * r[:, 0]) / safe
    off = np.abs(p[i, 2] + t * r[:, 2] - p[j, 2] - u * s[:, 2])
    inside = (t > -1e-9) & (t < 1 + 1e-9) & (u > -1e-9) & (u < 1 + 1e-9)
    return sorted(set(of[j[inside & (off > by)]].tolist()))


def _distinct(points: Array) -> tuple[Array, Faces, list[Fault]]:
    """Points without doubles, for each point the number of its vertex, and doubles whose levels differ."""
    if not len(points):
        return points, np.zeros(0, np.int64), []
    cell = np.round((points[:, :2] - points[:, :2].min(axis=0)) / SAME_PLACE).astype(np.int64)
    key = cell[:, 0] * (int(cell[:, 1].max()) + 1) + cell[:, 1]
    _, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    order = np.argsort(first)  # keep the order in which they came
    rank = np.empty(len(order), np.int64)
    rank[order] = np.arange(len(order))
    index = rank[inverse.ravel()]
    vertices = points[np.sort(first)]
    off = np.abs(points[:, 2] - vertices[index, 2])
    odd = np.flatnonzero(off > 0.0005)
    faults = [Fault("double point", x, y, by) for x, y, by in np.column_stack([points[odd, :2], off[odd]]).tolist()]
    return vertices, index, faults


def _edges(index: Faces, ends: Faces) -> Faces:
    """The edges of chains strung one after another, each ending where the next begins; none twice."""
    pairs = np.column_stack([index[:-1], index[1:]])
    inner = np.ones(len(pairs), bool)
    inner[ends[:-1] - 1] = False
    return _once(pairs[inner])


def _once(pairs: Faces) -> Faces:
    """Edges without doubles and without those from a vertex to itself."""
    both = np.sort(pairs[pairs[:, 0] != pairs[:, 1]], axis=1)
    if not len(both):
        return both
    wide = int(both.max()) + 1
    key = np.unique(both[:, 0] * wide + both[:, 1])
    return np.column_stack([key // wide, key % wide])


def clipped(vertices: Array, faces: Faces, rings: Sequence[Boundary]) -> tuple[Array, Faces]:
    """A surface inside its boundaries: faces that a ring crosses are cut along it, with vertices on the surface there, and the
    ground is nowhere another. Vertices that no face is left to are left out.
    """
    import shapely

    origin = vertices[:, :2].mean(axis=0)
    corners = vertices[faces]
    plan = corners[:, :, :2] - origin
    within = _within(rings, origin, float(np.abs(plan).max(initial=1.0)))
    shapely.prepare(within)
    triangles = shapely.polygons(plan)
    whole = shapely.covers(within, triangles)
    cut = np.flatnonzero(~whole & shapely.intersects(within, triangles))
    made = shapely.constrained_delaunay_triangles(shapely.intersection(triangles[cut], within))
    parts, of = shapely.get_parts(made, return_index=True)
    solid = shapely.area(parts) > SLIVER
    parts, of = parts[solid], cut[of[solid]]
    xy = shapely.get_coordinates(parts).reshape(-1, 4, 2)[:, :3]
    e1, e2 = corners[of, 1] - corners[of, 0], corners[of, 2] - corners[of, 0]
    det = e1[:, 0] * e2[:, 1] - e2[:, 0] * e1[:, 1]
    gx, gy = (e1[:, 2] * e2[:, 1] - e2[:, 2] * e1[:, 1]) / det, (e2[:, 2] * e1[:, 0] - e1[:, 2] * e2[:, 0]) / det
    d = xy - plan[of, :1]
    z = corners[of, :1, 2] + gx[:, None] * d[:, :, 0] + gy[:, None] * d[:, :, 1]
    added = np.column_stack([(xy + origin).reshape(-1, 2), z.ravel()])
    every, index, _ = _distinct(np.vstack([vertices, added]))
    rows = np.vstack([index[faces[whole]], index[len(vertices) :].reshape(-1, 3)])
    rows = rows[(rows[:, 0] != rows[:, 1]) & (rows[:, 1] != rows[:, 2]) & (rows[:, 2] != rows[:, 0])]
    used, number = np.unique(rows, return_inverse=True)
    return every[used], number.reshape(-1, 3)


def _within(rings: Sequence[Boundary], origin: Array, far: float) -> Any:
    """What boundaries leave, about a local origin: the outer ones (all, without any), less the voids, and the islands."""
    import shapely

    def union(kind: str) -> Any:
        found = [np.asarray(r.xy, float)[:, :2] - origin for r in rings if r.kind == kind and len(r.xy) >= 3]
        return shapely.union_all([shapely.make_valid(shapely.Polygon(xy)) for xy in found])

    outer = union("outer")
    everything = shapely.box(-2 * far, -2 * far, 2 * far, 2 * far)
    left = everything if shapely.is_empty(outer) else outer
    return shapely.union(shapely.difference(left, union("void")), union("island"))


def _constrained(vertices: Array, edges: Faces) -> Triangulated:
    import pythoncdt as cdt

    origin = vertices[:, :2].mean(axis=0)
    mesh: Any = cdt.Triangulation(cdt.VertexInsertionOrder.AUTO, cdt.IntersectingConstraintEdges.TRY_RESOLVE, 0.0)
    try:
        mesh.insert_vertices(np.ascontiguousarray(vertices[:, :2] - origin))
        if len(edges):
            mesh.insert_edges(np.ascontiguousarray(edges.astype(np.uint32)))
        mesh.erase_super_triangle()
    except RuntimeError as e:  # the library's own: places that are one to it, edges that it cannot part
        raise ValueError("its places cannot be triangulated: some are too near to each other") from e
    placed = np.array(mesh.vertices_array())
    xy = np.column_stack([placed["x"], placed["y"]]) + origin
    faces = np.array(mesh.triangles_array()["vertices"], np.int64).reshape(-1, 3)
    z, faults = _levels(vertices, xy, mesh)
    return Triangulated(np.column_stack([xy, z]), faces, tuple(faults))


def _levels(vertices: Array, xy: Array, mesh: Any) -> tuple[Array, list[Fault]]:
    """Levels of all vertices; where breaklines cross, the mean of theirs, with the difference as a fault."""
    z = np.concatenate([vertices[:, 2], np.zeros(len(xy) - len(vertices))])
    found: dict[int, list[float]] = {}
    for piece, originals in mesh.piece_to_originals.items():
        for v in (piece.v1, piece.v2):
            if v >= len(vertices):
                found.setdefault(v, []).extend(_between(vertices, xy[v], e.v1, e.v2) for e in originals)
    faults = []
    for v, levels in found.items():
        z[v] = float(np.mean(levels))
        faults.append(Fault("crossing breaklines", float(xy[v, 0]), float(xy[v, 1]), max(levels) - min(levels)))
    return z, faults


def _between(vertices: Array, at: Array, a: int, b: int) -> float:
    p, q = vertices[a], vertices[b]
    whole, part = float(np.hypot(*(q - p)[:2])), float(np.hypot(*(at - p[:2])))
    return float(p[2] + (q[2] - p[2]) * part / whole)


def spikes(tin: Tin, height: float = SPIKE) -> list[Fault]:
    """Vertices more than a height (m) off the plane through their neighbours, and so far off that chance does not do it.

    The plane is that of the sixteen nearest vertices, by Tukey's biweight: a neighbour that is a spike itself has no say. What
    chance does is told by the scatter of those neighbours about it and by how well they hold the plane over the vertex: where
    they stand in a row, or all on one side, it takes more. On clean ground with normal scatter fewer than one vertex in a
    hundred thousand is told, whatever the scatter (a test counts them).
    """
    from scipy.spatial import cKDTree

    used = np.unique(tin.faces)
    v = tin.vertices[used]
    k = min(NEIGHBOURS, len(v) - 1)
    if k < 5:
        return []
    xy = v[:, :2] - v[:, :2].mean(axis=0)
    far, near = cKDTree(xy).query(xy, k + 1)
    reach = np.maximum(far[:, -1:], 1e-6)
    own = near == np.arange(len(v))[:, None]
    own[~own.any(axis=1), -1] = True  # many at one place: the farthest goes instead of itself
    near = near[~own].reshape(len(v), k)
    d = (xy[near] - xy[:, None]) / reach[:, :, None]
    z = v[near, 2] - v[:, 2:3]
    plane, _ = _planes_through(d, z, np.ones_like(z))
    rest = np.abs(z - plane[:, :1] - (d * plane[:, None, 1:]).sum(axis=2))
    may = np.flatnonzero(
        (np.abs(plane[:, 0]) > height / 4) | (rest.max(axis=1) > height / 4)
    )  # the others lie well enough
    off, hold, scatter = _robust(d[may], z[may])
    some = slice(None, None, 1 + len(z) // SAMPLE)
    usual = float(np.median(_robust(d[some], z[some])[2]))  # of sixteen by chance a few lie very well
    odd = may[(np.abs(off) > height) & (np.abs(off) > BY_CHANCE * np.maximum(scatter, usual) * np.sqrt(1.0 + hold))]
    by = dict(zip(may.tolist(), off.tolist(), strict=True))
    return [Fault("spike", float(v[i, 0]), float(v[i, 1]), by[i], int(used[i])) for i in odd.tolist()]


def _robust(d: Array, z: Array) -> tuple[Array, Array, Array]:
    """How far (m) vertices lie off the planes through their neighbours (n, k, 2 and n, k), by Tukey's biweight; how the scatter
    of the neighbours goes on to the level over the vertex (its square, 1: as it is); and that scatter (m).
    """
    if not len(z):
        return np.zeros(0), np.zeros(0), np.zeros(0)
    weight = np.ones_like(z)
    for _ in range(ROUNDS_OF_FIT):
        plane, normal = _planes_through(d, z, weight)
        rest = z - plane[:, :1] - (d * plane[:, None, 1:]).sum(axis=2)
        scatter = np.maximum(1.4826 * np.median(np.abs(rest), axis=1), LEAST_SCATTER)
        weight = np.clip(1.0 - (rest / (6.0 * scatter[:, None])) ** 2, 0.0, None) ** 2
    return -plane[:, 0], np.asarray(np.linalg.inv(normal)[:, 0, 0]), scatter


def _planes_through(d: Array, z: Array, weight: Array) -> tuple[Array, Array]:
    """Planes (level over the vertex and two slopes) through neighbours by weighted least squares, and their normal matrices."""
    x, y = d[:, :, 0], d[:, :, 1]
    wx, wy = weight * x, weight * y
    normal, right = np.empty((len(z), 3, 3)), np.empty((len(z), 3))
    for i, j, value in (
        (0, 0, weight), (0, 1, wx), (0, 2, wy), (1, 1, wx * x), (1, 2, wx * y), (2, 2, wy * y),
    ):  # fmt: skip
        normal[:, i, j] = normal[:, j, i] = value.sum(axis=1)
    for i, value in enumerate((weight, wx, wy)):
        right[:, i] = (value * z).sum(axis=1)
    normal += RIDGE * np.eye(3)
    return np.asarray(np.linalg.solve(normal, right[:, :, None])[:, :, 0]), normal


def without(tin: Tin, vertices: Sequence[int]) -> tuple[Array, Faces]:
    """A surface without some of its vertices: the hole that each group of them leaves is triangulated anew from the
    corners about it; at the edge of the surface the faces go. Returns vertices (n, 3) and faces (m, 3).
    """
    out = np.zeros(len(tin.vertices), bool)
    out[np.asarray(vertices, np.int64)] = True
    gone = out[tin.faces].any(axis=1)
    kept = [tin.faces[~gone]]
    kept += [_filled(tin.vertices, ring) for ring in _holes(tin.faces[gone], out)]
    faces = np.vstack(kept)
    used = np.unique(faces)
    number = np.full(len(tin.vertices), -1)
    number[used] = np.arange(len(used))
    return tin.vertices[used], number[faces]


def _holes(faces: Faces, out: Mask) -> list[list[int]]:
    """The rings of corners about faces that go: chains of their outer edges that close upon themselves."""
    edges = np.vstack([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    there = {(a, b) for a, b in edges.tolist()}
    onward: dict[int, list[int]] = {}
    for a, b in there:
        if (b, a) not in there and not out[a] and not out[b]:
            onward.setdefault(a, []).append(b)
    rings = []
    while onward:
        first = next(iter(onward))
        ring = [first]
        while ring[-1] in onward:
            ends = onward[ring[-1]]
            step = ends.pop()
            if not ends:
                del onward[ring[-1]]
            if step == first:
                rings.append(ring)
                break
            ring.append(step)
    return rings


def _filled(vertices: Array, ring: list[int]) -> Faces:
    """Triangles over the corners of a ring, none outside it."""
    import shapely

    corners = vertices[ring]
    n = np.arange(len(ring))
    made = _constrained(corners, np.column_stack([n, np.roll(n, -1)]))
    x, y = made.vertices[made.faces][:, :, :2].mean(axis=1).T
    faces = made.faces[shapely.contains_xy(shapely.make_valid(shapely.Polygon(corners[:, :2])), x, y)]
    return np.asarray(np.asarray(ring, np.int64)[faces[(faces < len(ring)).all(axis=1)]])
