"""A drawing by others, shown under the plan."""

from typing import Any

from msgspec import Struct

from zumbert.model.ids import BackgroundId

UNITS: dict[str, float] = {"m": 1.0, "mm": 0.001, "ft": 0.3048}  # metres of one unit of a drawing


class Background(Struct, frozen=True, kw_only=True, eq=False):
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
    metres: float = 1.0  # of one unit of the drawing: what is written back goes to the same units
