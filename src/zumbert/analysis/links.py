"""The links of the network: the pipes into and out of each structure, and who reaches an
outfall.
"""

from collections.abc import Callable, Iterable, Mapping
from typing import TypeVar

from msgspec import Struct

from zumbert.model.catalogue import ENDS
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.structure import Structure

K = TypeVar("K", StructureId, PipeId)


class Links(Struct, frozen=True, eq=False):
    """Pipes by structure, in the order of the project; a structure without any has no entry."""

    inlets: dict[StructureId, tuple[PipeId, ...]]
    outlets: dict[StructureId, tuple[PipeId, ...]]

    def at(self, structure: StructureId) -> tuple[PipeId, ...]:
        """All pipes at a structure, inlets first."""
        return self.inlets.get(structure, ()) + self.outlets.get(structure, ())


def alive(pipe: Pipe) -> bool:
    """Whether water runs through a pipe."""
    return pipe.status != "abandoned"


def links(project: Project) -> Links:
    """The links of a project; abandoned pipes are joined as others are."""
    return _links(project.pipes.values())


def live_links(project: Project) -> Links:
    """The links that water takes: those of pipes that are not abandoned."""
    return _links(p for p in project.pipes.values() if alive(p))


def _links(pipes: Iterable[Pipe]) -> Links:
    into: dict[StructureId, list[PipeId]] = {}
    out: dict[StructureId, list[PipeId]] = {}
    for pipe in pipes:
        out.setdefault(pipe.up, []).append(pipe.id)
        into.setdefault(pipe.down, []).append(pipe.id)
    return Links(
        inlets={k: tuple(v) for k, v in into.items()}, outlets={k: tuple(v) for k, v in out.items()}
    )


def upstream(project: Project, links: Links, start: StructureId) -> set[StructureId]:
    """The structures whose water comes to a structure, itself included."""
    return _reached(start, lambda s: [project.pipes[p].up for p in links.inlets.get(s, ())])


def downstream(project: Project, links: Links, start: StructureId) -> set[StructureId]:
    """The structures that the water of a structure comes to, itself included."""
    return _reached(start, lambda s: [project.pipes[p].down for p in links.outlets.get(s, ())])


def _reached(
    start: StructureId, beyond: Callable[[StructureId], list[StructureId]]
) -> set[StructureId]:
    seen, todo = {start}, [start]
    while todo:
        new = [s for s in beyond(todo.pop()) if s not in seen]
        seen.update(new)
        todo += new
    return seen


def stranded(project: Project, links: Links, live: Links) -> dict[StructureId, int]:
    """The structures at which water stops before any outfall or headwall, each with the number of
    structures that drain there, itself included.

    The place is the last structure of each such branch; in a ring without a way out, its first by
    label. Each stranded structure is counted at each place that it drains to. Water runs through
    `live` pipes alone, and a structure whose pipes are all abandoned has none. Empty where all is
    well.
    """
    reached: set[StructureId] = set()
    for structure in project.structures.values():
        if structure.id not in reached and (
            structure.outfall or project.types[structure.type].kind in ENDS
        ):
            reached |= upstream(project, live, structure.id)
    lost = [
        s
        for s in project.structures.values()
        if s.id not in reached and (live.at(s.id) or not links.at(s.id))
    ]
    stops = {s.id: upstream(project, live, s.id) for s in lost if not live.outlets.get(s.id)}
    told = set().union(*stops.values()) if stops else set()
    for s in sorted(lost, key=lambda s: s.label):  # what is left drains into a ring
        if s.id not in told and s.id in _beyond(project, live, s.id):
            stops[s.id] = upstream(project, live, s.id)
            told |= stops[s.id]
    return {k: len(v) for k, v in stops.items()}


def rings(project: Project, live: Links) -> dict[StructureId, int]:
    """The rings that water runs round in, each at its first structure by label, with the number of
    its structures.

    A ring is a set of structures that all drain to each other; a pipe from a structure to itself is
    one too.
    """
    left = {s for s in project.structures if s in live.inlets and s in live.outlets}
    todo = list(left)
    while todo:  # what has no way in or no way out among the rest lies on no ring
        s = todo.pop()
        ways = (live.inlets.get(s, ()), "up"), (live.outlets.get(s, ()), "down")
        if s in left and any(
            not any(getattr(project.pipes[p], end) in left for p in pipes) for pipes, end in ways
        ):
            left.discard(s)
            todo += [
                v
                for p in live.at(s)
                for v in (project.pipes[p].up, project.pipes[p].down)
                if v in left
            ]
    out: dict[StructureId, int] = {}
    told: set[StructureId] = set()
    for s in sorted(left, key=lambda s: (project.structures[s].label, s)):
        if s in told or s not in _beyond(project, live, s):
            continue
        ring = (upstream(project, live, s) & downstream(project, live, s)) | {s}
        told |= ring
        out[s] = len(ring)
    return out


def namesakes(records: Mapping[K, Structure] | Mapping[K, Pipe]) -> dict[K, K]:
    """Structures, or pipes, whose label another had before them, each with the first that has
    it.
    """
    first: dict[str, K] = {}
    return {k: first[r.label] for k, r in records.items() if first.setdefault(r.label, k) != k}


def _beyond(project: Project, links: Links, start: StructureId) -> set[StructureId]:
    after = [project.pipes[p].down for p in links.outlets.get(start, ())]
    return set().union(*(downstream(project, links, s) for s in after)) if after else set()
