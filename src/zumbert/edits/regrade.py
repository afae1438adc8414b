"""Regrading a run: new levels for all pipes between two structures, carried from one to the other."""

from collections.abc import Mapping
from heapq import heappop, heappush
from typing import Literal, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.errors import EditError
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project

Carried = Literal["invert", "centre", "crown"]
PART: dict[Carried, float] = {"invert": 0.0, "centre": 0.5, "crown": 1.0}


class Step(NamedTuple):
    """One pipe of a path; forward where the walk goes with its flow."""

    pipe: PipeId
    forward: bool
    to: StructureId


class Line(NamedTuple):
    """Levels (m above datum) of the carried line on one pipe, in walking order."""

    step: Step
    begin: float
    end: float


class Regrade(Struct, frozen=True, kw_only=True):
    """A regrade asked for: from A to B, levels of the carried line."""

    a: StructureId
    b: StructureId
    start: float  # m above datum at A
    slope: float | None = None  # fraction, positive: falls from A to B; None: from the end level
    end: float | None = None  # m above datum at B
    by: Carried = "invert"
    drop: float = 0.0  # m at each structure between, lowering the side that the line falls to
    drops: Mapping[StructureId, float] = {}  # m, in place of `drop` there
    without: frozenset[StructureId] = frozenset()  # structures that get no drop
    ignore_holds: bool = False  # pipes whose levels are held get new ones too
    joints_too: bool = False


class Regraded(Struct, frozen=True, kw_only=True):
    """What a regrade makes: the project, its lines, and the arithmetic as one would check it."""

    project: Project
    lines: tuple[Line, ...]
    slope: float  # fraction, positive: falls from A to B
    length: float  # m, sum of basis lengths
    drops: float  # m, sum
    against: tuple[PipeId, ...]  # pipes that now rise in their flow direction

    @property
    def sum(self) -> str:
        """The arithmetic in words."""
        fall = abs(self.slope) * self.length + self.drops
        u = self.project.units
        return f"{u.long(self.length)} at {u.slope(abs(self.slope))} + drops {u.level(self.drops)} = {u.deep(fall)}"


def path(project: Project, facts: Facts, a: StructureId, b: StructureId) -> list[Step]:
    """The shortest way from A to B by plan length, whatever the flow directions. EditError if there is none."""
    best: dict[StructureId, tuple[float, Step | None, StructureId | None]] = {a: (0.0, None, None)}
    queue: list[tuple[float, str, StructureId]] = [(0.0, "", a)]
    done: set[StructureId] = set()
    while queue:
        far, _, here = heappop(queue)
        if here in done:
            continue
        done.add(here)
        for key in facts.links.at(here):
            pipe = project.pipes[key]
            step = Step(key, pipe.up == here, pipe.down if pipe.up == here else pipe.up)
            reach = far + facts.pipes[key].span.length
            if step.to not in best or reach < best[step.to][0]:
                best[step.to] = (reach, step, here)
                heappush(queue, (reach, project.structures[step.to].label, step.to))
    names = project.structures[a].label, project.structures[b].label
    if a == b:
        raise EditError(f"A run goes from one structure to another: {names[0]} was given twice.")
    if b not in best:
        raise EditError(f"No pipes lead from {names[0]} to {names[1]}: join them first.")
    out: list[Step] = []
    at = b
    while at != a:
        _, back, before = best[at]
        assert back is not None and before is not None  # noqa: S101 - only A has none
        out.append(back)
        at = before
    return out[::-1]


def regraded(project: Project, facts: Facts, ask: Regrade) -> Regraded:
    """The run from A to B at new levels; pipes off the path stay. Source of the rules: the walk of domain.md 8.

    Raises EditError where drops alone exceed the fall, or no path leads from A to B; then nothing changes.
    """
    steps = path(project, facts, ask.a, ask.b)
    held = [project.pipes[s.pipe].label for s in steps if project.pipes[s.pipe].keep_levels]
    if held and not ask.ignore_holds:
        raise EditError(f"{', '.join(held)} on this path keep their levels: let them go, or regrade them all the same.")
    pipes = [facts.pipes[s.pipe] for s in steps]
    total = sum(f.basis for f in pipes)
    drops = [_drop_at(project, ask, s.to) for s in steps[:-1]]
    slope = ask.slope if ask.slope is not None else _slope_between(project, ask, total, sum(drops))
    lines, at = list[Line](), ask.start
    sign = -1.0 if slope >= 0 else 1.0  # the farther side is the lower one, at slope 0 too
    for step, f, drop in zip(steps, pipes, [*drops, 0.0], strict=True):
        end = at - slope * f.basis
        lines.append(Line(step, at, end))
        at = end + sign * drop
    records = project.pipes.copy()
    for line, f in zip(lines, pipes, strict=True):
        records[f.pipe.id] = _levelled(f, line, ask.by)
    against = tuple(f.pipe.id for f in pipes if records[f.pipe.id].invert_up < records[f.pipe.id].invert_down - 1e-9)
    return Regraded(
        project=replace(project, pipes=records), lines=tuple(lines), slope=slope, length=total,
        drops=sum(drops), against=against,
    )  # fmt: skip


def _levelled(f: PipeFacts, line: Line, by: Carried) -> Pipe:
    lower = PART[by] * f.inside
    begin, end = line.begin - lower, line.end - lower
    up, down = (begin, end) if line.step.forward else (end, begin)
    return replace(f.pipe, invert_up=up, invert_down=down)


def _drop_at(project: Project, ask: Regrade, at: StructureId) -> float:
    if at in ask.drops:
        drop = ask.drops[at]
    elif at in ask.without:
        drop = 0.0
    else:
        joint = project.types[project.structures[at].type].kind == "joint"
        drop = 0.0 if joint and not ask.joints_too else ask.drop
    if drop < 0:
        raise EditError(
            f"The drop at {project.structures[at].label} is {project.units.deep(drop)}: a drop is 0 or more."
        )
    return drop


def _slope_between(project: Project, ask: Regrade, total: float, drops: float) -> float:
    u = project.units
    if ask.end is None:
        raise EditError("A regrade needs a slope, or the level at its other end.")
    fall = ask.start - ask.end
    rest = abs(fall) - drops
    if rest < -1e-9:
        a, b = project.structures[ask.a].label, project.structures[ask.b].label
        raise EditError(
            f"The drops from {a} to {b} add up to {u.deep(drops)}, more than the fall of {u.deep(abs(fall))}: "
            "lessen the drops or move an end."
        )
    if total <= 1e-9:
        raise EditError("The run has no length between its inverts.")
    return (1.0 if fall >= 0 else -1.0) * max(0.0, rest) / total
