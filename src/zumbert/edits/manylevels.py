"""Levels of many pipes at once: from the outfall upward what lies above goes along, so that slopes or drops are kept."""

from collections.abc import Callable, Iterable

from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.runs import way_down
from zumbert.checks.legal import rows, shallowest
from zumbert.edits.levels import shift_pipe
from zumbert.edits.records import with_pipe
from zumbert.edits.several import Reach, Several
from zumbert.errors import EditError
from zumbert.model.ids import PipeId
from zumbert.model.project import Project

SAME = 1e-9  # m


def from_outfall(project: Project, facts: Facts, pipes: Iterable[PipeId]) -> list[PipeId]:
    """Pipes in the order in which their water is nearer to where it ends."""
    return sorted(
        pipes, key=lambda p: (len(way_down(project, facts.links, project.pipes[p].down)), project.pipes[p].label)
    )


def all_shifted(project: Project, facts: Facts, pipes: Iterable[PipeId], by: float) -> Several:
    """Pipes raised by m (negative: lowered), slopes kept; those that keep their levels stay."""
    free, held = _free(project, pipes, slopes=False)
    for pipe in free if by else ():
        project = shift_pipe(project, pipe, by)
    return Several(project, Reach(len(free) if by else 0, held))


def at_slope(project: Project, facts: Facts, pipes: Iterable[PipeId], slope: float) -> Several:
    """Pipes at one slope (fraction, falling positive), the lowest end of each chain kept and every drop between them."""

    def levels(made: Project, pipe: PipeId, shift: float) -> tuple[float, float]:
        f, down = facts.pipes[pipe], project.pipes[pipe].invert_down + shift
        if f.basis <= 1e-9:
            raise EditError(
                f'Pipe "{f.pipe.label}" has no length between its inverts: move its structures apart first.'
            )
        return down + slope * f.basis, down

    return _carried(project, facts, pipes, levels, slopes=True)


def with_drops(project: Project, facts: Facts, pipes: Iterable[PipeId], drop: float) -> Several:
    """Pipes raised or lowered so that each drop between two of them is as given (m, 0 or more), slopes kept."""
    if drop < 0:
        raise EditError(f"A drop is 0 or more, not {project.units.deep(drop)}.")
    return _onto(project, facts, pipes, lambda inlet, outlet: drop)


def crowns_in_line(project: Project, facts: Facts, pipes: Iterable[PipeId]) -> Several:
    """Pipes raised or lowered so that the crown of each is that of the one that it runs into, slopes kept."""
    return _onto(project, facts, pipes, lambda inlet, outlet: facts.pipes[outlet].inside - facts.pipes[inlet].inside)


def _onto(
    project: Project, facts: Facts, pipes: Iterable[PipeId], above: Callable[[PipeId, PipeId], float]
) -> Several:  # fmt: skip
    """Each pipe so far above the outlet that it runs into (of those chosen), its slope kept."""
    chosen = set(pipes)

    def levels(made: Project, pipe: PipeId, shift: float) -> tuple[float, float]:
        p = project.pipes[pipe]
        outlet = _below(facts, pipe, chosen)
        down = p.invert_down if outlet is None else made.pipes[outlet].invert_up + above(pipe, outlet)
        return down + p.invert_up - p.invert_down, down

    return _carried(project, facts, chosen, levels, slopes=False)


def _carried(
    project: Project, facts: Facts, pipes: Iterable[PipeId],
    levels: Callable[[Project, PipeId, float], tuple[float, float]], slopes: bool,
) -> Several:  # fmt: skip
    """New levels from the outfall up; `levels` is told by how much the pipe below has moved at its upper end."""
    free, held = _free(project, pipes, slopes)
    made, count, chosen = project, 0, set(free)
    for pipe in from_outfall(project, facts, free):
        below = _below(facts, pipe, chosen)
        shift = 0.0 if below is None else made.pipes[below].invert_up - project.pipes[below].invert_up
        up, down = levels(made, pipe, shift)
        p = project.pipes[pipe]
        if abs(up - p.invert_up) > SAME or abs(down - p.invert_down) > SAME:
            made, count = with_pipe(made, pipe, invert_up=up, invert_down=down), count + 1
    return Several(made, Reach(count, held))


def _below(facts: Facts, pipe: PipeId, chosen: set[PipeId]) -> PipeId | None:
    """The chosen pipe that a pipe runs into, the first if several."""
    outlets = facts.links.outlets.get(facts.pipes[pipe].pipe.down, ())
    return next((o for o in outlets if o in chosen), None)


def up_to_cover(project: Project, facts: Facts, pipes: Iterable[PipeId]) -> Several:
    """Each pipe as shallow as every rule allows; where no level keeps every rule it stays.

    The heads come first, since what comes in from above limits what lies below it; what lies below, of the choice, does
    not hold up those above: it follows in its turn.
    """
    free, held = _free(project, pipes, slopes=True)
    order = from_outfall(project, facts, free)[::-1]
    bare = replace(project, pipes={k: p for k, p in project.pipes.items() if k not in set(order)})
    count = 0
    for pipe in order:
        p = project.pipes[pipe]
        bare = replace(bare, pipes={**bare.pipes, pipe: p})
        now = analyse(bare, facts)
        found = shallowest(rows(now, now.pipes[pipe]))
        if found is not None and (abs(found[0] - p.invert_up) > SAME or abs(found[1] - p.invert_down) > SAME):
            bare, count = with_pipe(bare, pipe, invert_up=found[0], invert_down=found[1]), count + 1
    made = {k: bare.pipes[k] for k in project.pipes}
    return Several(replace(project, pipes=made) if count else project, Reach(count, held))


def _free(project: Project, pipes: Iterable[PipeId], slopes: bool) -> tuple[list[PipeId], int]:
    """The pipes of which no invert is held (nor, where slopes change, the slope), and how many others there are."""
    chosen = list(pipes)
    free = [p for p in chosen if not (project.pipes[p].keeps if slopes else project.pipes[p].keep_levels)]
    return free, len(chosen) - len(free)
