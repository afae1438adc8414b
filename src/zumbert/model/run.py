"""A run that was named and kept: it follows the network."""

from msgspec import Struct

from zumbert.model.ids import RunId, StructureId


class NamedRun(Struct, frozen=True, kw_only=True):
    """The way between two structures, or from one to where its water ends, as a long section shows it."""

    id: RunId
    name: str
    a: StructureId
    b: StructureId | None = None  # None: to where the water of the first ends
    without: frozenset[StructureId] = frozenset()  # structures that its long section leaves out
