"""The values that several structures have in common, in the words that their fields show and
take.
"""

from collections.abc import Iterable, Sequence
from math import degrees
from typing import Any, TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox

from zumbert.app.panels.fields import Combo
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field
from zumbert.model.display import Units
from zumbert.model.project import Project
from zumbert.model.structure import OnSurface, Structure

DIFFERENT = "different"

V = TypeVar("V")


def common(values: Iterable[V]) -> tuple[bool, V | None]:
    """Whether values differ, and the one that all are."""
    found = set(values)
    return len(found) > 1, next(iter(found)) if len(found) == 1 else None


def bearing_words(structures: Sequence[Structure]) -> str:
    """Their bearing, in degrees from north."""
    differ, own = common(s.rotation for s in structures)
    if differ:
        return DIFFERENT
    return "square to the road" if own is None else f"{degrees(own):.1f}"


def cover_offset_words(structures: Sequence[Structure], u: Units) -> str:
    """Where their covers lie off their middles."""
    differ, off = common(s.cover for s in structures)
    if differ:
        return DIFFERENT
    return "in the middle" if off in (None, (0.0, 0.0)) else " ".join(map(u.offset, off or ()))


def adjustment_words(structures: Sequence[Structure], u: Units) -> str:
    """By how much their rims are off the surface; no words where none is on one."""
    rims = [s.rim.adjustment for s in structures if isinstance(s.rim, OnSurface)]
    differ, by = common(rims)
    if differ or by is None:
        return DIFFERENT if differ else ""
    return "none" if by == 0.0 else u.step(by)


def sump_depth_words(structures: Sequence[Structure], project: Project, u: Units) -> str:
    """The depth of their sumps, their own or that of their type."""
    differ, own = common(s.sump_depth for s in structures)
    if differ or own is not None:
        return DIFFERENT if differ else u.length(own)
    _, by_type = common(project.types[s.type].sump for s in structures)
    return "by type" if by_type is None else f"by type {u.length(by_type)}"


def sump_words(structures: Sequence[Structure], u: Units) -> str:
    """The level of their sumps."""
    differ, fixed = common(s.sump for s in structures)
    return DIFFERENT if differ else "derived" if fixed is None else u.level(fixed)


def shared_fields() -> list[Field]:
    """The fields of structures and pipes alike that take few words and have no row of their own in
    the panel.
    """
    return [
        f
        for k, f in STRUCTURE_FIELDS.items()
        if f.choices is not None and not f.panel and k in PIPE_FIELDS
    ]


def offer_common(box: Combo, items: list[tuple[str, str]], now: set[Any]) -> None:
    """Offers choices and selects the current one; where values differ, a first entry says so."""
    one = len(now) == 1
    wanted = items if one else [(None, DIFFERENT), *items]
    if [(box.itemData(i), box.itemText(i)) for i in range(box.count())] != wanted:
        box.clear()
        for key, text in wanted:
            box.addItem(text, key)
    box.setCurrentIndex(box.findData(next(iter(now))) if one else 0)


def tick_common(box: QCheckBox, values: list[bool]) -> None:
    """Ticks a box, half where only some have it."""
    some = len(set(values)) > 1
    box.setTristate(some)
    whole = Qt.CheckState.Checked if values and values[0] else Qt.CheckState.Unchecked
    box.setCheckState(Qt.CheckState.PartiallyChecked if some else whole)
