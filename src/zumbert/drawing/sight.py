"""Sights: how world places become drawing places, and back."""

from typing import Protocol

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Array

UNITS_PER_METRE = 96 / 0.0254  # at 1:1


def scale_of(ratio: float) -> float:
    """Drawing units a metre at a scale of 1:ratio."""
    return UNITS_PER_METRE / ratio


class PlanSight(Protocol):
    """A plan view: drawing places of world places."""

    @property
    def width(self) -> float:
        """Width of the drawing."""

    @property
    def height(self) -> float:
        """Height of the drawing."""

    @property
    def scale(self) -> float:
        """Drawing units a metre."""

    def to_drawing(self, xy: Array) -> Array:
        """(n, 2) world to (n, 2) drawing; NaN for a place that is not in the view's world."""

    def to_world(self, xy: Array) -> Array:
        """(n, 2) drawing to (n, 2) world."""

    def north(self, x: float, y: float) -> float:
        """The direction of north at a drawing place, radians clockwise from up."""


class MapSight(Struct, frozen=True, kw_only=True):
    """An undistorted plan about a centre, turned by an angle (radians, clockwise)."""

    width: float
    height: float
    x: float  # m at the middle of the drawing
    y: float
    scale: float
    turn: float = 0.0

    def to_drawing(self, xy: Array) -> Array:
        """World to drawing."""
        dx, dy = (xy[:, 0] - self.x) * self.scale, (xy[:, 1] - self.y) * self.scale
        c, s = np.cos(self.turn), np.sin(self.turn)
        return np.column_stack(
            [self.width / 2 + dx * c + dy * s, self.height / 2 + dx * s - dy * c]
        )

    def to_world(self, xy: Array) -> Array:
        """Drawing to world."""
        px, py = (xy[:, 0] - self.width / 2) / self.scale, (xy[:, 1] - self.height / 2) / self.scale
        c, s = np.cos(self.turn), np.sin(self.turn)
        return np.column_stack([self.x + px * c + py * s, self.y + px * s - py * c])

    def north(self, x: float, y: float) -> float:
        """The same everywhere."""
        return self.turn

    def zoomed(self, factor: float, x: float, y: float) -> "MapSight":
        """Nearer by a factor, the world place under a drawing place kept."""
        scale = float(np.clip(self.scale * factor, 0.02, 2000.0))
        at = self.to_world(np.array([[x, y]]))[0]
        there = replace(self, scale=scale).to_world(np.array([[x, y]]))[0]
        return replace(self, scale=scale, x=self.x + at[0] - there[0], y=self.y + at[1] - there[1])

    def panned(self, dx: float, dy: float) -> "MapSight":
        """Moved with the hand by drawing units."""
        a, b = self.to_world(np.array([[0.0, 0.0], [dx, dy]]))
        return replace(self, x=self.x - (b[0] - a[0]), y=self.y - (b[1] - a[1]))


def fitted(
    low: tuple[float, float], high: tuple[float, float], width: float, height: float
) -> MapSight:
    """A plan that shows a world box (m) whole, at a round scale."""
    wide, tall = max(high[0] - low[0], 1.0), max(high[1] - low[1], 1.0)
    scale = min((width - 60) / wide, (height - 50) / tall)
    return MapSight(
        width=width,
        height=height,
        x=(low[0] + high[0]) / 2,
        y=(low[1] + high[1]) / 2,
        scale=scale_of(round_ratio(scale)),
    )


def round_ratio(scale: float) -> float:
    """The next round scale ratio that shows no less than a scale (drawing units a metre) does."""
    ratio = UNITS_PER_METRE / scale
    for base in (10.0 ** np.arange(0, 6)).tolist():
        for step in (1.0, 1.25, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0):
            if base * step >= ratio - 1e-9:
                return float(base * step)
    return ratio


class StraightSight(Struct, frozen=True, kw_only=True, eq=False):
    """A plan straightened along a line: its chainages lie left to right under those of the long
    section.

    A place at (chainage, offset) is drawn at (left + (chainage - first) * scale, middle + offset *
    scale). Offsets beyond `reach` are not drawn: on the inside of bends places would fold over each
    other.
    """

    width: float
    height: float
    line: Alignment
    first: float  # chainage at `left`, m
    left: float  # drawing units
    scale: float
    middle: float  # drawing units of offset 0
    reach: float  # m
    reverse: bool = False

    def to_drawing(self, xy: Array) -> Array:
        """World to drawing; NaN beyond the line's ends and out of reach."""
        x0, y0, x1, y1 = self.line.extents
        r = self.reach + 1.0
        near = (xy[:, 0] > x0 - r) & (xy[:, 0] < x1 + r) & (xy[:, 1] > y0 - r) & (xy[:, 1] < y1 + r)
        out = np.full((len(xy), 2), np.nan)
        if not near.any():
            return out
        out[near] = self.placed(*self.line.places(xy[near]))
        return out

    def placed(self, chainage: Array, offset: Array) -> Array:
        """Drawing places (n, 2) of chainages and offsets (n,) m; NaN out of reach."""
        off = np.where(np.abs(offset) > self.reach, np.nan, offset)
        x = self.left + (chainage - self.first) * self.scale + 0.0 * off
        return np.column_stack([x, self.middle + off * self.scale])

    def to_world(self, xy: Array) -> Array:
        """Drawing to world; NaN beyond the line's ends."""
        ch = self.first + (xy[:, 0] - self.left) / self.scale
        return np.column_stack(self.line.point(ch, (xy[:, 1] - self.middle) / self.scale))

    def north(self, x: float, y: float) -> float:
        """North turns along the line: its direction lies to the right, so north is that far back
        from there.
        """
        ch = self.first + (x - self.left) / self.scale
        return float(np.pi / 2 - self.line.bearing(np.clip(ch, self.line.start, self.line.end)))


class SectionSight(Struct, frozen=True, kw_only=True):
    """A long section: distance to the right, level upwards."""

    width: float
    height: float  # of the drawing without rows
    left: float  # gutter, drawing units
    x: float  # m at the gutter
    z: float  # m above datum at the bottom
    sx: float  # drawing units a metre
    sz: float

    def px(self, s: Array) -> Array:
        """Drawing x of distances."""
        return np.asarray(self.left + (np.asarray(s, float) - self.x) * self.sx)

    def py(self, z: Array) -> Array:
        """Drawing y of levels."""
        return np.asarray(self.height - (np.asarray(z, float) - self.z) * self.sz)

    def x_of(self, s: float) -> float:
        """Drawing x of one distance."""
        return self.left + (s - self.x) * self.sx

    def y_of(self, z: float) -> float:
        """Drawing y of one level."""
        return self.height - (z - self.z) * self.sz

    def s_at(self, px: float) -> float:
        """Distance at a drawing x."""
        return self.x + (px - self.left) / self.sx

    def z_at(self, py: float) -> float:
        """Level at a drawing y."""
        return self.z + (self.height - py) / self.sz

    def zoomed(self, fx: float, fz: float, px: float, py: float) -> "SectionSight":
        """Nearer by factors, the place under a drawing place kept."""
        s, z = self.s_at(px), self.z_at(py)
        sx, sz = float(np.clip(self.sx * fx, 0.05, 2000)), float(np.clip(self.sz * fz, 0.5, 8000))
        return replace(
            self, sx=sx, sz=sz, x=s - (px - self.left) / sx, z=z - (self.height - py) / sz
        )

    @property
    def ratios(self) -> tuple[float, float]:
        """The scales along and up: 500 means 1:500."""
        return UNITS_PER_METRE / self.sx, UNITS_PER_METRE / self.sz

    def scaled(self, along: float | None, up: float | None) -> "SectionSight":
        """At other scales (500 means 1:500), the middle of the drawing kept; None keeps one."""
        fx = 1.0 if along is None else scale_of(along) / self.sx
        fz = 1.0 if up is None else scale_of(up) / self.sz
        return self.zoomed(fx, fz, (self.left + self.width) / 2, self.height / 2)

    def panned(self, dx: float, dy: float) -> "SectionSight":
        """Moved with the hand by drawing units."""
        return replace(self, x=self.x - dx / self.sx, z=self.z + dy / self.sz)


def section_fitted(
    s: tuple[float, float], z: tuple[float, float], width: float, height: float, left: float
) -> SectionSight:
    """A section that shows a stretch and its levels whole, at round scales."""
    sx = scale_of(round_ratio(max(width - left - 70, 60.0) / max(s[1] - s[0], 1.0)))
    # a low drawing keeps its levels apart, and labels share them
    room = max(height - 76, 0.55 * height)
    sz = scale_of(round_ratio(min(room / max(z[1] - z[0], 1.0), 12.5 * sx)))
    spare = (width - left) / sx - (s[1] - s[0])
    low = (height / sz - (z[1] - z[0])) * 0.42
    return SectionSight(
        width=width, height=height, left=left, x=s[0] - spare / 2, z=z[0] - low, sx=sx, sz=sz
    )
