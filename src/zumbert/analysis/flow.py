"""Design flow by the rational method, with true travel times; only what an edit reaches is
computed anew.
"""

from collections.abc import Callable, Iterable, Mapping
from heapq import heapify, heappop, heappush
from math import pi, sin

from zumbert.analysis.areas import AreaFacts
from zumbert.analysis.changed import changed
from zumbert.analysis.flowfacts import Drains, Flows, NodeFlow, PipeFlow
from zumbert.analysis.fullbore import roughness
from zumbert.analysis.links import Links, alive
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.shares import all_shares, reshared
from zumbert.hydraulics.depths import manning_angle, round_flow
from zumbert.hydraulics.resistance import Roughness, velocity_at
from zumbert.model.ids import AreaId, PipeId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.rain import Rain

RATIONAL = 3.6e6  # Q (m³/s) = i (mm/h) CA (m²) / this


QUARTER = pi / 4
WEAK = (
    1e-6  # of the full-bore flow: with less, t - sin t loses digits, and the careful way is taken
)
NOTHING = Drains()
NO_NODE = NodeFlow(0.0, 0.0, 0.0, 0.0, 0.0, False)


def drains(
    project: Project, areas: Mapping[AreaId, AreaFacts], inflows: Mapping[StructureId, float]
) -> dict[StructureId, Drains]:
    """The direct inflow to each structure."""
    usual = (project.rain or Rain()).entry
    own: dict[StructureId, dict[float, float]] = {}
    for f in areas.values():
        if f.area.structure is not None:
            times = own.setdefault(f.area.structure, {})
            entry = usual if f.entry is None else f.entry
            times[entry] = times.get(entry, 0.0) + f.ca
    return {
        k: Drains(tuple(sorted(own.get(k, {}).items())), inflows.get(k, 0.0))
        for k in {**own, **inflows}
    }


def flows(
    project: Project,
    links: Links,
    facts: Mapping[PipeId, PipeFacts],
    own: dict[StructureId, Drains],
    old: Flows | None,
) -> Flows | None:
    """The design flows of a project from what drains to its structures directly; None where nothing
    drains to any structure.

    With the flows of an earlier value only what lies down from a change is computed anew; the
    result is the same.
    """
    if not own:
        return None
    world = (project.rain, project.settings.formula, project.settings.travel, project.sizes)
    if old is not None and any(
        a is not b and a != b for a, b in zip(world, old.made_from, strict=True)
    ):
        old = None
    if (
        old is None
        or old.links is not links
        or _came_or_went(project, old)
        or _alive_changed(project, old, facts)
    ):
        order, looped = _order(project, links)
        shares = all_shares(project, links)
    else:
        order, looped, shares = old.order, old.looped, reshared(project, links, facts, old)
    run = _Run(project, links, facts, own, order, looped, shares)
    if old is None:
        run.all()
    else:
        run.some(old)
    return Flows(
        pipes=run.pipes,
        nodes=run.nodes,
        looped=looped,
        order=order,
        catches=own,
        facts=facts,
        made_from=world,
        links=links,
        structures=project.structures,
        shares=shares,
    )


def _came_or_went(project: Project, old: Flows) -> bool:
    """Whether there are other structures than before: one without pipes is in no link."""
    return (
        project.structures is not old.structures
        and project.structures.keys() != old.structures.keys()
    )


def _alive_changed(project: Project, old: Flows, facts: Mapping[PipeId, PipeFacts]) -> bool:
    """Whether a pipe was abandoned, or taken into use again."""
    new, gone = changed(old.facts, facts)
    return bool(gone) or any(
        k not in old.facts or alive(old.facts[k].pipe) != alive(facts[k].pipe) for k in new
    )


def _order(project: Project, links: Links) -> tuple[dict[StructureId, int], frozenset[PipeId]]:
    """Structures from the heads down, and the pipes that lie in a ring or down from one."""
    waits = {
        k: sum(alive(project.pipes[p]) for p in links.inlets.get(k, ())) for k in project.structures
    }
    ready = [k for k, n in waits.items() if not n]
    order: dict[StructureId, int] = {}
    while ready:
        s = ready.pop()
        order[s] = len(order)
        for p in links.outlets.get(s, ()):
            pipe = project.pipes[p]
            if alive(pipe):
                waits[pipe.down] -= 1
                if not waits[pipe.down]:
                    ready.append(pipe.down)
    return order, frozenset(k for k, p in project.pipes.items() if alive(p) and p.up not in order)


class _Run:
    """One pass from the heads down, over all structures or over those that a change reaches."""

    def __init__(
        self,
        project: Project,
        links: Links,
        facts: Mapping[PipeId, PipeFacts],
        own: Mapping[StructureId, Drains],
        order: dict[StructureId, int],
        looped: frozenset[PipeId],
        shares: Mapping[PipeId, float],
    ) -> None:
        self.project, self.links, self.facts, self.own = project, links, facts, own
        self.order, self.looped, self.shares = order, looped, shares
        self.formula = project.settings.formula
        self.roughs: dict[object, Roughness] = {}
        self.plain, self.by_full = self.formula == "manning", project.settings.travel == "full"
        self.by_duration: Callable[[float], float] | None = (
            None if project.rain is None else project.rain.intensity
        )
        self.pipes: dict[PipeId, PipeFlow] = {}
        self.nodes: dict[StructureId, NodeFlow] = {}

    def all(self) -> None:
        """Every structure in order."""
        for s in self.order:
            self.nodes[s] = node = self.node(s)
            for p in self.links.outlets.get(s, ()):
                if p in self.shares:
                    self.pipes[p] = self.pipe(p, node)

    def some(self, old: Flows) -> None:
        """Structures where something came or changed, and from there down while anything is not
        what it was.
        """
        self.pipes = {
            k: f
            for k, f in old.pipes.items()
            if k in self.facts and k in self.shares and k not in self.looped
        }
        self.nodes = {k: n for k, n in old.nodes.items() if k in self.order}
        stale = set(self._touched(old))
        todo = [(self.order[s], s) for s in stale if s in self.order]
        waiting = {s for _, s in todo}
        heapify(todo)
        while todo:
            _, s = heappop(todo)
            waiting.discard(s)
            node = self.node(s)
            same = s in self.nodes and self.nodes[s] == node
            if not same:
                self.nodes[s] = node
            elif s not in stale:
                continue
            for p in self.links.outlets.get(s, ()):
                if p not in self.shares:
                    continue
                before = self.pipes.get(p)
                same_pipe = before is not None and old.facts.get(p) is self.facts[p]
                now = self.pipe(p, node, before if same_pipe else None)
                if before != now:
                    self.pipes[p] = now
                    down = self.project.pipes[p].down
                    if down in self.order and down not in waiting:
                        waiting.add(down)
                        heappush(todo, (self.order[down], down))

    def _touched(self, old: Flows) -> Iterable[StructureId]:
        """Structures whose own catch or whose pipes changed."""
        new, gone = changed(old.facts, self.facts)
        for k in new:
            pipe = self.facts[k].pipe
            yield pipe.up
            yield pipe.down
        for k in (*new, *gone):
            if k in old.facts:
                yield old.facts[k].pipe.up
                yield old.facts[k].pipe.down
        for s in self.own.keys() | old.catches.keys() if self.own is not old.catches else ():
            if self.own.get(s) != old.catches.get(s):
                yield s
        yield from (s for s in self.order if s not in old.nodes)
        if old.shares is not self.shares:
            yield from (
                self.facts[p].pipe.up for p, v in self.shares.items() if old.shares.get(p) != v
            )

    def node(self, s: StructureId) -> NodeFlow:
        """The flow at a structure: the whole by the longest time, or a part by a
        shorter one where that gives more.
        """
        catch = self.own.get(s, NOTHING)
        times = list(catch.own)
        passed, most = catch.inflow, 0.0
        for p in self.links.inlets.get(s, ()):
            f = self.pipes.get(p)
            if f is None:
                continue
            passed += f.passed
            if f.ca > 0:
                times.append((f.tc + f.travel, f.ca))
                if f.rain > most:
                    most = f.rain
        if not times:
            return NO_NODE if not passed else NodeFlow(0.0, 0.0, 0.0, passed, 0.0, False)
        by = self.by_duration
        if len(times) == 1:
            tc, ca = times[0]
        else:
            times.sort()
            tc, ca = times[-1][0], 0.0
            for _, a in times:
                ca += a
        if by is None:
            return NodeFlow(ca, tc, 0.0, passed, 0.0, False)
        intensity = by(tc)
        whole = intensity * ca / RATIONAL
        if len(times) > 1:
            sofar = 0.0
            for t, a in times[:-1]:
                sofar += a
                part = by(t) * sofar / RATIONAL
                if part > most:
                    most = part
        less = most > whole * (1 + 1e-12)
        return NodeFlow(ca, tc, most if less else whole, passed, intensity, less)

    def _rough(self, pipe: Pipe) -> Roughness:
        """The roughness of a pipe; one for each size."""
        found = self.roughs.get(pipe.size)
        if found is None:
            found = self.roughs[pipe.size] = roughness(self.project, pipe)
        return found

    def pipe(self, p: PipeId, node: NodeFlow, before: PipeFlow | None = None) -> PipeFlow:
        """The flow of a pipe from what comes together at its upper end; `before` is its flow
        while it was the same pipe.
        """
        f, share = self.facts[p], self.shares[p]
        slope = f.slope if f.slope is not None and f.slope > 1e-12 else 0.0
        rough = None
        if before is not None:
            full, capacity = before.full_velocity, before.capacity
        else:
            rough = self._rough(f.pipe)
            full = velocity_at(self.formula, f.inside / 4, slope, rough)
            capacity = full * QUARTER * f.inside * f.inside
        rain, passed = node.rain * share, node.passed * share
        flow = rain + passed
        if self.plain and WEAK * capacity < flow < capacity:
            t = manning_angle(flow / capacity)
            half = sin(t / 4)
            depth, velocity = half * half, 8 * flow / (f.inside * f.inside * (t - sin(t)))
        else:
            rough = rough if rough is not None else self._rough(f.pipe)
            depth, velocity = round_flow(self.formula, f.inside, slope, rough, flow, full)
        pace = full if self.by_full else velocity
        long = (
            f.span.length if f.span.length == f.span.length else 0.0
        )  # an end beyond its road has no place
        travel = long / (60 * pace) if pace > 0 else 0.0
        return PipeFlow(
            node.ca * share,
            node.tc,
            node.intensity,
            rain,
            passed,
            node.part,
            share,
            full,
            capacity,
            depth,
            velocity,
            travel,
        )
