"""Edits of one field: what the level rows and the side panel have in common."""

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from zumbert.app.session import Session
from zumbert.edits.change import move_structure, set_rim, set_size, set_type
from zumbert.edits.join import deleted
from zumbert.edits.labels import rename
from zumbert.edits.levels import set_cover, set_invert, set_slope
from zumbert.edits.roads import without_point
from zumbert.edits.things import Thing, removed, thing_name
from zumbert.edits.typed import changed_by, typed_chainage
from zumbert.errors import EditError, ZumbertError
from zumbert.model.ids import PipeId, RoadId, StructureId, TypeKey
from zumbert.model.project import Project, size_of
from zumbert.model.slope import parsed_slope
from zumbert.model.structure import FixedRim

Make = Callable[[Session, Any, str], tuple[str, Callable[..., Project]]]


def edit_field(session: Session, thing: Any, field: str, text: str) -> bool:
    """Applies a typed value to a field of a pipe or structure as one undo step; a refusal is told, and False."""
    try:
        name, make = _FIELDS[field](session, thing, text)
    except (ZumbertError, ValueError) as e:
        session.refused.emit(str(e))
        return False
    return session.edit(name, make)


def _label(session: Session, thing: Any) -> str:
    project = session.state.kept.project
    return project.pipes[thing].label if thing in project.pipes else project.structures[thing].label


def _invert(end: str) -> Make:
    def make(session: Session, pipe: PipeId, text: str) -> tuple[str, Callable[..., Project]]:
        p = session.state.kept.project.pipes[pipe]
        where = session.state.kept.project.structures[getattr(p, end)].label
        to = changed_by(text, getattr(p, f"invert_{end}"), session.units)
        return f"Set the invert at {where}", lambda project, facts: set_invert(project, pipe, end, to)  # type: ignore[arg-type]

    return make


def _slope(session: Session, pipe: PipeId, text: str) -> tuple[str, Callable[..., Project]]:
    hand = session.state.hand
    keep = hand.held if hand is not None and hand.pipe == pipe else "up"
    slope = parsed_slope(text)
    return f"Set the slope of {_label(session, pipe)}", lambda p, f: set_slope(p, f, pipe, slope, keep)


def _cover(session: Session, pipe: PipeId, text: str) -> tuple[str, Callable[..., Project]]:
    hand = session.state.hand
    moving = "down" if hand is None or hand.pipe != pipe or hand.held == "up" else "up"
    cover = changed_by(text.lower().removeprefix("c"), 0.0, session.units)
    return f"Set the cover of {_label(session, pipe)}", lambda p, f: set_cover(p, f, pipe, cover, moving)  # type: ignore[arg-type]


def _size(session: Session, pipe: PipeId, text: str) -> tuple[str, Callable[..., Project]]:
    return f"Change the size of {_label(session, pipe)}", lambda p, f: set_size(p, pipe, size_of(p, text))


def _type(session: Session, structure: StructureId, text: str) -> tuple[str, Callable[..., Project]]:
    return f"Change the type of {_label(session, structure)}", lambda p, f: set_type(p, structure, TypeKey(text))


def _rename(session: Session, structure: StructureId, text: str) -> tuple[str, Callable[..., Project]]:
    return f"Rename {_label(session, structure)}", lambda p, f: rename(p, structure, text)


def _rim(session: Session, structure: StructureId, text: str) -> tuple[str, Callable[..., Project]]:
    now = session.state.kept.facts.places[structure].rim or 0.0
    to = changed_by(text, now, session.units)
    return f"Set the rim of {_label(session, structure)}", lambda p, f: set_rim(p, structure, FixedRim(to))


def _place(field: str) -> Make:
    def make(session: Session, structure: StructureId, text: str) -> tuple[str, Callable[..., Project]]:
        place = session.state.kept.project.structures[structure].place
        if not hasattr(place, field):
            raise EditError(f"{_label(session, structure)} has no {field} of its own: it is not anchored to a road.")
        t = text.strip()
        if field == "chainage" and "+" in t[1:]:
            to = typed_chainage(t, session.units)
        else:
            to = (
                changed_by(t, getattr(place, field), session.units)
                if field in ("x", "y", "chainage")
                else changed_by("=" + t.lstrip("="), 0.0, session.units)
            )
        moved = replace(place, **{field: to})
        return f"Move {_label(session, structure)}", lambda p, f: move_structure(p, f, structure, moved)

    return make


_FIELDS: dict[str, Make] = {
    "invert_up": _invert("up"),
    "invert_down": _invert("down"),
    "slope": _slope,
    "cover": _cover,
    "size": _size,
    "type": _type,
    "label": _rename,
    "rim": _rim,
    "chainage": _place("chainage"),
    "offset": _place("offset"),
    "x": _place("x"),
    "y": _place("y"),
}


def delete_thing(session: Session, thing: Thing, part: tuple[str, int] | None) -> None:
    """Takes out the selected point of a road, else the whole thing, as one undo step."""
    name = thing_name(session.state.kept.project, thing)
    if part is not None and thing.kind == "road":
        what = "point" if part[0] == "ip" else "vertical point"
        road = RoadId(thing.id)
        session.set(part=None)
        session.edit(f"Take out {what} {part[1] + 1} of {name}", lambda p, f: without_point(p, road, part))
    else:
        session.edit(f"Remove {name}", lambda p, f: removed(p, thing))


def delete_selected(session: Session) -> None:
    """Deletes what is selected as one undo step. Where others would lose a pipe, that is told first: asked for once
    more with the same selection, it is done.
    """
    s = session.state
    pipes, structures = s.pipes, s.structures
    if not pipes and not structures:
        return
    project = s.kept.project
    names = sorted([project.pipes[p].label for p in pipes] + [project.structures[k].label for k in structures])
    shown = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
    made, loss = deleted(project, s.kept.facts, structures, pipes)
    told = (s.kept, pipes, structures)
    if loss.loose and session.told != told:
        session.told = told
        session.refused.emit(f"Delete {shown}: {loss.words}. Del again to do it.")
        return
    session.apply(f"Delete {shown}", made)
