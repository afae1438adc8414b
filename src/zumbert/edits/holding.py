"""Edits while the rules hold: a level stops where the first rule would be
broken, and what is laid, moved, resized or regraded takes the nearest levels that keep every rule.
"""

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.checks.check import rule_of
from zumbert.checks.finding import TOLERANCE, Bound, Key
from zumbert.checks.legal import bounds, invert
from zumbert.model.ids import PipeId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project

MOST = 400  # pipes: of more the levels are left as they are asked for
SAME = 1e-9  # m
INWARD = 1e-9  # m that a solved level stays inside of its bounds
# fields of a pipe that another legal level may follow from
LAID = ("up", "down", "size", "through", "invert_basis")
STANDS = ("place", "type", "rim", "rotation", "outfall")  # of a structure


class Held(NamedTuple):
    """The part of an edit that the rules allow, and in words what they changed: empty where
    nothing.
    """

    project: Project
    words: str


def held(before: Project, facts: Facts, after: Project) -> Held:
    """An edit as far as every rule that bounds levels allows it; `facts` are those before it.

    Levels that all move by one step stop at the edge, and a rule that is broken already gets no
    worse. Other edits get the nearest levels (the least sum of moves) that keep all rules; where
    none do they stay as asked for, and the words say so.
    """
    if after.pipes is before.pipes and after.structures is before.structures:
        return Held(after, "")
    moves = _moves(before, after)
    if moves is not None and not moves:
        return Held(after, "")  # nothing moves that could be told
    if moves is not None and len({round(v, 9) for v in moves.values()}) == 1:
        return _stopped(before, facts, after, moves)
    touched = _touched(before, after)
    return (
        Held(after, "")
        if not 0 < len(touched) <= MOST
        else _nearest(after, analyse(after, facts), touched)
    )


def _moves(before: Project, after: Project) -> dict[Key, float] | None:
    """By how much (m) each invert moves; None where the edit changes more than inverts."""
    if after.structures is not before.structures or after.pipes.keys() != before.pipes.keys():
        return None
    out: dict[Key, float] = {}
    for k, p in after.pipes.items():
        q = before.pipes[k]
        if p is q:
            continue
        if replace(q, invert_up=p.invert_up, invert_down=p.invert_down) != p:
            return None
        if abs(p.invert_up - q.invert_up) > SAME:
            out[k, "up"] = p.invert_up - q.invert_up
        if abs(p.invert_down - q.invert_down) > SAME:
            out[k, "down"] = p.invert_down - q.invert_down
    return out


def _stopped(before: Project, facts: Facts, after: Project, moves: dict[Key, float]) -> Held:
    """The share of one step that the rules leave, and the rule that stops it."""
    least, by = 1.0, ""
    for b in bounds(facts, {k for k, _ in moves}):
        rate = sum(a * moves.get(k, 0.0) for k, a in b.factors.items())
        slack = b.most - sum(a * invert(before, k) for k, a in b.factors.items())
        if rate > 1e-12 and slack - rate < -TOLERANCE and max(slack, 0.0) / rate < least:
            least, by = max(slack, 0.0) / rate, b.rule
    if not by:
        return Held(after, "")
    step = next(iter(moves.values())) * least
    made = _with_levels(before, {k: invert(before, k) + step for k in moves})
    return Held(made, f"stopped by {rule_of(by).title.lower()}")


def _touched(before: Project, after: Project) -> list[PipeId]:
    """Pipes in use that are new or lie otherwise, and those at structures that stand otherwise."""
    moved = {k for k, s in after.structures.items() if _differ(before.structures.get(k), s, STANDS)}
    return [
        k
        for k, p in after.pipes.items()
        if p.status == "proposed"
        and (
            _differ(before.pipes.get(k), p, (*LAID, "invert_up", "invert_down"))
            or p.up in moved
            or p.down in moved
        )
    ]


def _differ(old: object, new: object, fields: Iterable[str]) -> bool:
    return old is not new and (
        old is None or any(getattr(old, n) != getattr(new, n) for n in fields)
    )


def _nearest(project: Project, facts: Facts, pipes: list[PipeId]) -> Held:
    """The project with the levels of some pipes moved as little as keeps every rule; what is
    held stays.
    """
    free: list[Key] = [
        (k, e) for k in pipes for e in ("up", "down") if not project.pipes[k].holds_end(e)
    ]
    asked = [b for b in bounds(facts, set(pipes)) if any(k in free for k in b.factors)]
    at = {k: i for i, k in enumerate(free)}
    if not free or all(_slack(project, b) >= -TOLERANCE for b in asked):
        return Held(project, "")
    found = _solved(project, asked, at)
    if found is None:
        return Held(project, "no levels here keep every rule")
    moved = found - np.array([invert(project, k) for k in free])
    made = _with_levels(project, dict(zip(free, found.tolist(), strict=True)))
    broken = min(asked, key=lambda b: _slack(project, b)).rule
    far = project.units.deep(float(np.abs(moved).max()))
    return Held(made, f"levels moved by up to {far} for {rule_of(broken).title.lower()}")


def _slack(project: Project, b: Bound) -> float:
    return b.most - sum(a * invert(project, k) for k, a in b.factors.items())


def _solved(project: Project, asked: list[Bound], at: dict[Key, int]) -> np.ndarray | None:
    """The inverts (m) with the least sum of moves that keep all bounds; None where none do.

    Each move is the difference of two parts that are not negative: a linear programme.
    """
    from scipy.optimize import linprog
    from scipy.sparse import coo_array

    n = len(at)
    now = np.array([invert(project, k) for k in at])
    rows, cols, values, room = list[int](), list[int](), list[float](), list[float]()
    for i, b in enumerate(asked):
        room.append(_slack(project, b) - INWARD)
        for k, a in b.factors.items():
            if k in at:
                rows += [i, i]
                cols += [at[k], n + at[k]]
                values += [a, -a]
    matrix = coo_array((values, (rows, cols)), shape=(len(asked), 2 * n)).tocsr()
    found = linprog(
        np.ones(2 * n), A_ub=matrix, b_ub=np.array(room), bounds=(0, None), method="highs"
    )
    return None if found.x is None else np.asarray(now + found.x[:n] - found.x[n:])


def _with_levels(project: Project, levels: dict[Key, float]) -> Project:
    """The project with inverts (m above datum) of some ends."""
    by_pipe: dict[PipeId, dict[str, float]] = {}
    for (k, end), level in levels.items():
        if abs(project.pipes[k].invert(end) - level) > SAME:
            by_pipe.setdefault(k, {})[f"invert_{end}"] = level
    if not by_pipe:
        return project
    pipes: dict[PipeId, Pipe] = {
        k: replace(p, **by_pipe[k]) if k in by_pipe else p for k, p in project.pipes.items()
    }
    return replace(project, pipes=pipes)
