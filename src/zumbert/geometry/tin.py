"""A triangulated surface: exact levels at points and exact ground lines along plan lines."""

from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array
from zumbert.geometry.faces import FEW, Faces
from zumbert.geometry.stretches import (
    clipped,
    cross,
    joined,
    place_in_run,
    strung,
    unique_stretches,
)

EDGE = 1e-9  # relative to a triangle: points this far outside an edge still lie on it
PAD = 1e-6  # of a cell: a line this near to a cell touches it


class Tin(Faces):
    """Triangles over vertices (n, 3) in m, faces (m, 3) of vertex numbers; holes and separate
    patches are legal.

    Computed about a local origin, so survey-grid coordinates lose nothing. Faces without area are
    passed over. Raises ValueError on faces that name no vertex.
    """

    def section(self, xy: ArrayLike) -> tuple[Array, Array]:
        """The exact ground line along a (k, 2) plan polyline: distances s from its beginning and
        levels z, m.

        A vertex at each triangle edge that it crosses and at each corner of the polyline. A NaN
        level marks a gap, which lasts to the next vertex; two equal distances are a jump between
        patches.
        """
        return strung(self.sections, xy)

    def sections(self, start: ArrayLike, end: ArrayLike) -> tuple[np.ndarray, Array, Array]:
        """Exact ground lines along n straight lines, (n, 2) to (n, 2): offsets (n + 1), distances
        and levels.

        Line i has values offsets[i] to offsets[i + 1]; each begins at 0 and ends at its length, as
        `section`. Each line is cut with the triangles that it touches, all together; nothing is
        sampled.
        """
        a = np.asarray(start, float).reshape(-1, 2) - self.origin
        d = np.asarray(end, float).reshape(-1, 2) - self.origin - a
        long = np.hypot(d[:, 0], d[:, 1])
        line, face, t0, t1 = self._pieces(a, d)
        x0, y0 = (a[line] + t0[:, None] * d[line]).T
        x1, y1 = (a[line] + t1[:, None] * d[line]).T
        return joined(
            len(a), long, line, t0, t1, self._plane(face, x0, y0), self._plane(face, x1, y1)
        )

    def _pieces(self, a: Array, d: Array) -> tuple[np.ndarray, np.ndarray, Array, Array]:
        """Where lines a + t d run inside faces, sorted: line, face, t from and to; no stretch is
        told twice.
        """
        if not len(self.faces) or not len(a):
            none = np.zeros(0, np.int64)
            return none, none, np.zeros(0), np.zeros(0)
        line, face, t0, t1, lost = self._walked(a, d)
        if (
            lost.size
        ):  # a line that grazes an edge within rounding: cut it with every face that it touches
            keep = ~np.isin(line, lost)
            more, f, u0, u1 = self._cut(a[lost], d[lost])
            line, face = np.concatenate([line[keep], lost[more]]), np.concatenate([face[keep], f])
            t0, t1 = np.concatenate([t0[keep], u0]), np.concatenate([t1[keep], u1])
        return unique_stretches(line, face, t0, t1)

    def _cut(self, a: Array, d: Array) -> tuple[np.ndarray, np.ndarray, Array, Array]:
        """Each line cut with the faces of the cells that it touches."""
        found = [self._beside(a[i], d[i]) for i in range(len(a))]
        line = np.repeat(np.arange(len(a)), [len(f) for f in found])
        face = np.concatenate(found)
        t0, t1 = clipped(a[line], d[line], self._plan[face])
        return line, face, t0, t1

    def _beside(self, a: Array, d: Array) -> np.ndarray:
        """The faces whose cells a line a + d touches: column for column the rows between its
        levels at both sides.
        """
        corner, size, shape, starts, faces = self._grid
        k = 0 if abs(d[0]) >= abs(d[1]) else 1  # along the flatter way
        p, q = (a - corner) / size, (a + d - corner) / size
        if p[k] > q[k]:
            p, q = q, p
        first, last = (
            max(0, int(np.floor(p[k] - PAD))),
            min(shape[k] - 1, int(np.floor(q[k] + PAD))),
        )
        if last < first:
            return np.zeros(0, np.int64)
        i = np.arange(first, last + 1)
        rise = (q[1 - k] - p[1 - k]) / max(q[k] - p[k], 1e-12)
        at = p[1 - k] + rise * (np.clip(np.stack([i, i + 1]), p[k], q[k]) - p[k])
        j0 = np.maximum(np.floor(at.min(axis=0) - PAD).astype(np.int64), 0)
        j1 = np.minimum(np.floor(at.max(axis=0) + PAD).astype(np.int64), shape[1 - k] - 1)
        count = np.maximum(j1 - j0 + 1, 0)
        i, j = np.repeat(i, count), np.repeat(j0, count) + place_in_run(count)
        cell = i * shape[1] + j if k == 0 else j * shape[1] + i
        count = starts[cell + 1] - starts[cell]
        return np.asarray(np.unique(faces[np.repeat(starts[cell], count) + place_in_run(count)]))

    @cached_property
    def _neighbours(self) -> np.ndarray:
        """For each face the faces beyond its edges (corner k to k + 1), -1 where there is none
        or more than one.
        """
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

    @property
    def neighbours(self) -> np.ndarray:
        """For each face the faces beyond its edges (corner k to k + 1), -1 where there is none
        or more than one.
        """
        return self._neighbours

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

    def _walked(
        self, a: Array, d: Array
    ) -> tuple[np.ndarray, np.ndarray, Array, Array, np.ndarray]:
        """All lines walked from face to face together, and the lines that a walk lost.

        A corner on a line counts as left of it, so corners and edges need no case of their own.
        Walks begin in the face of the line's start (nudged forward and to the right by 1e-7 m) and
        at each edge of the surface over which the line comes in; one step takes every walk into its
        next face.
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
            out_over = ~left & np.roll(
                left, -1, axis=1
            )  # from the right of the line to its left: out of the face
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
        whole = (
            [np.concatenate([o[i] for o in out]) for i in range(4)] if out else [np.zeros(0)] * 4
        )
        missing = np.unique(np.concatenate(lost)) if lost else np.zeros(0, np.int64)
        return whole[0].astype(np.int64), whole[1].astype(np.int64), whole[2], whole[3], missing

    def _begun(self, at: Array) -> tuple[np.ndarray, np.ndarray]:
        """The faces that hold local points (n, 2): the number of the point and the face, of one
        point several where patches lie over each other.
        """
        face = self.face_at(*(at + self.origin).T)
        inside = np.flatnonzero(face >= 0)
        if not self._layered or not inside.size:
            return inside, face[inside]
        corner, size, shape, starts, faces = self._grid
        cell = np.clip(
            np.floor((at[inside] - corner) / size + 1e-9).astype(np.int64), 0, np.array(shape) - 1
        )
        cell = cell[:, 0] * shape[1] + cell[:, 1]
        count = starts[cell + 1] - starts[cell]
        which, held = (
            np.repeat(inside, count),
            faces[np.repeat(starts[cell], count) + place_in_run(count)],
        )
        c = self._barycentric[held]
        u = c[:, 0] * at[which, 0] + c[:, 1] * at[which, 1] + c[:, 2]
        v = c[:, 3] * at[which, 0] + c[:, 4] * at[which, 1] + c[:, 5]
        hit = (u >= -EDGE) & (v >= -EDGE) & (u + v <= 1 + EDGE)
        return which[hit], held[hit]

    @cached_property
    def _layered(self) -> bool:
        """Whether some of its faces lie over others: then an edge of the surface runs over a
        face or another edge.
        """
        face, k, tree = self._rim
        if not len(face):
            return False
        if len(tree.query(tree.geometries, predicate="crosses")[0]):
            return True
        p, q = self._corner[face, k, :2], self._corner[face, (k + 1) % 3, :2]
        out = np.column_stack(
            [q[:, 1] - p[:, 1], p[:, 0] - q[:, 0]]
        )  # to the right of the edge: away from its face
        away = (p + q) / 2 + 1e-6 * out / np.maximum(np.hypot(out[:, 0], out[:, 1]), 1e-12)[:, None]
        return bool((self.face_at(*(away + self.origin).T) >= 0).any())

    def _walked_each(
        self, a: Array, d: Array, line: np.ndarray, face: np.ndarray, t: Array, square: Array
    ) -> tuple[np.ndarray, np.ndarray, Array, Array, np.ndarray]:
        """A few lines walked one by one, with the very arithmetic of all together, so that the
        results are the same.
        """
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
        s0, s1 = cross(d[line], p), cross(d[line], q)
        comes = (s0 >= 0) & (s1 < 0)  # from the left of the line to its right: into the face
        line, face, p, q, s0, s1 = (
            line[comes],
            face[comes],
            p[comes],
            q[comes],
            s0[comes],
            s1[comes],
        )
        at = p + (q - p) * (s0 / (s0 - s1))[:, None]
        t = (at * d[line]).sum(axis=1) / np.maximum((d[line] ** 2).sum(axis=1), 1e-24)
        on = (t > -1e-9) & (t < 1.0)
        return line[on], (face[on], np.maximum(t[on], 0.0))
