"""A drawing by others, shown under the plan."""

from typing import Any, Literal

from msgspec import Struct
from msgspec.structs import replace

from zumbert.geometry.placing import Placing
from zumbert.model.ids import BackgroundId

DrawnWhat = Literal["circle", "point", "block"]
UNITS: dict[str, float] = {  # metres of one unit of a drawing or list
    "m": 1.0, "mm": 0.001, "ft": 0.3048, "US survey ft": 1200 / 3937, "cm": 0.01, "in": 0.0254,
    "dm": 0.1, "km": 1000.0, "yd": 0.9144, "mi": 1609.344,
}  # fmt: skip


class DrawnPlace(Struct, frozen=True):
    """A circle, point or block of a drawing: a place that may stand for a structure."""

    what: DrawnWhat
    layer: str
    x: float  # m
    y: float
    radius: float = 0.0  # m, of a circle
    name: str = ""  # of a block
    turn: float = 0.0  # radians clockwise from north, of a block

    def scaled(self, by: float) -> "DrawnPlace":
        """The same in a drawing of another unit."""
        return replace(self, x=self.x * by, y=self.y * by, radius=self.radius * by)


class DrawnText(Struct, frozen=True):
    """A text of a drawing."""

    layer: str
    text: str
    x: float  # m, where it begins
    y: float
    height: float  # m
    turn: float = 0.0  # radians clockwise from east

    def scaled(self, by: float) -> "DrawnText":
        """The same in a drawing of another unit."""
        return replace(self, x=self.x * by, y=self.y * by, height=self.height * by)


class Background(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """Line work in metres; compared by identity, since drawings are large."""

    id: BackgroundId
    name: str
    layers: tuple[str, ...]
    off: frozenset[str] = frozenset()  # layers that are not shown
    segments: Any  # NDArray (n, 4): x0, y0, x1, y1, m
    layer: Any  # NDArray (n,) int32: index into layers
    shown: bool = True
    strength: float = 1.0  # 0 to 1: how strongly it is drawn
    centres: Any = None  # NDArray (n, 2): centres of its arcs and circles, m
    source: str | None = None  # the file that it came from
    stamp: str | None = None  # SHA-256 of that file when it was read
    texts: tuple[DrawnText, ...] = ()
    places: tuple[DrawnPlace, ...] = ()  # its circles, points and blocks
    placing: Placing = Placing()  # from the source's own places (m) to those of the project
    metres: float = 1.0  # of one unit of the drawing: what is written back goes to the same units
