"""Strips in the model space of a DXF file: each run of a sheet straightened in plan over its
long section, beside the true plan.
"""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from msgspec.structs import replace

from zumbert.analysis.runline import Run, RunKey
from zumbert.delivery.along import AXIS, LEFT, RIGHT, spans_of_level
from zumbert.delivery.dxf.model import Model
from zumbert.delivery.dxf.pen import DxfPen, LayoutPlace
from zumbert.delivery.paper import Box, Page, WorldWindow, printed, scale_on_paper, windows_of
from zumbert.delivery.planwindow import picture_of, plan_window
from zumbert.drawing.layers import Belongs
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import Faded, Inset, Mark, Stroke, Text
from zumbert.drawing.sight import SectionSight, StraightSight
from zumbert.model.sheet import Sheet

APART = 48.0  # drawing units between strips
LETTERED = frozenset({"leader"})  # roles of lines that belong to words


Sized = tuple[WorldWindow, float, float]  # a window with its width and height


class RunStrip(NamedTuple):
    """A run as it lies in the model space: the sights of its straightened plan and its long
    section, and their places.
    """

    plan: StraightSight | None
    section: SectionSight
    plan_at: LayoutPlace
    section_at: LayoutPlace
    bottom: float  # y in units of the file

    def middle(
        self, sight: StraightSight | SectionSight, left: float, width: float, height: float
    ) -> tuple[float, float, float]:
        """The place (x, y) in the model space that lies in the middle of a window with this
        sight, its left edge and size, and its height there.
        """
        x, y = left + width / 2, height / 2
        if isinstance(sight, SectionSight):
            at = self.section_at
            u, v = self.section.x_of(sight.s_at(x)), self.section.y_of(sight.z_at(y))
        else:
            at, plan = self.plan_at, self.plan or sight
            u = plan.left + (sight.first - plan.first) * sight.scale + x - sight.left
            v = plan.middle + y - sight.middle
        return at.ox + at.kx * u, at.oy - at.ky * v, at.ky * height


def parted(marks: Iterable[Mark]) -> tuple[tuple[Mark, ...], tuple[Mark, ...]]:
    """Line work, and what is lettered with it: words with their leaders."""
    lines: list[Mark] = []
    words: list[Mark] = []
    for m in marks:
        if isinstance(m, (Inset, Faded)):
            for out, half in zip((lines, words), parted(m.marks), strict=True):
                if half:
                    out.append(replace(m, marks=half))
        elif isinstance(m, Text) or (isinstance(m, Stroke) and m.role in LETTERED):
            words.append(m)
        else:
            lines.append(m)
    return tuple(lines), tuple(words)


def windows_along(pages: Sequence[Page]) -> dict[tuple[str, RunKey], list[Sized]]:
    """The windows of all pages that show a run straightened or in section, by sheet and run,
    each with its size.
    """
    out: dict[tuple[str, RunKey], list[Sized]] = {}
    for p in pages:
        for window, m in windows_of(p.marks):
            if window.key is not None and isinstance(window.sight, (StraightSight, SectionSight)):
                out.setdefault((p.sheet, window.key), []).append((window, m.width, m.height))
    return out


class _Span(NamedTuple):
    """How much of a run a strip has: from and to, m along it, and its lowest and highest level."""

    first: float
    last: float
    low: float
    high: float


def _span(to: Model, sheet: Sheet, shown: Run, windows: Sequence[Sized]) -> _Span:
    """As much as the run has and its windows show."""
    sx = scale_on_paper(sheet.scale, to.layers.unit)
    a, b = shown.start, shown.start + shown.length
    low, high = spans_of_level(to.job.facts, shown, a, b)
    out = _Span(a - LEFT / sx, b + RIGHT / sx, low - 1.2, high + 1.8)
    for window, width, height in windows:
        s, seen = window.sight, out
        if isinstance(s, SectionSight):
            seen = _Span(
                s.s_at(window.left), s.s_at(window.left + width), s.z_at(height), s.z_at(0.0)
            )
        elif isinstance(s, StraightSight):
            seen = _Span(
                s.first - s.left / s.scale, s.first + (width - s.left) / s.scale, out.low, out.high
            )
        out = _Span(
            min(out.first, seen.first),
            max(out.last, seen.last),
            min(out.low, seen.low),
            max(out.high, seen.high),
        )
    return out


def draw_strip(
    to: Model, sheet: Sheet, shown: Run, windows: Sequence[Sized], x: float, y: float
) -> RunStrip:
    """Draws a run with its upper left corner at a place of the model space.

    The section is true to scale along and exaggerated upwards as the sheet asks for it, with the
    levels and rows of the sheet.
    """
    first, last, low, high = _span(to, sheet, shown, windows)
    sx, sz = scale_on_paper(sheet.scale, to.layers.unit), scale_on_paper(sheet.up, to.layers.unit)
    k, wide = to.world.k / sx, AXIS + (last - first) * sx
    words = to.layers.of(Belongs("", "lettering", ""), "ink", apart=True)
    to.layers.words.add(words)
    mm = sheet.scale / 1000 * to.world.k
    lines, lettering = DxfPen(to.space, to.layers, mm), DxfPen(to.space, to.layers, mm, words)
    picture = replace(picture_of(to.job, sheet), run=shown)
    plan, plan_at = None, LayoutPlace(x, y, k, k)
    sight, tall = next(
        ((w.sight, h) for w, _, h in windows if isinstance(w.sight, StraightSight)), (None, 0.0)
    )
    if sight is not None:
        plan = replace(sight, width=wide, left=AXIS, first=first)
        (inset, _), _ = plan_window(picture, plan, Box(0.0, 0.0, wide, tall), bar=False)
        for half, pen in zip(parted([inset]), (lines, lettering), strict=True):
            pen.ink(half, plan_at)
        y -= (tall + APART / 2) * k
    section = SectionSight(
        width=wide, height=(high - low) * sz, left=AXIS, x=first, z=low, sx=sx, sz=sz
    )
    made, section_at = section_marks(picture, section), LayoutPlace(x, y, k, k)
    drawn, named = parted(made.world)
    lines.ink(drawn, section_at)
    lettering.ink([*named, *made.edges, *printed(made.rows)], section_at)
    bottom = max((float(m.y) for m in made.rows if hasattr(m, "y")), default=section.height)
    return RunStrip(plan, section, plan_at, section_at, y - (bottom + APART) * k)
