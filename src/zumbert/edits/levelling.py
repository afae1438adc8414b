"""Levels of many pipes together, as shallow as every rule allows: one linear programme over all of
them.

Each rule is a straight constraint on the two inverts of a pipe, or on one of each of two pipes at a
structure. What no level can keep is broken by as little as must be.
"""

from collections.abc import Collection, Iterator, Mapping

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Bound, Key
from zumbert.checks.legal import bounds, invert
from zumbert.model.ids import PipeId
from zumbert.model.project import Project

FLAT = 1e-3  # what a metre of fall costs beside it: of equal sums the flatter pipes
MARGIN = 1e-7  # m inside each rule: what rounding may take


def levelled(
    project: Project,
    facts: Facts,
    pipes: Collection[PipeId],
    raised: bool = False,
    fixed: Mapping[Key, float] | None = None,
) -> dict[PipeId, tuple[float, float]] | None:
    """The inverts (up, down; m above datum) of pipes at which they lie as shallow as the rules
    allow, all together.

    With `raised` no end goes lower than it is, and a rule that is broken is not broken more.
    `fixed` holds ends at levels. All other pipes stay. Pipes that a joint without chamber joins lie
    straight, and meet. None where no levels are found.
    """
    from scipy.optimize import linprog

    keys: list[Key] = [(p, end) for p in pipes for end in ("up", "down")]
    column = {k: i for i, k in enumerate(keys)}
    now = {k: invert(project, k) for k in keys}
    upper = list(bounds(facts, dict.fromkeys(pipes)))
    equal = [
        *_joints(facts, dict.fromkeys(pipes)),
        *(Bound({k: 1.0}, v) for k, v in (fixed or {}).items()),
    ]
    if raised:
        upper = [
            b._replace(most=max(b.most, sum(a * now[k] for k, a in b.factors.items())))
            for b in upper
        ]
        equal = [
            b for b in equal if abs(sum(a * now[k] for k, a in b.factors.items()) - b.most) < 1e-6
        ]
    n, m = len(keys), len(upper)
    a_upper, b_upper = np.zeros((m, n + m)), np.array([b.most - MARGIN for b in upper])
    for i, b in enumerate(upper):
        for k, factor in b.factors.items():
            a_upper[i, column[k]] += factor
        a_upper[i, n + i] = -1.0  # how far it is broken
    a_equal = np.zeros((len(equal), n + m))
    for i, b in enumerate(equal):
        for k, factor in b.factors.items():
            a_equal[i, column[k]] += factor
    cost = np.concatenate(
        [
            [-1.0 + FLAT if end == "up" else -1.0 - FLAT for _, end in keys],
            [rule_of(b.rule).cost for b in upper],
        ]
    )
    levels = [(now[k] if raised else None, None) for k in keys]
    if raised:
        b_upper += MARGIN
    broken = [(0.0, 0.0 if raised else None)] * m
    found = linprog(
        cost,
        A_ub=a_upper,
        b_ub=b_upper,
        A_eq=a_equal if len(equal) else None,
        b_eq=np.array([b.most for b in equal]) if equal else None,
        bounds=[*levels, *broken],
        method="highs",
    )
    if not found.success:
        return None
    return {p: (float(found.x[column[p, "up"]]), float(found.x[column[p, "down"]])) for p in pipes}


def with_levels(project: Project, levels: Mapping[PipeId, tuple[float, float]]) -> Project:
    """The project with pipes at inverts (up, down; m)."""
    made = {
        p: replace(project.pipes[p], invert_up=u, invert_down=d) for p, (u, d) in levels.items()
    }
    return replace(project, pipes={k: made.get(k, p) for k, p in project.pipes.items()})


def _joints(facts: Facts, chosen: Collection[PipeId]) -> Iterator[Bound]:
    """Two pipes that a joint without chamber joins: they meet, and have one slope."""
    project = facts.project
    for at in dict.fromkeys(facts.pipes[p].pipe.down for p in chosen):
        f = facts.structures[at]
        if project.types[f.structure.type].kind != "joint" or len(f.drops) != 1:
            continue
        one, other = facts.pipes[f.drops[0].inlet], facts.pipes[f.drops[0].outlet]
        a, b = one.pipe.id, other.pipe.id
        if one.basis <= 0 or other.basis <= 0:
            continue
        yield _fixed(project, {(a, "down"): 1.0, (b, "up"): -1.0}, chosen)
        slopes: dict[Key, float] = {
            (a, "up"): 1 / one.basis,
            (a, "down"): -1 / one.basis,
            (b, "up"): -1 / other.basis,
            (b, "down"): 1 / other.basis,
        }
        yield _fixed(project, slopes, chosen)


def _fixed(project: Project, factors: Mapping[Key, float], chosen: Collection[PipeId]) -> Bound:
    """An equation to 0 with the inverts of pipes that stay put in."""
    rest = sum(a * invert(project, k) for k, a in factors.items() if k[0] not in chosen)
    return Bound({k: a for k, a in factors.items() if k[0] in chosen}, -rest)
