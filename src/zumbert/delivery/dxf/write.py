"""DXF files: model space in true coordinates, long sections beside it or as files of their own, sheets as layouts."""

import io
from collections.abc import Callable, Sequence
from typing import Any, Literal

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.runs import Run, RunKey
from zumbert.delivery.along import AXIS, LEFT, RIGHT, spans_of_level
from zumbert.delivery.dxf.layers import LayerTable
from zumbert.delivery.dxf.model import write_model
from zumbert.delivery.dxf.pen import DxfPen, LayoutPlace
from zumbert.delivery.dxf.world import FileWorld, world_of
from zumbert.delivery.job import Job
from zumbert.delivery.paper import Page, printed, scale_on_paper, unit_of
from zumbert.delivery.planwindow import picture_of
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import Inset
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import MapSight, SectionSight
from zumbert.model.ids import SheetId
from zumbert.model.sheet import Sheet

Sections = Literal["beside", "files", "none"]
Tell = Callable[[float, str], None]
ASIDE, APART = 40.0, 12.0  # m between the plan and the long sections, and units between those
PLAN_SCALE = 500.0  # where no sheet says another
FACE = {"PLEX": "IBMPlexSans-Regular.ttf", "PLEX-BOLD": "IBMPlexSans-SemiBold.ttf"}


def _quiet(share: float, words: str) -> None:
    """Hears nothing."""


def new_document(job: Job, world: FileWorld) -> Any:
    """An empty drawing of the version and unit that are asked for."""
    from ezdxf.filemanagement import new

    doc = new(job.project.delivery.dxf, setup=["linetypes"])
    doc.header["$INSUNITS"] = world.units
    doc.header["$MEASUREMENT"] = 0 if world.units in (1, 2, 3, 10, 21) else 1
    doc.header["$LTSCALE"] = world.k
    for name, face in FACE.items():
        doc.styles.add(name, font=face)
    return doc


def dxf_document(job: Job, pages: Sequence[Page] = (), sections: Sections = "beside", tell: Tell = _quiet) -> Any:
    """The drawing with its layouts. `tell(share, words)` hears how far it is and may end it by raising."""
    world = world_of(job.project)
    doc = new_document(job, world)
    layers = LayerTable(doc, job.project.delivery.layers)
    scale = next((s.scale for s in job.project.sheets.values() if s.kind == "plan"), PLAN_SCALE)
    write_model(job, doc, layers, world, job.project.delivery.small * scale / 1000, lambda s, w: tell(0.6 * s, w))
    if sections == "beside":
        _sections_beside(job, doc, layers, world)
    for i, page in enumerate(pages):
        tell(0.6 + 0.4 * i / len(pages), f"Drawing sheet {page.number}")
        add_layout(job, doc, layers, world, page)
    if pages:
        doc.layouts.delete("Layout1")  # the empty one that a new drawing has
    return doc


def section_document(job: Job, key: RunKey) -> Any:
    """One long section as a drawing of its own; its left end lies at the origin."""
    world = world_of(job.project)
    doc = new_document(job, world)
    shown = job.run(key)
    if shown is not None:
        _draw_section(job, doc, LayerTable(doc, job.project.delivery.layers), world, shown, 0.0, 0.0)
    return doc


def dxf_bytes(doc: Any) -> bytes:
    """A drawing as the bytes of its file."""
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode(doc.output_encoding, "dxfreplace")


# -- long sections in model space --------------------------------------------------------------------------------------


def runs_of(job: Job) -> list[RunKey]:
    """The runs whose long sections go out."""
    return [k for k in job.runs if k.kind != "road"]


def _sections_beside(job: Job, doc: Any, layers: LayerTable, world: FileWorld) -> None:
    """All long sections under each other, to the right of the plan."""
    places = [(p.x, p.y) for p in job.facts.places.values() if p.x is not None]
    if not places:
        return
    xy = world.xy(places)
    x, y = float(xy[:, 0].max()) + ASIDE * world.k, float(xy[:, 1].max())
    for key in runs_of(job):
        shown = job.run(key)
        if shown is not None and shown.reaches:
            y -= _draw_section(job, doc, layers, world, shown, x, y)


def _draw_section(job: Job, doc: Any, layers: LayerTable, world: FileWorld, shown: Run, x: float, y: float) -> float:
    """A long section with its upper left corner at a place, true to scale along and exaggerated upwards; its height."""
    sheet = next((s for s in job.project.sheets.values() if s.kind == "plan-and-section"), _usual())
    unit = unit_of(job.project.delivery)
    sx, sz = scale_on_paper(sheet.scale, unit), scale_on_paper(sheet.up, unit)
    picture: Picture = replace(picture_of(job, sheet), run=shown)
    low, high = spans_of_level(job.facts, shown, shown.start, shown.start + shown.length)
    tall = (high - low + 3.0) * sz
    sight = SectionSight(
        width=AXIS + LEFT + shown.length * sx + RIGHT, height=tall, left=AXIS, x=shown.start - LEFT / sx, z=low - 1.2, sx=sx, sz=sz
    )
    made = section_marks(picture, sight)
    k = world.k / sx
    pen = DxfPen(doc.modelspace(), layers, job.project.delivery.dxf != "R2000")
    pen.ink([*made.drawing, *printed(made.rows)], LayoutPlace(x, y, k, k))
    bottom = max(float(m.y) for m in made.rows if hasattr(m, "y")) if made.rows else tall
    return (bottom + 4 * APART) * k


def _usual() -> Sheet:
    return Sheet(id=SheetId(""), title="", kind="plan-and-section")


# -- sheets ------------------------------------------------------------------------------------------------------------


def add_layout(job: Job, doc: Any, layers: LayerTable, world: FileWorld, page: Page) -> None:
    """A page as a layout in mm: its plan is a viewport on the model space, all else lies on the paper."""
    name = _free_name(doc, page)
    layout = doc.layouts.new(name)
    layout.page_setup(size=(page.width, page.height), margins=(0, 0, 0, 0), units="mm")
    pen = DxfPen(layout, layers, job.project.delivery.dxf != "R2000", page.unit)
    whole = LayoutPlace(0.0, page.height, page.unit, page.unit)
    for m in page.marks:
        if isinstance(m, Inset) and isinstance(m.window, MapSight):
            _viewport(layout, layers, world, page, m, m.window)
        else:
            pen.ink([m], whole)


def _free_name(doc: Any, page: Page) -> str:
    """The name of a layout: the number and title of its page, once."""
    name = "".join("_" if c in '<>/\\":;?*|=,`' else c for c in f"{page.number} {page.title}")[:200]
    taken, n = {n.lower() for n in doc.layout_names()}, 1
    while (made := name if n == 1 else f"{name} ({n})").lower() in taken:
        n += 1
    return made


def _viewport(layout: Any, layers: LayerTable, world: FileWorld, page: Page, m: Inset, sight: MapSight) -> None:
    """The window of a plan: its middle, its height in units of the model, and its turn."""
    wide, tall = m.width * page.unit, m.height * page.unit
    centre = (m.x * page.unit + wide / 2, page.height - m.y * page.unit - tall / 2)
    (x, y) = world.xy([(sight.x, sight.y)])[0].tolist()
    made = layout.add_viewport(
        center=centre, size=(wide, tall), view_center_point=(0, 0), view_height=m.height / sight.scale * world.k
    )
    made.dxf.view_target_point = (x, y, 0)
    made.dxf.view_twist_angle = float(np.degrees(-sight.turn - world.back.turn)) % 360
    made.dxf.layer = layers.of_role("sheet-line")
