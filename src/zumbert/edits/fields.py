"""Sets one field of a structure or pipe from a text, for panels, level rows, tables and files
read back.
"""

from collections.abc import Callable, Iterable
from typing import Any, NamedTuple

from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.checks.limits import governing_drop
from zumbert.edits.change import move_structure, set_next_slope, set_rim, set_size, set_type
from zumbert.edits.labels import rename
from zumbert.edits.levels import not_too_steep, set_cover, set_invert, set_slope, slopes_kept
from zumbert.edits.library import set_record, title
from zumbert.edits.networks import set_network
from zumbert.edits.records import with_pipe, with_structure
from zumbert.edits.several import set_status
from zumbert.edits.trenchtypes import set_pipe_trench
from zumbert.edits.typed import changed_by, typed_cover, typed_levels
from zumbert.errors import EditError, known
from zumbert.fields import Field, fields_of
from zumbert.model.ids import PipeId, StructureId, TypeKey
from zumbert.model.library import FIELDS as LIBRARY
from zumbert.model.library import Shelf
from zumbert.model.pipe import End
from zumbert.model.project import Project, size_of
from zumbert.model.structure import STATUSES, Anchored, FixedRim, Free

Setter = Callable[[Project, Facts, Any, str, End], Project]


def set_field(
    project: Project, facts: Facts, thing: Any, field: str, text: str, pivot: End = "up"
) -> Project:
    """The project with a field of a pipe or structure set from a text; a slope turns about the end
    `pivot`.

    Numbers may be steps from now: "+0.15". Raises EditError with a sentence for a text that means
    nothing there.
    """
    set_ = _SETTERS.get(field)
    made = (
        _stored(project, facts, thing, fields_of(project, thing)[field], text)
        if set_ is None
        else set_(project, facts, thing, text, pivot)
    )
    if thing in made.pipes:
        not_too_steep(made, facts, thing)
    return made


class FieldText(NamedTuple):
    """A text for a field, and how a person would name the place where it stands."""

    thing: Any
    field: str
    text: str
    where: str
    pivot: End = "up"  # the end that a slope turns about


def set_fields(project: Project, facts: Facts, cells: Iterable[FieldText]) -> Project:
    """The project with many fields set, one after another. Raises EditError that names the first
    that does not fit.
    """
    for cell in cells:
        try:
            made = set_field(project, facts, cell.thing, cell.field, cell.text, cell.pivot)
        except EditError as e:
            raise EditError(f"{cell.where}: {e}") from e
        if made is not project:
            project, facts = made, analyse(made, facts)
    return project


def field_name(project: Project, thing: Any, field: str) -> str:
    """The name in words of an edit of a field."""
    shelf, _, name = field.partition(".")
    if name:
        return f"Change {title(project, getattr(project, shelf)[thing])}"
    known_field = fields_of(project, thing)[field]
    if thing not in project.pipes:
        return known_field.edit.format(project.structures[thing].label)
    p = project.pipes[thing]
    of = p if known_field.end is None else project.structures[p.at(known_field.end)]
    return known_field.edit.format(of.label)


def _invert(end: End) -> Setter:
    """A level, or any other text that the entry line takes at that end: a step, a slope, a
    cover.
    """
    return lambda project, facts, pipe, text, pivot: typed_levels(project, facts, pipe, end, text)


def _drop(end: End) -> Setter:
    def set_(project: Project, facts: Facts, pipe: PipeId, text: str, pivot: End) -> Project:
        p = project.pipes[pipe]
        now = governing_drop(facts, pipe, p.at(end))
        if now is None:
            raise EditError(f"Nothing else is joined there that {p.label} could drop to.")
        # the water drops more the higher it comes in
        by = changed_by(text, now.drop, project.units) - now.drop
        level = p.invert_up - by if end == "up" else p.invert_down + by
        return set_invert(project, pipe, end, level)

    return set_


def _crown(end: End) -> Setter:
    def set_(project: Project, facts: Facts, pipe: PipeId, text: str, pivot: End) -> Project:
        f = facts.pipes[pipe]
        now = project.pipes[pipe].invert(end) + f.inside
        return set_invert(project, pipe, end, changed_by(text, now, project.units) - f.inside)

    return set_


def _slope(project: Project, facts: Facts, pipe: PipeId, text: str, pivot: End) -> Project:
    return set_slope(project, facts, pipe, project.units.typed_slope(text), pivot)


def _cover(project: Project, facts: Facts, pipe: PipeId, text: str, pivot: End) -> Project:
    return set_cover(
        project, facts, pipe, typed_cover(facts, pipe, text), "down" if pivot == "up" else "up"
    )


def _size(project: Project, facts: Facts, pipe: PipeId, text: str, pivot: End) -> Project:
    """A number alone is a size of the pipe's own material, where that has it."""
    now = project.pipes[pipe].size
    material = project.sizes[now].material if isinstance(now, str) else ""
    like = size_of(project, f"{text} {material}")
    return set_size(
        project, pipe, like if material and like in project.sizes else size_of(project, text)
    )


def _type(project: Project, facts: Facts, structure: StructureId, text: str, pivot: End) -> Project:
    """A type by its key or its name."""
    t = text.strip()
    named = next((k for k, v in project.types.items() if v.name.lower() == t.lower()), None)
    made = set_type(project, structure, named or TypeKey(t))
    return slopes_kept(project, facts, made, facts.links.at(structure))


def _label(
    project: Project, facts: Facts, structure: StructureId, text: str, pivot: End
) -> Project:
    return rename(project, structure, text)


def _rim(project: Project, facts: Facts, structure: StructureId, text: str, pivot: End) -> Project:
    now = facts.places[structure].rim or 0.0
    return set_rim(project, structure, FixedRim(changed_by(text, now, project.units)))


def _next_slope(
    project: Project, facts: Facts, structure: StructureId, text: str, pivot: End
) -> Project:
    """A slope; nothing, or "as laid", for none."""
    t = text.strip().lower()
    return set_next_slope(
        project, facts, structure, None if t in ("", "as laid") else project.units.typed_slope(t)
    )


def _place(field: str) -> Setter:
    def set_(
        project: Project, facts: Facts, structure: StructureId, text: str, pivot: End
    ) -> Project:
        s, t, to = project.structures[structure], text.strip(), 0.0
        if not hasattr(s.place, field):
            what = "anchored to no road" if isinstance(s.place, Free) else "anchored to a road"
            raise EditError(f"{s.label} has no {field} of its own: it is {what}.")
        if field == "chainage" and "+" in t[1:]:
            to = project.units.typed_chainage(t)
        elif field == "offset":  # +2.8 is an offset to the right, no step
            to = changed_by("=" + t.lstrip("="), 0.0, project.units)
        else:
            to = changed_by(t, getattr(s.place, field), project.units)
        place: Anchored | Free = replace(s.place, **{field: to})
        return move_structure(project, facts, structure, place)

    return set_


def set_shared(
    project: Project,
    facts: Facts,
    structures: Iterable[StructureId],
    pipes: Iterable[PipeId],
    field: str,
    text: str,
) -> Project:
    """The project with a field that structures and pipes share set from a text. Raises
    EditError for a text that means nothing there.
    """
    if field in _SHARED:
        return _SHARED[field](project, structures, pipes, text)
    for thing in (*structures, *pipes):
        project = set_field(project, facts, thing, field, text)
    return project


def _status(
    project: Project, structures: Iterable[StructureId], pipes: Iterable[PipeId], text: str
) -> Project:
    status = next((s for s in STATUSES if s == text.strip().lower()), None)
    if status is None:
        raise EditError(f'"{text}" is no status: it is proposed, existing or abandoned.')
    return set_status(project, structures, pipes, status)


def _trench(project: Project, facts: Facts, thing: Any, text: str, pivot: End) -> Project:
    """The name of a trench type; that of the pipe's network, or no text, is as the network has
    it.
    """
    network = project.networks[project.pipes[thing].network].trench
    found = next(
        (k for k, t in project.trench_types.items() if t.name.lower() == text.strip().lower()), None
    )
    if found is None and text.strip():
        names = [t.name for t in project.trench_types.values()]
        raise EditError(f'There is no trench type "{text}": {known(text, names)}')
    return set_pipe_trench(project, [thing], None if found == network else found)


def _network(
    project: Project, structures: Iterable[StructureId], pipes: Iterable[PipeId], text: str
) -> Project:
    found = next(
        (k for k, n in project.networks.items() if n.name.lower() == text.strip().lower()), None
    )
    if found is None:
        names = [n.name for n in project.networks.values()]
        raise EditError(f'There is no network "{text}": {known(text, names)}')
    return set_network(project, found, structures, pipes)


_SHARED = {"status": _status, "network": _network}


def _shared(field: str) -> Setter:
    def set_(project: Project, facts: Facts, thing: Any, text: str, pivot: End) -> Project:
        both = ([], [thing]) if thing in project.pipes else ([thing], [])
        return set_shared(project, facts, *both, field, text)

    return set_


def _stored(project: Project, facts: Facts, thing: Any, field: Field, text: str) -> Project:
    """Sets a field that is only stored: a number, one of some words, or free text."""
    pipe, value = thing in project.pipes, text.strip()
    record: Any = (project.pipes if pipe else project.structures)[thing]
    if field.kind.number:
        to: float | str = changed_by(text, getattr(record, field.key) or 0.0, project.units)
    else:
        words = field.offered(project)
        to = next((w for w in words if w.lower() == value.lower()), value)
        if words and to not in words:
            raise EditError(f'{field.title} is "{value}": {known(value, words)}')
    return (
        with_pipe(project, thing, **{field.key: to})
        if pipe
        else with_structure(project, thing, **{field.key: to})
    )


_SETTERS: dict[str, Setter] = {  # of fields that do more than stand in their record
    "invert_up": _invert("up"), "invert_down": _invert("down"), "crown_up": _crown("up"),
    "crown_down": _crown("down"), "drop_up": _drop("up"), "drop_down": _drop("down"),
    "slope": _slope, "cover": _cover, "size": _size,
    "type": _type, "label": _label, "rim": _rim, "chainage": _place("chainage"),
    "offset": _place("offset"), "next_slope": _next_slope,
    "x": _place("x"), "y": _place("y"), "trench": _trench,
    **{field: _shared(field) for field in _SHARED},
}  # fmt: skip


def _library(shelf: Shelf, name: str) -> Setter:
    """A field of the library, named "types.wall_mm"."""
    return lambda project, facts, key, text, pivot: set_record(project, shelf, key, name, text)


_SETTERS |= {
    f"{shelf}.{f.name}": _library(shelf, f.name)
    for shelf, fields in LIBRARY.items()
    for f in fields
}
