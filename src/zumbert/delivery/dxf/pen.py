"""The DXF pen: inks the marks of a drawing as entities, cut at the edges of the boxes that they
lie in.
"""

from collections.abc import Iterable, Iterator
from typing import Any, NamedTuple

import numpy as np
import shapely

from zumbert.delivery.dxf.layers import THROUGH, LayerTable, aci, ink_of
from zumbert.drawing.labels import corners
from zumbert.drawing.marks import (
    Disc,
    Faded,
    Fill,
    Inset,
    Mark,
    Raster,
    Segments,
    Stroke,
    Text,
    draw_marks,
)
from zumbert.drawing.style import CAPITALS, LINES, TEXTS
from zumbert.geometry.elements import Array

WHITE = 0xFFFFFE  # pure white is drawn black on a white ground by some programs
LIGHT = 235  # of 255: areas that are lighter are left out, since paper is no entity


class LayoutPlace(NamedTuple):
    """Where marks lie in a layout: a place (x, y) at (ox + kx x, oy - ky y); what they are cut
    to, in layout units.
    """

    ox: float
    oy: float
    kx: float
    ky: float
    box: tuple[float, float, float, float] | None = None  # left, bottom, right, top

    def at(self, xy: Array) -> Array:
        """Places (n, 2) in the layout."""
        return np.column_stack([self.ox + self.kx * xy[:, 0], self.oy - self.ky * xy[:, 1]])


class DxfPen:
    """Inks marks into a layout, all onto one layer where one is given. A mm of paper is `mm` units
    of the layout.

    On `paper` what is white hides what lies under it, so that words stand clear of viewports'
    lines.
    """

    def __init__(
        self,
        layout: Any,
        layers: LayerTable,
        mm: float = 1.0,
        onto: str | None = None,
        paper: bool = False,
    ) -> None:
        self.layout, self.layers, self.mm, self.onto, self.paper = layout, layers, mm, onto, paper

    def ink(self, marks: Iterable[Mark], spot: LayoutPlace) -> None:
        """Draws marks in their order."""
        draw_marks(self, marks, spot)

    def inset(self, m: Inset, spot: LayoutPlace) -> None:
        """Draws a drawing in the drawing."""
        self.ink(m.marks, inner(m, spot))

    def faded(self, m: Faded, spot: LayoutPlace) -> None:
        """Draws marks in full: a drawing is line work."""
        self.ink(m.marks, spot)

    def raster(self, m: Raster, spot: LayoutPlace) -> None:
        """Shading of the ground is no line work."""

    def stroke(self, m: Stroke, spot: LayoutPlace) -> None:
        """Draws a line."""
        self._stroke(m.role, spot.at(m.xy), m.closed, spot)

    def segments(self, m: Segments, spot: LayoutPlace) -> None:
        """Draws straight pieces, cut to the box."""
        for a in _cut_pieces(spot.at(m.xy.reshape(-1, 2)).reshape(-1, 4), spot.box).tolist():
            self.layout.add_line(a[:2], a[2:], dxfattribs=self._line(m.role))

    def _line(self, role: str) -> dict[str, Any]:
        return {
            **self._ink(role),
            "lineweight": self.layers.weight(role),
            "linetype": self.layers.linetype(role),
            "ltscale": self.mm,
        }

    def _ink(self, role: str) -> dict[str, Any]:
        out: dict[str, Any] = {"layer": self.onto or self.layers.of_role(role)}
        if self.layers.true_colour:
            out["true_color"] = int(ink_of(role)[1:], 16)
        elif self.onto is not None:
            out["color"] = aci(ink_of(role))
        return out

    def _stroke(self, role: str, xy: Array, closed: bool, spot: LayoutPlace) -> None:
        if closed and len(xy) > 2 and spot.box is not None and not _inside(xy, spot.box):
            xy, closed = np.vstack([xy, xy[:1]]), False
        for part in _cut(xy, spot.box):
            line = self.layout.add_lwpolyline(
                part.tolist(), format="xy", close=closed, dxfattribs=self._line(role)
            )
            line.dxf.flags |= THROUGH

    def fill(self, m: Fill, spot: LayoutPlace) -> None:
        """Draws an area, and its border."""
        xy = spot.at(m.xy)
        if np.isnan(xy).any():
            return
        white = (
            m.role in ("plate", "field")
            or min(int(ink_of(m.role)[i : i + 2], 16) for i in (1, 3, 5)) >= LIGHT
        )
        if (self.paper and self.layers.true_colour) or not white:
            self._area(m.role, xy, spot, white)
        if m.edge is not None:
            self._stroke(m.edge, xy, True, spot)

    def _area(self, role: str, xy: Array, spot: LayoutPlace, white: bool) -> None:
        for ring in _cut_area(xy, spot.box):
            ink = (
                {"layer": self.onto or self.layers.of_role(role), "true_color": WHITE}
                if white
                else self._ink(role)
            )
            hatch = self.layout.add_hatch(dxfattribs=ink)
            hatch.paths.add_polyline_path(ring.tolist(), is_closed=True)

    def disc(self, m: Disc, spot: LayoutPlace) -> None:
        """Draws a circle."""
        (x, y), r = spot.at(np.array([[m.x, m.y]]))[0].tolist(), m.radius * spot.kx
        if spot.box is not None and not (
            spot.box[0] <= x <= spot.box[2] and spot.box[1] <= y <= spot.box[3]
        ):
            return
        if self.paper and self.layers.true_colour and m.role in ("field", "plate", "chrome"):
            t = np.linspace(0.0, 2 * np.pi, 25)[:-1]
            self._area(m.role, np.column_stack([x + r * np.cos(t), y + r * np.sin(t)]), spot, True)
        role = m.edge or (m.role if m.role in LINES else "ink-thin")
        self.layout.add_circle((x, y), r, dxfattribs=self._line(role))

    def text(self, m: Text, spot: LayoutPlace) -> None:
        """Draws a text."""
        from ezdxf.enums import TextEntityAlignment as Align

        [[x, y]] = spot.at(np.array([[m.x, m.y]])).tolist()
        if spot.box is not None and not (
            spot.box[0] <= x <= spot.box[2] and spot.box[1] <= y <= spot.box[3]
        ):
            return
        if self.paper and self.layers.true_colour and m.plate:
            self._area(m.role, spot.at(np.array(corners(m), float)), spot, True)
        s = TEXTS[m.role]
        attributes = {
            **self._ink(m.role),
            "rotation": -m.angle,
            "width": m.squeeze,
            "style": "PLEX-BOLD" if s.weight == 600 else "PLEX",
        }
        made = self.layout.add_text(
            m.text, height=s.size * CAPITALS * spot.ky, dxfattribs=attributes
        )
        made.set_placement(
            (x, y),
            align={"left": Align.LEFT, "middle": Align.CENTER, "right": Align.RIGHT}[m.anchor],
        )


def inner(m: Inset, spot: LayoutPlace) -> LayoutPlace:
    """Where the marks of an inset lie, cut to its box."""
    x, y = spot.ox + spot.kx * m.x, spot.oy - spot.ky * m.y
    box = (x, y - spot.ky * m.height, x + spot.kx * m.width, y)
    if spot.box is not None:
        a, b = spot.box, box
        box = (max(a[0], b[0]), max(a[1], b[1]), min(a[2], b[2]), min(a[3], b[3]))
    return LayoutPlace(x, y, spot.kx * m.scale, spot.ky * m.scale, box)


def _inside(xy: Array, box: tuple[float, float, float, float]) -> bool:
    low, high = xy.min(axis=0), xy.max(axis=0)
    return bool(low[0] >= box[0] and low[1] >= box[1] and high[0] <= box[2] and high[1] <= box[3])


def _cut(xy: Array, box: tuple[float, float, float, float] | None) -> Iterator[Array]:
    """The parts of a line inside a box; a gap where it has a place that is none."""
    bad = np.flatnonzero(np.isnan(xy).any(axis=1))
    for part in np.split(xy, bad) if len(bad) else [xy]:
        part = part[~np.isnan(part).any(axis=1)]
        if len(part) < 2:
            continue
        if box is None or _inside(part, box):
            yield part
            continue
        if box[0] >= box[2] or box[1] >= box[3]:
            continue
        found = shapely.clip_by_rect(shapely.linestrings(part), *box)
        for line in shapely.get_parts(found):
            if line.geom_type == "LineString" and not line.is_empty:
                yield shapely.get_coordinates(line)


def _cut_pieces(pieces: Array, box: tuple[float, float, float, float] | None) -> Array:
    """Straight pieces (n, 4) inside a box."""
    pieces = pieces[~np.isnan(pieces).any(axis=1)]
    if box is None or not len(pieces) or box[0] >= box[2] or box[1] >= box[3]:
        return (
            pieces
            if box is None
            else pieces[:0]
            if len(pieces) and (box[0] >= box[2] or box[1] >= box[3])
            else pieces
        )
    found = shapely.clip_by_rect(shapely.linestrings(pieces.reshape(-1, 2, 2)), *box)
    kept = found[(shapely.get_num_coordinates(found) == 2) & (shapely.get_type_id(found) == 1)]
    return np.asarray(shapely.get_coordinates(kept)).reshape(-1, 4)


def _cut_area(xy: Array, box: tuple[float, float, float, float] | None) -> Iterator[Array]:
    """The parts of an area inside a box."""
    if len(xy) < 3:
        return
    if box is None or _inside(xy, box):
        yield xy
        return
    if box[0] >= box[2] or box[1] >= box[3]:
        return
    found = shapely.clip_by_rect(shapely.make_valid(shapely.polygons(xy)), *box)
    for part in shapely.get_parts(found):
        if part.geom_type == "Polygon" and not part.is_empty:
            yield shapely.get_coordinates(part.exterior)[:-1]
