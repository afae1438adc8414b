"""The SVG pen: inks the marks of a drawing to a picture file."""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from pathlib import Path
from xml.sax.saxutils import escape

import numpy as np

from zumbert.drawing.marks import Disc, Faded, Fill, Inset, Mark, Raster, Segments, Stroke, Text
from zumbert.drawing.style import AREAS, FAMILY, LINES, TEXTS, Theme, colour, text_width
from zumbert.errors import ReadError
from zumbert.geometry.elements import Array


def write_svg(
    path: str | Path, marks: Sequence[Mark], width: float, height: float, theme: Theme = "light", unit: float | None = None
) -> None:
    """Writes marks as SVG of a size in drawing units, each `unit` mm on paper. Raises ReadError where it can not be written."""
    body = "\n".join(line for m in marks for line in _inked(m, theme))
    wide, tall = (f"{v:g}" if unit is None else f"{v * unit:g}mm" for v in (width, height))
    text = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{tall}" '
        f'viewBox="0 0 {width:g} {height:g}" font-family="{FAMILY}, sans-serif">\n'
        f'<clipPath id="sheet"><rect width="{width:g}" height="{height:g}"/></clipPath>\n'
        f'<g clip-path="url(#sheet)">\n{body}\n</g>\n</svg>\n'
    )
    try:
        Path(path).write_text(text, encoding="utf-8")
    except OSError as e:
        raise ReadError(f"{path} could not be written: {e.strerror or e}. Choose another folder.") from e


def _inked(mark: Mark, theme: Theme) -> Iterator[str]:
    if isinstance(mark, Stroke):
        d = _path(mark.xy) + (" Z" if mark.closed else "")
        yield f'<path d="{d}" fill="none" {_line(mark.role, theme)}/>'
    elif isinstance(mark, Segments):
        d = " ".join(f"M{a:.2f} {b:.2f}L{c:.2f} {e:.2f}" for a, b, c, e in mark.xy.tolist())
        if d:
            yield f'<path d="{d}" fill="none" {_line(mark.role, theme)}/>'
    elif isinstance(mark, Fill):
        edge = _line(mark.edge, theme) if mark.edge else ""
        yield f'<path d="{_path(mark.xy)} Z" {_area(mark.role, theme)} {edge}/>'
    elif isinstance(mark, Disc):
        edge = _line(mark.edge, theme) if mark.edge else ""
        yield f'<circle cx="{mark.x:.2f}" cy="{mark.y:.2f}" r="{mark.radius:.2f}" {_area(mark.role, theme)} {edge}/>'
    elif isinstance(mark, Faded):
        yield f'<g opacity="{mark.strength:g}">'
        for inner in mark.marks:
            yield from _inked(inner, theme)
        yield "</g>"
    elif isinstance(mark, Inset):
        wide, tall = mark.width / mark.scale, mark.height / mark.scale
        by = f" scale({mark.scale:g})" if mark.scale != 1.0 else ""
        box = f'width="{wide:.2f}" height="{tall:.2f}"'
        yield f'<svg x="0" y="0" {box} overflow="hidden" transform="translate({mark.x:.2f} {mark.y:.2f}){by}">'
        for inner in mark.marks:
            yield from _inked(inner, theme)
        yield "</svg>"
    elif isinstance(mark, Raster):
        yield from _raster(mark, theme)
    else:
        yield from _text(mark, theme)


def _raster(mark: Raster, theme: Theme) -> Iterator[str]:
    """Runs of cells of one strength as rectangles, in steps of a tenth; cells without strength are left out."""
    tenths = np.round(np.nan_to_num(mark.strength) * 10).astype(int)
    for i, row in enumerate(tenths):
        cuts = np.concatenate([[0], np.flatnonzero(np.diff(row)) + 1, [len(row)]]).tolist()
        for a, b in pairwise(cuts):
            if row[a]:
                x, y, wide = mark.x + a * mark.cell, mark.y + i * mark.cell, (b - a) * mark.cell
                box = f'x="{x:.2f}" y="{y:.2f}" width="{wide:.2f}" height="{mark.cell:.2f}"'
                yield f'<g opacity="{row[a] / 10:g}"><rect {box} {_area(mark.role, theme)}/></g>'


def _path(xy: Array) -> str:
    return "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in xy.tolist())


def _line(role: str, theme: Theme) -> str:
    s = LINES[role]
    dash = f' stroke-dasharray="{" ".join(f"{d:g}" for d in s.dash)}"' if s.dash else ""
    ends = ' stroke-linecap="round" stroke-linejoin="round"' if s.round else ""
    alpha = f' stroke-opacity="{s.alpha:g}"' if s.alpha < 1 else ""
    return f'stroke="{colour(s.colour, theme)}" stroke-width="{s.width:g}"{dash}{ends}{alpha}'


def _area(role: str, theme: Theme) -> str:
    a = AREAS[role]
    return f'fill="{colour(a.colour, theme)}"' + (f' fill-opacity="{a.alpha:g}"' if a.alpha < 1 else "")


def _text(t: Text, theme: Theme) -> Iterator[str]:
    s = TEXTS[t.role]
    turn = f' transform="rotate({t.angle:.2f} {t.x:.2f} {t.y:.2f})"' if t.angle else ""
    if t.plate:
        wide = text_width(t.text, t.role) * t.squeeze
        left = {"left": t.x, "middle": t.x - wide / 2, "right": t.x - wide}[t.anchor]
        box = f'x="{left - 2:.2f}" y="{t.y - s.size * 0.85:.2f}" width="{wide + 4:.2f}" height="{s.size * 1.12:.2f}"'
        yield f"<rect {box} {_area('plate', theme)}{turn}/>"
    anchor = {"left": "start", "middle": "middle", "right": "end"}[t.anchor]
    narrow = ""
    if t.squeeze != 1.0:
        narrow = f' textLength="{text_width(t.text, t.role) * t.squeeze:.2f}" lengthAdjust="spacingAndGlyphs"'
    yield (
        f'<text x="{t.x:.2f}" y="{t.y:.2f}"{narrow} font-size="{s.size:g}" font-weight="{s.weight}" text-anchor="{anchor}" '
        f'fill="{colour(s.colour, theme)}"{turn}>{escape(t.text)}</text>'
    )
