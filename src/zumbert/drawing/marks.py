"""Marks: what a drawing is made of, in drawing units (1/96 inch at 100 %), y downwards. They
know no pen.
"""

from collections.abc import Callable, Iterable, Iterator
from itertools import pairwise
from typing import Any, Literal, NamedTuple, Protocol, TypeVar

import numpy as np
from msgspec import Struct

from zumbert.geometry.elements import Array

Anchor = Literal["left", "middle", "right"]


class Stroke(Struct, frozen=True, eq=False):
    """A line through points (n, 2)."""

    role: str
    xy: Array
    closed: bool = False


class Segments(Struct, frozen=True, eq=False):
    """Many straight pieces (n, 4): x0, y0, x1, y1."""

    role: str
    xy: Array


class Fill(Struct, frozen=True, eq=False):
    """An area inside points (n, 2); `edge` draws its border with a second role."""

    role: str
    xy: Array
    edge: str | None = None


class Disc(Struct, frozen=True, eq=False):
    """A circle, filled and bordered; radius in drawing units."""

    role: str
    x: float
    y: float
    radius: float
    edge: str | None = None


class Text(Struct, frozen=True, eq=False):
    """A text at its baseline; angle in degrees, clockwise. `plate` puts paper under it,
    `squeeze` makes its letters narrower.
    """

    role: str
    text: str
    x: float
    y: float
    anchor: Anchor = "left"
    angle: float = 0.0
    plate: bool = False
    squeeze: float = 1.0  # width of its letters, of their own


class Faded(Struct, frozen=True, eq=False):
    """Marks that are drawn at a strength of 0 to 1."""

    marks: "tuple[Mark, ...]"
    strength: float


class Raster(Struct, frozen=True, eq=False):
    """A picture of cells (n, m) in the strengths 0 to 1 of one area role, its corner and the
    size of a cell.
    """

    role: str
    x: float
    y: float
    cell: float
    strength: Array


def strips_of(m: Raster) -> Iterator[tuple[float, float, float, float]]:
    """Its cells as boxes of one strength, in steps of a tenth, none where it is 0: left, top,
    width, strength.
    """
    tenths = np.round(np.nan_to_num(m.strength) * 10).astype(int)
    for i, row in enumerate(tenths):
        cuts = np.concatenate([[0], np.flatnonzero(np.diff(row)) + 1, [len(row)]]).tolist()
        for a, b in pairwise(cuts):
            if row[a]:
                yield m.x + a * m.cell, m.y + i * m.cell, (b - a) * m.cell, float(row[a]) / 10


class Inset(Struct, frozen=True, eq=False):
    """A drawing in a drawing: marks in units of their own, cut at the edges of a box."""

    marks: "tuple[Mark, ...]"
    x: float  # of the box's upper left corner, which is the origin of the marks
    y: float
    width: float  # of the box
    height: float
    scale: float = 1.0  # units out here for one in there
    window: Any = None  # what of the world it shows, for a pen that can show that itself


Mark = Stroke | Segments | Fill | Disc | Text | Faded | Raster | Inset


At = TypeVar("At", contravariant=True)


class MarkPen(Protocol[At]):
    """A pen for marks: a method for each kind of mark. `at` says where and how; those of groups
    hand on their own.
    """

    def stroke(self, m: Stroke, at: At) -> None:
        """Draws a line."""

    def segments(self, m: Segments, at: At) -> None:
        """Draws straight pieces."""

    def fill(self, m: Fill, at: At) -> None:
        """Draws an area."""

    def disc(self, m: Disc, at: At) -> None:
        """Draws a circle."""

    def text(self, m: Text, at: At) -> None:
        """Draws a text."""

    def faded(self, m: Faded, at: At) -> None:
        """Draws marks at a strength."""

    def raster(self, m: Raster, at: At) -> None:
        """Draws a picture of cells."""

    def inset(self, m: Inset, at: At) -> None:
        """Draws a drawing in the drawing."""


def draw_marks(pen: MarkPen[At], marks: Iterable[Mark], at: At) -> None:
    """Has a pen draw marks in their order."""
    by: dict[type, Callable[[Any, At], None]] = {
        Stroke: pen.stroke,
        Segments: pen.segments,
        Fill: pen.fill,
        Disc: pen.disc,
        Text: pen.text,
        Faded: pen.faded,
        Raster: pen.raster,
        Inset: pen.inset,
    }
    for m in marks:
        by[type(m)](m, at)


def faded(marks: Iterable[Mark], strength: float) -> list[Mark]:
    """Marks at a strength; as they are where it is full."""
    return list(marks) if strength >= 1.0 else [Faded(tuple(marks), strength)]


def texts_in(marks: Iterable[Mark]) -> list[Text]:
    """All texts among marks, those in groups too, each in the units of its group."""
    out: list[Text] = []
    for m in marks:
        if isinstance(m, Text):
            out.append(m)
        elif isinstance(m, (Faded, Inset)):
            out += texts_in(m.marks)
    return out


class Target(NamedTuple):
    """A target of the drawing: a thing's kind and id, its outline (n, 2) and its
    hit radius.
    """

    kind: str
    id: Any
    xy: Array
    radius: float


class Cell(NamedTuple):
    """A cell of the level rows: box (x, y, width, height), row name, the thing and the field
    that it shows.
    """

    box: tuple[float, float, float, float]
    row: str
    id: Any
    field: str  # "" where it cannot be edited
    text: str


class Composed(NamedTuple):
    """A drawing, with what can be hit and what can be edited in it."""

    marks: list[Mark]
    targets: list[Target]
    cells: list[Cell]


def points(*xy: tuple[float, float]) -> Array:
    """Points as an (n, 2) array."""
    return np.array(xy, float).reshape(-1, 2)


def arrow(x: float, y: float, angle: float, size: float = 10.0) -> Array:
    """The corners of a flow arrow about a place, pointing along an angle (radians, y downwards)."""
    c, s = np.cos(angle), np.sin(angle)
    shape = np.array([(-0.5, -0.42), (0.5, 0.0), (-0.5, 0.42)]) * size
    return np.column_stack(
        [x + shape[:, 0] * c - shape[:, 1] * s, y + shape[:, 0] * s + shape[:, 1] * c]
    )


def cross(x: float, y: float, half: float) -> Array:
    """The two strokes of a cross about a place (2, 4), its arms at 45 degrees."""
    return np.array(
        [(x - half, y - half, x + half, y + half), (x - half, y + half, x + half, y - half)]
    )


def notch(x: float, y: float) -> Array:
    """The breach notch, its point on the fault from above."""
    return points((x - 6.5, y - 10.0), (x + 6.5, y - 10.0), (x, y - 1.0))


def lozenge(x: float, y: float) -> Array:
    """The caution lozenge about a place."""
    return points((x, y - 6.0), (x + 4.5, y), (x, y + 6.0), (x - 4.5, y))


def turning_point(x: float, y: float, kind: str) -> Array:
    """A low point's or crest's mark about a place: a filled half moon, its belly down for a low
    point.
    """
    t = np.linspace(0.0, np.pi, 13)
    return np.column_stack([x + 6.0 * np.cos(t), y + (6.0 if kind == "low" else -6.0) * np.sin(t)])
