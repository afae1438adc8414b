"""Notes of a project: spot levels, pinned levels, attached files."""

from typing import Literal, get_args

from msgspec import Struct

from zumbert.model.ids import AttachmentId, PinId, PipeId, SpotId

Follows = Literal["existing", "design", "formation"]
PinField = Literal[
    "chainage",
    "distance",
    "invert",
    "centre",
    "crown",
    "top",
    "underside",
    "ground",
    "design",
    "cover",
]
# reference: as the rules take it
CoverFrom = Literal["reference", "existing", "design", "formation", "rock"]
PIN_FIELDS: tuple[PinField, ...] = get_args(PinField)


class Spot(Struct, frozen=True, kw_only=True):
    """A spot level: a place whose level follows a surface."""

    id: SpotId
    x: float  # m
    y: float
    follows: Follows


class Pin(Struct, frozen=True, kw_only=True):
    """A note at a place of a pipe: it follows the design."""

    id: PinId
    pipe: PipeId
    at: float  # m from the upstream reference point, on the plan path (of an arc its length)
    fields: tuple[PinField, ...] = ("invert", "cover")
    words: dict[str, str] = {}  # what stands before a value, in place of its own name
    decimals: int = 3
    cover_from: CoverFrom = "reference"  # the surface that its cover is measured from
    # whether invert and crown are told at the outer wall: underside and outside top
    outer: bool = False


class Attachment(Struct, frozen=True, kw_only=True, eq=False):
    """A file that belongs to the project: kept inside it (data), or linked (path)."""

    id: AttachmentId
    name: str
    note: str = ""
    path: str | None = None  # where a linked file is
    data: bytes | None = None  # the file itself
