"""Areas that drain to structures."""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import AreaId, RoadId, StructureId


class AreaKind(Struct, frozen=True):
    """A kind of surface with its runoff coefficient."""

    name: str
    coefficient: float


AREA_KINDS: tuple[AreaKind, ...] = (
    AreaKind("roof", 0.95), AreaKind("carriageway", 0.90), AreaKind("footway", 0.85),
    AreaKind("drive", 0.80),
    AreaKind("verge", 0.35), AreaKind("field", 0.20),
)  # fmt: skip


class RoadSide(Struct, frozen=True, kw_only=True):
    """The carriageway on one side of a road from one gully to the next; it follows the road and
    the gullies.
    """

    road: RoadId
    side: Literal["left", "right"]
    first: StructureId | None  # the gullies at its ends, by chainage; None: the road's own end
    last: StructureId | None
    whole: bool = False  # the carriageway of both sides, where its crossfall runs one way
    verge: bool = False  # with the verge


class Area(Struct, frozen=True, kw_only=True):
    """One area: a ring of corners (x, y in m), a typed size, or a stretch of a road."""

    id: AreaId
    name: str
    kind: str  # of the project's table
    structure: StructureId | None = None  # that it drains to; None: nowhere yet
    ring: tuple[tuple[float, float], ...] = ()
    size: float | None = None  # m², typed, where it has no ring
    along: RoadSide | None = None
    coefficient: float | None = None  # its own; None: that of its kind
    entry: float | None = None  # min; None: that of the rain
