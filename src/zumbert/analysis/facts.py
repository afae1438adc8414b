"""Facts: all that is derived of a project, kept where the records that it was made from are the same objects."""

from typing import Any, TypeVar

from msgspec import Struct

from zumbert.analysis.chambers import StructureFacts, structure_facts
from zumbert.analysis.changed import changed
from zumbert.analysis.land import allowed
from zumbert.analysis.links import Links, links, stranded
from zumbert.analysis.pipes import PipeFacts, pipe_facts
from zumbert.analysis.places import Place, places
from zumbert.analysis.roads import RoadFacts, roads
from zumbert.analysis.spans import Span, spans
from zumbert.analysis.surfaces import Surfaces, surfaces
from zumbert.model.display import Units
from zumbert.model.ids import NetworkId, PipeId, RoadId, StructureId
from zumbert.model.pipe import InvertBasis, Pipe
from zumbert.model.project import Project
from zumbert.model.structure import Free, Structure

K = TypeVar("K")
V = TypeVar("V")


class Since(Struct, frozen=True, eq=False):
    """What is new against the facts that these were made from; those are known by a token, so that none are kept."""

    token: object
    before: object | None  # the token of those facts; None: made from none
    pipes: list[PipeId]
    structures: list[StructureId]


class Facts(Struct, frozen=True, kw_only=True, eq=False):
    """Derived values of one project, by id."""

    project: Project
    roads: dict[RoadId, RoadFacts]
    surfaces: Surfaces
    links: Links
    stranded: dict[StructureId, int]
    places: dict[StructureId, Place]
    spans: dict[PipeId, Span]
    pipes: dict[PipeId, PipeFacts]
    structures: dict[StructureId, StructureFacts]
    land: Any  # the areas that work may lie in, as one; None: none is drawn
    since: Since  # what is new in these facts

    @property
    def units(self) -> Units:
        """How the project shows values."""
        return self.project.settings.units


class _Changes(Struct, frozen=True, eq=False):
    """What differs between two projects' records."""

    pipes: list[PipeId]
    pipes_gone: list[PipeId]
    structures: list[StructureId]
    structures_gone: list[StructureId]


def analyse(project: Project, previous: Facts | None = None) -> Facts:
    """The facts of a project; with the facts of an earlier value, only what changed since is computed anew.

    Each fact depends on records alone, so the result is the same with and without `previous`.
    """
    known = previous is not None and previous.project.land is project.land
    land = previous.land if previous is not None and known else allowed(project.land)
    road_facts = roads(project, previous.roads if previous else {})
    tins = surfaces(project, road_facts, previous.surfaces if previous else None)
    if previous is not None and not _same_world(project, previous, road_facts, tins):
        previous = None
    diff = _changes(project, previous)
    joined, lost = _links(project, previous, diff)
    stands, moved = _places(project, previous, diff, road_facts, tins)
    plans, replanned = _spans(project, previous, diff, stands, moved, road_facts, tins)
    levelled, pipes, touched = _pipes(project, previous, diff, plans, replanned)
    chambers, structures = _structures(project, previous, diff, joined, stands, moved | touched, levelled)
    before = previous.since.token if previous is not None else None
    since = Since(token=object(), before=before, pipes=pipes, structures=structures)
    return Facts(
        project=project, roads=road_facts, surfaces=tins, links=joined, stranded=lost, places=stands,
        spans=plans, pipes=levelled, structures=chambers, land=land, since=since,
    )  # fmt: skip


def _same_world(project: Project, before: Facts, road_facts: dict[RoadId, RoadFacts], tins: Surfaces) -> bool:
    """Whether all that every structure and pipe may depend on is as it was."""
    old = before.project
    return (
        road_facts is before.roads
        and tins is before.surfaces
        and project.types == old.types
        and project.sizes == old.sizes
        and project.settings == old.settings
        and _bases(project) == _bases(old)
    )


def _bases(project: Project) -> dict[NetworkId, InvertBasis | None]:
    """Where the networks quote inverts."""
    return {k: n.invert_basis for k, n in project.networks.items()}


def _changes(project: Project, before: Facts | None) -> _Changes:
    if before is None:
        return _Changes(list(project.pipes), [], list(project.structures), [])
    old = before.project
    return _Changes(*changed(old.pipes, project.pipes), *changed(old.structures, project.structures))


def _links(project: Project, before: Facts | None, diff: _Changes) -> tuple[Links, dict[StructureId, int]]:
    if before is None:
        joined = links(project)
        return joined, stranded(project, joined)
    old = before.project
    joined = before.links
    if diff.pipes_gone or any(_ends(old.pipes.get(p)) != _ends(project.pipes[p]) for p in diff.pipes):
        joined = links(project)
    same = joined is before.links and not diff.structures_gone
    same = same and all(_drain(old.structures.get(s)) == _drain(project.structures[s]) for s in diff.structures)
    return joined, before.stranded if same else stranded(project, joined)


def _ends(pipe: Pipe | None) -> tuple[StructureId, StructureId] | None:
    return None if pipe is None else (pipe.up, pipe.down)


def _path(pipe: Pipe | None) -> tuple[object, ...] | None:
    """What of a pipe decides its path in plan."""
    return None if pipe is None else (pipe.up, pipe.down, pipe.through)


def _third(pipe: Pipe, road_facts: dict[RoadId, RoadFacts]) -> tuple[float, float] | None:
    """The place that a curved pipe passes; none beyond the end of its road."""
    place = pipe.through
    if place is None:
        return None
    if isinstance(place, Free):
        return place.x, place.y
    x, y = road_facts[place.road].alignment.point(place.chainage, place.offset)
    return None if x != x else (float(x), float(y))


def _drain(structure: Structure | None) -> tuple[str, str, bool] | None:
    """What of a structure decides where water stops, and how that is told."""
    return None if structure is None else (structure.type, structure.label, structure.outfall)


def _places(
    project: Project, before: Facts | None, diff: _Changes, road_facts: dict[RoadId, RoadFacts], tins: Surfaces
) -> tuple[dict[StructureId, Place], set[StructureId]]:
    """Places, and the structures whose place is not what it was."""
    if before is not None and not diff.structures and not diff.structures_gone:
        return before.places, set()
    found = places([project.structures[k] for k in diff.structures], road_facts, tins)
    made = dict(zip(diff.structures, found, strict=True))
    if before is None:
        return made, set(made)
    moved = {k: p for k, p in made.items() if before.places.get(k) != p}
    return _merged(before.places, moved, diff.structures_gone), set(moved)


def _spans(
    project: Project, before: Facts | None, diff: _Changes, stands: dict[StructureId, Place],
    moved: set[StructureId], road_facts: dict[RoadId, RoadFacts], tins: Surfaces,
) -> tuple[dict[PipeId, Span], set[PipeId]]:  # fmt: skip
    """Spans, and the pipes whose span is not what it was."""
    keys = diff.pipes
    if before is not None:
        old = before.project.pipes
        keys = [k for k in diff.pipes if _path(old.get(k)) != _path(project.pipes[k])]
        near = {p for s in moved for p in before.links.at(s) if p in project.pipes}
        keys += list(near.difference(keys))
        if not keys and not diff.pipes_gone:
            return before.spans, set()
    pipes = [project.pipes[k] for k in keys]
    found = spans(project, [(stands[p.up], stands[p.down], _third(p, road_facts)) for p in pipes], tins)
    made = dict(zip(keys, found, strict=True))
    return (made if before is None else _merged(before.spans, made, diff.pipes_gone)), set(made)


def _pipes(
    project: Project, before: Facts | None, diff: _Changes, plans: dict[PipeId, Span], replanned: set[PipeId]
) -> tuple[dict[PipeId, PipeFacts], list[PipeId], set[StructureId]]:
    """Facts of pipes, which of them are new, and the structures at which a pipe changed, came or went."""
    keys = [*diff.pipes, *replanned.difference(diff.pipes)]
    if before is not None and not keys and not diff.pipes_gone:
        return before.pipes, [], set()
    pipes = [project.pipes[k] for k in keys]
    made = dict(zip(keys, pipe_facts(project, pipes, [plans[k] for k in keys]), strict=True))
    touched = {s for p in pipes for s in (p.up, p.down)}
    if before is None:
        return made, keys, touched
    old = [before.project.pipes[k] for k in (*keys, *diff.pipes_gone) if k in before.project.pipes]
    touched |= {s for p in old for s in (p.up, p.down)}
    return _merged(before.pipes, made, diff.pipes_gone), keys, touched


def _structures(
    project: Project, before: Facts | None, diff: _Changes, joined: Links, stands: dict[StructureId, Place],
    touched: set[StructureId], levelled: dict[PipeId, PipeFacts],
) -> tuple[dict[StructureId, StructureFacts], list[StructureId]]:  # fmt: skip
    """Facts of structures, and which of them are new."""
    keys = [*diff.structures, *(k for k in touched.difference(diff.structures) if k in project.structures)]
    if before is not None and not keys and not diff.structures_gone:
        return before.structures, []
    made = {k: structure_facts(project, project.structures[k], stands[k], joined, levelled) for k in keys}
    return (made if before is None else _merged(before.structures, made, diff.structures_gone)), keys


def _merged(old: dict[K, V], made: dict[K, V], gone: list[K]) -> dict[K, V]:
    """The old values with those made anew and without those gone."""
    out = old.copy()
    out.update(made)
    for k in gone:
        out.pop(k, None)
    return out
