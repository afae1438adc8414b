"""Spot levels and attached files."""

from msgspec.structs import replace

from zumbert.errors import EditError
from zumbert.model.ids import AttachmentId, SpotId
from zumbert.model.note import Attachment, Follows, Spot
from zumbert.model.project import Project, with_id

LARGEST = 200 << 20  # bytes of one file kept inside a project


def add_spot(project: Project, x: float, y: float, follows: Follows) -> Project:
    """The project with a spot level that follows a surface."""
    project, key = with_id(project, "t")
    spot = Spot(id=SpotId(key), x=x, y=y, follows=follows)
    return replace(project, spots={**project.spots, spot.id: spot})


def attach(project: Project, name: str, data: bytes | None = None, path: str | None = None, note: str = "") -> Project:
    """The project with a file more: kept inside it (data), or linked (path). Raises EditError for a very large one."""
    if data is not None and len(data) > LARGEST:
        raise EditError(f"{name} is larger than 200 MB: link it instead of keeping it inside.")
    project, key = with_id(project, "f")
    a = Attachment(id=AttachmentId(key), name=name, note=note, path=path, data=data)
    return replace(project, attachments={**project.attachments, a.id: a})
