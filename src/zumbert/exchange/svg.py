"""The SVG pen: inks the marks of a drawing to a picture file."""

from collections.abc import Iterator, Sequence
from pathlib import Path
from xml.sax.saxutils import escape

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
from zumbert.drawing.style import AREAS, FAMILY, LINES, TEXTS, Theme, colour, text_width
from zumbert.errors import ReadError
from zumbert.geometry.elements import Array


def write_svg(
    path: str | Path,
    marks: Sequence[Mark],
    width: float,
    height: float,
    theme: Theme = "light",
    unit: float | None = None,
) -> None:
    """Writes marks as SVG of a size in drawing units, each `unit` mm on paper. Raises ReadError
    where it can not be written.
    """
    pen = _SvgPen(theme)
    draw_marks(pen, marks, None)
    body = "\n".join(pen.lines)
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
        raise ReadError(
            f"{path} could not be written: {e.strerror or e}. Choose another folder."
        ) from e


class _SvgPen:
    """Writes marks as lines of SVG."""

    def __init__(self, theme: Theme) -> None:
        self.theme, self.lines = theme, list[str]()

    def stroke(self, m: Stroke, at: None) -> None:
        d = _path(m.xy) + (" Z" if m.closed else "")
        self.lines.append(f'<path d="{d}" fill="none" {_line(m.role, self.theme)}/>')

    def segments(self, m: Segments, at: None) -> None:
        d = " ".join(f"M{a:.2f} {b:.2f}L{c:.2f} {e:.2f}" for a, b, c, e in m.xy.tolist())
        if d:
            self.lines.append(f'<path d="{d}" fill="none" {_line(m.role, self.theme)}/>')

    def fill(self, m: Fill, at: None) -> None:
        self.lines.append(
            f'<path d="{_path(m.xy)} Z" {_area(m.role, self.theme)} {self._edge(m.edge)}/>'
        )

    def disc(self, m: Disc, at: None) -> None:
        where = f'cx="{m.x:.2f}" cy="{m.y:.2f}" r="{m.radius:.2f}"'
        self.lines.append(f"<circle {where} {_area(m.role, self.theme)} {self._edge(m.edge)}/>")

    def _edge(self, role: str | None) -> str:
        return _line(role, self.theme) if role else ""

    def faded(self, m: Faded, at: None) -> None:
        self.lines.append(f'<g opacity="{m.strength:g}">')
        draw_marks(self, m.marks, at)
        self.lines.append("</g>")

    def inset(self, m: Inset, at: None) -> None:
        wide, tall = m.width / m.scale, m.height / m.scale
        by = f" scale({m.scale:g})" if m.scale != 1.0 else ""
        box = f'width="{wide:.2f}" height="{tall:.2f}"'
        self.lines.append(
            f'<svg x="0" y="0" {box} overflow="hidden" transform="translate({m.x:.2f} '
            f'{m.y:.2f}){by}">'
        )
        draw_marks(self, m.marks, at)
        self.lines.append("</svg>")

    def raster(self, m: Raster, at: None) -> None:
        for x, y, wide, strength in strips_of(m):
            box = f'x="{x:.2f}" y="{y:.2f}" width="{wide:.2f}" height="{m.cell:.2f}"'
            self.lines.append(
                f'<g opacity="{strength:g}"><rect {box} {_area(m.role, self.theme)}/></g>'
            )

    def text(self, m: Text, at: None) -> None:
        self.lines += _text(m, self.theme)


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
    return f'fill="{colour(a.colour, theme)}"' + (
        f' fill-opacity="{a.alpha:g}"' if a.alpha < 1 else ""
    )


def _text(t: Text, theme: Theme) -> Iterator[str]:
    s = TEXTS[t.role]
    turn = f' transform="rotate({t.angle:.2f} {t.x:.2f} {t.y:.2f})"' if t.angle else ""
    if t.plate:
        wide = text_width(t.text, t.role) * t.squeeze
        left = {"left": t.x, "middle": t.x - wide / 2, "right": t.x - wide}[t.anchor]
        box = (
            f'x="{left - 2:.2f}" y="{t.y - s.size * 0.85:.2f}" width="{wide + 4:.2f}" '
            f'height="{s.size * 1.12:.2f}"'
        )
        yield f"<rect {box} {_area('plate', theme)}{turn}/>"
    anchor = {"left": "start", "middle": "middle", "right": "end"}[t.anchor]
    narrow = ""
    if t.squeeze != 1.0:
        narrow = (
            f' textLength="{text_width(t.text, t.role) * t.squeeze:.2f}" '
            'lengthAdjust="spacingAndGlyphs"'
        )
    yield (
        f'<text x="{t.x:.2f}" y="{t.y:.2f}"{narrow} font-size="{s.size:g}" '
        f'font-weight="{s.weight}" text-anchor="{anchor}" '
        f'fill="{colour(s.colour, theme)}"{turn}>{escape(t.text)}</text>'
    )
