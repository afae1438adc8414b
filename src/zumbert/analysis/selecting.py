"""Wider selections: all of one type, size, network, status or run; everything upstream or
downstream; everything else.
"""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.links import downstream, upstream
from zumbert.analysis.runlist import run_keys
from zumbert.analysis.runs import way_down
from zumbert.geometry.elements import Array
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End


class Chosen(NamedTuple):
    """A set of pipes and structures."""

    pipes: frozenset[PipeId]
    structures: frozenset[StructureId]


WAYS: tuple[tuple[str, str], ...] = (
    ("type", "All of this type"), ("size", "All of this size"), ("network", "All of this network"),
    ("status", "All of this status"), ("run", "All of this run"), ("upstream", "All upstream"),
    ("downstream", "All downstream"), ("connected", "All joined to it"), ("inverse", "All others"),
    ("all", "All"),
)  # fmt: skip


def more(facts: Facts, chosen: Chosen, how: str) -> Chosen:
    """A selection widened in one of WAYS. KeyError for another word."""
    return _WAYS[how](facts, chosen)


def _all(facts: Facts, chosen: Chosen) -> Chosen:
    return Chosen(frozenset(facts.project.pipes), frozenset(facts.project.structures))


def _inverse(facts: Facts, chosen: Chosen) -> Chosen:
    whole = _all(facts, chosen)
    return Chosen(whole.pipes - chosen.pipes, whole.structures - chosen.structures)


def _type(facts: Facts, chosen: Chosen) -> Chosen:
    p = facts.project.structures
    types = {p[k].type for k in chosen.structures}
    return Chosen(chosen.pipes, frozenset(k for k, s in p.items() if s.type in types))


def _size(facts: Facts, chosen: Chosen) -> Chosen:
    p = facts.project.pipes
    sizes = {p[k].size for k in chosen.pipes}
    return Chosen(frozenset(k for k, q in p.items() if q.size in sizes), chosen.structures)


def _field(name: str, facts: Facts, chosen: Chosen) -> Chosen:
    pipes, structures = facts.project.pipes, facts.project.structures
    values = {getattr(pipes[k], name) for k in chosen.pipes} | {
        getattr(structures[k], name) for k in chosen.structures
    }
    return Chosen(
        frozenset(k for k, p in pipes.items() if getattr(p, name) in values),
        frozenset(k for k, s in structures.items() if getattr(s, name) in values),
    )


def _ends(facts: Facts, chosen: Chosen, end: End) -> set[StructureId]:
    return set(chosen.structures) | {facts.project.pipes[k].at(end) for k in chosen.pipes}


def _within(facts: Facts, reached: set[StructureId]) -> frozenset[PipeId]:
    return frozenset(
        k for k, p in facts.project.pipes.items() if p.up in reached and p.down in reached
    )


def _upstream(facts: Facts, chosen: Chosen) -> Chosen:
    starts = _ends(facts, chosen, "up")
    reached = (
        set().union(*(upstream(facts.project, facts.links, s) for s in starts)) if starts else set()
    )
    return Chosen(chosen.pipes | _within(facts, reached), frozenset(reached))


def _downstream(facts: Facts, chosen: Chosen) -> Chosen:
    starts = _ends(facts, chosen, "down")
    reached = (
        set().union(*(downstream(facts.project, facts.links, s) for s in starts))
        if starts
        else set()
    )
    return Chosen(chosen.pipes | _within(facts, reached), frozenset(reached))


def _run(facts: Facts, chosen: Chosen) -> Chosen:
    """The runs, from head to outfall, that hold what is chosen: of each the first to pick from."""
    project = facts.project
    runs = [
        way_down(project, facts.links, StructureId(k.id))
        for k in run_keys(project, facts)
        if k.kind == "run"
    ]
    ends = [{e for p in way for e in (project.pipes[p].up, project.pipes[p].down)} for way in runs]
    pipes, structures = set(chosen.pipes), set(chosen.structures)
    for thing in (*chosen.pipes, *chosen.structures):
        i = next((i for i, way in enumerate(runs) if thing in way or thing in ends[i]), None)
        if i is not None:
            pipes.update(runs[i])
            structures |= ends[i]
    return Chosen(frozenset(pipes), frozenset(structures))


def _connected(facts: Facts, chosen: Chosen) -> Chosen:
    todo = [*_ends(facts, chosen, "up"), *_ends(facts, chosen, "down")]
    seen = set(todo)
    while todo:
        for p in facts.links.at(todo.pop()):
            pipe = facts.project.pipes[p]
            for end in (pipe.up, pipe.down):
                if end not in seen:
                    seen.add(end)
                    todo.append(end)
    return Chosen(_within(facts, seen), frozenset(seen))


_WAYS = {
    "type": _type, "size": _size, "network": lambda f, c: _field("network", f, c),
    "status": lambda f, c: _field("status", f, c), "run": _run, "upstream": _upstream,
    "downstream": _downstream, "connected": _connected, "inverse": _inverse, "all": _all,
}  # fmt: skip


def inside(facts: Facts, ring: Array, seen: Callable[[Array], Array] = lambda xy: xy) -> Chosen:
    """The structures that stand inside a ring (n, 2), and the pipes both of whose ends do.

    seen: takes x and y (m, 2) to the plane of the ring, NaN where a place is not shown; the ring is
    in x and y without.
    """
    import shapely

    keys = [k for k, p in facts.places.items() if p.x is not None]
    if not keys or len(ring) < 3:
        return Chosen(frozenset(), frozenset())
    xy = np.array([(facts.places[k].x, facts.places[k].y) for k in keys], float)
    xy = seen(xy)
    within = shapely.contains_xy(shapely.make_valid(shapely.Polygon(ring)), xy[:, 0], xy[:, 1])
    found = {k for k, w in zip(keys, within.tolist(), strict=True) if w}
    return Chosen(_within(facts, found), frozenset(found))
