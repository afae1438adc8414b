"""Triangles in plan: which of them lies over a place, its level and its slope."""

from functools import cached_property
from math import floor, isfinite

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.stretches import cross, place_in_run

EDGE = 1e-9  # relative to a triangle: points this far outside an edge still lie on it
CELLS_PER_TRIANGLE = 2.0
FEW = 8  # points or lines: up to here each is looked for by itself, beyond they are all together


class Faces:
    """Triangles, searchable by place. Vertices (n, 3) in m; faces (m, 3), anticlockwise."""

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
        area = cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
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

    # -- levels at points --------------------------------------------------------------------------

    @cached_property
    def _grid(self) -> tuple[Array, Array, tuple[int, int], np.ndarray, np.ndarray]:
        """Cells over the faces: corner, cell size, shape, and for each cell (CSR) the faces
        whose boxes touch it.
        """
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
        nth = place_in_run(count)
        across = np.repeat(wide[:, 0], count)
        ci, cj = (
            np.repeat(i0[:, 0], count) + nth % across,
            np.repeat(i0[:, 1], count) + nth // across,
        )
        x, y = corner[0] + (ci + 0.5) * size, corner[1] + (cj + 0.5) * size
        touch = self._touching(count, x, y, size / 2 + pad)
        face, cell = (
            np.repeat(np.arange(len(self.faces)), count)[touch],
            (ci * shape[1] + cj)[touch],
        )
        order = np.argsort(cell.astype(np.int32), kind="stable")
        starts = np.concatenate([[0], np.cumsum(np.bincount(cell, minlength=shape[0] * shape[1]))])
        return corner, np.array([size, size]), (shape[0], shape[1]), starts, face[order]

    def _touching(self, count: np.ndarray, x: Array, y: Array, half: float) -> Mask:
        """Whether square cells about their centres touch their faces, `count` cells a face in turn:
        none of the face's edges parts the two.
        """
        a1, b1, k1, a2, b2, k2 = (np.repeat(c, count) for c in self._barycentric.T)
        u, v = a1 * x + b1 * y + k1, a2 * x + b2 * y + k2
        ok = u >= -half * (np.abs(a1) + np.abs(b1))
        ok &= v >= -half * (np.abs(a2) + np.abs(b2))
        ok &= 1 - u - v >= -half * (np.abs(a1 + a2) + np.abs(b1 + b2))
        return np.asarray(ok)

    @cached_property
    def _barycentric(self) -> Array:
        """Six coefficients a face: two barycentric coordinates as linear functions of local x
        and y.
        """
        c = self._corner[:, :, :2]
        e1, e2 = c[:, 1] - c[:, 0], c[:, 2] - c[:, 0]
        det = cross(e1, e2)
        a1, b1 = e2[:, 1] / det, -e2[:, 0] / det
        a2, b2 = -e1[:, 1] / det, e1[:, 0] / det
        k1 = -(a1 * c[:, 0, 0] + b1 * c[:, 0, 1])
        k2 = -(a2 * c[:, 0, 0] + b2 * c[:, 0, 1])
        return np.column_stack([a1, b1, k1, a2, b2, k2])

    def face_at(self, x: ArrayLike, y: ArrayLike) -> np.ndarray:
        """Number of the face that holds each point, -1 outside; a point on an edge gets one of
        its faces.
        """
        px, py = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
        found = np.full(px.size, -1)
        if not len(self.faces):
            return found.reshape(px.shape)
        lx, ly = px.ravel() - self.origin[0], py.ravel() - self.origin[1]
        if px.size <= FEW:
            found = np.array(
                [self._face_of(x, y) for x, y in zip(lx.tolist(), ly.tolist(), strict=True)],
                np.int64,
            )
            return found.reshape(px.shape)
        corner, size, shape, starts, faces = self._grid
        finite = np.isfinite(lx) & np.isfinite(ly)
        i = np.floor((np.where(finite, lx, -1e9) - corner[0]) / size[0] + 1e-9).astype(np.int64)
        j = np.floor((np.where(finite, ly, -1e9) - corner[1]) / size[1] + 1e-9).astype(np.int64)
        i = np.where(
            (i == shape[0]) & (lx <= corner[0] + shape[0] * size[0] + 1e-6), shape[0] - 1, i
        )
        j = np.where(
            (j == shape[1]) & (ly <= corner[1] + shape[1] * size[1] + 1e-6), shape[1] - 1, j
        )
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

    # -- faces under polygons ----------------------------------------------------------------------

    @property
    def corners(self) -> Array:
        """The corners of the faces (m, 3, 3), local x and y and their level, anticlockwise."""
        return self._corner

    @cached_property
    def boxes(self) -> tuple[Array, Array]:
        """Least and greatest local x and y of each face."""
        p = self._corner[:, :, :2]
        return p.min(axis=1), p.max(axis=1)

    def in_boxes(self, low: Array, high: Array) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """For local boxes (n, 2) to (n, 2) the faces in the cells that they touch: box and face,
        each pair once.
        """
        if not len(self.faces):
            return np.zeros(0, np.int64), np.zeros(0, np.int64)
        corner, size, shape, starts, faces = self._grid
        last = np.array(shape) - 1
        a = np.floor((low - corner) / size - 1e-6).astype(np.int64)
        b = np.floor((high - corner) / size + 1e-6).astype(np.int64)
        met = np.flatnonzero((b >= 0).all(axis=1) & (a <= last).all(axis=1))
        a, b = np.clip(a[met], 0, last), np.clip(b[met], 0, last)
        wide = b - a + 1
        count = wide[:, 0] * wide[:, 1]
        box, nth = np.repeat(np.arange(len(met)), count), place_in_run(count)
        cell = (a[box, 0] + nth // wide[box, 1]) * shape[1] + a[box, 1] + nth % wide[box, 1]
        many = starts[cell + 1] - starts[cell]
        box, at = np.repeat(box, many), np.repeat(starts[cell], many) + place_in_run(many)
        pair = np.unique(met[box] * len(self.faces) + faces[at])
        return pair // len(self.faces), pair % len(self.faces)

    def planes(self, face: NDArray[np.int64]) -> Array:
        """The planes of faces (n, 5): x, y and level of a point, and the slopes of the level in
        x and in y.
        """
        at = self._corner[face, 0]
        return np.column_stack([at[:, :2] + self.origin, at[:, 2], self._slopes[face]])

    def level_on(self, face: NDArray[np.int64], xy: Array) -> Array:
        """Levels (m) of faces at local points (n, k, 2), those of their planes."""
        k = self._levels[face]
        return np.asarray(k[:, :1] * xy[:, :, 0] + k[:, 1:2] * xy[:, :, 1] + k[:, 2:])

    # -- ground lines ------------------------------------------------------------------------------


def _planes(corner: Array) -> Array:
    """Slopes of z in x and y of each face."""
    e1, e2 = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    det = cross(e1, e2)
    gx = (e1[:, 2] * e2[:, 1] - e2[:, 2] * e1[:, 1]) / det
    gy = (e2[:, 2] * e1[:, 0] - e1[:, 2] * e2[:, 0]) / det
    return np.column_stack([gx, gy])
