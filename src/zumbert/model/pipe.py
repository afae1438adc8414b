"""A pipe between two structures."""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import NetworkId, PipeId, SizeKey, StructureId, TrenchTypeId
from zumbert.model.standard import OwnLimit
from zumbert.model.structure import Anchored, Free, Service, Status

InvertBasis = Literal["centres", "walls"]


class Bore(Struct, frozen=True):
    """A size of no catalogue."""

    inside: float  # m
    wall: float  # m


End = Literal["up", "down"]


class Pipe(Struct, frozen=True, kw_only=True):
    """One pipe; "up" is the end where water should enter."""

    id: PipeId
    label: str
    up: StructureId
    down: StructureId
    size: SizeKey | Bore  # of the catalogue: gives inside diameter and wall
    invert_up: float  # m above datum, at the basis that holds for the pipe
    invert_down: float  # m above datum
    # where its inverts are quoted; None: as its network has it
    invert_basis: InvertBasis | None = None
    network: NetworkId
    service: Service = "storm"
    status: Status = "proposed"
    through: Anchored | Free | None = None  # a curved pipe: the place that its arc passes
    hold_size: bool = False  # held: edits of many pass it over, one of its own is refused
    hold_up: bool = False  # its invert at that end is held
    hold_down: bool = False
    hold_slope: bool = False  # held: an end that moves takes the other along
    # of the flow that leaves its upper structure; None: what the others leave, to the lowest
    share: float | None = None
    limits: tuple[OwnLimit, ...] = ()  # of its own, one a rule at most
    trench: TrenchTypeId | None = None  # its own trench type; None: as its network has it
    # its label moved by hand: drawing units from the middle of the pipe
    label_at: tuple[float, float] | None = None

    def at(self, end: End) -> StructureId:
        """The structure at an end."""
        return self.up if end == "up" else self.down

    def invert(self, end: End) -> float:
        """The invert of an end, m above datum."""
        return self.invert_up if end == "up" else self.invert_down

    def holds_end(self, end: End) -> bool:
        """Whether the invert of an end is held."""
        return self.hold_up if end == "up" else self.hold_down

    @property
    def hold_levels(self) -> bool:
        """Whether an invert is held, so that the pipe can not be moved as a whole."""
        return self.hold_up or self.hold_down

    @property
    def sole_end_held(self) -> End | None:
        """The end whose invert alone is held."""
        return None if self.hold_up == self.hold_down else "up" if self.hold_up else "down"

    @property
    def holds(self) -> bool:
        """Whether any of its levels, or its slope, is held."""
        return self.hold_levels or self.hold_slope
