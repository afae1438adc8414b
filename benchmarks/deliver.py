"""Sheets to PDF and a network to DXF, against the bare libraries drawing the same."""

import io
from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np

from benchmarks.measure import Figure, median_ms
from benchmarks.networks import network
from zumbert.delivery.dxf.model import ATTRIBUTES, attributes, pipe_line
from zumbert.delivery.dxf.write import dxf_bytes, dxf_document
from zumbert.delivery.job import Job
from zumbert.delivery.pages import leaves, page
from zumbert.delivery.paper import Page
from zumbert.delivery.pdf import pdf_bytes, register_faces
from zumbert.drawing.marks import Disc, Faded, Fill, Inset, Mark, Segments, Stroke, Text
from zumbert.edits.sheets import add_sheet, change_sheet

STRUCTURES, SHEETS, PIPES = 500, 20, 10_000


def deliver() -> Iterator[Figure]:
    project, key = add_sheet(network(STRUCTURES), "plan-and-section")
    project = change_sheet(project, key, scale=1000.0, up=200.0, overlap=0.0)
    job = Job(project)
    made = leaves(job)[:SHEETS]
    pages = [page(job, leaf, made) for leaf in made]
    assert len(pages) == SHEETS
    bare = median_ms(lambda: _bare_pdf(pages), 3)
    ours = median_ms(lambda: pdf_bytes(pages), 3)
    yield Figure("20 sheets to PDF, against the bare library", ours, bare, ours / bare, 2.0)
    whole = median_ms(lambda: pdf_bytes([page(job, leaf, made) for leaf in made]), 3)
    yield Figure("the same with the sheets composed", whole, bare, whole / bare, 2.0)
    large = Job(network(PIPES))
    assert large.facts.pipes
    bare = median_ms(lambda: _bare_dxf(large), 3)
    ours = median_ms(lambda: dxf_bytes(dxf_document(large, sections="none")), 3)
    yield Figure("DXF of 10,000 pipes, against the bare library", ours, bare, ours / bare, 1.5)


# -- the bare libraries ----------------------------------------------------------------------------


def _bare_pdf(pages: list[Page]) -> bytes:
    """The same marks in one ink with no layers, as one would draw them with the library alone."""
    from reportlab.pdfgen.canvas import Canvas

    out = io.BytesIO()
    canvas = Canvas(out, pageCompression=1)
    register_faces()
    for p in pages:
        canvas.setPageSize((p.width * 72 / 25.4, p.height * 72 / 25.4))
        k = p.unit * 72 / 25.4
        _bare(canvas, p.marks, 0.0, p.height * 72 / 25.4, k)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _bare(canvas: Any, marks: Iterable[Mark], ox: float, oy: float, k: float) -> None:
    for m in marks:
        if isinstance(m, Inset):
            canvas.saveState()
            x, y = ox + k * m.x, oy - k * m.y
            box = canvas.beginPath()
            box.rect(x, y - k * m.height, k * m.width, k * m.height)
            canvas.clipPath(box, stroke=0, fill=0)
            _bare(canvas, m.marks, x, y, k * m.scale)
            canvas.restoreState()
        elif isinstance(m, Faded):
            _bare(canvas, m.marks, ox, oy, k)
        elif isinstance(m, (Stroke, Fill)):
            path = canvas.beginPath()
            (x, y), *rest = m.xy.tolist()
            path.moveTo(ox + k * x, oy - k * y)
            for x, y in rest:
                path.lineTo(ox + k * x, oy - k * y)
            canvas.setLineWidth(k)
            canvas.setStrokeColorRGB(0.1, 0.2, 0.3)
            canvas.setFillColorRGB(0.9, 0.9, 0.9)
            canvas.drawPath(path, stroke=int(isinstance(m, Stroke)), fill=int(isinstance(m, Fill)))
        elif isinstance(m, Segments):
            at = np.column_stack(
                [ox + k * m.xy[:, 0], oy - k * m.xy[:, 1], ox + k * m.xy[:, 2], oy - k * m.xy[:, 3]]
            )
            canvas.setStrokeColorRGB(0.1, 0.2, 0.3)
            canvas.lines(at[~np.isnan(at).any(axis=1)].tolist())
        elif isinstance(m, Disc):
            canvas.setFillColorRGB(0.9, 0.9, 0.9)
            canvas.circle(ox + k * m.x, oy - k * m.y, k * m.radius, stroke=1, fill=1)
        elif isinstance(m, Text):
            canvas.saveState()
            canvas.translate(ox + k * m.x, oy - k * m.y)
            canvas.rotate(-m.angle)
            canvas.setFont("Plex-Regular", 11.5 * k)
            {
                "left": canvas.drawString,
                "middle": canvas.drawCentredString,
                "right": canvas.drawRightString,
            }[m.anchor](0, 0, m.text)
            canvas.restoreState()


def _bare_dxf(job: Job) -> bytes:
    """The same entities from the same facts."""
    from ezdxf.enums import TextEntityAlignment as Align
    from ezdxf.filemanagement import new

    doc = new("R2018", setup=["linetypes"])
    block = doc.blocks.new("S")
    block.add_circle((0, 0), 0.6)
    space = doc.modelspace()
    for f in job.facts.pipes.values():
        xyz = pipe_line(f)
        space.add_lwpolyline(xyz[:, :2].tolist(), dxfattribs={"layer": "pipe"})
        space.add_polyline3d(xyz.tolist(), dxfattribs={"layer": "invert"})
        text = space.add_text(
            f"{f.pipe.label} {f.dn} {f.slope}",
            height=1.25,
            dxfattribs={"layer": "label", "rotation": 10.0},
        )
        text.set_placement((float(xyz[0, 0]), float(xyz[0, 1])), align=Align.CENTER)
    for k, place in job.facts.places.items():
        insert = space.add_blockref("S", (place.x, place.y, 0.0), dxfattribs={"layer": "structure"})
        values = attributes(job, k)
        for i, tag in enumerate(ATTRIBUTES):
            made = insert.add_attrib(
                tag,
                values[tag],
                (place.x, place.y - i),
                dxfattribs={"layer": "label", "height": 1.25},
            )
            made.is_invisible = i > 0
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode()
