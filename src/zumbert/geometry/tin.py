"""A triangulated surface: exact levels at points and exact ground lines along plan lines."""

from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array

EDGE = 1e-9  # relative to a triangle: points this far outside an edge still lie on it
CELLS_PER_TRIANGLE = 4.0


class Tin:
    """Triangles over vertices (n, 3) in m, faces (m, 3) of vertex numbers; holes and separate patches are legal.

    Computed about a local origin, so survey-grid coordinates lose nothing. Faces without area are passed over.
    Raises ValueError on faces that name no vertex.
    """

    def __init__(self, vertices: ArrayLike, faces: ArrayLike) -> None:
        self.vertices: Array = np.asarray(vertices, float).reshape(-1, 3)
        f = np.asarray(faces, np.int64).reshape(-1, 3)
        if f.size and (f.min() < 0 or f.max() >= len(self.vertices)):
            raise ValueError("a face of the surface names a vertex that is not there")
        self.origin = self.vertices[:, :2].min(axis=0) if len(self.vertices) else np.zeros(2)
        local = self.vertices.copy()
        local[:, :2] -= self.origin
        p = local[f]
        area = _cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
        f = np.where((area < 0)[:, None], f[:, ::-1], f)[np.abs(area) > 1e-12]
        self.faces = f
        self._corner = local[f]
        self._slopes = _planes(self._corner)

    @cached_property
    def extents(self) -> tuple[float, float, float, float]:
        """Least and greatest x and y of the faces' vertices: x0, y0, x1, y1, m."""
        xy = self.vertices[np.unique(self.faces), :2]
        (x0, y0), (x1, y1) = xy.min(axis=0), xy.max(axis=0)
        return float(x0), float(y0), float(x1), float(y1)

    @cached_property
    def _levels(self) -> Array:
        """Three coefficients a face: its level as a linear function of local x and y."""
        c, g = self._corner[:, 0], self._slopes
        return np.column_stack([g, c[:, 2] - g[:, 0] * c[:, 0] - g[:, 1] * c[:, 1]])

    def _plane(self, face: np.ndarray, x: Array, y: Array) -> Array:
        k = self._levels.take(face, axis=0)
        return np.asarray(k[:, 0] * x + k[:, 1] * y + k[:, 2])

    # -- levels at points ------------------------------------------------------------------------------------------

    @cached_property
    def _grid(self) -> tuple[Array, Array, tuple[int, int], np.ndarray, np.ndarray]:
        """Cells over the faces: corner, cell size, shape, and for each cell (CSR) the faces whose boxes touch it."""
        low, high = self._corner[:, :, :2].min(axis=1), self._corner[:, :, :2].max(axis=1)
        corner, far = low.min(axis=0), high.max(axis=0)
        span = np.maximum(far - corner, 1e-6)
        size = np.sqrt(span[0] * span[1] / max(1.0, len(self.faces) * CELLS_PER_TRIANGLE))
        shape = tuple(int(n) for n in np.maximum(1, np.ceil(span / size)))
        pad = 1e-7 * max(1.0, float(span.max()))
        i0 = np.clip(((low - pad - corner) / size).astype(np.int64), 0, np.array(shape) - 1)
        i1 = np.clip(((high + pad - corner) / size).astype(np.int64), 0, np.array(shape) - 1)
        wide = i1 - i0 + 1
        count = wide[:, 0] * wide[:, 1]
        face = np.repeat(np.arange(len(self.faces)), count)
        nth = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count)
        cell = (i0[face, 0] + nth % wide[face, 0]) * shape[1] + i0[face, 1] + nth // wide[face, 0]
        order = np.argsort(cell, kind="stable")
        starts = np.searchsorted(cell[order], np.arange(shape[0] * shape[1] + 1))
        return corner, np.array([size, size]), (shape[0], shape[1]), starts, face[order]

    @cached_property
    def _barycentric(self) -> Array:
        """Six coefficients a face: two barycentric coordinates as linear functions of local x and y."""
        c = self._corner[:, :, :2]
        e1, e2 = c[:, 1] - c[:, 0], c[:, 2] - c[:, 0]
        det = _cross(e1, e2)
        a1, b1 = e2[:, 1] / det, -e2[:, 0] / det
        a2, b2 = -e1[:, 1] / det, e1[:, 0] / det
        k1 = -(a1 * c[:, 0, 0] + b1 * c[:, 0, 1])
        k2 = -(a2 * c[:, 0, 0] + b2 * c[:, 0, 1])
        return np.column_stack([a1, b1, k1, a2, b2, k2])

    def face_at(self, x: ArrayLike, y: ArrayLike) -> np.ndarray:
        """Number of the face that holds each point, -1 outside; a point on an edge gets one of its faces."""
        px, py = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
        found = np.full(px.size, -1)
        if not len(self.faces):
            return found.reshape(px.shape)
        lx, ly = px.ravel() - self.origin[0], py.ravel() - self.origin[1]
        corner, size, shape, starts, faces = self._grid
        finite = np.isfinite(lx) & np.isfinite(ly)
        i = np.floor((np.where(finite, lx, -1e9) - corner[0]) / size[0] + 1e-9).astype(np.int64)
        j = np.floor((np.where(finite, ly, -1e9) - corner[1]) / size[1] + 1e-9).astype(np.int64)
        i = np.where((i == shape[0]) & (lx <= corner[0] + shape[0] * size[0] + 1e-6), shape[0] - 1, i)
        j = np.where((j == shape[1]) & (ly <= corner[1] + shape[1] * size[1] + 1e-6), shape[1] - 1, j)
        inside = finite & (i >= 0) & (j >= 0) & (i < shape[0]) & (j < shape[1])
        still = np.flatnonzero(inside)
        cell = i[still] * shape[1] + j[still]
        if len(still) > 5_000:  # neighbours in space become neighbours in memory
            order = np.argsort(cell.astype(np.int32))
            still, cell = still[order], cell[order]
        qx, qy = lx[still], ly[still]
        at, stop = starts.take(cell), starts.take(cell + 1)
        coefficients = self._barycentric
        while True:
            keep = np.flatnonzero(at < stop)
            if not keep.size:
                return found.reshape(px.shape)
            if keep.size < still.size:
                still, at, stop, qx, qy = still[keep], at[keep], stop[keep], qx[keep], qy[keep]
            face = faces.take(at)
            c = coefficients.take(face, axis=0)
            u = c[:, 0] * qx + c[:, 1] * qy + c[:, 2]
            v = c[:, 3] * qx + c[:, 4] * qy + c[:, 5]
            hit = (u >= -EDGE) & (v >= -EDGE) & (u + v <= 1 + EDGE)
            found[still[hit]] = face[hit]
            at = at + 1
            at[hit] = stop[hit]

    def level(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Levels (m) at points, exact on the face that holds each; NaN outside."""
        px, py = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
        face = self.face_at(px, py)
        z = np.full(px.shape, np.nan)
        on = face >= 0
        z[on] = self._plane(face[on], px[on] - self.origin[0], py[on] - self.origin[1])
        return z

    # -- ground lines ----------------------------------------------------------------------------------------------

    @cached_property
    def _tree(self) -> Any:
        import shapely

        c = self._corner[:, [0, 1, 2, 0], :2]
        return shapely.STRtree(shapely.polygons(c))

    def section(self, xy: ArrayLike) -> tuple[Array, Array]:
        """The exact ground line along a (k, 2) plan polyline: distances s from its beginning and levels z, m.

        A vertex at each triangle edge that it crosses and at each corner of the polyline. A NaN level marks a gap,
        which lasts to the next vertex; two equal distances are a jump between patches.
        """
        p = np.asarray(xy, float).reshape(-1, 2)
        long = np.hypot(*np.diff(p, axis=0).T)
        offsets, s, z = self.sections(p[:-1], p[1:])
        start = np.concatenate([[0.0], np.cumsum(long)])
        s = s + np.repeat(start[:-1], np.diff(offsets))
        double = np.concatenate([[False], (np.diff(s) <= 1e-12) & (np.abs(np.diff(z)) <= 1e-9)])
        gap = np.concatenate([[False], np.isnan(z[1:]) & np.isnan(z[:-1]) & (s[1:] < s[-1])])
        return s[~double & ~gap], z[~double & ~gap]

    def sections(self, start: ArrayLike, end: ArrayLike) -> tuple[np.ndarray, Array, Array]:
        """Exact ground lines along n straight lines, (n, 2) to (n, 2): offsets (n + 1), distances and levels.

        Line i has values offsets[i] to offsets[i + 1]; each begins at 0 and ends at its length, as `section`.
        Each line is cut with the triangles that it touches, all together; nothing is sampled.
        """
        a = np.asarray(start, float).reshape(-1, 2) - self.origin
        d = np.asarray(end, float).reshape(-1, 2) - self.origin - a
        long = np.hypot(d[:, 0], d[:, 1])
        line, face, t0, t1 = self._pieces(a, d)
        x0, y0 = (a[line] + t0[:, None] * d[line]).T
        x1, y1 = (a[line] + t1[:, None] * d[line]).T
        return _joined(len(a), long, line, t0, t1, self._plane(face, x0, y0), self._plane(face, x1, y1))

    def _pieces(self, a: Array, d: Array) -> tuple[np.ndarray, np.ndarray, Array, Array]:
        """Where lines a + t d run inside faces, sorted: line, face, t from and to; no stretch is told twice."""
        if not len(self.faces) or not len(a):
            none = np.zeros(0, np.int64)
            return none, none, np.zeros(0), np.zeros(0)
        import shapely

        lines = shapely.linestrings(np.stack([a, a + d], axis=1))
        line, face = self._tree.query(lines, predicate="intersects")
        t0, t1 = _clipped(a[line], d[line], self._corner[face][:, :, :2])
        keep = t1 - t0 > 1e-11
        line, face, t0, t1 = line[keep], face[keep], t0[keep], t1[keep]
        order = np.lexsort((t1, t0, line))
        line, face, t0, t1 = line[order], face[order], t0[order], t1[order]
        if not line.size:
            return line, face, t0, t1
        reached = np.maximum.accumulate(t1 + 2.0 * line)
        before = np.concatenate([[-1.0], reached[:-1]]) - 2.0 * line
        t0 = np.maximum(t0, before)
        new = t1 - t0 > 1e-11
        return line[new], face[new], t0[new], t1[new]


def _cross(a: Array, b: Array) -> Array:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _planes(corner: Array) -> Array:
    """Slopes of z in x and y of each face."""
    e1, e2 = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    det = _cross(e1, e2)
    gx = (e1[:, 2] * e2[:, 1] - e2[:, 2] * e1[:, 1]) / det
    gy = (e2[:, 2] * e1[:, 0] - e1[:, 2] * e2[:, 0]) / det
    return np.column_stack([gx, gy])


def _clipped(a: Array, d: Array, corner: Array) -> tuple[Array, Array]:
    """The t range of each line a + t d (0 to 1) inside its counter-clockwise triangle; empty where from > to."""
    low, high = np.zeros(len(a)), np.ones(len(a))
    for k in range(3):
        p, e = corner[:, k], corner[:, (k + 1) % 3] - corner[:, k]
        size = np.hypot(e[:, 0], e[:, 1])
        f0 = _cross(e, a - p) / size
        f1 = _cross(e, d) / size
        along = np.abs(f1) <= 1e-12 * np.maximum(1.0, np.hypot(d[:, 0], d[:, 1]))
        t = -f0 / np.where(along, 1.0, f1)
        low = np.where(~along & (f1 > 0), np.maximum(low, t), low)
        high = np.where(~along & (f1 < 0), np.minimum(high, t), high)
        high = np.where(along & (f0 < -1e-9), -1.0, high)
    return low, high


def _joined(
    n: int, long: Array, line: np.ndarray, t0: Array, t1: Array, z0: Array, z1: Array
) -> tuple[np.ndarray, Array, Array]:
    """Pieces inside faces strung to lines: shared ends once, a jump twice, a gap opened by a NaN level."""
    first = np.concatenate([[True], line[1:] != line[:-1]]) if line.size else np.zeros(0, bool)
    last = np.concatenate([first[1:], [True]]) if line.size else first
    t_before = np.where(first, 0.0, np.concatenate([[0.0], t1[:-1]]) if line.size else t1)
    z_before = np.where(first, np.nan, np.concatenate([[np.nan], z1[:-1]]) if line.size else z1)
    gap = t0 - t_before > 1e-9
    jump = gap | first | (np.abs(z0 - z_before) > 1e-9)
    tail = last & (1.0 - t1 > 1e-9)
    where, what_t, what_z = [line[gap]], [t_before[gap]], [np.full(int(gap.sum()), np.nan)]
    rank = [4 * np.flatnonzero(gap)]
    snapped = np.where(last & ~tail, 1.0, t1)
    for mask, t, z, place in ((jump, np.where(gap, t0, t_before), z0, 1), (np.ones_like(gap), snapped, z1, 2)):
        where.append(line[mask])
        what_t.append(t[mask])
        what_z.append(z[mask])
        rank.append(4 * np.flatnonzero(mask) + place)
    for t in (t1[tail], np.ones(int(tail.sum()))):  # a gap to the end: it opens, and the end itself
        where.append(line[tail])
        what_t.append(t)
        what_z.append(np.full(int(tail.sum()), np.nan))
        rank.append(4 * np.flatnonzero(tail) + 3)
    bare = np.setdiff1d(np.arange(n), line)
    for end in (0.0, 1.0):
        where.append(bare)
        what_t.append(np.full(len(bare), end))
        what_z.append(np.full(len(bare), np.nan))
        rank.append(np.full(len(bare), int(end)))
    all_line, all_rank = np.concatenate(where), np.concatenate(rank)
    order = np.lexsort((all_rank, all_line))
    all_line = all_line[order]
    offsets = np.searchsorted(all_line, np.arange(n + 1))
    return offsets, np.concatenate(what_t)[order] * long[all_line], np.concatenate(what_z)[order]
