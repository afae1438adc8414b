"""The picture pen: inks marks as PNG with no window, drawn larger and made smaller so that edges
are smooth.
"""

import io
from collections.abc import Iterable
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np

from zumbert.delivery.pdf import FACES, FONTS
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
from zumbert.drawing.style import AREAS, LINES, TEXTS, Theme, colour, text_width
from zumbert.geometry.elements import Array

OVER = 3  # times that it is drawn larger
LARGEST = 24_000  # pixels of a side, drawn larger
FAR = 1e6


def png_bytes(
    marks: Iterable[Mark], width: float, height: float, scale: float, theme: Theme = "colour"
) -> bytes:
    """Marks as a PNG of so many pixels a drawing unit."""
    from PIL import Image

    over = OVER if max(width, height) * scale * OVER <= LARGEST else 1
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    image = Image.new("RGB", (size[0] * over, size[1] * over), "#FFFFFF")
    draw_marks(PngPen(image, theme), marks, PixelPlace(0.0, 0.0, scale * over))
    out = io.BytesIO()
    (image if over == 1 else image.resize(size, Image.Resampling.BOX)).save(
        out, "PNG", optimize=False
    )
    return out.getvalue()


@lru_cache(maxsize=64)
def _face(weight: int, size: int) -> Any:
    from PIL import ImageFont

    return ImageFont.truetype(str(FONTS / f"IBMPlexSans-{FACES[weight]}.ttf"), size)


class PixelPlace(NamedTuple):
    """Where marks lie in a picture: a place (x, y) at the pixel (ox + k x, oy + k y); and how
    strong they are.
    """

    ox: float
    oy: float
    k: float
    strength: float = 1.0

    def pixels(self, xy: Array) -> Array:
        """Places (n, 2) in pixels, those of no use far out."""
        return np.clip(
            np.column_stack([self.ox + self.k * xy[:, 0], self.oy + self.k * xy[:, 1]]), -FAR, FAR
        )


class PngPen:
    """Inks marks on a Pillow image; faint inks are mixed with white, for paper is under all."""

    def __init__(self, image: Any, theme: Theme) -> None:
        from PIL import ImageDraw

        self.image, self.theme = image, theme
        self.draw = ImageDraw.Draw(image)

    def stroke(self, m: Stroke, at: PixelPlace) -> None:
        """Draws a line."""
        self._line(m.role, at.pixels(np.vstack([m.xy, m.xy[:1]]) if m.closed else m.xy), at)

    def segments(self, m: Segments, at: PixelPlace) -> None:
        """Draws straight pieces."""
        for a in at.pixels(m.xy.reshape(-1, 2)).reshape(-1, 2, 2):
            self._line(m.role, a, at)

    def fill(self, m: Fill, at: PixelPlace) -> None:
        """Draws an area, and its border."""
        xy = at.pixels(m.xy)
        if np.isnan(xy).any() or len(xy) < 3:
            return
        a = AREAS[m.role]
        ring = [tuple(p) for p in xy.tolist()]
        if a.alpha * at.strength >= 1.0:
            self.draw.polygon(ring, fill=self._colour(a.colour, 1.0))
        else:
            self._mixed(xy, ring, self._colour(a.colour, 1.0), a.alpha * at.strength)
        if m.edge is not None:
            self._line(m.edge, np.vstack([xy, xy[:1]]), at)

    def disc(self, m: Disc, at: PixelPlace) -> None:
        """Draws a circle."""
        t = np.linspace(0, 2 * np.pi, 25)
        ring = np.column_stack([m.x + m.radius * np.cos(t), m.y + m.radius * np.sin(t)])
        self.fill(Fill(m.role, ring, m.edge), at)

    def faded(self, m: Faded, at: PixelPlace) -> None:
        """Draws marks at a strength."""
        draw_marks(self, m.marks, at._replace(strength=at.strength * m.strength))

    def raster(self, m: Raster, at: PixelPlace) -> None:
        """Shading of the ground is left out of pictures."""

    def inset(self, m: Inset, at: PixelPlace) -> None:
        """Draws a drawing in the drawing."""
        x, y = at.ox + at.k * m.x, at.oy + at.k * m.y
        box = [
            max(0, round(x)),
            max(0, round(y)),
            min(self.image.width, round(x + at.k * m.width)),
            min(self.image.height, round(y + at.k * m.height)),
        ]
        if box[2] <= box[0] or box[3] <= box[1]:
            return
        part = self.image.crop(box)
        draw_marks(
            PngPen(part, self.theme),
            m.marks,
            PixelPlace(x - box[0], y - box[1], at.k * m.scale, at.strength),
        )
        self.image.paste(part, box[:2])

    def _colour(self, role: str, alpha: float) -> tuple[int, int, int]:
        ink = colour(role, self.theme)
        red, green, blue = (round(255 + (int(ink[i : i + 2], 16) - 255) * alpha) for i in (1, 3, 5))
        return red, green, blue

    def _line(self, role: str, xy: Array, at: PixelPlace) -> None:
        s = LINES[role]
        ink, wide = self._colour(s.colour, s.alpha * at.strength), max(1, round(s.width * at.k))
        for part in np.split(xy, np.flatnonzero(np.isnan(xy).any(axis=1))):
            part = part[~np.isnan(part).any(axis=1)]
            if len(part) > 1:
                for piece in _dashed(part, [d * at.k for d in s.dash]):
                    self.draw.line(
                        [tuple(p) for p in piece.tolist()], fill=ink, width=wide, joint="curve"
                    )

    def _mixed(self, xy: Array, ring: list[Any], ink: tuple[int, int, int], alpha: float) -> None:
        """An area that lets through what lies under it."""
        from PIL import Image, ImageDraw

        low, high = np.floor(xy.min(axis=0)).astype(int), np.ceil(xy.max(axis=0)).astype(int) + 1
        x0, y0 = max(0, int(low[0])), max(0, int(low[1]))
        x1, y1 = min(self.image.width, int(high[0])), min(self.image.height, int(high[1]))
        if x1 <= x0 or y1 <= y0:
            return
        mask = Image.new("L", (x1 - x0, y1 - y0), 0)
        ImageDraw.Draw(mask).polygon([(x - x0, y - y0) for x, y in ring], fill=round(255 * alpha))
        self.image.paste(Image.new("RGB", mask.size, ink), (x0, y0), mask)

    def text(self, t: Text, at: PixelPlace) -> None:
        """Draws a text."""
        from PIL import Image, ImageDraw

        s, k = TEXTS[t.role], at.k
        face = _face(s.weight, max(1, round(s.size * k)))
        wide = text_width(t.text, t.role) * t.squeeze * k
        left = {"left": 0.0, "middle": -wide / 2, "right": -wide}[t.anchor]
        x, y = at.ox + k * t.x, at.oy + k * t.y
        ink = self._colour(s.colour, at.strength)
        up, down = round(s.size * k), round(s.size * k * 0.35)
        if not t.angle and t.squeeze == 1.0:
            if t.plate:
                self._plate(x + left, y, wide, s.size * k)
            self.draw.text((x + left, y), t.text, font=face, fill=ink, anchor="ls")
            return
        natural = max(1, round(face.getlength(t.text)) + 2)
        mask = Image.new("L", (natural, up + down), 0)
        ImageDraw.Draw(mask).text((1, up), t.text, font=face, fill=255, anchor="ls")
        if t.squeeze != 1.0:
            mask = mask.resize((max(1, round(natural * t.squeeze)), up + down))
        side = 2 * (mask.width + up + down)
        whole = Image.new("L", (side, side), 0)
        whole.paste(mask, (side // 2 + round(left), side // 2 - up))
        turned = whole.rotate(-t.angle, resample=Image.Resampling.BICUBIC)
        self.image.paste(
            Image.new("RGB", turned.size, ink), (round(x) - side // 2, round(y) - side // 2), turned
        )

    def _plate(self, x: float, y: float, wide: float, size: float) -> None:
        a = AREAS["plate"]
        xy = np.array(
            [
                (x - 2, y - size * 0.85),
                (x + wide + 2, y - size * 0.85),
                (x + wide + 2, y + size * 0.27),
                (x - 2, y + size * 0.27),
            ]
        )
        self._mixed(xy, [tuple(p) for p in xy.tolist()], self._colour(a.colour, 1.0), a.alpha)


def _dashed(xy: Array, dash: list[float]) -> Iterable[Array]:
    """The drawn pieces of a line; the line itself where it has no dashes."""
    if not dash:
        yield xy
        return
    long = np.hypot(*np.diff(xy, axis=0).T)
    run = np.concatenate([[0.0], np.cumsum(long)])
    cycle = sum(dash)
    if cycle <= 0 or run[-1] / cycle > 5000:
        yield xy
        return
    edges = np.cumsum([0.0, *dash])
    for start in np.arange(0.0, run[-1], cycle).tolist():
        for a, b in zip(edges[:-1:2].tolist(), edges[1::2].tolist(), strict=False):
            lo, hi = start + a, min(start + b, float(run[-1]))
            if lo < hi:
                inside = run[(run > lo) & (run < hi)]
                s = np.concatenate([[lo], inside, [hi]])
                yield np.column_stack([np.interp(s, run, xy[:, 0]), np.interp(s, run, xy[:, 1])])
