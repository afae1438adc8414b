"""Levels of a pipe that is laid: by cover, by a level, by a slope, so that rules hold."""

from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.checks.check import giving_way, rule_of
from zumbert.checks.legal import Constraint, least_breach, rows, shallowest
from zumbert.edits.layoptions import LayOptions, pipe_fall
from zumbert.edits.records import with_pipe
from zumbert.errors import EditError
from zumbert.model.ids import PipeId
from zumbert.model.project import Project


def laid_levels(project: Project, facts: Facts, pipe: PipeId, way: LayOptions) -> Project:
    """The project with the new pipe at its levels; a slope that was set at its upper structure
    goes before that of the run. Raises EditError for ends too close, or where no ground is known.
    """
    f = facts.pipes[pipe]
    set_there = project.structures[f.pipe.up].next_slope
    if set_there is not None and way.level is None:
        way = replace(way, slope=set_there)
    if f.basis <= 1e-6:
        labels = project.structures[f.pipe.up].label, project.structures[f.pipe.down].label
        raise EditError(
            f"{labels[0]} and {labels[1]} are too close for a pipe between them: choose "
            "another place."
        )
    if way.level is not None:
        found: tuple[float, float] | None = _by_level(facts, pipe, way, way.level)
    else:
        found = (
            _by_slope(facts, pipe, way) if way.slope is not None else _by_cover(facts, pipe, way)
        )
    if found is None:
        raise EditError(
            f"No ground is known between {project.structures[f.pipe.up].label} and "
            f"{project.structures[f.pipe.down].label}: give a start level and a slope."
        )
    return with_pipe(project, pipe, invert_up=found[0], invert_down=found[1])


def _by_cover(facts: Facts, pipe: PipeId, way: LayOptions) -> tuple[float, float] | None:
    """The shallowest inverts that keep every rule; where none do, the nearest, giving up rules from
    the last to the first.

    Given up in turn: greatest drop, greatest cover, what the chambers ask for, then least cover (by
    no more than it must be), at last the slope.
    """
    f = facts.pipes[pipe]
    all_rows = [*rows(facts, f), *_start_rows(way)]
    if not any(r.rule == "cover_min" for r in all_rows) and way.start is None:
        return None
    *ways, last = [r.name for r in giving_way()]
    for n in range(len(ways) + 1):
        found = shallowest([r for r in all_rows if r.rule not in ways[:n]])
        if found is not None:
            return found
    firm = [r for r in all_rows if r.rule not in ways]
    short = least_breach(firm, last)
    if short is not None:
        return shallowest([r._replace(c=r.c + short + 1e-9) if r.rule == last else r for r in firm])
    if way.start is not None:
        return _at_least_slope(facts, pipe, way.start, way.up)
    return _ends_alone(all_rows)


def _at_least_slope(facts: Facts, pipe: PipeId, start: float, up: bool) -> tuple[float, float]:
    """The pipe from a start level at the least slope, whatever lies around."""
    fall = pipe_fall(rows(facts, facts.pipes[pipe]))
    return (start + fall, start) if up else (start, start - fall)


def _start_rows(way: LayOptions) -> list[Constraint]:
    if way.start is None:
        return []
    a, b = (0.0, 1.0) if way.up else (1.0, 0.0)
    return [Constraint(a, b, way.start, "start"), Constraint(-a, -b, -way.start, "start")]


def _ends_alone(all_rows: list[Constraint]) -> tuple[float, float] | None:
    """Each end at the level that its own chamber requires, since no legal slope lies between
    them.
    """
    high = [r.c for r in all_rows if r.a == 1.0 and r.b == 0.0 and rule_of(r.rule).drop]
    low = [-r.c for r in all_rows if r.a == 0.0 and r.b == -1.0 and rule_of(r.rule).drop]
    return (min(high), max(low)) if high and low else None


def _by_level(facts: Facts, pipe: PipeId, way: LayOptions, level: float) -> tuple[float, float]:
    """The end at the new place at a level; the other as shallow as the rules allow, else at the
    least slope from it.

    Rules give way in turn as by cover, the least cover last.
    """
    every = [*rows(facts, facts.pipes[pipe]), *_start_rows(way)]
    a, b = (1.0, 0.0) if way.up else (0.0, 1.0)
    fixed = [Constraint(a, b, level, "level"), Constraint(-a, -b, -level, "level")]
    order = [r.name for r in giving_way()]
    for n in range(len(order) + 1):
        found = shallowest([r for r in every if r.rule not in order[:n]] + fixed)
        if found is not None:
            return found
    fall = pipe_fall(every)
    near = way.start if way.start is not None else level - fall if way.up else level + fall
    return (level, near) if way.up else (near, level)


def _by_slope(facts: Facts, pipe: PipeId, way: LayOptions) -> tuple[float, float] | None:
    """Inverts at the slope of the way: from the start level, else from the least drop at the
    chamber it goes on from, else as shallow as cover allows.
    """
    f = facts.pipes[pipe]
    slope = way.slope or 0.0
    fall = slope * f.basis
    if way.start is not None:
        return (way.start + fall, way.start) if way.up else (way.start, way.start - fall)
    flat = [Constraint(1.0, -1.0, fall, "slope"), Constraint(-1.0, 1.0, -fall, "slope")]
    every = rows(facts, f)
    if way.up:
        low = [-r.c for r in every if r.a == 0.0 and r.b == -1.0 and rule_of(r.rule).drop]
        if low:
            return max(low) + fall, max(low)
    else:
        high = [r.c for r in every if r.a == 1.0 and r.b == 0.0 and rule_of(r.rule).drop]
        if high:
            return min(high), min(high) - fall
    return shallowest([r for r in every if r.rule == "cover_min"] + flat)
