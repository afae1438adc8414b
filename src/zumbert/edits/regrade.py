"""Regrading a run: new levels for all pipes between two structures, carried from one to the
other.
"""

from collections.abc import Iterator, Mapping, Sequence
from math import copysign
from typing import Literal, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.analysis.paths import PathStep, shortest
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.limits import drop_limit
from zumbert.errors import EditError
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End, Pipe
from zumbert.model.project import Project

Carried = Literal["invert", "centre", "crown"]
PART: dict[Carried, float] = {"invert": 0.0, "centre": 0.5, "crown": 1.0}


class RegradedPipe(NamedTuple):
    """Levels (m above datum) of the carried line on one pipe, in walking order."""

    step: PathStep
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
    drops: Mapping[
        StructureId, float
    ] = {}  # m, in place of `drop` there; under 0: a step up that is there stays
    without: frozenset[StructureId] = frozenset()  # structures that get no drop
    ignore_holds: bool = False  # pipes whose levels are held get new ones too
    joints_too: bool = False


class Regraded(Struct, frozen=True, kw_only=True):
    """The result of a regrade: the project, its lines, and the arithmetic as one would check it."""

    project: Project
    lines: tuple[RegradedPipe, ...]
    slope: float  # fraction, positive: falls from A to B
    length: float  # m, sum of basis lengths
    drops: float  # m, sum
    against: tuple[PipeId, ...]  # pipes that now rise in their flow direction

    @property
    def sum(self) -> str:
        """The arithmetic in words."""
        fall = abs(self.slope) * self.length + self.drops
        u = self.project.units
        return (
            f"{u.long(self.length)} at {u.slope(abs(self.slope))} + drops {u.level(self.drops)} "
            f"= {u.deep(fall)}"
        )


def path(project: Project, facts: Facts, a: StructureId, b: StructureId) -> list[PathStep]:
    """The shortest way from A to B by plan length, whatever the flow directions. EditError if
    there is none.
    """
    names = project.structures[a].label, project.structures[b].label
    if a == b:
        raise EditError(f"A run goes from one structure to another: {names[0]} was given twice.")
    steps = shortest(facts, a, b)
    if steps is None:
        raise EditError(f"No pipes lead from {names[0]} to {names[1]}: join them first.")
    return steps


def ends_now(facts: Facts, steps: Sequence[PathStep], by: Carried) -> tuple[float, float]:
    """The levels (m above datum) of the carried line at A and at B as they are."""
    first, last = facts.pipes[steps[0].pipe], facts.pipes[steps[-1].pipe]
    start = first.pipe.invert_up if steps[0].forward else first.pipe.invert_down
    end = last.pipe.invert_down if steps[-1].forward else last.pipe.invert_up
    return start + PART[by] * first.inside, end + PART[by] * last.inside


class AsItIs(NamedTuple):
    """The carried line as it lies: its levels at A and B (m), its slope where all pipes have one,
    and the drop (m) at each structure between, positive where it lowers the side that the line
    falls to.
    """

    start: float
    end: float
    slope: float | None
    drops: dict[StructureId, float]


def as_it_is(facts: Facts, steps: Sequence[PathStep], by: Carried) -> AsItIs:
    """The request of a regrade that would change nothing."""
    ends = [ends_now(facts, [s], by) for s in steps]
    slopes = [
        (a - b) / facts.pipes[s.pipe].basis
        for s, (a, b) in zip(steps, ends, strict=True)
        if facts.pipes[s.pipe].basis > 0
    ]
    start, end = ends[0][0], ends[-1][1]
    sign = 1.0 if start >= end else -1.0
    drops = {s.to: sign * (ends[i][1] - ends[i + 1][0]) for i, s in enumerate(steps[:-1])}
    one = slopes[0] if slopes and max(slopes) - min(slopes) < 1e-9 else None
    return AsItIs(start, end, one, drops)


def meant_level(
    facts: Facts, steps: Sequence[PathStep], at_b: bool, text: str, by: Carried
) -> float:
    """The level of the carried line (m above datum) that a text means at A, or (at_b) at B.

    A number; "0.90 under 42.35" or "over"; "crown": the crowns there in line; "drop": the least
    drop there, as the standard asks for between this pipe and what else is joined. Raises EditError
    for anything else, and where nothing else is joined.
    """
    t, u = text.strip().lower(), facts.units
    step = steps[-1] if at_b else steps[0]
    f = facts.pipes[step.pipe]
    end: End = ("down" if step.forward else "up") if at_b else ("up" if step.forward else "down")
    key = f.pipe.at(end)
    label = facts.project.structures[key].label
    word = t.removesuffix(label.lower()).strip().removesuffix("into").removesuffix("at").strip()
    how = {
        "crown": "crown",
        "crowns": "crown",
        "crown match": "crown",
        "drop": "drop",
        "least drop": "drop",
    }.get(word)
    if how is not None:
        bounds = list(_matches(facts, f, end, how))
        if not bounds:
            raise EditError(
                f"Nothing else is joined at {label} that {word} could go by: type a level."
            )
        return (min(bounds) if end == "up" else max(bounds)) + PART[by] * f.inside
    for between, sign in ((" under ", -1.0), (" over ", 1.0)):
        if between in t:
            by_text, _, level = t.partition(between)
            return _number(level.removeprefix("floor level"), u) + sign * _number(by_text, u)
    return _number(t, u)


def _matches(facts: Facts, f: PipeFacts, end: End, how: str) -> Iterator[float]:
    """The inverts of an end at which crowns are in line, or the drop is the least, with each
    pipe on the other side.
    """
    at = facts.structures[f.pipe.at(end)]
    for d in at.drops:
        if f.pipe.id != (d.inlet if end == "down" else d.outlet):
            continue
        other = facts.pipes[d.outlet if end == "down" else d.inlet]
        level = other.pipe.invert("up" if end == "down" else "down")
        if how == "crown":
            yield level + other.inside - f.inside
        else:
            least = drop_limit(facts.project, at.structure, d.deflection)
            yield level + least if end == "down" else level - least


def _number(text: str, u: Units) -> float:
    try:
        return u.typed(text)
    except ValueError as e:
        raise EditError(
            f'"{text.strip()}" is no level: type 42.35, "0.90 under 42.35", crown or drop.'
        ) from e


def regraded(project: Project, facts: Facts, ask: Regrade) -> Regraded:
    """The run from A to B at new levels; pipes off the path stay. Source of the rules: the walk of
    domain.md 8.

    Raises EditError where drops alone exceed the fall, or no path leads from A to B; then nothing
    changes.
    """
    steps = path(project, facts, ask.a, ask.b)
    held = [project.pipes[s.pipe].label for s in steps if project.pipes[s.pipe].holds]
    if held and not ask.ignore_holds:
        raise EditError(
            f"{', '.join(held)} on this path hold a level or slope: let them go, or regrade "
            "them all the same."
        )
    pipes = [facts.pipes[s.pipe] for s in steps]
    total = sum(f.basis for f in pipes)
    drops = [drop_at(project, ask, s.to) for s in steps[:-1]]
    slope = ask.slope if ask.slope is not None else _slope_between(project, ask, total, sum(drops))
    lines, at = list[RegradedPipe](), ask.start
    sign = (
        1.0 if copysign(1.0, slope) < 0 else -1.0
    )  # the farther side is the lower one, at slope 0 too; -0.0 rises
    for step, f, drop in zip(steps, pipes, [*drops, 0.0], strict=True):
        end = at - slope * f.basis
        lines.append(RegradedPipe(step, at, end))
        at = end + sign * drop
    records = project.pipes.copy()
    for line, f in zip(lines, pipes, strict=True):
        records[f.pipe.id] = _levelled(f, line, ask.by)
    against = tuple(
        f.pipe.id
        for f in pipes
        if records[f.pipe.id].invert_up < records[f.pipe.id].invert_down - 1e-9
    )
    return Regraded(
        project=replace(project, pipes=records),
        lines=tuple(lines),
        slope=slope,
        length=total,
        drops=sum(drops),
        against=against,
    )


def _levelled(f: PipeFacts, line: RegradedPipe, by: Carried) -> Pipe:
    lower = PART[by] * f.inside
    begin, end = line.begin - lower, line.end - lower
    up, down = (begin, end) if line.step.forward else (end, begin)
    return replace(f.pipe, invert_up=up, invert_down=down)


def drop_at(project: Project, ask: Regrade, at: StructureId) -> float:
    """The drop (m) that a regrade makes at a structure between."""
    if at in ask.drops:
        return ask.drops[at]
    joint = project.types[project.structures[at].type].kind == "joint"
    if at in ask.without or (joint and not ask.joints_too):
        return 0.0
    return drop_meant(project, at, ask.drop)


def drop_meant(project: Project, at: StructureId, drop: float) -> float:
    """A drop (m) that is asked for at a structure. Raises EditError where it would rise."""
    if drop < 0:
        raise EditError(
            f"The drop at {project.structures[at].label} is {project.units.deep(drop)}: a "
            "drop is 0 or more."
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
            f"The drops from {a} to {b} add up to {u.deep(drops)}, more than the fall of "
            f"{u.deep(abs(fall))}: "
            "lessen the drops or move an end."
        )
    if total <= 1e-9:
        raise EditError("The run has no length between its inverts.")
    return (1.0 if fall >= 0 else -1.0) * max(0.0, rest) / total
