"""The project's library of structure types and pipe sizes: changed, copied, ticked, read in,
taken out.
"""

import re
from collections import Counter
from collections.abc import Iterable
from typing import Any

from msgspec.structs import replace

from zumbert.edits.records import with_one
from zumbert.errors import EditError, TypedError, known
from zumbert.model.catalogue import PipeSize, StructureType
from zumbert.model.display import Units
from zumbert.model.ids import SizeKey, TypeKey
from zumbert.model.library import (
    FIELDS,
    Shelf,
    ShelfField,
    ShelfRecord,
    ShelfValue,
    fault,
    with_value,
)
from zumbert.model.project import Project
from zumbert.model.quantity import LENGTH, RATIO, SMALL

YES, NO = ("yes", "y", "true", "1", "x"), ("no", "n", "false", "0", "")


def set_record(project: Project, shelf: Shelf, key: str, name: str, text: str) -> Project:
    """The project with a field of a type or size as a text means it, in the project's units.

    Raises EditError for a text that means nothing there, or that makes a record that cannot be.
    """
    field = next(f for f in FIELDS[shelf] if f.name == name)
    return _with(
        project, shelf, _changed(project, shelf, getattr(project, shelf)[key], field, text)
    )


def _changed(project: Project, shelf: Shelf, record: Any, field: ShelfField, text: str) -> Any:
    """A record with a field as a text means it; a name that says its inside size follows that."""
    made: Any = with_value(record, field, _meant(field, text.strip(), project.units))
    if shelf == "types" and field.name == "inside_mm" and record.inside:
        old, new = (f"{round(r.inside * 1000)}" for r in (record, made))
        made = replace(made, name=re.sub(rf"\b{old}\b", new, made.name))
    return made


def sizes_up(shelf: Shelf, name: str) -> bool:
    """Whether a field of the library is a measure: what is of the type or size changes with it."""
    return next(f for f in FIELDS[shelf] if f.name == name).of not in ("text", "yes", "choice")


def users(project: Project, shelf: Shelf, key: str) -> Counter[str]:
    """How many structures or pipes are of a type or size, by status."""
    if shelf == "types":
        return Counter(s.status for s in project.structures.values() if s.type == key)
    return Counter(p.status for p in project.pipes.values() if p.size == key)


def changed_for_proposed(project: Project, shelf: Shelf, key: str, name: str, text: str) -> Project:
    """The project with a copy of a type or size that has the field changed, and all that is
    proposed of the old one of the new; existing work stays as it is. Raises EditError as
    `set_record`.
    """
    field = next(f for f in FIELDS[shelf] if f.name == name)
    before = getattr(project, shelf)[key]
    copy, fresh = copied_record(project, shelf, key)
    made = _changed(project, shelf, before, field, text)
    if shelf == "types" and made.name == before.name:
        made = replace(made, name=getattr(copy, shelf)[fresh].name)
    if shelf == "sizes" and (made.dn, made.material, made.grade) == (
        before.dn,
        before.material,
        before.grade,
    ):
        made = replace(made, grade=getattr(copy, shelf)[fresh].grade)
    project = _with(project, shelf, replace(made, key=fresh))
    if shelf == "types":
        structures = {
            k: replace(s, type=TypeKey(fresh)) if s.type == key and s.status == "proposed" else s
            for k, s in project.structures.items()
        }
        return replace(project, structures=structures)
    pipes = {
        k: replace(p, size=SizeKey(fresh)) if p.size == key and p.status == "proposed" else p
        for k, p in project.pipes.items()
    }
    return replace(project, pipes=pipes)


def _meant(field: ShelfField, text: str, u: Units) -> ShelfValue:
    if field.of == "text":
        return text
    if field.of == "yes":
        if text.lower() not in (*YES, *NO):
            raise EditError(f'{field.head} is "{text}": it is yes or no.')
        return text.lower() in YES
    if field.of == "choice":
        if text.lower() not in field.words:
            raise EditError(
                f'{field.head} is "{text}": {known(text, [w for w in field.words if w])}'
            )
        return text.lower()
    if not text:
        if field.empty:
            return None
        raise EditError(f"{field.head} needs a value.")
    try:
        value = u.typed_dn(text) if field.of == "dn" else u.typed(text, of=_QUANTITIES[field.of])
    except TypedError as e:
        raise EditError(f'{field.head} is "{text}", which is no number.') from e
    return value / 1000 if field.of == "mm" else value


_QUANTITIES = {"m": LENGTH, "mm": SMALL, "number": RATIO}


def _with(project: Project, shelf: Shelf, record: Any) -> Project:
    """The project with a record of the library replaced or added. Raises EditError where it
    cannot be.
    """
    _sound(project, shelf, record)
    records = getattr(project, shelf)
    if records.get(record.key) == record:
        return project
    return replace(project, **{shelf: with_one(records, record.key, record)})


def _sound(project: Project, shelf: Shelf, record: ShelfRecord) -> None:
    why = fault(record)
    if why is not None:
        raise EditError(f"{title(project, record)}: {why}.")
    for other in getattr(project, shelf).values():
        if other.key == record.key:
            continue
        if isinstance(record, StructureType) and other.name.lower() == record.name.lower():
            raise EditError(f'There is already a type "{record.name}": give this one another name.')
        if isinstance(record, PipeSize) and (other.material, other.dn, other.grade) == (
            record.material,
            record.dn,
            record.grade,
        ):
            raise EditError(
                f"There is already {title(project, record)}: give this one another DN, "
                "material or class."
            )


def title(project: Project, record: ShelfRecord) -> str:
    """A record in words."""
    if isinstance(record, StructureType):
        return record.name
    return f"{project.units.dn(record.dn)} {record.material} {record.grade}".rstrip()


def uses(project: Project, shelf: Shelf, key: str) -> int:
    """How many structures or pipes are of a type or size."""
    return sum(users(project, shelf, key).values())


def copied_record(project: Project, shelf: Shelf, key: str) -> tuple[Project, str]:
    """The project with a copy of a type or size, under a name or class of its own, and its key."""
    record: Any = getattr(project, shelf)[key]
    records = getattr(project, shelf)
    n = 2
    while f"{key}-{n}" in records:
        n += 1
    fresh = f"{key}-{n}"
    named = (
        {"name": f"{record.name} ({n})"}
        if shelf == "types"
        else {"grade": f"{record.grade} copy {n}".strip()}
    )
    return _with(project, shelf, replace(record, key=fresh, **named)), fresh


def without_record(project: Project, shelf: Shelf, key: str) -> Project:
    """The project without a type or size. Raises EditError for one in use: that can only be
    unticked.
    """
    records = getattr(project, shelf)
    count = uses(project, shelf, key)
    name = title(project, records[key])
    if count:
        what = ("structure" if shelf == "types" else "pipe") + ("" if count == 1 else "s")
        raise EditError(
            f"{name} is used by {count} {what}: untick it instead, or change those first."
        )
    if len(records) == 1:
        raise EditError(f"{name} is the last one: the library needs one at least.")
    return replace(project, **{shelf: {k: r for k, r in records.items() if k != key}})


def with_records(
    project: Project, types: Iterable[StructureType], sizes: Iterable[PipeSize]
) -> Project:
    """The project with records taken in: those of a known key are replaced, others added. Raises
    EditError.
    """
    for record in types:
        project = _with(project, "types", record)
    for size in sizes:
        project = _with(project, "sizes", size)
    return project


def with_starter_set(project: Project) -> Project:
    """The project with those records of the starter set that it lacks; those it has stay as they
    are.
    """
    start = project.units.measures
    names = {t.name.lower() for t in project.types.values()}
    there = {(s.material, s.dn, s.grade) for s in project.sizes.values()}
    return with_records(
        project,
        [t for t in start.types if t.key not in project.types and t.name.lower() not in names],
        [
            s
            for s in start.sizes
            if s.key not in project.sizes and (s.material, s.dn, s.grade) not in there
        ],
    )
