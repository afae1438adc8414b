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
    # that its existing work is judged by; None: the same
    existing_standard: StandardId | None = None
    existing_told: bool = False  # whether findings of existing work are cautions at most
    # where inverts of its pipes are quoted; None: as the project has it
    invert_basis: InvertBasis | None = None
