"""A road alignment: chainage and offset to x and y, and back."""

from collections.abc import Sequence
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array, Element, Mask, Straight

FEW = 20_000  # places times elements: up to here the elements that are too far are left out first
KEPT = 200_000  # places whose chainages are kept
CORNER = 1e-6  # radians: elements that turn by less at their joint are tangent
END_TOLERANCE = 1e-6  # m: a foot this far beyond either end still counts as on it


class Alignment:
    """A chain of elements with a start chainage; offsets are positive to the right looking
    up-chainage.

    Chainages (m) run on along the elements. A place beyond either end has no chainage: NaN, never
    clamped.
    """

    def __init__(self, elements: Sequence[Element], start: float = 0.0) -> None:
        if not elements:
            raise ValueError("an alignment needs at least one element")
        self.elements = tuple(elements)
        self.start = float(start)
        self._lengths: Array = np.array([e.length for e in self.elements])
        self._placed: dict[bytes, tuple[Array, Array]] = {}
        self.breaks: Array = self.start + np.concatenate([[0.0], np.cumsum(self._lengths)])

    @classmethod
    def through(cls, xy: ArrayLike, start: float = 0.0) -> "Alignment":
        """Straights from point to point of an (n, 2) array, n >= 2; repeated points are passed
        over.
        """
        p = np.asarray(xy, float)
        pairs = [(a, b) for a, b in pairwise(p) if np.hypot(*(b - a)) > END_TOLERANCE]
        return cls([Straight(*map(float, (*a, *b))) for a, b in pairs], start)

    def carried_on(self, by: float) -> "Alignment":
        """The same line, chainage for chainage, carried on straight beyond both ends by a length
        (m).
        """
        ends = np.array([self.start, self.end])
        (x0, x1), (y0, y1) = self.point(ends)
        turn = self.bearing(ends)
        dx, dy = by * np.sin(turn), by * np.cos(turn)
        first = Straight(float(x0 - dx[0]), float(y0 - dy[0]), float(x0), float(y0))
        last = Straight(float(x1), float(y1), float(x1 + dx[1]), float(y1 + dy[1]))
        return Alignment([first, *self.elements, last], self.start - by)

    @property
    def end(self) -> float:
        """Chainage of the end, m."""
        return float(self.breaks[-1])

    @property
    def length(self) -> float:
        """Length from start to end, m."""
        return self.end - self.start

    def _which(self, ch: Array) -> np.ndarray:
        return np.clip(
            np.searchsorted(self.breaks, ch, side="right") - 1, 0, len(self.elements) - 1
        )

    def _used(self, which: np.ndarray) -> list[int]:
        """The numbers of the elements that are among some."""
        return (
            np.flatnonzero(np.bincount(which.ravel(), minlength=1)).tolist() if which.size else []
        )

    def point(self, ch: ArrayLike, off: ArrayLike = 0.0) -> tuple[Array, Array]:
        """X and y (m) at chainages and offsets, of their broadcast shape; NaN beyond the ends."""
        c, o = np.broadcast_arrays(np.asarray(ch, float), np.asarray(off, float))
        x, y = np.full(c.shape, np.nan), np.full(c.shape, np.nan)
        which = self._which(c)
        on = (c >= self.start - END_TOLERANCE) & (c <= self.end + END_TOLERANCE)
        for i in self._used(which[on]):
            m = on & (which == i)
            x[m], y[m] = self.elements[i].point(c[m] - self.breaks[i], o[m])
        return x, y

    def bearing(self, ch: ArrayLike) -> Array:
        """Direction of travel, radians clockwise from north; beyond the ends that of the end."""
        c = np.asarray(ch, float)
        which = self._which(c)
        out = np.empty(c.shape)
        for i in self._used(which):
            m, element = which == i, self.elements[i]
            out[m] = element.bearing(np.clip(c[m] - self.breaks[i], 0.0, element.length))
        return out

    def project(self, x: ArrayLike, y: ArrayLike) -> tuple[Array, Array]:
        """Chainage and offset (m) of the perpendicular foot, the nearest where there are several.

        At a corner between two elements the corner itself serves as foot for places in its outer
        wedge. NaN where the nearest foot would lie beyond either end.
        """
        ch, off, _ = self.foot(x, y)
        return ch, off

    def places(self, xy: Array) -> tuple[Array, Array]:
        """As `project`, of places (n, 2) that are asked about again and again, as panning does:
        the last ones are kept.
        """
        key = xy.tobytes()
        found = self._placed.get(key)
        if found is None:
            if sum(len(ch) for ch, _ in self._placed.values()) + len(xy) > KEPT:
                self._placed.clear()
            found = self._placed[key] = self.project(xy[:, 0], xy[:, 1])
        return found

    def foot(self, x: ArrayLike, y: ArrayLike) -> tuple[Array, Array, Array]:
        """Chainage and offset as `project` gives them, and the distance (m) to the nearest place of
        the alignment, which is known beyond its ends too: of several roads the nearest is told by
        it.
        """
        px, py = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
        near = self._near(px, py) or [0]  # no place at all: any element will do
        found = np.empty(
            (4, len(near), *px.shape)
        )  # along, beside, the foot on the element, how far from it
        straight, rest = self._straights[0][near], list(range(len(near)))
        if straight.sum() > 1:  # all straights at once
            found[:, straight] = self._on_straights(np.array(near)[straight], px, py)
            rest = np.flatnonzero(~straight).tolist()
        for row in rest:
            element = self.elements[near[row]]
            s, o = element.project(px, py)
            on = np.clip(s, 0.0, element.length)
            fx, fy = element.point(on, np.zeros_like(on))
            found[:, row] = (
                s,
                o,
                on,
                np.fmin(np.hypot(px - fx, py - fy), np.inf),
            )  # a place that is no number is near to none
        best = found[3].argmin(axis=0)  # of several as near the first
        s, o, on, far = np.take_along_axis(found, best[None, None], axis=1)[:, 0]
        of = np.array(near)[best]
        long = self._lengths[of]
        outer = np.where(
            s > on, self._outer[of, 1], self._outer[of, 0]
        )  # where the corner is the foot
        side = np.where(outer != 0, outer, np.where(o < 0, -1.0, 1.0))
        offset = np.where(np.abs(s - on) > END_TOLERANCE, side * far, o)
        last = len(self.elements) - 1
        beyond = ((of == 0) & (s < -END_TOLERANCE)) | ((of == last) & (s > long + END_TOLERANCE))
        ch, off = np.where(beyond, np.nan, self.breaks[of] + on), np.where(beyond, np.nan, offset)
        return ch, off, far

    def _on_straights(self, which: np.ndarray, px: Array, py: Array) -> Array:
        """The feet on each of some straights, as `foot` finds them: (4, straights, *places)."""
        x0, y0, ux, uy, long = (v[which].reshape(-1, *(1,) * px.ndim) for v in self._straights[1:])
        dx, dy = px - x0, py - y0
        s, o = dx * ux + dy * uy, dx * uy - dy * ux
        on = np.clip(s, 0.0, long)
        return np.stack([s, o, on, np.fmin(np.hypot(o, s - on), np.inf)])

    @cached_property
    def _straights(self) -> tuple[Mask, Array, Array, Array, Array, Array]:
        """Which elements are straights; and of those x and y of the beginning, the direction and
        the length (m).
        """
        is_one = np.array([isinstance(e, Straight) for e in self.elements])
        rows = [
            (e.x0, e.y0, *e.unit, e.length) if isinstance(e, Straight) else (0.0,) * 5
            for e in self.elements
        ]
        x0, y0, ux, uy, long = np.array(rows).T
        return is_one, x0, y0, ux, uy, long

    @cached_property
    def _outer(self) -> Array:
        """The outer side of the corners at the beginning and the end of each element: -1 left, 1
        right, 0 where there is none.
        """
        sides = np.zeros((len(self.elements), 2))
        for i, (one, other) in enumerate(pairwise(self.elements)):
            turn = float(other.bearing(np.array(0.0)) - one.bearing(np.array(one.length)))
            turn = (turn + np.pi) % (2 * np.pi) - np.pi
            sides[i, 1] = sides[i + 1, 0] = -np.sign(turn) if abs(turn) > CORNER else 0.0
        return sides

    def _near(self, px: Array, py: Array) -> list[int]:
        """The elements that may be the nearest to some of a few places; all of them for many
        places.

        No place of an element is farther from its middle (by length) than half its length.
        """
        every = list(range(len(self.elements)))
        if len(every) < 4 or px.size * len(every) > FEW:
            return every
        mx, my, half = self._middles
        far = np.hypot(px.reshape(-1, 1) - mx, py.reshape(-1, 1) - my)
        may = far - half <= far.min(axis=1, keepdims=True) + 1e-6
        return np.flatnonzero(may.any(axis=0)).tolist()

    @cached_property
    def extents(self) -> tuple[float, float, float, float]:
        """Least and greatest x and y, m; of arcs to 1 cm."""
        x, y = self.point(self.polyline())
        return (
            float(x.min()) - 0.01,
            float(y.min()) - 0.01,
            float(x.max()) + 0.01,
            float(y.max()) + 0.01,
        )

    @cached_property
    def _middles(self) -> tuple[Array, Array, Array]:
        """The middle of each element and half its length, m."""
        half = self._lengths / 2
        xy = [
            e.point(np.array(h), np.array(0.0))
            for e, h in zip(self.elements, half.tolist(), strict=True)
        ]
        return np.array([float(p[0]) for p in xy]), np.array([float(p[1]) for p in xy]), half

    def polyline(self, step: float = 2.0, sagitta: float = 0.01) -> Array:
        """Chainages (m) at which to draw it: ends of elements, and along arcs so that no chord is
        off by more than `sagitta` (m) nor longer than what keeps bends smooth.
        """
        out = [self.breaks[:1]]
        for i, element in enumerate(self.elements):
            radius = getattr(element, "radius", None)
            n = 1
            if radius:
                chord = max(min(step, 2 * np.sqrt(2 * radius * sagitta)), 1e-3)
                n = max(1, int(np.ceil(element.length / chord)))
            out.append(np.linspace(self.breaks[i], self.breaks[i + 1], n + 1)[1:])
        return np.concatenate(out)
