"""Changing what is there: place, type, size, rim; and taking it away. Neighbours stay attached."""

from math import isfinite

from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.edits.records import with_pipe, with_structure
from zumbert.errors import EditError, known
from zumbert.model.ids import PipeId, SizeKey, StructureId, TypeKey
from zumbert.model.pipe import Bore
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, FixedRim, Free, OnSurface


def move_structure(project: Project, facts: Facts, structure: StructureId, place: Anchored | Free) -> Project:
    """The project with a structure at another place; its pipes follow, their inverts stay.

    Raises EditError for a chainage beyond the ends of the road.
    """
    if isinstance(place, Anchored):
        on_road(facts, place)
    elif not (isfinite(place.x) and isfinite(place.y)):
        raise EditError("A place needs x and y in metres.")
    return with_structure(project, structure, place=place)


def on_road(facts: Facts, place: Anchored) -> None:
    """Raises EditError unless a road has the chainage of a place."""
    u = facts.units
    road = facts.roads[place.road]
    a = road.alignment
    if not (isfinite(place.chainage) and isfinite(place.offset)):
        raise EditError("A place on a road needs chainage and offset in metres.")
    if not a.start - 1e-6 <= place.chainage <= a.end + 1e-6:
        raise EditError(
            f'Chainage {u.chainage(place.chainage)} is outside the road "{road.road.name}", '
            f"which runs from {u.chainage(a.start)} to {u.chainage(a.end)}."
        )


def set_size(project: Project, pipe: PipeId, size: SizeKey | Bore) -> Project:
    """The project with a pipe of another size, its inverts kept. Raises EditError for an unknown size."""
    if not isinstance(size, Bore) and size not in project.sizes:
        raise EditError(f'There is no pipe size "{size}": {known(size, project.sizes)}')
    return with_pipe(project, pipe, size=size)


def set_type(project: Project, structure: StructureId, key: TypeKey) -> Project:
    """The project with a structure of another type; pipes shorten or lengthen to its walls. EditError if unknown."""
    if key not in project.types:
        raise EditError(f'There is no structure type "{key}": {known(key, project.types)}')
    return with_structure(project, structure, type=key)


def set_rim(project: Project, structure: StructureId, rim: OnSurface | FixedRim) -> Project:
    """The project with a rim on a surface or at a fixed level."""
    return with_structure(project, structure, rim=rim)


def delete(project: Project, structures: frozenset[StructureId], pipes: frozenset[PipeId]) -> Project:
    """The project without some structures and pipes; pipes at a deleted structure go with it."""
    kept = {
        k: p for k, p in project.pipes.items()
        if k not in pipes and p.up not in structures and p.down not in structures
    }  # fmt: skip
    left = {k: s for k, s in project.structures.items() if k not in structures}
    return replace(project, structures=left, pipes=kept)


def turn_pipe(project: Project, pipe: PipeId) -> Project:
    """The project with a pipe's flow turned round; it stays where it lies."""
    p = project.pipes[pipe]
    return with_pipe(project, pipe, up=p.down, down=p.up, invert_up=p.invert_down, invert_down=p.invert_up)
