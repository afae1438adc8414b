"""Spot levels, levels pinned to pipes, and attached files."""

from typing import Any

from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.errors import EditError
from zumbert.model.ids import AttachmentId, PinId, PipeId, SpotId
from zumbert.model.note import Attachment, CoverFrom, Follows, Pin, Spot
from zumbert.model.project import Project, with_id

LARGEST = 200 << 20  # bytes of one file kept inside a project


def add_spot(project: Project, x: float, y: float, follows: Follows) -> Project:
    """The project with a spot level that follows a surface."""
    project, key = with_id(project, "t")
    spot = Spot(id=SpotId(key), x=x, y=y, follows=follows)
    return replace(project, spots={**project.spots, spot.id: spot})


def add_pin(
    project: Project,
    facts: Facts,
    pipe: PipeId,
    at: float,
    like: Pin | None = None,
    cover_from: CoverFrom | None = None,
) -> Project:
    """The project with a level pinned to a pipe at a distance (m) from its upstream reference
    point.

    `like` gives what it says, `cover_from` the surface of its cover. Raises EditError for a
    distance beyond the pipe.
    """
    f, u = facts.pipes[pipe], project.units
    if not -1e-6 <= at <= f.span.length + 1e-6:
        raise EditError(
            f"{f.pipe.label} is {u.long(f.span.length)} long: a pin stands between 0 and that."
        )
    project, key = with_id(project, "n")
    pin = replace(like or Pin(id=PinId(key), pipe=pipe, at=at), id=PinId(key), pipe=pipe, at=at)
    pin = pin if cover_from is None else replace(pin, cover_from=cover_from)
    return replace(project, pins={**project.pins, pin.id: pin})


def change_pin(project: Project, pin: PinId, **values: Any) -> Project:
    """The project with a pin that says other things. Raises EditError where it would say
    nothing, or too finely.
    """
    made = replace(project.pins[pin], **values)
    if not made.fields:
        raise EditError("A pin says one thing at least: take it out instead.")
    if not 0 <= made.decimals <= 6:
        raise EditError("Levels are written with 0 to 6 decimals.")
    return (
        project if made == project.pins[pin] else replace(project, pins={**project.pins, pin: made})
    )


def attach(
    project: Project, name: str, data: bytes | None = None, path: str | None = None, note: str = ""
) -> Project:
    """The project with a file more: kept inside it (data), or linked (path). Raises EditError
    for a very large one.
    """
    if data is not None and len(data) > LARGEST:
        raise EditError(f"{name} is larger than 200 MB: link it instead of keeping it inside.")
    project, key = with_id(project, "f")
    a = Attachment(id=AttachmentId(key), name=name, note=note, path=path, data=data)
    return replace(project, attachments={**project.attachments, a.id: a})
