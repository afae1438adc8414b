"""Land: areas that pipes may lie in, or may not."""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import LandId

LandKind = Literal["reserve", "easement", "property"]
LAND_WORDS: dict[LandKind, str] = {
    "reserve": "Road reserve",
    "easement": "Easement",
    "property": "Property",
}


class Land(Struct, frozen=True, kw_only=True):
    """One area, its ring of corners (x, y in m) not closed by a double."""

    id: LandId
    name: str
    kind: LandKind
    ring: tuple[tuple[float, float], ...]
    shown: bool = True
    strength: float = 1.0
