"""Edits of one field, and deletions, as undo steps of the session."""

from functools import partial
from typing import Any, cast

from PySide6.QtWidgets import QApplication, QWidget

from zumbert.app.questions import ask
from zumbert.app.session import Session
from zumbert.edits.fields import field_name, set_field
from zumbert.edits.grounditems import GroundItem, item_name, removed
from zumbert.edits.join import deleted
from zumbert.edits.library import changed_for_proposed, sizes_up, title, users
from zumbert.edits.roads import without_point
from zumbert.model.ids import RoadId
from zumbert.model.library import Shelf
from zumbert.model.pipe import End


def edit_field(session: Session, thing: Any, field: str, text: str) -> bool:
    """Applies a typed value to a field of a pipe or structure as one undo step; a refusal is told,
    and False.

    A slope turns about the end that is marked on the slope row.
    """
    project = session.state.current.project
    shelf, _, of_library = field.partition(".")
    there = (
        thing in getattr(project, shelf)
        if of_library
        else thing in project.pipes or thing in project.structures
    )
    if not there:
        session.refused.emit("That is no longer there: nothing was changed.")
        return False
    pivot = pivot_end(session, thing)
    name = field_name(session.state.current.project, thing, field)
    if of_library and sizes_up(cast("Shelf", shelf), of_library):
        answer = _asked_about_users(session, cast("Shelf", shelf), thing)
        if answer == 1:
            make = partial(
                changed_for_proposed,
                shelf=cast("Shelf", shelf),
                key=thing,
                name=of_library,
                text=text,
            )
            return session.edit(f"{name}, for the proposed", lambda p, f: make(p))
        if answer == 2:
            return False
    return session.edit(name, lambda p, f: set_field(p, f, thing, field, text, pivot))


def _asked_about_users(session: Session, shelf: "Shelf", key: str) -> int:
    """Whether a type or size that is in use is changed for all (0), for the proposed alone (1)
    or not (2).
    """
    project = session.state.current.project
    found = users(project, shelf, key)
    if not found:
        return 0
    what = "structure" if shelf == "types" else "pipe"
    counts = " and ".join(f"{n} {status}" for status, n in sorted(found.items(), reverse=True))
    name = title(project, getattr(project, shelf)[key])
    word = "it changes" if sum(found.values()) == 1 else "they change"
    text = (
        f"{name} is in use by {counts} {what}{'' if sum(found.values()) == 1 else 's'}: {word} "
        "with it."
    )
    new = f"New {'type' if shelf == 'types' else 'size'} for the proposed"
    return ask(
        QApplication.activeWindow(), "library in use", "In use", text, ("Change all", new, "Cancel")
    )


def pivot_end(session: Session, thing: Any) -> End:
    """The end of a pipe that a slope turns about, as its mark in the slope row shows it."""
    hand = session.state.chosen.hand
    return hand.pivot if hand is not None and hand.pipe == thing else session.state.chosen.pivot


def delete_item(session: Session, item: GroundItem, part: tuple[str, int] | None) -> None:
    """Takes out the selected point of a road, else the whole item, as one undo step."""
    name = item_name(session.state.current.project, item)
    if part is not None and item.kind == "road":
        what = "point" if part[0] == "ip" else "vertical point"
        road = RoadId(item.id)
        session.set(part=None)
        session.edit(
            f"Take out {what} {part[1] + 1} of {name}", lambda p, f: without_point(p, road, part)
        )
    else:
        session.edit(f"Remove {name}", lambda p, f: removed(p, item))


FEW = 4  # things: more than so many are deleted only when asked for by their number


def delete_selected(session: Session, parent: QWidget) -> None:
    """Deletes what is selected as one undo step; of more than a few it asks, with the count. Where
    others would lose a pipe, that is told first: asked for once more with the same selection, it is
    done.
    """
    s = session.state
    # a preview may show more than there is, and all of it may be selected
    project = s.current.project
    pipes = frozenset(p for p in s.chosen.pipes if p in project.pipes)
    structures = frozenset(k for k in s.chosen.structures if k in project.structures)
    if not pipes and not structures:
        return
    names = sorted(
        [project.pipes[p].label for p in pipes] + [project.structures[k].label for k in structures]
    )
    shown = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
    made, loss = deleted(project, s.current.facts, structures, pipes)
    if len(pipes) + len(structures) > FEW:
        counts = [
            f"{len(k)} {word}{'s' if len(k) != 1 else ''}"
            for k, word in ((structures, "structure"), (pipes, "pipe"))
            if k
        ]
        text = f"Delete {' and '.join(counts)}?" + (
            f" {loss.words[:1].upper()}{loss.words[1:]}." if loss.loose else ""
        )
        if ask(parent, "delete", "Delete", text, ("Delete", "Cancel"), drops=0) == 0:
            session.apply(f"Delete {shown}", made)
        return
    told = (s.current, pipes, structures)
    if loss.loose and session.told != told:
        session.told = told
        session.refused.emit(f"Delete {shown}: {loss.words}. Del again to do it.")
        return
    session.apply(f"Delete {shown}", made)
