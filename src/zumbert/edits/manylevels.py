"""Levels of many pipes at once. Work goes from the outfall up, and pipes above move along, so
that slopes or drops stay.
"""

from collections.abc import Callable, Iterable, Iterator

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.runs import way_down
from zumbert.checks import check
from zumbert.checks.finding import Finding
from zumbert.edits.levelling import levelled, with_levels
from zumbert.edits.levels import shift_pipe
from zumbert.edits.records import with_pipe
from zumbert.edits.several import HowMany, Several
from zumbert.errors import EditError
from zumbert.model.catalogue import ENDS
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End
from zumbert.model.project import Project

SAME = 1e-9  # m
ROUNDING = 2e-7  # m


def from_outfall(project: Project, facts: Facts, pipes: Iterable[PipeId]) -> list[PipeId]:
    """Pipes in order from the outfall up."""
    return sorted(
        pipes,
        key=lambda p: (
            len(way_down(project, facts.links, project.pipes[p].down)),
            project.pipes[p].label,
        ),
    )


def all_shifted(project: Project, facts: Facts, pipes: Iterable[PipeId], by: float) -> Several:
    """Pipes raised by m (negative: lowered) at their slopes; held ones stay."""
    free, held = _free(project, pipes, slopes=False)
    for pipe in free if by else ():
        project = shift_pipe(project, pipe, by)
    return Several(project, HowMany(len(free) if by else 0, held))


def at_slope(project: Project, facts: Facts, pipes: Iterable[PipeId], slope: float) -> Several:
    """Pipes at one slope (fraction, falling positive). The lowest end of each chain stays, and so
    does every drop. Raises EditError for a pipe without length.
    """

    def levels(made: Project, pipe: PipeId, shift: float) -> tuple[float, float]:
        f, down = facts.pipes[pipe], project.pipes[pipe].invert_down + shift
        if f.basis <= 1e-9:
            raise EditError(
                f'Pipe "{f.pipe.label}" has no length between its inverts: move its '
                "structures apart first."
            )
        return down + slope * f.basis, down

    return _carried(project, facts, pipes, levels, slopes=True)


def with_drops(project: Project, facts: Facts, pipes: Iterable[PipeId], drop: float) -> Several:
    """Pipes raised or lowered so that each drop between two of them is as given (m), at their
    slopes. EditError under 0.
    """
    if drop < 0:
        raise EditError(f"A drop is 0 or more, not {project.units.deep(drop)}.")
    return _onto(project, facts, pipes, lambda inlet, outlet: drop)


def crowns_in_line(project: Project, facts: Facts, pipes: Iterable[PipeId]) -> Several:
    """Pipes raised or lowered so that the crown of each is that of the one that it runs into,
    slopes kept.
    """
    return _onto(
        project,
        facts,
        pipes,
        lambda inlet, outlet: facts.pipes[outlet].inside - facts.pipes[inlet].inside,
    )


def _onto(
    project: Project,
    facts: Facts,
    pipes: Iterable[PipeId],
    above: Callable[[PipeId, PipeId], float],
) -> Several:
    """Puts each pipe so far above the chosen outlet that it runs into, at its slope."""
    chosen = set(pipes)

    def levels(made: Project, pipe: PipeId, shift: float) -> tuple[float, float]:
        p = project.pipes[pipe]
        outlet = _below(facts, pipe, chosen)
        down = (
            p.invert_down if outlet is None else made.pipes[outlet].invert_up + above(pipe, outlet)
        )
        return down + p.invert_up - p.invert_down, down

    return _carried(project, facts, chosen, levels, slopes=False)


def _carried(
    project: Project,
    facts: Facts,
    pipes: Iterable[PipeId],
    levels: Callable[[Project, PipeId, float], tuple[float, float]],
    slopes: bool,
) -> Several:
    """New levels from the outfall up; `levels` is told by how much the pipe below has moved at
    its upper end.
    """
    free, held = _free(project, pipes, slopes)
    made, count, chosen = project, 0, set(free)
    for pipe in from_outfall(project, facts, free):
        below = _below(facts, pipe, chosen)
        shift = (
            0.0 if below is None else made.pipes[below].invert_up - project.pipes[below].invert_up
        )
        up, down = levels(made, pipe, shift)
        p = project.pipes[pipe]
        if abs(up - p.invert_up) > SAME or abs(down - p.invert_down) > SAME:
            made, count = with_pipe(made, pipe, invert_up=up, invert_down=down), count + 1
    return Several(made, HowMany(count, held))


def _below(facts: Facts, pipe: PipeId, chosen: set[PipeId]) -> PipeId | None:
    """The chosen pipe that a pipe runs into, the first if several."""
    outlets = facts.links.outlets.get(facts.pipes[pipe].pipe.down, ())
    return next((o for o in outlets if o in chosen), None)


def up_to_cover(project: Project, facts: Facts, pipes: Iterable[PipeId]) -> Several:
    """Pipes raised together, as far as every rule allows. Nothing is lowered, no finding comes that
    was not there, and what cannot be raised stays: pipes that are held or not proposed, ends at an
    outfall or at a pipe that is not proposed, and pipes that a joint without chamber joins to one
    that stays.
    """
    chosen = list(pipes)
    free, held = _free(
        project, (p for p in chosen if project.pipes[p].status == "proposed"), slopes=True
    )
    held = len(chosen) - len(free)
    before = {_what(f) for f in check(project, facts)}
    moving = set(_whole_chains(facts, set(free)))
    while moving:
        fixed = {k: v for p in moving for k, v in _ends_fixed(facts, p)}
        levels = levelled(project, facts, sorted(moving), raised=True, fixed=fixed)
        if levels is None:
            break
        made = with_levels(project, {p: _rounded(project, p, v) for p, v in levels.items()})
        now = analyse(made, facts)
        new = [f for f in check(made, now) if _what(f) not in before]
        if not new:
            count = sum(made.pipes[p] != project.pipes[p] for p in chosen)
            return Several(made if count else project, HowMany(count, held), len(free) - count)
        at = {f.structure for f in new if f.structure} | {f.pipe for f in new if f.pipe}
        gone = {p for p in moving if {p, project.pipes[p].up, project.pipes[p].down} & at} or moving
        moving = set(_whole_chains(facts, moving - gone))
    return Several(project, HowMany(0, held), len(free))


def _what(f: Finding) -> tuple[str, str | None, str | None, str | None]:
    return f.rule, f.pipe, f.structure, f.partner


def _rounded(project: Project, pipe: PipeId, levels: tuple[float, float]) -> tuple[float, float]:
    """New inverts; one that differs only by rounding keeps the old value."""
    p = project.pipes[pipe]
    return tuple(
        o if abs(v - o) < ROUNDING else v
        for v, o in zip(levels, (p.invert_up, p.invert_down), strict=True)
    )  # type: ignore[return-value]


def _ends_fixed(facts: Facts, pipe: PipeId) -> Iterator[tuple[tuple[PipeId, End], float]]:
    """The ends of a pipe that stay: at outfalls, and where a pipe is joined that is not
    proposed.
    """
    p, project = facts.pipes[pipe].pipe, facts.project
    ends: tuple[tuple[End, StructureId, float], ...] = (
        ("up", p.up, p.invert_up),
        ("down", p.down, p.invert_down),
    )
    for end, at, level in ends:
        f = facts.structures[at]
        out = end == "down" and (
            f.structure.outfall or project.types[f.structure.type].kind in ENDS
        )
        joined = any(g.pipe.status == "existing" for g in (*f.pipes_in, *f.pipes_out))
        if out or joined or f.structure.status == "existing":
            yield (pipe, end), level


def _whole_chains(facts: Facts, chosen: set[PipeId]) -> set[PipeId]:
    """The chosen pipes whose whole chain of blind joints lies within the choice."""
    out = set(chosen)
    while True:
        gone = {
            p
            for p in out
            for at in (facts.pipes[p].pipe.up, facts.pipes[p].pipe.down)
            if facts.project.types[facts.project.structures[at].type].kind == "joint"
            and any(q not in out for d in facts.structures[at].drops for q in (d.inlet, d.outlet))
        }
        if not gone:
            return out
        out -= gone


def _free(project: Project, pipes: Iterable[PipeId], slopes: bool) -> tuple[list[PipeId], int]:
    """The pipes of which no invert is held (nor, where slopes change, the slope), and how many
    others there are.
    """
    chosen = list(pipes)
    free = [
        p
        for p in chosen
        if not (project.pipes[p].holds if slopes else project.pipes[p].hold_levels)
    ]
    return free, len(chosen) - len(free)
