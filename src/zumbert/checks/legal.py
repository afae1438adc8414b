"""The legal band: the inverts of a pipe that every rule allows, as one set of straight constraints.

Each rule that binds the inverts u (up) and d (down) is a row a u + b d <= c. All that is asked of
the band follows from these rows: the range of one end with the other kept, of the whole pipe with
its slope kept, and the shallowest levels of all.
"""

from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import RULES, rule_of
from zumbert.checks.cover import lines_at
from zumbert.checks.finding import TOLERANCE, Bound, Key, record_of
from zumbert.checks.limits import judged
from zumbert.geometry.corners import along, best_corner
from zumbert.geometry.kept import kept
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End
from zumbert.model.project import Project

FLATTER = (
    0.1  # m of both inverts together that a flatter pipe may cost: where it costs less it is taken
)


class Constraint(NamedTuple):
    """One constraint on the inverts: a u + b d <= c (m), and the rule that sets it."""

    a: float
    b: float
    c: float
    rule: str


class Range(NamedTuple):
    """Allowed levels or shifts (m), each end with the rule that sets it; None: nothing bounds
    that side.
    """

    low: float | None
    low_rule: str | None
    high: float | None
    high_rule: str | None

    @property
    def empty(self) -> bool:
        """Whether no value keeps every rule."""
        return self.low is not None and self.high is not None and self.low > self.high + TOLERANCE

    def holds(self, value: float) -> bool:
        """Whether a value keeps every rule that the range knows."""
        above = self.low is None or value >= self.low - TOLERANCE
        return above and (self.high is None or value <= self.high + TOLERANCE)


@kept(3)
def rows(facts: Facts, f: PipeFacts) -> tuple[Constraint, ...]:
    """All constraints on the inverts of a pipe, its neighbours kept as they are; band, panel, snaps
    and entry line ask for one pipe's in turn, so those asked for last are remembered. Of what
    several rules ask of one drop the most counts.
    """
    out: list[Constraint] = []
    drops: dict[tuple[float, float], Constraint] = {}
    for b in bounds(facts, {f.pipe.id}):
        row = _row(f, b)
        if not rule_of(b.rule).drop:
            out.append(row)
        elif (row.a, row.b) not in drops or row.c < drops[row.a, row.b].c:
            drops[row.a, row.b] = row
    return *out, *drops.values()


def _row(f: PipeFacts, b: Bound) -> Constraint:
    return Constraint(
        b.factors.get((f.pipe.id, "up"), 0.0),
        b.factors.get((f.pipe.id, "down"), 0.0),
        b.most,
        b.rule,
    )


def bounds(facts: Facts, pipes: Collection[PipeId]) -> Iterator[Bound]:
    """All that the rules ask of the inverts of some pipes, those of others put in as they are."""
    project, at = facts.project, dict[StructureId, None]()
    for k in pipes:
        at |= {facts.pipes[k].pipe.up: None, facts.pipes[k].pipe.down: None}
    lie, stand = [facts.pipes[k] for k in pipes], [facts.structures[k] for k in at]
    things: dict[str, Sequence[Any]] = {"pipe": lie, "structure": stand, "either": [*lie, *stand]}
    for rule in RULES.values():
        for thing in things[rule.of] if rule.bounds is not None else ():
            for b in (
                rule.bounds(facts, thing) if judged(project, record_of(thing), rule.name) else ()  # type: ignore[misc]
            ):
                if rule.of == "pipe" or all(k[0] in pipes for k in b.factors):
                    yield b
                elif any(k[0] in pipes for k in b.factors):
                    rest = sum(
                        a * invert(project, k) for k, a in b.factors.items() if k[0] not in pipes
                    )
                    yield Bound(
                        {k: a for k, a in b.factors.items() if k[0] in pipes}, b.most - rest, b.rule
                    )


def invert(project: Project, key: Key) -> float:
    """The invert of an end, m above datum."""
    return project.pipes[key[0]].invert(key[1])


@kept(6)
def end_range(facts: Facts, f: PipeFacts, end: End) -> Range:
    """The inverts (m above datum) that one end may have, the other end kept; where the slope is
    held it goes along.
    """
    now = f.pipe.invert(end)
    if f.pipe.hold_slope:
        return _shifted(shift_range(facts, f), now)
    return _shifted(_range(facts, f, (1.0, 0.0) if end == "up" else (0.0, 1.0)), now)


def shift_range(facts: Facts, f: PipeFacts) -> Range:
    """How far (m, up positive) the whole pipe may move with its slope kept."""
    return _range(facts, f, (1.0, 1.0))


def cover_bound(facts: Facts, f: PipeFacts, end: End | None, cover: float) -> float | None:
    """The invert at an end (or the shift of the whole pipe, end None) that gives exactly a least
    cover, m.

    None where no ground is known, or where the moving end has no say.
    """
    way = {"up": (1.0, 0.0), "down": (0.0, 1.0), None: (1.0, 1.0)}[end]
    step = _bounds(f, [_row(f, b) for b in lines_at(f, cover)], way).high
    if step is None:
        return None
    return step if end is None else step + f.pipe.invert(end)


def rule_bound(facts: Facts, f: PipeFacts, end: End | None, rule: str) -> float | None:
    """The invert at an end (or the shift of the whole pipe, end None) at which one rule is just
    kept; None where it has no say.

    Of both sides that a rule may bound it is the nearer one.
    """
    way = {"up": (1.0, 0.0), "down": (0.0, 1.0), None: (1.0, 1.0)}[end]
    found = _bounds(f, [r for r in rows(facts, f) if r.rule == rule], way)
    steps = [v for v in (found.low, found.high) if v is not None]
    if not steps:
        return None
    step = min(steps, key=abs)
    return step if end is None else step + f.pipe.invert(end)


def _range(facts: Facts, f: PipeFacts, way: tuple[float, float]) -> Range:
    return _bounds(f, rows(facts, f), way)


def _shifted(r: Range, by: float) -> Range:
    low = None if r.low is None else r.low + by
    return Range(low, r.low_rule, None if r.high is None else r.high + by, r.high_rule)


def _bounds(f: PipeFacts, rows: Iterable[Constraint], way: tuple[float, float]) -> Range:
    """How far the inverts may go along a direction before each row binds; rows that it does not
    move are silent.
    """
    low: tuple[float | None, str | None] = (None, None)
    high: tuple[float | None, str | None] = (None, None)
    for a, b, c, rule in rows:
        rate = a * way[0] + b * way[1]
        if abs(rate) < 1e-9:
            continue
        step = (c - a * f.pipe.invert_up - b * f.pipe.invert_down) / rate
        if rate > 0 and (high[0] is None or step < high[0]):
            high = (step, rule)
        if rate < 0 and (low[0] is None or step > low[0]):
            low = (step, rule)
    return Range(*low, *high)


def least_breach(rows: Sequence[Constraint], rule: str) -> float | None:
    """By how much (m) the rows of one rule must be eased at the least so that all rows can be kept,
    exact.

    The easing is a third unknown. None where easing does not help.
    """
    a = np.array([(r.a, r.b, -1.0 if r.rule == rule else 0.0) for r in rows] + [(0.0, 0.0, -1.0)])
    found = best_corner(np.array([0.0, 0.0, 1.0]), a, np.array([*(r.c for r in rows), 0.0]))
    return None if found is None else float(found[2])


def shallowest(rows: Sequence[Constraint]) -> tuple[float, float] | None:
    """The inverts (u, d) that keep all rows with the greatest sum, exact; None where none keep
    them.

    Of corners of what is allowed whose sums are no more than FLATTER apart that of the flattest
    pipe is taken: else a dip in the ground that moves by a metre would turn a flat pipe into a
    steep one.
    """
    a, c = np.array([(r.a, r.b) for r in rows]).reshape(-1, 2), np.array([r.c for r in rows])
    x = best_corner(np.array([-1.0, -1.0]), a, c)
    if x is None:
        return None
    least, fall = x.sum() - FLATTER, x[0] - x[1]
    while True:  # from corner to corner, each flatter than the last
        holding = a[a @ x > c - 1e-7]
        ways = np.vstack(
            [
                np.column_stack([-holding[:, 1], holding[:, 0]]),
                np.column_stack([holding[:, 1], -holding[:, 0]]),
            ]
        )
        ways = ways[(ways[:, 0] - ways[:, 1] < -1e-9) & (ways @ holding.T <= 1e-9).all(axis=1)]
        if not len(ways):
            break
        way = ways[(ways.sum(axis=1) / np.hypot(*ways.T)).argmax()]
        on = x + along(x, way, a, c) * way
        if not np.isfinite(on).all() or on.sum() < least or on[0] - on[1] > fall - 1e-9:
            break
        x, fall = on, on[0] - on[1]
    return float(x[0]), float(x[1])
