"""Runs: the paths that a long section can show, from an outfall upwards, and roads."""

from collections.abc import Iterator, Sequence
from operator import is_
from typing import Any, Literal, NamedTuple

import numpy as np

from zumbert.analysis.crossings import Crossing, Reach, crosses, crossings, nearby, roads_met
from zumbert.analysis.facts import Facts
from zumbert.analysis.links import Links
from zumbert.analysis.paths import shortest
from zumbert.analysis.roads import RoadFacts
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Arc, Array, Straight
from zumbert.geometry.line import Line
from zumbert.geometry.profile import Profile
from zumbert.model.ids import PipeId, RoadId, RunId, StructureId
from zumbert.model.project import Project


class RunKey(NamedTuple):
    """What a long section shows: the way from a structure to its outfall, or a road."""

    kind: Literal["run", "road", "path", "named"]
    id: str  # of a path: the ids of its ends, with a blank between

    @classmethod
    def path(cls, a: StructureId, b: StructureId) -> "RunKey":
        """The way between two structures, whichever is named first."""
        return cls("path", " ".join(sorted((a, b))))


class Other(NamedTuple):
    """Another line of levels along a run: formation, rock, or a road profile that is not in
    force.
    """

    role: Literal["formation", "rock", "existing profile", "design profile"]
    name: str
    line: Line


class Run(NamedTuple):
    """A run laid out along a line: structures and pipes by distance, ground and design along it."""

    key: RunKey
    name: str
    structures: tuple[tuple[StructureId, float], ...]
    reaches: tuple[Reach, ...]
    length: float  # m
    start: float  # m: distance at which it begins; a road's first chainage
    fall: float | None  # m, highest invert less lowest
    ground: Line | None
    design: Line | None
    line: Alignment | None  # the line in plan, distances as its chainages
    others: tuple[Other, ...] = ()
    crossings: tuple[Crossing, ...] = ()
    corners: Array = np.zeros((0, 2))  # of the line in plan
    at: Array = np.zeros(0)  # m: distances of those along it
    near: tuple[PipeId, ...] = ()  # pipes that may cross it
    anchors: tuple[RoadId | None, ...] = ()  # the roads that its structures are anchored to
    plan: object = None  # the spans that it was laid out by: the same ones lay it out the same
    made: tuple[object, ...] = ()  # the facts and records that it was made from


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
    """What a way down is called: from its head to its bottom."""
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
        return _road_run(facts, RoadId(key.id), before) if key.id in project.roads else None
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
        ground, design, others, met = before.ground, before.design, before.others, _met(before)
    else:
        ground = _strung([(facts.spans[r.pipe].ground, r) for r in reaches])
        design = _strung([(facts.spans[r.pipe].design, r) for r in reaches])
        others, met = _others(facts, corners, chain), roads_met(facts, reaches, corners, chain)
    return Run(
        key,
        name,
        tuple(structures),
        tuple(reaches),
        at,
        0.0,
        _fall(project, reaches),
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


def _met(run: Run) -> list[Crossing]:
    """The roads that cross a run."""
    return [c for c in run.crossings if c.kind == "road"]


def _fall(project: Project, reaches: Sequence[Reach]) -> float | None:
    """The highest invert less the lowest, m."""
    inverts = [
        v
        for r in reaches
        for v in (project.pipes[r.pipe].invert_up, project.pipes[r.pipe].invert_down)
    ]
    return max(inverts) - min(inverts) if inverts else None


def _others(facts: Facts, xy: Array, ch: Array | None) -> tuple[Other, ...]:
    """Formation and rock along a line; distances along it, or (ch) the chainages of its corners."""
    out: list[Other] = []
    for role, tin in (("formation", facts.surfaces.formation), ("rock", facts.surfaces.rock)):
        if tin is None or len(xy) < 2:
            continue
        s, z = tin.section(xy)
        if not np.isnan(z).all():
            out.append(Other(role, facts.surfaces.name(role), Line(_as_chainages(s, xy, ch), z)))  # type: ignore[arg-type]
    return tuple(out)


def _as_chainages(s: Array, xy: Array, ch: Array | None) -> Array:
    """Distances along chords as the chainages of their ends say."""
    if ch is None:
        return s
    chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))])
    return np.asarray(np.interp(s, chord, ch))


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


def _road_run(facts: Facts, road: RoadId, before: Run | None) -> Run:
    """Everything anchored to a road at its chainage, what stands within the distance that the road
    shows, and the pipes whose both ends are shown. A structure near two roads is in the long
    sections of both. Its lines are those of an earlier run where nothing has moved in plan since.
    """
    project, r = facts.project, facts.roads[road]
    at = {
        k: p.chainage
        for k, p in facts.places.items()
        if p.road == road
        and p.chainage is not None
        and getattr(project.structures[k].place, "road", None) == road
    }
    at |= _beside(facts, r, set(at))
    at = {k: ch for k, ch in at.items() if k not in r.road.without}
    structures = tuple(
        sorted(((k, at[k]) for k in project.structures if k in at), key=lambda i: i[1])
    )
    reaches = tuple(
        Reach(k, at[p.up], at[p.down])
        for k, p in project.pipes.items()
        if p.up in at and p.down in at and at[p.up] != at[p.down]
    )
    a = r.alignment
    if before is not None:
        xy, ch, met, others = before.corners, before.at, _met(before), before.others
        ground, design = before.ground, before.design
    else:
        ch = a.polyline(step=50.0)
        xy = np.column_stack(a.point(ch))
        met, others = (
            roads_met(facts, (), xy, ch, road),
            (*_others(facts, xy, ch), *_profiles(r, ch)),
        )
        ground, design = _along(facts, road, "existing"), _along(facts, road, "design")
    return Run(
        RunKey("road", road),
        r.road.name,
        structures,
        reaches,
        a.length,
        a.start,
        _fall(project, reaches),
        ground,
        design,
        a,
        others,
        crossings(facts, (), xy, ch, (), met),
        xy,
        ch,
        (),
        (),
        facts.spans,
    )


def _beside(facts: Facts, r: RoadFacts, own: set[StructureId]) -> dict[StructureId, float]:
    """Chainages of the structures that stand within the road's distance and are not anchored to
    it.
    """
    near = r.road.near
    keys = (
        [k for k, p in facts.places.items() if k not in own and p.x is not None]
        if near is not None
        else []
    )
    if near is None or not keys:
        return {}
    xy = np.array([(facts.places[k].x, facts.places[k].y) for k in keys], float)
    ch, off = r.alignment.project(xy[:, 0], xy[:, 1])
    return {
        k: c
        for k, c, o in zip(keys, ch.tolist(), off.tolist(), strict=True)
        if abs(o) <= near + 1e-9
    }


def _profiles(r: RoadFacts, ch: Array) -> Iterator[Other]:
    """The profiles of a road that are not in force."""
    for i, profile in enumerate(r.road.profiles):
        if i == r.road.design:
            continue
        made = Profile(profile.pvis)
        at = np.unique(np.concatenate([ch, made.ch, made.ch - made.before, made.ch + made.beyond]))
        at = at[(at >= made.start) & (at <= made.end)]
        if len(at) > 1:
            role: Any = "existing profile" if profile.kind == "existing" else "design profile"
            yield Other(role, profile.name, Line(at, made.level(at)))


def _along(facts: Facts, road: RoadId, role: Literal["existing", "design"]) -> Line | None:
    """A surface along a road's centre line, on chords that leave it by 1 cm at most; else its
    profile in force.
    """
    r = facts.roads[road]
    tin = getattr(facts.surfaces, role)
    ch = r.alignment.polyline(step=50.0)
    if tin is not None:
        xy = np.column_stack(r.alignment.point(ch))
        s, z = tin.section(xy)
        chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))])
        return Line(np.interp(s, chord, ch), z)
    if role == "design" and r.profile is not None:
        return Line(ch, r.profile.level(ch))
    return None
