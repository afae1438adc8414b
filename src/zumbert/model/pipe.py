"""A pipe between two structures."""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import NetworkId, PipeId, SizeKey, StructureId
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
    invert_basis: InvertBasis | None = None  # where its inverts are quoted; None: as its network has it
    network: NetworkId
    service: Service = "storm"
    status: Status = "proposed"
    through: Anchored | Free | None = None  # a curved pipe: the place that its arc passes
    keep_size: bool = False  # held: edits of many pass it over, one of its own is refused
    keep_up: bool = False  # its invert at that end is held
    keep_down: bool = False
    keep_slope: bool = False  # held: an end that moves takes the other along
    label_at: tuple[float, float] | None = None  # its label moved by hand: drawing units from the middle of the pipe

    def at(self, end: End) -> StructureId:
        """The structure at an end."""
        return self.up if end == "up" else self.down

    def invert(self, end: End) -> float:
        """The invert of an end, m above datum."""
        return self.invert_up if end == "up" else self.invert_down

    def keeps_end(self, end: End) -> bool:
        """Whether the invert of an end is held."""
        return self.keep_up if end == "up" else self.keep_down

    @property
    def keep_levels(self) -> bool:
        """Whether an invert is held, so that the pipe can not be moved as a whole."""
        return self.keep_up or self.keep_down

    @property
    def sole_end_kept(self) -> End | None:
        """The end whose invert alone is held."""
        return None if self.keep_up == self.keep_down else "up" if self.keep_up else "down"

    @property
    def keeps(self) -> bool:
        """Whether anything of its levels is held."""
        return self.keep_levels or self.keep_slope
