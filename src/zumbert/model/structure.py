"""A structure: manhole, gully, catch pit, headwall, outfall or joint."""

from typing import Literal, get_args

from msgspec import Struct

from zumbert.model.ids import NetworkId, RoadId, StructureId, TypeKey
from zumbert.model.standard import OwnLimit

Service = Literal["storm", "foul"]
SERVICES: tuple[Service, ...] = get_args(Service)
Status = Literal["proposed", "existing", "abandoned"]
STATUSES: tuple[Status, ...] = get_args(Status)


class Anchored(Struct, frozen=True, tag="anchored"):
    """A place on a road: moves with it."""

    road: RoadId
    chainage: float  # m
    offset: float  # m, positive to the right


class Free(Struct, frozen=True, tag="free"):
    """A place by coordinates."""

    x: float  # m east
    y: float  # m north


class OnSurface(Struct, frozen=True, tag="surface"):
    """A rim that follows a surface; a design rim follows existing ground where no design is
    defined.
    """

    surface: Literal["design", "existing"] = "design"
    adjustment: float = 0.0  # m, added to the surface


class FixedRim(Struct, frozen=True, tag="fixed"):
    """A rim at a level of its own."""

    level: float  # m above datum


class Structure(Struct, frozen=True, kw_only=True):
    """A structure; what follows from it (depth, drops, sump level) is derived."""

    id: StructureId
    label: str
    type: TypeKey
    place: Anchored | Free
    network: NetworkId
    rim: OnSurface | FixedRim = OnSurface()
    rotation: float | None = None  # radians clockwise from north; None: square to the road
    sump: float | None = None  # m above datum where fixed; None: from the lowest invert
    sump_depth: float | None = None  # m below the lowest invert, in place of its type's
    # fraction: of the next pipe down, before that is laid; None: as it is laid
    next_slope: float | None = None
    service: Service = "storm"
    status: Status = "proposed"
    outfall: bool = False  # declared an outfall: its network ends here, whatever its type
    hold_size: bool = False  # held: its type stays
    inflow: float = 0.0  # m³/s that comes in besides what areas give
    # m from the reference point to the middle of its cover: along and to the right
    cover: tuple[float, float] = (0.0, 0.0)
    limits: tuple[OwnLimit, ...] = ()  # of its own, one a rule at most
    # its label moved by hand: drawing units from the reference point
    label_at: tuple[float, float] | None = None
