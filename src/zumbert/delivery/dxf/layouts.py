"""Sheets as layouts: what of the world they show is seen through viewports; what is lettered for
them lies on the paper.
"""

from collections.abc import Mapping
from typing import Any

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.runline import RunKey
from zumbert.delivery.dxf.layers import LayerTable
from zumbert.delivery.dxf.model import Model
from zumbert.delivery.dxf.pen import DxfPen, LayoutPlace
from zumbert.delivery.dxf.strips import RunStrip, parted
from zumbert.delivery.paper import Page, WorldWindow
from zumbert.drawing.marks import Faded, Fill, Inset, Mark, Segments, Stroke
from zumbert.drawing.sight import MapSight

Strips = Mapping[tuple[str, RunKey], RunStrip]
IN_MODEL = frozenset({
    "kerb", "verge", "centre-line", "limit", "service", "background", "contour-minor",
    "contour-major", "contour-design-minor", "contour-design-major", "storm", "storm-existing",
    "foul", "foul-existing",
})  # fmt: skip
"""Roles of lines that the model space has at their true places; the rest is drawn for a scale."""


def add_layout(to: Model, page: Page, strips: Strips) -> None:
    """A page as a layout in mm."""
    layout = to.doc.layouts.new(_free_name(to.doc, page))
    layout.page_setup(size=(page.width, page.height), margins=(0, 0, 0, 0), units="mm")
    pen = DxfPen(layout, to.layers, paper=True)
    whole = LayoutPlace(0.0, page.height, page.unit, page.unit)
    for m in page.marks[1:]:  # the first is the paper
        if isinstance(m, Inset) and isinstance(m.window, WorldWindow):
            pen.ink([_see(to, layout, page, m, m.window, strips)], whole)
        else:
            pen.ink([m], whole)


def _free_name(doc: Any, page: Page) -> str:
    """The name of a layout: the number and title of its page, once."""
    name = "".join("_" if c in '<>/\\":;?*|=,`' else c for c in f"{page.number} {page.title}")[:200]
    taken, n = {n.lower() for n in doc.layout_names()}, 1
    while (made := name if n == 1 else f"{name} ({n})").lower() in taken:
        n += 1
    return made


def _see(to: Model, layout: Any, page: Page, m: Inset, window: WorldWindow, strips: Strips) -> Mark:
    """A viewport for a window, and what of it lies on the paper over it."""
    if isinstance(window.sight, MapSight):
        _on_plan(to, layout, page, m, window.sight)
        return _without(m)
    if window.key is None:  # of no run: it stands on the paper itself
        return m
    x, y, tall = strips[page.sheet, window.key].middle(window.sight, window.left, m.width, m.height)
    made = _viewport(to.layers, layout, page, m, (x, y), tall)
    made.frozen_layers = sorted(to.layers.words)
    _, words = parted((m,))
    return Inset(words, 0.0, 0.0, *page.units)


def _without(m: Mark) -> Mark:
    """A mark without what the model space has, and without areas that would hide it."""
    if isinstance(m, (Inset, Faded)):
        return replace(m, marks=tuple(_without(x) for x in m.marks if not _in_model(x)))
    return m


def _in_model(m: Mark) -> bool:
    return (isinstance(m, (Stroke, Segments)) and m.role in IN_MODEL) or (
        isinstance(m, Fill) and m.role in ("paper", "road")
    )


def _viewport(
    layers: LayerTable, layout: Any, page: Page, m: Inset, target: tuple[float, float], tall: float
) -> Any:
    """A viewport in the place of a box, on a place of the model space, so tall there."""
    wide, high = m.width * page.unit, m.height * page.unit
    centre = (m.x * page.unit + wide / 2, page.height - m.y * page.unit - high / 2)
    made = layout.add_viewport(
        center=centre, size=(wide, high), view_center_point=(0, 0), view_height=tall
    )
    made.dxf.view_target_point = (*target, 0)
    made.dxf.layer = layers.of_role("sheet-line")
    return made


def _on_plan(to: Model, layout: Any, page: Page, m: Inset, sight: MapSight) -> None:
    """The window of a true plan: its middle, its height in units of the model, its turn; nothing
    but line work.
    """
    (x, y) = to.world.xy([(sight.x, sight.y)])[0].tolist()
    made = _viewport(to.layers, layout, page, m, (x, y), m.height / sight.scale * to.world.k)
    made.dxf.view_twist_angle = float(np.degrees(-sight.turn - to.world.back.turn)) % 360
    made.frozen_layers = sorted(
        x.dxf.name for x in to.doc.layers if x.dxf.name not in to.layers.lines | {"0", "Defpoints"}
    )
