"""DXF files: model space in true coordinates, long sections beside it or as files of their own,
sheets as layouts.
"""

import io
from collections.abc import Sequence
from typing import Any, Literal

import numpy as np

from zumbert.analysis.runline import RunKey
from zumbert.delivery.dxf.layers import LayerTable
from zumbert.delivery.dxf.layouts import Strips, add_layout
from zumbert.delivery.dxf.model import Model, write_model
from zumbert.delivery.dxf.strips import draw_strip, windows_along
from zumbert.delivery.dxf.world import world_of
from zumbert.delivery.job import Job, Tell, quiet
from zumbert.delivery.paper import Page, unit_of, windows_of
from zumbert.delivery.plans import job_places
from zumbert.drawing.marks import points
from zumbert.drawing.sight import MapSight
from zumbert.model.ids import SheetId
from zumbert.model.sheet import Sheet

Sections = Literal["beside", "none"]
ASIDE = 40.0  # m between the plan and the strips beside it
PLAN_SCALE = 500.0  # where no sheet says another
FACE = {"PLEX": "IBMPlexSans-Regular.ttf", "PLEX-BOLD": "IBMPlexSans-SemiBold.ttf"}


def _new(job: Job) -> Model:
    """An empty drawing of the version and unit that are asked for."""
    from ezdxf.filemanagement import new

    delivery, world = job.project.delivery, world_of(job.project)
    doc = new(delivery.dxf)
    doc.header["$INSUNITS"] = world.units
    doc.header["$MEASUREMENT"] = 0 if world.units in (1, 2, 3, 10, 21) else 1
    # dashes have their lengths in the model space, so that viewports show them as paper does
    doc.header["$PSLTSCALE"] = 0
    for name, face in FACE.items():
        doc.styles.add(name, font=face)
    scale = next((s.scale for s in job.project.sheets.values() if s.kind == "plan"), PLAN_SCALE)
    return Model(
        job,
        doc,
        LayerTable(doc, delivery, unit_of(delivery)),
        world,
        scale,
        delivery.small * scale / 1000,
    )


def dxf_document(
    job: Job, pages: Sequence[Page] = (), sections: Sections = "beside", tell: Tell = quiet
) -> Any:
    """The drawing with its layouts. `tell(share, words)` hears how far it is and may end it by
    raising.

    Long sections that pages show always lie beside the plan, since the pages' viewports look at
    them there.
    """
    to = _new(job)
    write_model(to, lambda s, w: tell(0.5 * s, w))
    strips = _strips(to, pages, sections, lambda s, w: tell(0.5 + 0.2 * s, w))
    for i, page in enumerate(pages):
        tell(0.7 + 0.3 * i / len(pages), f"Drawing sheet {page.number}")
        add_layout(to, page, strips)
    if pages:
        to.doc.layouts.delete("Layout1")  # the empty one that a new drawing has
    return to.doc


def section_document(job: Job, key: RunKey) -> Any:
    """One long section as a drawing of its own; its upper left corner lies at the origin."""
    to, shown = _new(job), job.run(key)
    if shown is not None:
        draw_strip(to, _usual(job), shown, (), 0.0, 0.0)
    return to.doc


def dxf_bytes(doc: Any) -> bytes:
    """A drawing as the bytes of its file."""
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode(doc.output_encoding, "dxfreplace")


def runs_of(job: Job) -> list[RunKey]:
    """The runs whose long sections go out."""
    return [k for k in job.runs if k.kind != "road"]


def _strips(to: Model, pages: Sequence[Page], sections: Sections, tell: Tell) -> Strips:
    """All strips under each other, to the right of the plan and of all that pages show of it:
    first those of the pages.
    """
    job, along = to.job, windows_along(pages)
    wanted = {where: job.project.sheets[SheetId(where[0])] for where in along}
    if sections == "beside":
        usual, there = _usual(job), {key for _, key in along}
        wanted |= {("", key): usual for key in runs_of(job) if key not in there}
    x, y = _beside(to, pages)
    out = {}
    for i, ((name, key), sheet) in enumerate(wanted.items()):
        shown = job.run(key)
        if shown is not None and (shown.reaches or (name, key) in along):
            tell(i / len(wanted), f"Drawing the long section of {shown.name}")
            out[name, key] = strip = draw_strip(to, sheet, shown, along.get((name, key), ()), x, y)
            y = strip.bottom
    return out


def _beside(to: Model, pages: Sequence[Page]) -> tuple[float, float]:
    """The upper right corner of all that the plan has and that pages show of it, and some way
    on.
    """
    p, places = to.job.project, [job_places(to.job)]
    places += [np.asarray(s.vertices, float)[:, :2] for s in p.surfaces.values() if s.shown]
    places += [b.segments.reshape(-1, 2) for b in p.backgrounds.values() if b.shown]
    for s in (w.sight for page in pages for w, _ in windows_of(page.marks)):
        if isinstance(s, MapSight):
            places.append(
                s.to_world(points((0, 0), (s.width, 0), (s.width, s.height), (0, s.height)))
            )
    x, y = np.max([to.world.xy(xy).max(axis=0) for xy in places if len(xy)], axis=0).tolist()
    return x + ASIDE * to.world.k, y


def _usual(job: Job) -> Sheet:
    """The first sheet that says how long sections are drawn, or what is usual."""
    made = (s for s in job.project.sheets.values() if s.kind == "plan-and-section")
    return next(made, Sheet(id=SheetId(""), title="", kind="plan-and-section"))
