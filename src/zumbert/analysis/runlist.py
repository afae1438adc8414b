"""The runs that one can pick, and what a list says of each."""

from typing import NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.analysis.links import Links
from zumbert.analysis.runline import RunKey
from zumbert.analysis.runs import run, run_name, way_down
from zumbert.model.ids import PipeId, RoadId, RunId, StructureId
from zumbert.model.project import Project


def run_keys(project: Project, facts: Facts) -> list[RunKey]:
    """The runs to pick from: the longest way to each end, then those that join it, then roads.

    Leads (one pipe from a gully) are no runs of their own, and no run begins with one.
    """
    far = _distances(project, facts)
    leads = {p.id for p in project.pipes.values() if is_lead(project, facts.links, p.id)}
    seen: set[PipeId] = set(leads)
    out = []
    for head in sorted(far, key=lambda s: -far[s]):
        if (
            any(p not in leads for p in facts.links.inlets.get(head, ()))
            or facts.links.outlets[head][0] in leads
        ):
            continue
        way = way_down(project, facts.links, head)
        if all(p in seen for p in way):
            continue
        seen.update(way)
        out.append(RunKey("run", head))
    there = project.structures
    kept = [
        RunKey("named", k)
        for k, r in project.runs.items()
        if r.a in there and (r.b is None or r.b in there)
    ]
    return kept + out + [RunKey("road", r) for r in project.roads]


def is_lead(project: Project, links: Links, pipe: PipeId) -> bool:
    """Whether a pipe only brings the water of one gully to what goes on without it."""
    p = project.pipes[pipe]
    gully = project.types[project.structures[p.up].type].kind == "gully"
    return gully and not links.inlets.get(p.up) and len(links.at(p.down)) > 1


def _distances(project: Project, facts: Facts) -> dict[StructureId, float]:
    """Plan length from each structure that has an outlet down to where its water ends."""
    far: dict[StructureId, float] = {}
    for start in project.structures:
        path, at = [], start
        while at not in far and facts.links.outlets.get(at) and at not in path:
            path.append(at)
            at = project.pipes[facts.links.outlets[at][0]].down
        for node in reversed(path):
            pipe = facts.links.outlets[node][0]
            far[node] = facts.spans[pipe].length + far.get(project.pipes[pipe].down, 0.0)
    return far


def run_with(project: Project, facts: Facts, keys: list[RunKey], pipe: PipeId) -> RunKey:
    """A run that shows a pipe: the first in the list that contains it, else the pipe's own way
    down.
    """
    for key in keys:
        if key.kind == "run" and pipe in way_down(project, facts.links, StructureId(key.id)):
            return key
    head, seen = project.pipes[pipe].up, set[StructureId]()
    while facts.links.inlets.get(head) and head not in seen:
        seen.add(head)
        head = project.pipes[facts.links.inlets[head][0]].up
    way = way_down(project, facts.links, head)
    return RunKey("run", head if pipe in way else project.pipes[pipe].up)


class Outline(NamedTuple):
    """The name of a run, its length and its fall (m)."""

    name: str
    length: float
    fall: float | None


def outline(facts: Facts, key: RunKey) -> Outline | None:
    """A run as a list tells it, without laying it out; None where it is gone."""
    project = facts.project
    if key.kind == "road":
        r = facts.roads.get(RoadId(key.id))
        return None if r is None else Outline(r.road.name, r.alignment.length, None)
    record = project.runs.get(RunId(key.id)) if key.kind == "named" else None
    if key.kind == "named" and record is None:
        return None
    if key.kind == "path" or (record is not None and record.b is not None):
        made = run(facts, key)
        return None if made is None else Outline(made.name, made.length, made.fall)
    head = record.a if record is not None else StructureId(key.id)
    if head not in project.structures:
        return None
    way = way_down(project, facts.links, head)
    bottom = project.pipes[way[-1]].down if way else head
    name = record.name if record is not None else run_name(project, head, bottom)
    inverts = [v for p in way for v in (project.pipes[p].invert_up, project.pipes[p].invert_down)]
    return Outline(
        name,
        sum(facts.spans[p].length for p in way),
        max(inverts) - min(inverts) if inverts else None,
    )
