"""A network of structures and pipes, with the standard and the trench type that hold for it."""

from msgspec import Struct

from zumbert.model.ids import NetworkId, StandardId, TrenchTypeId
from zumbert.model.pipe import InvertBasis


class Network(Struct, frozen=True, kw_only=True):
    """A network; its name is what totals and schedules show."""

    id: NetworkId
    name: str
    standard: StandardId
    trench: TrenchTypeId
    existing_standard: StandardId | None = None  # that its existing work is judged by; None: the same
    existing_told: bool = False  # whether findings of existing work are cautions at most
    invert_basis: InvertBasis | None = None  # where inverts of its pipes are quoted; None: as the project has it
