"""A triangulated surface: exact levels at points and exact ground lines along plan lines."""

from collections.abc import Callable
from functools import cached_property
from math import floor, isfinite
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zumbert.geometry.elements import Array, Mask

EDGE = 1e-9  # relative to a triangle: points this far outside an edge still lie on it
CELLS_PER_TRIANGLE = 2.0
FEW = 8  # points or lines: up to here each is looked for by itself, beyond they are all together
PAD = 1e-6  # of a cell: a line this near to a cell touches it


class Tin:
    """Triangles over vertices (n, 3) in m, faces (m, 3) of vertex numbers; holes and separate patches are legal.

    Computed about a local origin, so survey-grid coordinates lose nothing. Faces without area are passed over.
    Raises ValueError on faces that name no vertex.
    """

    def __init__(self, vertices: ArrayLike, faces: ArrayLike) -> None:
        self._given = vertices
        self.vertices: Array = np.asarray(vertices, float).reshape(-1, 3)
        f = np.asarray(faces, np.int64).reshape(-1, 3)
        if f.size and (f.min() < 0 or f.max() >= len(self.vertices)):
            raise ValueError("a face of the surface names a vertex that is not there")
        self.origin = self.vertices[:, :2].min(axis=0) if len(self.vertices) else np.zeros(2)
        local = self.vertices.copy()
        local[:, :2] -= self.origin
        p = np.take(local, f, axis=0)
        area = _cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
        if not (area > 1e-12).all():
            f = np.where((area < 0)[:, None], f[:, ::-1], f)[np.abs(area) > 1e-12]
            p = np.take(local, f, axis=0)
        self.faces = f
        self._corner = p
        self._slopes = _planes(self._corner)

    def is_of(self, vertices: object) -> bool:
        """Whether it was made over this very array."""
        return self._given is vertices

    @cached_property
    def used(self) -> NDArray[np.int64]:
        """The numbers of the vertices that faces have, rising."""
        has = np.zeros(len(self.vertices), bool)
        has[self.faces] = True
        return np.flatnonzero(has)

    @cached_property
    def extents(self) -> tuple[float, float, float, float]:
        """Least and greatest x and y of the faces' vertices: x0, y0, x1, y1, m."""
        xy = self.vertices[self.used, :2]
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
        nth = _nth(count)
        across = np.repeat(wide[:, 0], count)
        ci, cj = np.repeat(i0[:, 0], count) + nth % across, np.repeat(i0[:, 1], count) + nth // across
        x, y = corner[0] + (ci + 0.5) * size, corner[1] + (cj + 0.5) * size
        touch = self._touching(count, x, y, size / 2 + pad)
        face, cell = np.repeat(np.arange(len(self.faces)), count)[touch], (ci * shape[1] + cj)[touch]
        order = np.argsort(cell.astype(np.int32), kind="stable")
        starts = np.concatenate([[0], np.cumsum(np.bincount(cell, minlength=shape[0] * shape[1]))])
        return corner, np.array([size, size]), (shape[0], shape[1]), starts, face[order]

    def _touching(self, count: np.ndarray, x: Array, y: Array, half: float) -> Mask:
        """Whether square cells about their centres touch their faces, `count` cells a face in turn: none of the
        face's edges parts the two.
        """
        a1, b1, k1, a2, b2, k2 = (np.repeat(c, count) for c in self._barycentric.T)
        u, v = a1 * x + b1 * y + k1, a2 * x + b2 * y + k2
        ok = u >= -half * (np.abs(a1) + np.abs(b1))
        ok &= v >= -half * (np.abs(a2) + np.abs(b2))
        ok &= 1 - u - v >= -half * (np.abs(a1 + a2) + np.abs(b1 + b2))
        return np.asarray(ok)

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
        if px.size <= FEW:
            found = np.array([self._face_of(x, y) for x, y in zip(lx.tolist(), ly.tolist(), strict=True)], np.int64)
            return found.reshape(px.shape)
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

    def _face_of(self, x: float, y: float) -> int:
        """The face that holds one local point, with the very arithmetic of many; -1 outside."""
        (x0, y0), (wide, tall), shape, starts, faces = self._grid
        if not (isfinite(x) and isfinite(y)):
            return -1
        i, j = floor((x - x0) / wide + 1e-9), floor((y - y0) / tall + 1e-9)
        i = shape[0] - 1 if i == shape[0] and x <= x0 + shape[0] * wide + 1e-6 else i
        j = shape[1] - 1 if j == shape[1] and y <= y0 + shape[1] * tall + 1e-6 else j
        if not (0 <= i < shape[0] and 0 <= j < shape[1]):
            return -1
        cell = i * shape[1] + j
        for face in faces[starts[cell] : starts[cell + 1]].tolist():
            a1, b1, k1, a2, b2, k2 = self._barycentric[face].tolist()
            u, v = a1 * x + b1 * y + k1, a2 * x + b2 * y + k2
            if u >= -EDGE and v >= -EDGE and u + v <= 1 + EDGE:
                return int(face)
        return -1

    def level(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Levels (m) at points, exact on the face that holds each; NaN outside."""
        px, py = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
        face = self.face_at(px, py)
        z = np.full(px.shape, np.nan)
        on = face >= 0
        z[on] = self._plane(face[on], px[on] - self.origin[0], py[on] - self.origin[1])
        return z

    def slope(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Slope of the surface (fraction, not negative) at points; NaN outside."""
        face = self.face_at(x, y)
        steep = np.hypot(self._slopes[:, 0], self._slopes[:, 1]) if len(self.faces) else np.zeros(1)
        return np.asarray(np.where(face >= 0, steep[np.maximum(face, 0)], np.nan))

    # -- ground lines ----------------------------------------------------------------------------------------------

    def section(self, xy: ArrayLike) -> tuple[Array, Array]:
        """The exact ground line along a (k, 2) plan polyline: distances s from its beginning and levels z, m.

        A vertex at each triangle edge that it crosses and at each corner of the polyline. A NaN level marks a gap,
        which lasts to the next vertex; two equal distances are a jump between patches.
        """
        return strung(self.sections, xy)

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
        line, face, t0, t1, lost = self._walked(a, d)
        if lost.size:  # a line that grazes an edge within rounding: cut it with every face that it touches
            keep = ~np.isin(line, lost)
            more, f, u0, u1 = self._cut(a[lost], d[lost])
            line, face = np.concatenate([line[keep], lost[more]]), np.concatenate([face[keep], f])
            t0, t1 = np.concatenate([t0[keep], u0]), np.concatenate([t1[keep], u1])
        return _unique_stretches(line, face, t0, t1)

    def _cut(self, a: Array, d: Array) -> tuple[np.ndarray, np.ndarray, Array, Array]:
        """Each line cut with the faces of the cells that it touches."""
        found = [self._beside(a[i], d[i]) for i in range(len(a))]
        line = np.repeat(np.arange(len(a)), [len(f) for f in found])
        face = np.concatenate(found)
        t0, t1 = _clipped(a[line], d[line], self._plan[face])
        return line, face, t0, t1

    def _beside(self, a: Array, d: Array) -> np.ndarray:
        """The faces whose cells a line a + d touches: column for column the rows between its levels at both sides."""
        corner, size, shape, starts, faces = self._grid
        k = 0 if abs(d[0]) >= abs(d[1]) else 1  # along the flatter way
        p, q = (a - corner) / size, (a + d - corner) / size
        if p[k] > q[k]:
            p, q = q, p
        first, last = max(0, int(np.floor(p[k] - PAD))), min(shape[k] - 1, int(np.floor(q[k] + PAD)))
        if last < first:
            return np.zeros(0, np.int64)
        i = np.arange(first, last + 1)
        rise = (q[1 - k] - p[1 - k]) / max(q[k] - p[k], 1e-12)
        at = p[1 - k] + rise * (np.clip(np.stack([i, i + 1]), p[k], q[k]) - p[k])
        j0 = np.maximum(np.floor(at.min(axis=0) - PAD).astype(np.int64), 0)
        j1 = np.minimum(np.floor(at.max(axis=0) + PAD).astype(np.int64), shape[1 - k] - 1)
        count = np.maximum(j1 - j0 + 1, 0)
        i, j = np.repeat(i, count), np.repeat(j0, count) + _nth(count)
        cell = i * shape[1] + j if k == 0 else j * shape[1] + i
        count = starts[cell + 1] - starts[cell]
        return np.asarray(np.unique(faces[np.repeat(starts[cell], count) + _nth(count)]))

    @cached_property
    def _neighbours(self) -> np.ndarray:
        """For each face the faces beyond its edges (corner k to k + 1), -1 where there is none or more than one."""
        f = self.faces
        tail, head = f.ravel(), np.roll(f, -1, axis=1).ravel()
        wide = len(self.vertices)
        key, back = tail * wide + head, head * wide + tail
        order = np.argsort(key, kind="stable")
        ranked = key[order]
        at = np.clip(np.searchsorted(ranked, back), 0, len(ranked) - 1)
        found = ranked[at] == back
        found &= (at + 1 >= len(ranked)) | (ranked[np.minimum(at + 1, len(ranked) - 1)] != back)
        return np.where(found, order[at] // 3, -1).reshape(-1, 3)

    @cached_property
    def _plan(self) -> Array:
        """The corners of the faces (m, 3, 2), without their levels."""
        return np.ascontiguousarray(self._corner[:, :, :2])

    @cached_property
    def _rim(self) -> tuple[np.ndarray, np.ndarray, Any]:
        """Edges with no face beyond: their face and corner, and a tree of their boxes."""
        import shapely

        face, k = np.nonzero(self._neighbours < 0)
        p, q = self._corner[face, k, :2], self._corner[face, (k + 1) % 3, :2]
        return face, k, shapely.STRtree(shapely.linestrings(np.stack([p, q], axis=1)))

    def _walked(self, a: Array, d: Array) -> tuple[np.ndarray, np.ndarray, Array, Array, np.ndarray]:
        """All lines walked from face to face together, and the lines that a walk lost.

        A corner on a line counts as left of it, so corners and edges need no case of their own. Walks begin in the
        face of the line's start (nudged forward and to the right by 1e-7 m) and at each edge of the surface over which
        the line comes in; one step takes every walk into its next face.
        """
        long = np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-12)
        unit = d / long[:, None]
        nudge = 1e-7 * (unit + np.column_stack([unit[:, 1], -unit[:, 0]]))
        inside, begin = self._begun(a + nudge)
        came, over = self._entries(a, d)
        line = np.concatenate([inside, came])
        face, t = np.concatenate([begin, over[0]]), np.concatenate([np.zeros(len(inside)), over[1]])
        out: list[tuple[np.ndarray, np.ndarray, Array, Array]] = []
        lost: list[np.ndarray] = []
        square = long**2
        neighbours, corner = self._neighbours, self._plan
        if line.size <= FEW:
            return self._walked_each(a, d, line, face, t, square)
        for _ in range(len(self.faces) + 1):
            if not line.size:
                break
            p = corner.take(face, axis=0)
            la, ld = a.take(line, axis=0), d.take(line, axis=0)
            dx, dy = p[:, :, 0] - la[:, :1], p[:, :, 1] - la[:, 1:]
            side = ld[:, :1] * dy - ld[:, 1:] * dx
            left = side >= 0
            out_over = ~left & np.roll(left, -1, axis=1)  # from the right of the line to its left: out of the face
            k = out_over.argmax(axis=1)
            rows = np.arange(len(line))
            ok = out_over[rows, k]
            j = (k + 1) % 3
            s0, s1 = side[rows, k], side[rows, j]
            share = -s0 / np.where(s1 == s0, 1.0, s1 - s0)
            along = dx * ld[:, :1] + dy * ld[:, 1:]
            here = along[rows, k]
            leave = (here + share * (along[rows, j] - here)) / square.take(line)
            lost.append(line[~ok])
            line, face, t, leave, k = line[ok], face[ok], t[ok], leave[ok], k[ok]
            out.append((line, face, t, np.clip(leave, t, 1.0)))
            onward = neighbours[face, k]
            go = (leave < 1.0) & (onward >= 0)
            line, face, t = line[go], onward[go], np.maximum(leave[go], t[go])
        whole = [np.concatenate([o[i] for o in out]) for i in range(4)] if out else [np.zeros(0)] * 4
        missing = np.unique(np.concatenate(lost)) if lost else np.zeros(0, np.int64)
        return whole[0].astype(np.int64), whole[1].astype(np.int64), whole[2], whole[3], missing

    def _begun(self, at: Array) -> tuple[np.ndarray, np.ndarray]:
        """The faces that hold local points (n, 2): the number of the point and the face, of one point several where
        patches lie over each other.
        """
        face = self.face_at(*(at + self.origin).T)
        inside = np.flatnonzero(face >= 0)
        if not self._layered or not inside.size:
            return inside, face[inside]
        corner, size, shape, starts, faces = self._grid
        cell = np.clip(np.floor((at[inside] - corner) / size + 1e-9).astype(np.int64), 0, np.array(shape) - 1)
        cell = cell[:, 0] * shape[1] + cell[:, 1]
        count = starts[cell + 1] - starts[cell]
        which, held = np.repeat(inside, count), faces[np.repeat(starts[cell], count) + _nth(count)]
        c = self._barycentric[held]
        u = c[:, 0] * at[which, 0] + c[:, 1] * at[which, 1] + c[:, 2]
        v = c[:, 3] * at[which, 0] + c[:, 4] * at[which, 1] + c[:, 5]
        hit = (u >= -EDGE) & (v >= -EDGE) & (u + v <= 1 + EDGE)
        return which[hit], held[hit]

    @cached_property
    def _layered(self) -> bool:
        """Whether some of its faces lie over others: then an edge of the surface runs over a face or another edge."""
        face, k, tree = self._rim
        if not len(face):
            return False
        if len(tree.query(tree.geometries, predicate="crosses")[0]):
            return True
        p, q = self._corner[face, k, :2], self._corner[face, (k + 1) % 3, :2]
        out = np.column_stack([q[:, 1] - p[:, 1], p[:, 0] - q[:, 0]])  # to the right of the edge: away from its face
        away = (p + q) / 2 + 1e-6 * out / np.maximum(np.hypot(out[:, 0], out[:, 1]), 1e-12)[:, None]
        return bool((self.face_at(*(away + self.origin).T) >= 0).any())

    def _walked_each(
        self, a: Array, d: Array, line: np.ndarray, face: np.ndarray, t: Array, square: Array
    ) -> tuple[np.ndarray, np.ndarray, Array, Array, np.ndarray]:
        """A few lines walked one by one, with the very arithmetic of all together, so that the results are the same."""
        out: list[tuple[int, int, float, float]] = []
        lost: list[int] = []
        for n, at, begin in zip(line.tolist(), face.tolist(), t.tolist(), strict=True):
            (ax, ay), (dx, dy), long = a[n].tolist(), d[n].tolist(), float(square[n])
            for _ in range(len(self.faces) + 1):
                p = [(x - ax, y - ay) for x, y in self._plan[at].tolist()]
                side = [dx * y - dy * x for x, y in p]
                k = next((i for i in (0, 1, 2) if side[i] < 0 <= side[(i + 1) % 3]), None)
                if k is None:
                    lost.append(n)
                    break
                j = (k + 1) % 3
                share = -side[k] / (side[j] - side[k])
                here, there = p[k][0] * dx + p[k][1] * dy, p[j][0] * dx + p[j][1] * dy
                leave = (here + share * (there - here)) / long
                out.append((n, at, begin, min(max(leave, begin), 1.0)))
                onward = int(self._neighbours[at, k])
                if leave >= 1.0 or onward < 0:
                    break
                at, begin = onward, max(leave, begin)
        whole = np.array(out, float).reshape(-1, 4)
        lines, faces = whole[:, 0].astype(np.int64), whole[:, 1].astype(np.int64)
        return lines, faces, whole[:, 2], whole[:, 3], np.unique(np.array(lost, np.int64))

    def _entries(self, a: Array, d: Array) -> tuple[np.ndarray, tuple[np.ndarray, Array]]:
        """Where lines come in over the edge of the surface: line, face and t."""
        import shapely

        rim_face, rim_corner, tree = self._rim
        lines = shapely.linestrings(np.stack([a, a + d], axis=1))
        line, edge = tree.query(lines)
        face, k = rim_face[edge], rim_corner[edge]
        p, q = self._corner[face, k, :2] - a[line], self._corner[face, (k + 1) % 3, :2] - a[line]
        s0, s1 = _cross(d[line], p), _cross(d[line], q)
        comes = (s0 >= 0) & (s1 < 0)  # from the left of the line to its right: into the face
        line, face, p, q, s0, s1 = line[comes], face[comes], p[comes], q[comes], s0[comes], s1[comes]
        at = p + (q - p) * (s0 / (s0 - s1))[:, None]
        t = (at * d[line]).sum(axis=1) / np.maximum((d[line] ** 2).sum(axis=1), 1e-24)
        on = (t > -1e-9) & (t < 1.0)
        return line[on], (face[on], np.maximum(t[on], 0.0))


def strung(sections: Callable[[Array, Array], tuple[np.ndarray, Array, Array]], xy: ArrayLike) -> tuple[Array, Array]:
    """The ground lines along the straights of a (k, 2) polyline, strung to one: distances and levels, m."""
    p = np.asarray(xy, float).reshape(-1, 2)
    long = np.hypot(*np.diff(p, axis=0).T)
    offsets, s, z = sections(p[:-1], p[1:])
    start = np.concatenate([[0.0], np.cumsum(long)])
    s = s + np.repeat(start[:-1], np.diff(offsets))
    double = np.concatenate([[False], (np.diff(s) <= 1e-12) & (np.abs(np.diff(z)) <= 1e-9)])
    gap = np.concatenate([[False], np.isnan(z[1:]) & np.isnan(z[:-1]) & (s[1:] < s[-1])])
    return s[~double & ~gap], z[~double & ~gap]


def _unique_stretches(line: np.ndarray, face: np.ndarray, t0: Array, t1: Array) -> tuple[np.ndarray, np.ndarray, Array, Array]:
    """Pieces by line and place, without those that others cover. Where two overlap the face of the lower number counts,
    as it does for the level of a point.
    """
    keep = t1 - t0 > 1e-11
    line, face, t0, t1 = line[keep], face[keep], t0[keep], t1[keep]
    order = np.lexsort((t1, t0, line))
    line, face, t0, t1 = line[order], face[order], t0[order], t1[order]
    if not line.size:
        return line, face, t0, t1
    reached = np.maximum.accumulate(t1 + 2.0 * line)
    before = np.concatenate([[-1.0], reached[:-1]]) - 2.0 * line
    layered = np.unique(line[before - t0 > 1e-9])
    if layered.size:
        several = np.isin(line, layered)
        parts = [_lowest(n, face[line == n], t0[line == n], t1[line == n]) for n in layered.tolist()]
        line, face, t0, t1 = (
            np.concatenate([whole[~several], *(p[i] for p in parts)]) for i, whole in enumerate((line, face, t0, t1))
        )
        order = np.lexsort((t1, t0, line))
        return line[order], face[order], t0[order], t1[order]
    t0 = np.maximum(t0, before)
    new = t1 - t0 > 1e-11
    return line[new], face[new], t0[new], t1[new]


def _lowest(line: int, face: np.ndarray, t0: Array, t1: Array) -> tuple[np.ndarray, np.ndarray, Array, Array]:
    """The pieces of one line, each stretch on the face of the lowest number that holds it."""
    cuts = np.unique(np.concatenate([t0, t1]))
    cuts = cuts[np.concatenate([[True], np.diff(cuts) > 1e-11])]
    a, b = cuts[:-1], cuts[1:]
    mid = (a + b) / 2
    holds = (t0[:, None] < mid) & (t1[:, None] > mid)
    best = np.where(holds, face[:, None], np.iinfo(np.int64).max).min(axis=0)
    on = holds.any(axis=0)
    return np.full(int(on.sum()), line), best[on], a[on], b[on]


def _nth(count: np.ndarray) -> np.ndarray:
    """The numbers 0, 1, 2 … within each group of so many."""
    return np.asarray(np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count))


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


def _joined(n: int, long: Array, line: np.ndarray, t0: Array, t1: Array, z0: Array, z1: Array) -> tuple[np.ndarray, Array, Array]:
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
