"""Sizes by design flow: the smallest that takes it, from the heads down, until sizes and times
agree; chambers follow.
"""

from collections.abc import Callable, Mapping, Sequence
from math import inf, pi
from typing import Literal, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.flowfacts import PipeFlow
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import RULES
from zumbert.checks.limits import judged, pipe_limit
from zumbert.edits.change import misfit
from zumbert.edits.levelling import levelled
from zumbert.edits.records import with_structure
from zumbert.edits.sizelines import Sized, size_lines
from zumbert.errors import EditError
from zumbert.hydraulics.depths import round_flow
from zumbert.hydraulics.resistance import Roughness, velocity_at
from zumbert.model.catalogue import PipeSize
from zumbert.model.ids import PipeId, SizeKey, StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.sizing import SizeLog

SizedLevels = Literal["inverts", "crowns", "cover"]
SIZED_LEVELS: tuple[SizedLevels, ...] = ("inverts", "crowns", "cover")
ROUNDS = 10
CLOSE = 1e-9  # relative: what meets a limit
SAME_LEVEL = 5e-4  # m: levels that differ by less are the same, to the millimetre
Tell = Callable[[float, str], None]


class HowToSize(Struct, frozen=True, kw_only=True):
    """The choices of a sizing: what may change, and what stays."""

    only: frozenset[PipeId] | None = None  # of these pipes alone; None: of all
    sizes: frozenset[SizeKey] | None = None  # of these sizes alone; None: of all that are allowed
    least: float = 0.0  # mm, DN
    greatest: float = inf
    levels: SizedLevels = "inverts"
    order: bool = True  # never smaller than what comes in
    chambers: bool = True  # whether chambers follow


class _Choice(NamedTuple):
    size: PipeSize
    why: str


def sized(
    project: Project,
    facts: Facts | None = None,
    how: HowToSize = HowToSize(),
    tell: Tell = lambda share, words: None,
) -> Sized:
    """The project with the smallest sizes that take the design flow. Raises EditError where there
    is none.

    Held sizes, existing and abandoned pipes stay. Sizes and times depend on each other: it is gone
    through until nothing changes, ten times at most.
    """
    before = facts if facts is not None else analyse(project)
    if before.flows is None:
        raise EditError("No flow reaches any pipe: give areas and a rain, or an inflow, first.")
    made, now, rounds, settled = project, before, 0, False
    reasons: dict[PipeId, str] = {}
    while rounds < ROUNDS and not settled:
        rounds += 1
        tell(rounds / ROUNDS, f"Sizing, round {rounds}")
        after, reasons = _round(made, now, how)
        after = _levels(project, after, how, now)
        settled = after.pipes == made.pipes
        if not settled:
            made, now = after, analyse(after, now)
    chambers: dict[StructureId, str] = {}
    if how.chambers:
        made, chambers = _chambers(project, made, now, tell)
    return Sized(
        made,
        SizeLog(
            lines=tuple(size_lines(project, made, before, reasons, chambers)),
            rounds=rounds,
            settled=settled,
        ),
    )


def candidates(project: Project, f: PipeFacts, how: HowToSize) -> list[PipeSize]:
    """The sizes that a pipe may get, from small to large: of its own material, unless sizes are
    named.
    """
    own = project.sizes[f.pipe.size].material if isinstance(f.pipe.size, str) else None
    named = how.sizes
    offered = (
        s
        for s in project.sizes.values()
        if (s.key in named if named is not None else s.allowed and own in (None, s.material))
    )
    found = [s for s in offered if how.least <= s.dn <= how.greatest]
    return sorted(found, key=lambda s: (s.inside, s.key))


def stays(project: Project, f: PipeFacts, how: HowToSize) -> str:
    """Why the size of a pipe stays as it is; empty where it may change."""
    p = f.pipe
    if p.status != "proposed":
        return p.status
    if p.hold_size:
        return "held"
    if how.only is not None and p.id not in how.only:
        return "not asked for"
    if project.types[project.structures[p.up].type].kind == "gully":
        return "the lateral of a gully"
    return ""


def _round(project: Project, facts: Facts, how: HowToSize) -> tuple[Project, dict[PipeId, str]]:
    """Each free pipe at the smallest size for the flow that it has now, from the heads down."""
    chosen: dict[PipeId, PipeSize] = {}
    why: dict[PipeId, str] = {}
    for s in () if facts.flows is None else facts.flows.order:
        for key in facts.links.outlets.get(s, ()):
            f, flow = facts.pipes[key], facts.pipe_flow.get(key)
            reason = stays(project, f, how)
            if flow is None or reason:
                why[key] = reason or "no flow: it lies in a ring, or down from one"
                continue
            least = _largest_inlet(facts, s, chosen) if how.order else None
            found = _smallest(project, facts, f, flow, candidates(project, f, how), least)
            if found is None:
                why[key] = "none of the sizes takes it"
                continue
            chosen[key], why[key] = found
    pipes = {
        k: replace(p, size=chosen[k].key) if k in chosen and p.size != chosen[k].key else p
        for k, p in project.pipes.items()
    }
    return replace(project, pipes=pipes), why


def _largest_inlet(
    facts: Facts, s: StructureId, chosen: Mapping[PipeId, PipeSize]
) -> tuple[float, str] | None:
    """The inside (m) and label of the largest pipe in use that comes in."""
    found = [
        (chosen[k].inside if k in chosen else facts.pipes[k].inside, facts.pipes[k].pipe.label)
        for k in facts.links.inlets.get(s, ())
        if facts.pipes[k].pipe.status != "abandoned"
    ]
    return max(found, default=None)


def _smallest(
    project: Project,
    facts: Facts,
    f: PipeFacts,
    flow: PipeFlow,
    sizes: Sequence[PipeSize],
    least: tuple[float, str] | None,
) -> _Choice | None:
    """The smallest size that no rule of flow is against, with what the next smaller one fails
    at.
    """
    failed, fast = "", None
    for size in sizes:
        if least is not None and size.inside < least[0] - CLOSE:
            failed = f"not smaller than {least[1]}"
            continue
        short = fails(project, facts, f, flow, size)
        if not short.words:
            return _Choice(size, failed or "the smallest that is offered")
        if short.needs_slope and fast is None:
            fast = _Choice(size, f"{failed or 'the smallest that is offered'}; {short.words}")
        failed = short.words
    return fast


class Failing(NamedTuple):
    """The rule that a flow breaks in a size, in a few words with both figures; no words where the
    size takes it.
    """

    words: str = ""
    needs_slope: bool = False  # no size mends it, a slope does


def fails(project: Project, facts: Facts, f: PipeFacts, flow: PipeFlow, size: PipeSize) -> Failing:
    """The rule that a flow breaks in a size."""
    u, slope = facts.units, f.slope if f.slope is not None and f.slope > 1e-12 else 0.0
    rough = Roughness(size.n, size.ks)
    full = velocity_at(project.settings.formula, size.inside / 4, slope, rough)
    capacity = full * pi * size.inside**2 / 4
    most = _limit(project, f, size, "capacity_max", "capacity")
    if flow.flow > most * capacity * (1 + CLOSE):
        return Failing(f"capacity {u.flows(capacity * min(most, 1e6))} < {u.flows(flow.flow)}")
    depth, velocity = round_flow(
        project.settings.formula, size.inside, slope, rough, flow.flow, full
    )
    limit = _limit(project, f, size, "depth_ratio_max", "depth_ratio")
    if flow.flow < capacity and depth > limit + CLOSE:
        return Failing(f"depth ratio {u.ratio(depth)} > {u.ratio(limit)}")
    if flow.flow > 0:
        low = -_limit(project, f, size, "flow_velocity_min", "flow_velocity_min", -1.0)
        high = _limit(project, f, size, "flow_velocity_max", "flow_velocity_max")
        if velocity > high + CLOSE:
            return Failing(f"velocity {u.speed(velocity)} > {u.speed(high)}", True)
        if velocity < low - CLOSE:
            return Failing(f"velocity {u.speed(velocity)} < {u.speed(low)}", True)
    return Failing()


def _limit(
    project: Project, f: PipeFacts, size: PipeSize, name: str, rule: str, sign: float = 1.0
) -> float:
    """A limit at the DN of a size; no limit where the rule is off."""
    return (
        sign * pipe_limit(project, f.pipe, size.dn, name) if judged(project, f.pipe, rule) else inf
    )


def _levels(original: Project, project: Project, how: HowToSize, facts: Facts) -> Project:
    """Levels after a change of sizes: as they are, with the crowns where they were, or laid anew
    by cover.
    """
    free = [
        k
        for k, p in project.pipes.items()
        if p.status == "proposed" and not p.holds and (how.only is None or k in how.only)
    ]
    if how.levels == "crowns":
        return _crowns_kept(original, project)
    if how.levels == "cover" and free:
        now = analyse(project, facts)
        found = levelled(project, now, free)
        if found is not None:
            pipes = dict(project.pipes)
            for k, (up, down) in found.items():
                p = pipes[k]
                if abs(p.invert_up - up) > SAME_LEVEL or abs(p.invert_down - down) > SAME_LEVEL:
                    pipes[k] = replace(p, invert_up=up, invert_down=down)
            return replace(project, pipes=pipes)
    return project


def _crowns_kept(original: Project, project: Project) -> Project:
    pipes = dict(project.pipes)
    for k, p in project.pipes.items():
        was = original.pipes[k]
        if p.size == was.size:
            pipes[k] = was
            continue
        if p.holds:
            continue
        grown = _inside(project, p.size) - _inside(original, was.size)
        pipes[k] = replace(p, invert_up=was.invert_up - grown, invert_down=was.invert_down - grown)
    return replace(project, pipes=pipes)


def _inside(project: Project, size: object) -> float:
    return (
        project.sizes[SizeKey(size)].inside
        if isinstance(size, str)
        else getattr(size, "inside", 0.0)
    )


# -- chambers --------------------------------------------------------------------------------------


def _chambers(
    original: Project, project: Project, facts: Facts, tell: Tell
) -> tuple[Project, dict[StructureId, str]]:
    """Chambers at pipes of another size: the smallest allowed type of their kind that all rules
    of chambers leave.
    """
    ends = [
        s
        for k, p in project.pipes.items()
        if p.size != original.pipes[k].size
        for s in (p.up, p.down)
    ]
    why: dict[StructureId, str] = {}
    touched = dict.fromkeys(ends)
    for i, key in enumerate(touched):
        tell(i / len(touched), "Chambers")
        s = project.structures[key]
        if s.status != "proposed" or s.hold_size or not project.types[s.type].inside:
            why[key] = (
                s.status if s.status != "proposed" else "held" if s.hold_size else "no chamber"
            )
            continue
        fitting = fitting_type(project, facts, key)
        if fitting is None:
            why[key] = "no type of this kind fits"
        elif fitting[0] == s.type:
            why[key] = fitting[1]
        else:
            project = with_structure(project, key, type=fitting[0])
            why[key] = fitting[1]
    return project, why


def fitting_type(project: Project, facts: Facts, key: StructureId) -> tuple[TypeKey, str] | None:
    """The smallest allowed type of a structure's kind that takes its pipes, and what the next
    smaller one fails at.
    """
    own = project.types[project.structures[key].type]
    kinds = [
        t
        for t in project.types.values()
        if t.kind == own.kind and t.inside and (t.allowed or t.key == own.key)
    ]
    failed = "the smallest that is offered"
    for t in sorted(kinds, key=lambda t: (t.inside * (t.across or t.inside), t.key != own.key)):
        if (t.across is None) != (own.across is None):
            continue
        short = misfit(project, facts, key, t.key)
        if not short:
            f = facts.structures[key]
            there = replace(
                f, structure=replace(f.structure, type=t.key)
            )  # the rules look at its pipes and its type
            of_type = (
                r for r in RULES.values() if r.of_type and judged(project, f.structure, r.name)
            )
            broken = next((r for r in of_type if any(r.test(facts, there))), None)
            if broken is None:
                return t.key, failed
            short = broken.title.lower()
        failed = f"{t.name}: {short}"
    return None


# -- what is said ----------------------------------------------------------------------------------


def taken(
    project: Project, made: Sized, without: frozenset[tuple[str, str]] = frozenset()
) -> Project:
    """The project with what sizing found but for lines (id, what) that were unticked; the log of
    what was taken stays with it.

    Levels go with the size of their pipe.
    """
    pipes, structures = dict(project.pipes), dict(project.structures)
    lines = []
    for line in made.log.lines:
        left = (line.id, line.what) in without or (
            line.what == "levels" and (line.id, "size") in without
        )
        if left and line.changes:
            lines.append(replace(line, new=line.old, why=f"left as it was; {line.why}"))
            continue
        lines.append(line)
        if line.changes and line.what == "type":
            key = StructureId(line.id)
            structures[key] = replace(structures[key], type=made.project.structures[key].type)
        elif line.changes:
            pipe = PipeId(line.id)
            q = made.project.pipes[pipe]
            pipes[pipe] = replace(
                pipes[pipe], size=q.size, invert_up=q.invert_up, invert_down=q.invert_down
            )
    return replace(
        project, pipes=pipes, structures=structures, size_log=replace(made.log, lines=tuple(lines))
    )
