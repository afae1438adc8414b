"""Where one looks from: places in space to places of a drawing and back. Heights may be drawn
larger than lengths.
"""

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array, Mask
from zumbert.space.wanted import View

ANGLE = np.radians(
    24.0
)  # that is seen from the top of the picture to its foot: narrow, so that little is foreshortened
STEEPEST = np.radians(89.9)  # that one looks down or up
NEAREST, FARTHEST = 0.2, 200_000.0  # m from the eye to what it looks at
NEAR = 0.02  # of the distance to what is looked at: nothing nearer to the eye is drawn
ROOM = 1.15  # of what is fitted, so that nothing touches the edge

WHOLE = (0.0, 0.0, 1.0, 1.0)
# bearing and tilt (degrees) of the six views; from the south one looks north
WAYS: dict[View, tuple[float, float]] = {
    "above": (0.0, 89.9), "below": (0.0, -89.9), "north": (180.0, 0.0), "east": (270.0, 0.0),
    "south": (0.0, 0.0), "west": (90.0, 0.0),
}  # fmt: skip


class SpaceEye(Struct, frozen=True, kw_only=True):
    """An eye that looks at a place (m, in the project's coordinates) from a distance (m), with a
    bearing (clockwise from north) and a tilt (down is positive), both in radians. A level z is seen
    at `base` + (z - base) times `stretch`.

    Drawing places are in drawing units of a picture `width` by `height`, from its upper left
    corner.
    """

    width: float = 800.0
    height: float = 500.0
    x: float = 0.0
    y: float = 0.0
    z: float = 0.0
    bearing: float = float(np.radians(-30.0))
    tilt: float = float(np.radians(32.0))
    distance: float = 200.0
    stretch: float = 1.0
    base: float = 0.0  # m above datum

    @property
    def axes(self) -> Array:
        """Unit vectors to the right, up and ahead as rows (3, 3), in stretched space."""
        sb, cb, st, ct = (
            np.sin(self.bearing),
            np.cos(self.bearing),
            np.sin(self.tilt),
            np.cos(self.tilt),
        )
        return np.array([(cb, -sb, 0.0), (sb * st, cb * st, ct), (sb * ct, cb * ct, -st)])

    @property
    def scale(self) -> float:
        """Drawing units that a metre takes at a distance of one metre."""
        return float(self.height / 2 / np.tan(ANGLE / 2))

    @property
    def target(self) -> Array:
        """The point that is looked at, stretched."""
        return self.stretched((self.x, self.y, self.z))

    @property
    def place(self) -> Array:
        """Where the eye is, stretched."""
        return np.asarray(self.target - self.distance * self.axes[2])

    def stretched(self, xyz: ArrayLike) -> Array:
        """Places (…, 3) with their heights as they are drawn."""
        out = np.array(xyz, float)
        out[..., 2] = self.base + (out[..., 2] - self.base) * self.stretch
        return out

    def true(self, xyz: ArrayLike) -> Array:
        """Places (…, 3) as they are, from such with heights as drawn."""
        out = np.array(xyz, float)
        out[..., 2] = self.base + (out[..., 2] - self.base) / self.stretch
        return out

    def drawn(self, xyz: ArrayLike) -> Array:
        """Drawing places and distances ahead (m) of places in space, (n, 3) to (n, 3); NaN for
        what is not before the eye.
        """
        p = (self.stretched(np.asarray(xyz, float).reshape(-1, 3)) - self.place) @ self.axes.T
        ahead = np.where(p[:, 2] > NEAR * self.distance, p[:, 2], np.nan)
        k = self.scale / ahead
        return np.column_stack([self.width / 2 + p[:, 0] * k, self.height / 2 - p[:, 1] * k, ahead])

    def sees(self, middle: Array, radius: Array) -> tuple[Mask, Array]:
        """Which balls about places (n, 3) with radii (n), m, may be in sight, and how far ahead
        the nearest of each lies (m).
        """
        q = (self.stretched(np.asarray(middle, float).reshape(-1, 3)) - self.place) @ self.axes.T
        r, ahead = radius * max(1.0, self.stretch), q[:, 2]
        seen = ahead > -r
        for along, half in (
            (q[:, 0], self.width / 2 / self.scale),
            (q[:, 1], self.height / 2 / self.scale),
        ):
            seen &= np.abs(along) <= ahead * half + r * np.hypot(1.0, half)
        return seen, ahead - r

    def ray(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Ways (n, 3) in stretched space that lead from the eye through drawing places, a metre
        ahead.
        """
        px, py = np.atleast_1d(np.asarray(x, float)), np.atleast_1d(np.asarray(y, float))
        aside = np.column_stack(
            [
                (px - self.width / 2) / self.scale,
                (self.height / 2 - py) / self.scale,
                np.ones(len(px)),
            ]
        )
        return np.asarray(aside @ self.axes)

    def seen(self, x: float, y: float, ahead: float) -> Array:
        """The place in stretched space under a drawing place, at a distance ahead (m)."""
        return np.asarray(self.place + self.ray(x, y)[0] * ahead)

    def matrix(
        self, origin: ArrayLike, far: float, window: tuple[float, float, float, float] = WHOLE
    ) -> Array:
        """The matrix (4, 4) that takes places from `origin` (m; heights unstretched) to clip space;
        up is down, so that the first line of a picture is its top. Depths are those of OpenGL up to
        `far` (m) ahead. A window is a part of the picture: shares of its width and height from the
        left and the top, and to where.
        """
        o = np.asarray(origin, float)
        n, f = NEAR * self.distance, max(far, 2 * NEAR * self.distance)
        k, wide = 1 / np.tan(ANGLE / 2), self.width / self.height
        lens = np.array(
            [
                (k / wide, 0, 0, 0),
                (0, -k, 0, 0),
                (0, 0, (f + n) / (f - n), -2 * f * n / (f - n)),
                (0, 0, 1, 0),
            ]
        )
        x0, y0, x1, y1 = window
        part = np.diag([1 / (x1 - x0), 1 / (y1 - y0), 1.0, 1.0])
        part[:2, 3] = (1 - x0 - x1) / (x1 - x0), (1 - y0 - y1) / (y1 - y0)
        turn = np.eye(4)
        turn[:3, :3] = self.axes
        turn[:3, 3] = self.axes @ (self.stretched(o) - self.place)
        return np.asarray(part @ lens @ turn @ np.diag([1.0, 1.0, self.stretch, 1.0]))

    def ahead(self, depth: float, far: float) -> float:
        """The distance ahead (m) of a depth, 0 to 1, as the matrix makes them."""
        n, f = NEAR * self.distance, max(far, 2 * NEAR * self.distance)
        return float(2 * f * n / ((f + n) - (2 * depth - 1) * (f - n)))

    # -- moving ------------------------------------------------------------------------------------

    def _at(self, place: Array, **more: float) -> "SpaceEye":
        """The same eye where it stands at a stretched place."""
        turned = replace(self, **more)
        x, y, z = self.true(place + turned.distance * turned.axes[2]).tolist()
        return replace(turned, x=x, y=y, z=z)

    def orbited(self, about: Array, dx: float, dy: float) -> "SpaceEye":
        """Turned about a stretched place, which stays where it is seen, by a drag of the mouse
        (drawing units).
        """
        half = np.pi / max(self.height, 1.0)
        bearing = float(np.remainder(self.bearing + dx * half + np.pi, 2 * np.pi) - np.pi)
        tilt = float(np.clip(self.tilt + dy * half, -STEEPEST, STEEPEST))
        turned = replace(self, bearing=bearing, tilt=tilt)
        offset = (about - self.place) @ self.axes.T  # right, up, ahead
        return self._at(about - offset @ turned.axes, bearing=bearing, tilt=tilt)

    def panned(self, ahead: float, dx: float, dy: float) -> "SpaceEye":
        """Moved so that what lies so far ahead (m) goes with the mouse."""
        k = ahead / self.scale
        return self._at(self.place - dx * k * self.axes[0] + dy * k * self.axes[1])

    def zoomed(self, to: Array, factor: float) -> "SpaceEye":
        """Brought nearer to a stretched place, which stays where it is seen."""
        distance = float(np.clip(self.distance / factor, NEAREST, FARTHEST))
        by = distance / self.distance
        return self._at(to + (self.place - to) * by, distance=distance)

    def looking(self, view: View) -> "SpaceEye":
        """One of the six views of what is looked at."""
        bearing, tilt = np.radians(WAYS[view]).tolist()
        return replace(self, bearing=bearing, tilt=tilt)

    def fitted(self, xyz: ArrayLike) -> "SpaceEye":
        """Moved back until places (n, 3) are all in sight, and no farther; none: as it is."""
        p = self.stretched(np.asarray(xyz, float).reshape(-1, 3))
        if not len(p):
            return self
        q = p @ self.axes.T
        kx, ky = ROOM / (self.width / 2 / self.scale), ROOM / (self.height / 2 / self.scale)
        # an eye at (cx, cy, -d) sees q if |q - c| k <= q_ahead + d: the tightest pair of edges
        # gives the middle
        right, left = (q[:, 0] * kx - q[:, 2]).max(), (-q[:, 0] * kx - q[:, 2]).max()
        up, down = (q[:, 1] * ky - q[:, 2]).max(), (-q[:, 1] * ky - q[:, 2]).max()
        cx, cy = (right - left) / 2 / kx, (up - down) / 2 / ky
        low, high = q[:, 2].min(), q[:, 2].max()
        back = max(
            (right + left) / 2, (up + down) / 2, 0.1 * (high - low) + 1.0 - low
        )  # nothing lies too near
        middle = (low + high) / 2
        distance = float(np.clip(back + middle, 5.0, FARTHEST))
        return self._at(np.array([cx, cy, -back]) @ self.axes, distance=distance)

    def heightened(self, stretch: float) -> "SpaceEye":
        """Heights drawn so many times larger; what is looked at stays in the middle."""
        return replace(self, stretch=stretch)
