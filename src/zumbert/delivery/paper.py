"""Paper: pages of a size in mm, lettered in drawing units that are as large on paper as the
texts ask for.
"""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from msgspec.structs import replace

from zumbert.analysis.runline import RunKey
from zumbert.drawing.marks import Faded, Inset, Mark, Target, Text, points
from zumbert.drawing.sight import MapSight, SectionSight, StraightSight
from zumbert.drawing.style import CAPITALS, PAPER_TEXT, TEXTS, text_width
from zumbert.geometry.elements import Array
from zumbert.model.ids import SheetId
from zumbert.model.sheet import SIZES, Delivery, Sheet

# roles of what is offered to the hand in level rows
UNPRINTED = frozenset({"end-mark", "end-mark-other"})
NARROWEST = 0.7  # letters are squeezed no farther; then a text is shortened


class Box(NamedTuple):
    """A box of a page, in its units."""

    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.x + self.width

    @property
    def bottom(self) -> float:
        """Its lower edge."""
        return self.y + self.height

    @property
    def xy(self) -> Array:
        """Its corners."""
        return points(
            (self.x, self.y), (self.right, self.y), (self.right, self.bottom), (self.x, self.bottom)
        )

    def inside(self, left: float, top: float, right: float, bottom: float) -> "Box":
        """Without so much at each edge."""
        return Box(
            self.x + left, self.y + top, self.width - left - right, self.height - top - bottom
        )


class WorldWindow(NamedTuple):
    """The part of the world that a box of a page shows: the box's left edge lies at `left` of the
    sight, its top at the sight's.
    """

    sight: MapSight | StraightSight | SectionSight
    key: RunKey | None = None  # the run of a straightened plan or a long section
    left: float = 0.0


class Page(NamedTuple):
    """A page: its size in mm, what one of its units is in mm, its marks, and what can be taken
    hold of on it.
    """

    sheet: SheetId
    title: str
    number: str
    width: float
    height: float
    unit: float
    marks: tuple[Mark, ...]
    targets: tuple[Target, ...] = ()

    @property
    def units(self) -> tuple[float, float]:
        """Its size in units."""
        return self.width / self.unit, self.height / self.unit


def windows_of(marks: Iterable[Mark]) -> Iterator[tuple[WorldWindow, Inset]]:
    """The boxes of a page that show a part of the world."""
    return (
        (m.window, m) for m in marks if isinstance(m, Inset) and isinstance(m.window, WorldWindow)
    )


def unit_of(delivery: Delivery) -> float:
    """One drawing unit in mm, so that the capitals of labels are as high as is asked for."""
    return delivery.small / (CAPITALS * PAPER_TEXT)


def paper_size(sheet: Sheet) -> tuple[float, float]:
    """Width and height of a sheet, mm."""
    if sheet.paper == "custom":
        return sheet.size
    long, short = SIZES[sheet.paper]
    return (short, long) if sheet.upright else (long, short)


def scale_on_paper(ratio: float, unit: float) -> float:
    """Units of a page for a metre, at a scale of 1:ratio."""
    return 1000.0 / ratio / unit


def shortened(text: str, role: str, width: float) -> tuple[str, float]:
    """A text that fits into a width, and how far its letters are squeezed for it; what is left
    over gives way to dots.
    """
    wide = text_width(text, role)
    if wide <= width or not text:
        return text, 1.0
    if wide * NARROWEST <= width:
        return text, width / wide
    while text and text_width(text + "…", role) * NARROWEST > width:
        text = text[:-1]
    return text.rstrip() + "…", NARROWEST


def line(role: str, text: str, x: float, y: float, width: float) -> Text:
    """A text from a place to the right that stays inside a width."""
    shown, squeeze = shortened(text, role, width)
    return Text(role, shown, x, y, squeeze=squeeze)


def large(
    delivery: Delivery, text: str, x: float, y: float, width: float, by: float = 1.0
) -> Inset:
    """A text as high as titles are, with its baseline at a place."""
    scale = delivery.large / delivery.small * by
    size = TEXTS["sheet-strong"].size
    inner = line("sheet-strong", text, 0.0, size, width / scale)
    return Inset((inner,), x, y - size * scale, width, size * 1.3 * scale, scale)


def printed(marks: Iterable[Mark]) -> tuple[Mark, ...]:
    """Marks without those that a drawing offers to the hand."""
    return tuple(
        m for m in marks if not {getattr(m, "role", ""), getattr(m, "edge", "")} & UNPRINTED
    )


def capitals(marks: tuple[Mark, ...]) -> tuple[Mark, ...]:
    """Marks with all texts in capitals; they take no more room than the small letters did."""
    return tuple(_capitals(m) for m in marks)


def _capitals(mark: Mark) -> Mark:
    if isinstance(mark, (Faded, Inset)):
        return replace(mark, marks=capitals(mark.marks))
    if (
        not isinstance(mark, Text)
        or not (raised := mark.text.replace("ß", "ẞ").upper())
        or raised == mark.text
    ):
        return mark
    by = min(1.0, text_width(mark.text, mark.role) / text_width(raised, mark.role))
    return replace(mark, text=raised, squeeze=mark.squeeze * by)
