"""A road: its alignment in plan and its vertical profiles."""

from typing import Literal

from msgspec import Struct

from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.profile import Pvi
from zumbert.model.ids import RoadId

Piece = Straight | Arc | Clothoid


class RoadProfile(Struct, frozen=True, kw_only=True):
    """Levels along a road; chainages are the road's own."""

    name: str
    kind: Literal["design", "existing"]
    pvis: tuple[Pvi, ...]


class Carriageway(Struct, frozen=True, kw_only=True):
    """The paved width, drawn in plan; it makes no surface."""

    left: float  # m from the alignment to the kerb
    right: float  # m
    verge: float = 0.0  # m behind each kerb


class Road(Struct, frozen=True, kw_only=True):
    """A road alignment with its profiles; one design profile is in force."""

    id: RoadId
    name: str
    elements: tuple[Piece, ...]
    start: float = 0.0  # chainage where it begins, m
    profiles: tuple[RoadProfile, ...] = ()
    design: int | None = None  # index of the profile in force
    carriageway: Carriageway | None = None
