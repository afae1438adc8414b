"""A named run. It follows the network."""

from msgspec import Struct

from zumbert.model.ids import RunId, StructureId


class NamedRun(Struct, frozen=True, kw_only=True):
    """The path between two structures, or from one down to the end of its water, with a name."""

    id: RunId
    name: str
    a: StructureId
    b: StructureId | None = None  # None: to where the water of the first ends
    without: frozenset[StructureId] = frozenset()  # structures that its long section leaves out
