"""The PDF pen: pages as vectors at their paper size, text that can be searched, a layer for each
kind of thing.
"""

import io
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from zumbert.delivery.paper import Page
from zumbert.drawing.layers import belongs
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
    strips_of,
)
from zumbert.drawing.style import AREAS, LINES, TEXTS, Theme, colour, text_width
from zumbert.geometry.elements import Array

POINT = 72 / 25.4  # points in a mm
FACES = {400: "Regular", 600: "SemiBold"}
FONTS = Path(__file__).parents[1] / "fonts"


class Placement(NamedTuple):
    """How units become points: a place (x, y) lies at (ox + k x, oy - k y); strength of what is
    drawn.
    """

    ox: float
    oy: float
    k: float
    strength: float = 1.0

    def at(self, xy: Array) -> Array:
        """Points on the paper of places (n, 2)."""
        return np.column_stack([self.ox + self.k * xy[:, 0], self.oy - self.k * xy[:, 1]])


def pdf_bytes(
    pages: Sequence[Page],
    theme: Theme = "colour",
    title: str = "",
    author: str = "",
    tell: Callable[[float, str], None] = lambda share, words: None,
) -> bytes:
    """Pages as one PDF file, each at its own size; `tell` hears each page and may end it by
    raising.
    """
    from reportlab.pdfgen.canvas import Canvas

    out = io.BytesIO()
    canvas = Canvas(out, pageCompression=0, invariant=1)
    canvas.setTitle(title)
    canvas.setAuthor(author)
    canvas.setCreator("Zumbert")
    register_faces()
    pen = PdfPen(canvas, theme)
    for i, page in enumerate(pages):
        tell(i / len(pages), f"Writing sheet {page.number}")
        canvas.setPageSize((page.width * POINT, page.height * POINT))
        canvas.bookmarkPage(page.number)
        canvas.addOutlineEntry(f"{page.number}  {page.title}", page.number)
        pen.ink(page.marks, Placement(0.0, page.height * POINT, page.unit * POINT))
        pen.end_layer()
        canvas.showPage()
        pen.forget()
    canvas.save()
    return with_layers(out.getvalue(), pen.layers)


def register_faces() -> None:
    """Makes the shipped face known; it is embedded with the letters that are used."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for name in FACES.values():
        if f"Plex-{name}" not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(f"Plex-{name}", str(FONTS / f"IBMPlexSans-{name}.ttf")))


def with_layers(data: bytes, layers: Sequence[str]) -> bytes:
    """The file with its marked content made optional: layers that a reader switches on and off
    (ISO 32000-1, 8.11).
    """
    from pikepdf import Array as PdfArray
    from pikepdf import Dictionary, Name, Pdf, String

    with Pdf.open(io.BytesIO(data)) as pdf:
        groups = [
            pdf.make_indirect(Dictionary(Type=Name.OCG, Name=String(words))) for words in layers
        ]
        if groups:
            pdf.Root.OCProperties = Dictionary(
                OCGs=PdfArray(groups), D=Dictionary(Order=PdfArray(groups), ON=PdfArray(groups))
            )
        names = Dictionary({f"/L{i}": g for i, g in enumerate(groups)})
        for page in pdf.pages:
            page.obj.Resources.Properties = names
        out = io.BytesIO()
        pdf.save(out, deterministic_id=True, compress_streams=True)
    return out.getvalue()


class PdfPen:
    """Inks marks on a canvas; what is set already is not set again."""

    def __init__(self, canvas: Any, theme: Theme) -> None:
        self.canvas, self.theme = canvas, theme
        self.layers: list[str] = []
        self._layer: str | None = None
        self._set: dict[str, object] = {}
        self._pens: dict[str, tuple[Any, ...]] = {}

    def forget(self) -> None:
        """The pen no longer knows its settings: a page began, or a state was taken back."""
        self._set.clear()

    def end_layer(self) -> None:
        """Closes the layer that is open."""
        if self._layer is not None:
            self.canvas._code.append("EMC")
            self._layer = None

    def _in_layer(self, role: str) -> None:
        words = belongs(role).words
        if words == self._layer:
            return
        self.end_layer()
        if words not in self.layers:
            self.layers.append(words)
        self.canvas._code.append(f"/OC /L{self.layers.index(words)} BDC")
        self._layer = words

    def ink(self, marks: Iterable[Mark], frame: Placement) -> None:
        """Draws marks in their order."""
        draw_marks(self, marks, frame)

    def faded(self, m: Faded, frame: Placement) -> None:
        """Draws marks at a strength."""
        self.ink(m.marks, frame._replace(strength=frame.strength * m.strength))

    def stroke(self, m: Stroke, frame: Placement) -> None:
        """Draws a line."""
        self._in_layer(m.role)
        self._line(m.role, frame)
        self._path(frame.at(m.xy), "s" if m.closed else "S")

    def segments(self, m: Segments, frame: Placement) -> None:
        """Draws straight pieces in one path."""
        self._in_layer(m.role)
        at = frame.at(m.xy.reshape(-1, 2)).reshape(-1, 4)
        at = at[~np.isnan(at).any(axis=1)]
        if len(m.xy):
            self._line(m.role, frame)
        if len(at):
            lines = " ".join(f"{a:.3f} {b:.3f} m {x:.3f} {y:.3f} l" for a, b, x, y in at.tolist())
            self.canvas._code.append(f"{lines} S")

    def fill(self, m: Fill, frame: Placement) -> None:
        """Draws an area."""
        self._in_layer(m.role)
        self._area(m.role, frame)
        self._edge(m.edge, frame)
        self._path(frame.at(m.xy), "f" if m.edge is None else "b")

    def disc(self, m: Disc, frame: Placement) -> None:
        """Draws a circle."""
        self._in_layer(m.role)
        self._area(m.role, frame)
        self._edge(m.edge, frame)
        at = frame.ox + frame.k * m.x, frame.oy - frame.k * m.y
        self.canvas.circle(*at, frame.k * m.radius, stroke=int(m.edge is not None), fill=1)

    def inset(self, m: Inset, frame: Placement) -> None:
        """Draws a drawing in the drawing."""
        c = self.canvas
        self.end_layer()
        x, y = frame.ox + frame.k * m.x, frame.oy - frame.k * m.y
        with self._kept():
            box = c.beginPath()
            box.rect(x, y - frame.k * m.height, frame.k * m.width, frame.k * m.height)
            c.clipPath(box, stroke=0, fill=0)
            self.ink(m.marks, Placement(x, y, frame.k * m.scale, frame.strength))
            self.end_layer()

    @contextmanager
    def _kept(self) -> Iterator[None]:
        """The state of the canvas, taken back afterwards."""
        self.canvas.saveState()
        yield
        self.canvas.restoreState()
        self.forget()

    def _once(self, what: str, value: object, put: Callable[[], None]) -> None:
        if self._set.get(what) != value:
            self._set[what] = value
            put()

    def _line(self, role: str, frame: Placement) -> None:
        s, c = LINES[role], self.canvas
        dash = tuple(d * frame.k for d in s.dash)
        ink, width, alpha, end = (
            colour(s.colour, self.theme),
            s.width * frame.k,
            s.alpha * frame.strength,
            int(s.round),
        )
        self._once("stroke", ink, lambda: c.setStrokeColorRGB(*_rgb(ink)))
        self._once("width", width, lambda: c.setLineWidth(width))
        self._once("dash", dash, lambda: c.setDash(list(dash)))
        self._once("cap", end, lambda: c.setLineCap(end))
        self._once("join", end, lambda: c.setLineJoin(end))
        self._once("stroke alpha", alpha, lambda: c.setStrokeAlpha(alpha))

    def _edge(self, role: str | None, frame: Placement) -> None:
        if role is not None:
            self._line(role, frame)

    def _area(self, role: str, frame: Placement, share: float = 1.0) -> None:
        a = AREAS[role]
        self._fill_colour(colour(a.colour, self.theme), a.alpha * frame.strength * share)

    def _fill_colour(self, ink: str, alpha: float) -> None:
        c = self.canvas
        self._once("fill", ink, lambda: c.setFillColorRGB(*_rgb(ink)))
        self._once("fill alpha", alpha, lambda: c.setFillAlpha(alpha))

    def _path(self, xy: Array, paint: str) -> None:
        """A line through points, painted by an operator: S strokes, s closes first, f fills, b does
        both. Written as it is: the library's own paths take three times as long.
        """
        if len(xy) < 2 or np.isnan(xy).any():
            return
        (x, y), *rest = xy.tolist()
        way = " ".join(f"{a:.3f} {b:.3f} l" for a, b in rest)
        self.canvas._code.append(f"{x:.3f} {y:.3f} m {way} {paint}")

    def raster(self, m: Raster, frame: Placement) -> None:
        """Draws cells of one strength as rectangles."""
        self._in_layer(m.role)
        for x, y, wide, strength in strips_of(m):
            self._area(m.role, frame, strength)
            low = frame.oy - frame.k * (y + m.cell)
            self.canvas.rect(
                frame.ox + frame.k * x, low, frame.k * wide, frame.k * m.cell, stroke=0, fill=1
            )

    def text(self, t: Text, frame: Placement) -> None:
        """Draws a text."""
        self._in_layer(t.role)
        s, c = TEXTS[t.role], self.canvas
        wide = text_width(t.text, t.role) * t.squeeze
        left = {"left": 0.0, "middle": -wide / 2, "right": -wide}[t.anchor]
        turn = -np.radians(t.angle)
        cos, sin = float(np.cos(turn)), float(np.sin(turn))
        x, y = frame.ox + frame.k * t.x, frame.oy - frame.k * t.y
        k = frame.k
        if t.plate:
            self._area("plate", frame)
            a, b, low, high = left - 2, left + wide + 2, -s.size * 0.27, s.size * 0.85
            ring = np.array(
                [
                    (x + k * (u * cos - v * sin), y + k * (u * sin + v * cos))
                    for u, v in ((a, low), (b, low), (b, high), (a, high))
                ]
            )
            self._path(ring, "f")
        self._fill_colour(colour(s.colour, self.theme), frame.strength)
        text = c.beginText()
        text.setTextTransform(cos, sin, -sin, cos, x + k * left * cos, y + k * left * sin)
        text.setFont(f"Plex-{FACES[s.weight]}", s.size * k)
        if t.squeeze != 1.0:
            text.setHorizScale(100 * t.squeeze)
        text.textOut(t.text)
        c.drawText(text)


def _rgb(ink: str) -> tuple[float, float, float]:
    return int(ink[1:3], 16) / 255, int(ink[3:5], 16) / 255, int(ink[5:7], 16) / 255
