"""A pipe between two structures."""

from msgspec import Struct

from zumbert.model.ids import NetworkId, PipeId, SizeKey, StructureId
from zumbert.model.structure import Anchored, Free, Service, Status


class Bore(Struct, frozen=True):
    """A size of no catalogue."""

    inside: float  # m
    wall: float  # m


class Pipe(Struct, frozen=True, kw_only=True):
    """One pipe; "up" is the end where water should enter."""

    id: PipeId
    label: str
    up: StructureId
    down: StructureId
    size: SizeKey | Bore  # of the catalogue: gives inside diameter and wall
    invert_up: float  # m above datum, at the basis that the project quotes
    invert_down: float  # m above datum
    network: NetworkId
    service: Service = "storm"
    status: Status = "proposed"
    through: Anchored | Free | None = None  # a curved pipe: the place that its arc passes
    keep_size: bool = False  # held: edits of many pass it over, one of its own is refused
    keep_levels: bool = False
    label_at: tuple[float, float] | None = None  # its label moved by hand: drawing units from the middle of the pipe
