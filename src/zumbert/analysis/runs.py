"""Runs: the paths that a long section can show, from an outfall upwards, and roads."""

from operator import is_

import numpy as np

from zumbert.analysis.crossings import Reach, crosses, crossings, nearby, roads_met
from zumbert.analysis.facts import Facts
from zumbert.analysis.links import Links
from zumbert.analysis.paths import shortest
from zumbert.analysis.roadruns import road_run
from zumbert.analysis.runline import Run, RunKey, fall_along, met_on, other_lines
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.line import Line
from zumbert.model.ids import PipeId, RoadId, RunId, StructureId
from zumbert.model.project import Project


def way_down(project: Project, links: Links, head: StructureId) -> list[PipeId]:
    """The pipes from a structure down to where its water ends; the first outlet where there are
    several.
    """
    out: list[PipeId] = []
    seen = {head}
    while links.outlets.get(head):
        pipe = links.outlets[head][0]
        out.append(pipe)
        head = project.pipes[pipe].down
        if head in seen:
            break
        seen.add(head)
    return out


def run_name(project: Project, head: StructureId, bottom: StructureId) -> str:
    """The name of a way down: from its head to its bottom."""
    labels = project.structures[head].label, project.structures[bottom].label
    return labels[0] if head == bottom else f"{labels[0]} to {labels[1]}"


def run(facts: Facts, key: RunKey, before: Run | None = None) -> Run | None:
    """The run of a key; None where the structure or road is gone, or stands nowhere.

    An earlier run of the key stays the same object where nothing that it was made from has changed;
    what of it does not depend on levels is taken over where nothing has moved in plan since.
    """
    if before is not None and before.key != key:
        before = None
    if before is not None:
        now = _made_from(facts, before, fresh=True)
        if len(now) == len(before.made) and all(map(is_, now, before.made)):
            return before
    made = _run(facts, key, before if before is not None and before.plan is facts.spans else None)
    return None if made is None else made._replace(made=_made_from(facts, made))


def _run(facts: Facts, key: RunKey, before: Run | None) -> Run | None:
    project = facts.project
    if key.kind == "road":
        return road_run(facts, RoadId(key.id), before) if key.id in project.roads else None
    if key.kind == "named":
        return _named_run(facts, key, before)
    if key.kind == "path":
        a, _, b = key.id.partition(" ")
        return _path_run(facts, StructureId(a), StructureId(b), key, before)
    return _pipe_run(facts, StructureId(key.id), before) if key.id in project.structures else None


def _named_run(facts: Facts, key: RunKey, before: Run | None) -> Run | None:
    """A run that was named: between its ends, or from its head to where its water ends; without
    what is left out.
    """
    record = facts.project.runs.get(RunId(key.id))
    if record is None or record.a not in facts.project.structures:
        return None
    made = (
        _pipe_run(facts, record.a, before)
        if record.b is None
        else _path_run(facts, record.a, record.b, key, before)
    )
    if made is None:
        return None
    shown = tuple((k, at) for k, at in made.structures if k not in record.without)
    return made._replace(key=key, name=record.name, structures=shown)


def _path_run(
    facts: Facts, a: StructureId, b: StructureId, key: RunKey, before: Run | None
) -> Run | None:
    """The shortest way between two structures, from the end that lies lower."""
    project = facts.project
    if a not in project.structures or b not in project.structures:
        return None
    low = {k: facts.structures[k].lowest for k in (a, b)}
    if before is not None and before.structures and before.structures[0][0] in (a, b):
        a, b = (
            (a, b) if before.structures[0][0] == a else (b, a)
        )  # half a typed level turns no section round
    elif (low[a] or 0.0) > (low[b] or 0.0):
        a, b = b, a
    steps = shortest(facts, a, b)
    if steps is None or any(facts.places[k].x is None for k in (a, *(s.to for s in steps))):
        return None
    reaches, structures, at = list[Reach](), [(a, 0.0)], 0.0
    for step in steps:
        far = at + facts.spans[step.pipe].length
        reaches.append(Reach(step.pipe, at, far) if step.forward else Reach(step.pipe, far, at))
        structures.append((step.to, far))
        at = far
    name = f"{project.structures[b].label} to {project.structures[a].label}"
    return _laid_out(facts, key, name, structures, reaches, before)


def _made_from(facts: Facts, run: Run, fresh: bool = False) -> tuple[object, ...]:
    """The facts and records that a run is made from and its drawing shows: the same objects make
    the same run.

    With `fresh` the pipes that are new in these facts and come across it count as well.
    """
    p = facts.project
    world = (
        facts.links,
        facts.roads,
        facts.surfaces,
        p.services,
        p.settings,
        p.types,
        p.sizes,
        p.standards,
        p.networks,
        p.structures if run.key.kind == "road" else None,
        p.trench_types,
        p.runs,
        p.pins,
    )
    came = (
        crosses(facts, facts.made.fresh("pipes"), run.reaches, run.corners, run.at) if fresh else ()
    )
    return (
        *world,
        came,
        *(facts.pipes.get(c.id) for c in run.crossings if c.kind == "pipe"),
        *(facts.pipes.get(r.pipe) for r in run.reaches),
        *(facts.structures.get(k) for k, _ in run.structures),
    )


def _pipe_run(facts: Facts, head: StructureId, before: Run | None) -> Run | None:
    """From the lowest structure (distance 0) up to the head."""
    project = facts.project
    way = way_down(project, facts.links, head)[::-1]
    bottom = project.pipes[way[0]].down if way else head
    if any(facts.places[s].x is None for s in [bottom, *(project.pipes[p].up for p in way)]):
        return None
    structures, reaches, at = [(bottom, 0.0)], [], 0.0
    for p in way:
        long = facts.spans[p].length
        reaches.append(Reach(p, at + long, at))
        at += long
        structures.append((project.pipes[p].up, at))
    return _laid_out(
        facts, RunKey("run", head), run_name(project, head, bottom), structures, reaches, before
    )


def _laid_out(
    facts: Facts,
    key: RunKey,
    name: str,
    structures: list[tuple[StructureId, float]],
    reaches: list[Reach],
    before: Run | None,
) -> Run:
    """A run of pipes one after another, its ground and all else laid out along them."""
    project, at = facts.project, structures[-1][1]
    if before is not None and before.reaches == tuple(reaches):
        line, corners, chain, near = before.line, before.corners, before.at, before.near
    else:
        line = Alignment(_pieces(facts, reaches)) if at > 1e-6 else None
        chain = line.polyline(step=5.0) if line is not None else np.zeros(0)
        corners = np.column_stack(line.point(chain)) if line is not None else np.zeros((0, 2))
        near = nearby(facts, reaches, corners)
        before = None
    anchors = tuple(getattr(project.structures[k].place, "road", None) for k, _ in structures)
    if before is not None and before.anchors == anchors:
        ground, design, others, met = before.ground, before.design, before.others, met_on(before)
    else:
        ground = _strung([(facts.spans[r.pipe].ground, r) for r in reaches])
        design = _strung([(facts.spans[r.pipe].design, r) for r in reaches])
        others, met = other_lines(facts, corners, chain), roads_met(facts, reaches, corners, chain)
    return Run(
        key,
        name,
        tuple(structures),
        tuple(reaches),
        at,
        0.0,
        fall_along(project, reaches),
        ground,
        design,
        line,
        others,
        crossings(facts, reaches, corners, chain, near, met),
        corners,
        chain,
        near,
        anchors,
        facts.spans,
    )


def _pieces(facts: Facts, reaches: list[Reach]) -> list[Straight | Arc]:
    """The pieces of a run's line: its pipes in their order, each with its flow or against it."""
    out: list[Straight | Arc] = []
    for r in reaches:
        span = facts.spans[r.pipe]
        against = r.up > r.down
        if span.arc is not None:
            a = span.arc
            out.append(Arc(a.x1, a.y1, a.x0, a.y0, a.xc, a.yc, not a.clockwise) if against else a)
        elif span.length > 1e-6:
            ends = span.point(0.0), span.point(span.length)
            out.append(Straight(*ends[1], *ends[0]) if against else Straight(*ends[0], *ends[1]))
    return out


def _strung(parts: list[tuple[Line | None, Reach]]) -> Line | None:
    """Lines along pipes strung to one along the run, which goes with the pipes' distances or
    against them.
    """
    s, z = [], []
    for on, reach in parts:
        if on is None:
            continue
        if reach.up > reach.down:
            s.append((reach.up - on.s)[::-1])
            z.append(on.z[::-1])
        else:
            s.append(reach.up + on.s)
            z.append(on.z)
    return Line(np.concatenate(s), np.concatenate(z)) if s else None
