"""Whether records of a file name others that are there."""

from collections.abc import Iterator

from zumbert.geometry.intersections import elements_through
from zumbert.geometry.profile import Profile
from zumbert.model.area import Area
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.rain import rain_fault
from zumbert.model.road import Road
from zumbert.model.structure import Anchored, Structure


def faults(project: Project) -> Iterator[str]:
    """The faults of a project, each as half a sentence."""
    if not project.networks:
        yield "it has no network"
    for n in project.networks.values():
        standards = {n.standard, n.existing_standard or n.standard}
        if not standards <= project.standards.keys() or n.trench not in project.trench_types:
            yield f'network "{n.name}" has an unknown standard or trench type'
    for pipe in project.pipes.values():
        yield from (f'pipe "{pipe.label}" {fault}' for fault in _of_pipe(project, pipe))
    for s in project.structures.values():
        if not _stands(project, s):
            yield f'structure "{s.label}" has an unknown type, network or road'
    for area in project.areas.values():
        yield from (f'area "{area.name}" {fault}' for fault in _of_area(project, area))
    if project.rain is not None and (fault := rain_fault(project.rain)) is not None:
        yield f"its rain: {fault}"
    for road in project.roads.values():
        yield from (f'road "{road.name}"{fault}' for fault in _of_road(road))


def _of_pipe(project: Project, pipe: Pipe) -> Iterator[str]:
    if pipe.up not in project.structures or pipe.down not in project.structures:
        yield "ends at no structure"
    known = not isinstance(pipe.size, str) or pipe.size in project.sizes
    if not known or pipe.network not in project.networks:
        yield "has an unknown size or network"
    if pipe.trench is not None and pipe.trench not in project.trench_types:
        yield "has an unknown trench type"


def _stands(project: Project, s: Structure) -> bool:
    on_road = not isinstance(s.place, Anchored) or s.place.road in project.roads
    return s.type in project.types and s.network in project.networks and on_road


def _of_area(project: Project, area: Area) -> Iterator[str]:
    ends = () if area.along is None else (area.along.first, area.along.last)
    named = {k for k in (area.structure, *ends) if k is not None}
    on_road = area.along is None or area.along.road in project.roads
    if not named <= project.structures.keys() or not on_road:
        yield "names a structure or road that is not there"
    if area.kind not in {k.name for k in project.area_kinds}:
        yield "has an unknown kind"


def _of_road(road: Road) -> Iterator[str]:
    if not road.elements and len(road.points) < 2:
        yield " has no elements"
    if road.design is not None and not 0 <= road.design < len(road.profiles):
        yield f" has no profile {road.design}"
    try:
        if road.points:
            elements_through(road.points)
        for profile in road.profiles:
            Profile(profile.pvis)
    except ValueError as e:
        yield f": {e}"
