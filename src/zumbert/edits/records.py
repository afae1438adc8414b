"""Replacing one record of a project, and finding it."""

from collections.abc import Mapping
from typing import Any, TypeVar, cast

from msgspec.structs import replace

from zumbert.errors import EditError, known
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.structure import Structure

K = TypeVar("K")
V = TypeVar("V")


def with_one(records: dict[K, V], key: K, record: V) -> dict[K, V]:
    """A copy of a dict with one record replaced or added."""
    return records | {key: record}


def with_pipe(project: Project, pipe: PipeId, **values: Any) -> Project:
    """The project with fields of one pipe replaced; the same project where nothing differs."""
    old = project.pipes[pipe]
    if all(getattr(old, k) == v for k, v in values.items()):
        return project
    return replace(project, pipes=with_one(project.pipes, pipe, replace(old, **values)))


def with_structure(project: Project, structure: StructureId, **values: Any) -> Project:
    """The project with fields of one structure replaced; the same project where nothing differs."""
    old = project.structures[structure]
    if all(getattr(old, k) == v for k, v in values.items()):
        return project
    return replace(
        project, structures=with_one(project.structures, structure, replace(old, **values))
    )


def free_name(
    records: Mapping[K, Any], name: str, own: K | None, what: str, field: str = "name"
) -> str:
    """A name without blanks about it. Raises EditError for none, or one that another record has."""
    name = name.strip()
    if not name:
        raise EditError(f"A {what} needs a {field}.")
    if any(getattr(r, field) == name for k, r in records.items() if k != own):
        raise EditError(f'There is already a {what} "{name}": give this one another {field}.')
    return name


def structure_labelled(project: Project, label: str) -> Structure:
    """The structure with a label. Raises EditError if there is none."""
    return cast("Structure", _labelled(project.structures, label, "structure"))


def pipe_labelled(project: Project, label: str) -> Pipe:
    """The pipe with a label. Raises EditError if there is none."""
    return cast("Pipe", _labelled(project.pipes, label, "pipe"))


def _labelled(records: Mapping[Any, Any], label: str, what: str) -> Any:
    for record in records.values():
        if record.label == label:
            return record
    raise EditError(
        f'There is no {what} "{label}": {known(label, [r.label for r in records.values()])}'
    )
