"""What is noted on a project: spot levels and attached files."""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import AttachmentId, SpotId

Follows = Literal["existing", "design", "formation"]


class Spot(Struct, frozen=True, kw_only=True):
    """A spot level: a place whose level follows a surface."""

    id: SpotId
    x: float  # m
    y: float
    follows: Follows


class Attachment(Struct, frozen=True, kw_only=True, eq=False):
    """A file that belongs to the project: kept inside it (data), or linked (path)."""

    id: AttachmentId
    name: str
    note: str = ""
    path: str | None = None  # where a linked file is
    data: bytes | None = None  # the file itself
