"""The values that edits of many and sizing may change."""

from msgspec.structs import replace

from zumbert.errors import EditError
from zumbert.model.ids import PipeId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.structure import Structure


def may_change(record: Pipe | Structure) -> str:
    """The values that are free to change, in words: "size, slope", "all" or
    "nothing".
    """
    if record.status != "proposed":
        return f"nothing: {record.status}"
    if isinstance(record, Structure):
        return "nothing" if record.hold_size else "all"
    held = {
        "size": record.hold_size,
        "upper invert": record.hold_up,
        "lower invert": record.hold_down,
        "slope": record.hold_slope,
    }
    free = [name for name, on in held.items() if not on]
    return "all" if len(free) == len(held) else ", ".join(free) or "nothing"


def hold_sizes(project: Project, pipes: frozenset[PipeId], on: bool) -> Project:
    """The project with the sizes of some pipes held, or let go. Raises EditError where there is
    none.
    """
    if not pipes:
        raise EditError("No pipe is selected.")
    return replace(
        project,
        pipes={
            k: replace(p, hold_size=on) if k in pipes and p.hold_size != on else p
            for k, p in project.pipes.items()
        },
    )
