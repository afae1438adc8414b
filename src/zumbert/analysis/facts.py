"""Facts: all that is derived of a project, kept where the records that it was made from are the same objects."""

from typing import TypeVar

from msgspec import Struct

from zumbert.analysis.chambers import StructureFacts, structure_facts
from zumbert.analysis.changed import changed
from zumbert.analysis.links import Links, links, stranded
from zumbert.analysis.pipes import PipeFacts, pipe_facts
from zumbert.analysis.places import Place, places
from zumbert.analysis.roads import RoadFacts, roads
from zumbert.analysis.spans import Span, spans
from zumbert.analysis.surfaces import Surfaces, surfaces
from zumbert.model.ids import PipeId, RoadId, StructureId
from zumbert.model.project import Project

K = TypeVar("K")
V = TypeVar("V")


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


def analyse(project: Project, previous: Facts | None = None) -> Facts:
    """The facts of a project; with the facts of an earlier value, only what changed since is computed anew.

    Each fact depends on records alone, so the result is the same with and without `previous`.
    """
    road_facts = roads(project, previous.roads if previous else {})
    tins = surfaces(project, previous.surfaces if previous else None)
    if previous is not None and not _same_world(project, previous, road_facts, tins):
        previous = None
    joined, lost = _links(project, previous)
    stands, moved = _places(project, previous, road_facts, tins)
    plans, replanned = _spans(project, previous, stands, moved, tins)
    levelled, touched = _pipes(project, previous, plans, replanned)
    chambers = _structures(project, previous, joined, stands, moved, levelled, touched)
    return Facts(
        project=project, roads=road_facts, surfaces=tins, links=joined, stranded=lost, places=stands,
        spans=plans, pipes=levelled, structures=chambers,
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
    )


def _links(project: Project, before: Facts | None) -> tuple[Links, dict[StructureId, int]]:
    if before is None:
        joined = links(project)
        return joined, stranded(project, joined)
    old = before.project
    pipes, gone = changed(old.pipes, project.pipes)
    joined = before.links
    if gone or any(_ends(old.pipes.get(p)) != _ends(project.pipes[p]) for p in pipes):
        joined = links(project)
    structures, lost = changed(old.structures, project.structures)
    kinds = any(s not in old.structures or old.structures[s].type != project.structures[s].type for s in structures)
    relabelled = any(s in old.structures and old.structures[s].label != project.structures[s].label for s in structures)
    same = joined is before.links and not lost and not kinds and not relabelled
    return joined, before.stranded if same else stranded(project, joined)


def _ends(pipe: object) -> tuple[object, object]:
    return getattr(pipe, "up", None), getattr(pipe, "down", None)


def _places(
    project: Project, before: Facts | None, road_facts: dict[RoadId, RoadFacts], tins: Surfaces
) -> tuple[dict[StructureId, Place], set[StructureId]]:
    """Places, and the structures whose place is not what it was."""
    if before is None:
        found = places(list(project.structures.values()), road_facts, tins)
        return dict(zip(project.structures, found, strict=True)), set(project.structures)
    keys, gone = changed(before.project.structures, project.structures)
    if not keys and not gone and before.project.structures is project.structures:
        return before.places, set()
    found = places([project.structures[k] for k in keys], road_facts, tins)
    moved = {k: p for k, p in zip(keys, found, strict=True) if before.places.get(k) != p}
    return _merged(before.places, moved, gone), set(moved)


def _spans(
    project: Project, before: Facts | None, stands: dict[StructureId, Place], moved: set[StructureId], tins: Surfaces
) -> tuple[dict[PipeId, Span], set[PipeId]]:
    """Spans, and the pipes whose span is not what it was."""
    if before is None:
        keys, gone = list(project.pipes), list[PipeId]()
    else:
        keys, gone = changed(before.project.pipes, project.pipes)
        old = before.project.pipes
        keys = [k for k in keys if _ends(old.get(k)) != _ends(project.pipes[k])]
        fresh = set(keys)
        near = {p for s in moved for p in before.links.at(s) if p in project.pipes}
        keys += [p for p in near if p not in fresh]
        if not keys and not gone:
            return before.spans, set()
    pipes = [project.pipes[k] for k in keys]
    found = spans(project, [(stands[p.up], stands[p.down]) for p in pipes], tins)
    made = dict(zip(keys, found, strict=True))
    return (made if before is None else _merged(before.spans, made, gone)), set(made)


def _pipes(
    project: Project, before: Facts | None, plans: dict[PipeId, Span], replanned: set[PipeId]
) -> tuple[dict[PipeId, PipeFacts], set[StructureId]]:
    """Facts of pipes, and the structures at which a pipe changed, came or went."""
    if before is None:
        keys, gone = list(project.pipes), list[PipeId]()
    else:
        keys, gone = changed(before.project.pipes, project.pipes)
        again = set(keys)
        keys += [k for k in replanned if k not in again]
        if not keys and not gone:
            return before.pipes, set()
    pipes = [project.pipes[k] for k in keys]
    made = dict(zip(keys, pipe_facts(project, pipes, [plans[k] for k in keys]), strict=True))
    touched = {s for p in pipes for s in (p.up, p.down)}
    if before is None:
        return made, touched
    old = [before.project.pipes[k] for k in (*keys, *gone) if k in before.project.pipes]
    touched |= {s for p in old for s in (p.up, p.down)}
    return _merged(before.pipes, made, gone), touched


def _structures(
    project: Project, before: Facts | None, joined: Links, stands: dict[StructureId, Place],
    moved: set[StructureId], levelled: dict[PipeId, PipeFacts], touched: set[StructureId],
) -> dict[StructureId, StructureFacts]:  # fmt: skip
    if before is None:
        keys, gone = list(project.structures), list[StructureId]()
    else:
        keys, gone = changed(before.project.structures, project.structures)
        again = set(keys)
        keys += [k for k in {*moved, *touched} if k not in again and k in project.structures]
        if not keys and not gone:
            return before.structures
    made = {k: structure_facts(project, project.structures[k], stands[k], joined, levelled) for k in keys}
    return made if before is None else _merged(before.structures, made, gone)


def _merged(old: dict[K, V], made: dict[K, V], gone: list[K]) -> dict[K, V]:
    """The old values with those made anew and without those gone."""
    out = old.copy()
    out.update(made)
    for k in gone:
        out.pop(k, None)
    return out
