"""Levels of one pipe: an end, the whole pipe, its slope, its cover."""

from collections.abc import Iterable

from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.links import downstream, upstream
from zumbert.checks.legal import cover_bound
from zumbert.edits.records import with_pipe
from zumbert.errors import EditError
from zumbert.model.display import percent
from zumbert.model.ids import PipeId
from zumbert.model.levels import on_land
from zumbert.model.pipe import End
from zumbert.model.project import Project


def _free(project: Project, pipe: PipeId, end: End) -> None:
    """Raises EditError for an end whose invert is held."""
    p = project.pipes[pipe]
    if p.hold_up if end == "up" else p.hold_down:
        at = project.structures[p.at(end)].label
        raise EditError(f'Pipe "{p.label}" keeps its invert at {at}: let it go first.')


def set_invert(project: Project, pipe: PipeId, end: End, level: float) -> Project:
    """The project with one pipe end at a level (m above datum); nothing else moves, but the other
    end where the slope is held. Raises EditError for an end that is held, or one that would have to
    move the other, held one.
    """
    _free(project, pipe, end)
    p = project.pipes[pipe]
    if p.hold_slope:
        return shift_pipe(project, pipe, level - p.invert(end))
    return with_pipe(project, pipe, **{f"invert_{end}": on_land(level, project.units)})


def shift_pipe(project: Project, pipe: PipeId, by: float) -> Project:
    """The project with a whole pipe raised by m (negative: lowered), its slope kept. EditError
    where an end is held.
    """
    if by:
        _free(project, pipe, "up")
        _free(project, pipe, "down")
    p, u = project.pipes[pipe], project.units
    return with_pipe(
        project,
        pipe,
        invert_up=on_land(p.invert_up + by, u),
        invert_down=on_land(p.invert_down + by, u),
    )


def not_too_steep(made: Project, facts: Facts, pipe: PipeId) -> None:
    """Raises EditError where an edit of levels makes a pipe steeper than 100 %: a slip of the
    hand, not a design.
    """
    p, f = made.pipes[pipe], facts.pipes.get(pipe)
    if f is None or f.basis <= 0 or abs(p.invert_up - p.invert_down) <= f.basis * (1 + 1e-9):
        return
    before = f.pipe
    if abs(before.invert_up - before.invert_down) > f.basis:
        return  # it was so before: every way out is open
    slope = (p.invert_up - p.invert_down) / f.basis
    end = (
        "upper"
        if abs(p.invert_up - before.invert_up) >= abs(p.invert_down - before.invert_down)
        else "lower"
    )
    level = p.invert_up if end == "upper" else p.invert_down
    u = made.units
    raise EditError(
        f'Pipe "{p.label}" would lie at {percent(slope)} with its {end} invert at '
        f"{u.level(level)}: nothing steeper than 100 % "
        "is taken. Check what was typed."
    )


def set_slope(project: Project, facts: Facts, pipe: PipeId, slope: float, pivot: End) -> Project:
    """The project with a pipe at a slope (fraction, falling positive), the invert at one end kept.

    Raises EditError for a pipe that keeps its slope, or its invert at the other end.
    """
    f, p = facts.pipes[pipe], project.pipes[pipe]
    if p.hold_slope:
        raise EditError(
            f'Pipe "{p.label}" keeps its slope of {project.units.slope(f.slope)}: let it go first.'
        )
    if f.basis <= 1e-9:
        raise EditError(
            f'Pipe "{p.label}" has no length between its inverts: move its structures apart first.'
        )
    fall = slope * f.basis
    if pivot == "up":
        return set_invert(project, pipe, "down", p.invert_up - fall)
    return set_invert(project, pipe, "up", p.invert_down + fall)


def set_cover(
    project: Project, facts: Facts, pipe: PipeId, cover: float, end: End | None
) -> Project:
    """The project with exactly a least cover (m) over a pipe, by moving one end or (None) the whole
    pipe.

    Raises EditError where no ground is known over the pipe, or where the other end alone decides.
    """
    found = cover_bound(facts, facts.pipes[pipe], end, cover)
    label = project.pipes[pipe].label
    if found is None:
        raise EditError(f'No ground is known over pipe "{label}": set a level instead.')
    moved = (
        shift_pipe(project, pipe, found) if end is None else set_invert(project, pipe, end, found)
    )
    return moved


def shift_side(project: Project, facts: Facts, pipe: PipeId, end: End, by: float) -> Project:
    """The project with one end of a pipe and all that lies beyond it raised by m (negative:
    lowered).

    Pipes of which an invert is held stay. Beyond the lower end: all pipes that its water comes to.
    Beyond the upper end: all pipes whose water comes to it.
    """
    p = project.pipes[pipe]
    now = p.invert_down if end == "down" else p.invert_up
    project = set_invert(project, pipe, end, now + by)
    start = p.down if end == "down" else p.up
    walk = downstream if end == "down" else upstream
    reached = walk(project, facts.links, start)
    pipes, u = project.pipes.copy(), project.units
    for q in project.pipes.values():
        if q.id != pipe and not q.hold_levels and q.up in reached and q.down in reached:
            pipes[q.id] = replace(
                q,
                invert_up=on_land(q.invert_up + by, u),
                invert_down=on_land(q.invert_down + by, u),
            )
    return replace(project, pipes=pipes)


def slopes_kept(project: Project, facts: Facts, made: Project, pipes: Iterable[PipeId]) -> Project:
    """A project as edited, with the slopes that are held as they were before: where a pipe is
    longer or shorter now its upper end has moved (where that is held the lower one). One of which
    both inverts are held stays as it is.
    """
    held = [
        k
        for k in pipes
        if k in made.pipes and made.pipes[k].hold_slope and facts.pipes[k].slope is not None
    ]
    if not held:
        return made
    now = analyse(made, facts)
    for key in held:
        p, slope, f = made.pipes[key], facts.pipes[key].slope or 0.0, now.pipes[key]
        if f.basis <= 1e-9 or (p.hold_up and p.hold_down):
            continue
        if p.hold_up:
            made = with_pipe(made, key, invert_down=p.invert_up - slope * f.basis)
        else:
            made = with_pipe(made, key, invert_up=p.invert_down + slope * f.basis)
    return made
