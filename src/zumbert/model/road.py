"""A road: its alignment in plan and its vertical profiles."""

from typing import Literal

from msgspec import Struct

from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.intersections import Intersection
from zumbert.geometry.profile import Pvi
from zumbert.geometry.strip import StripAt
from zumbert.model.ids import RoadId, StructureId

Piece = Straight | Arc | Clothoid


class RoadProfile(Struct, frozen=True, kw_only=True):
    """Levels along a road; chainages are the road's own."""

    name: str
    kind: Literal["design", "existing"]
    pvis: tuple[Pvi, ...]


class Strip(Struct, frozen=True, kw_only=True):
    """The road strip: its cross-sections in rising chainage. It gives surfaces only where that
    is asked for.
    """

    sections: tuple[StripAt, ...]
    surface: bool = False  # whether it gives the design surface and the formation
    # m, thickness of the construction: the formation lies this much under the carriageway
    depth: float = 0.4


class Road(Struct, frozen=True, kw_only=True):
    """A road alignment with its profiles; one design profile is in force."""

    id: RoadId
    name: str
    elements: tuple[Piece, ...] = ()  # as they came; none where the road was made here
    points: tuple[Intersection, ...] = ()  # intersection points of a road that was made here
    start: float = 0.0  # chainage where it begins, m
    profiles: tuple[RoadProfile, ...] = ()
    design: int | None = None  # index of the profile in force
    strip: Strip | None = None
    shown: bool = True
    strength: float = 1.0
    without: frozenset[StructureId] = frozenset()  # structures that its long section leaves out
    # m from it: within this its long section shows what stands on other roads or on none
    near: float | None = None
