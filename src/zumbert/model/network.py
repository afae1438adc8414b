"""A network of structures and pipes, with the standard and the trench type that hold for it."""

from msgspec import Struct

from zumbert.model.ids import NetworkId, StandardId, TrenchTypeId


class Network(Struct, frozen=True, kw_only=True):
    """A network; its name is what totals and schedules show."""

    id: NetworkId
    name: str
    standard: StandardId
    trench: TrenchTypeId
