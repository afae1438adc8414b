"""The legal band: the inverts of a pipe that every rule allows, as one set of straight constraints.

Each rule that binds the inverts u (up) and d (down) is a row a u + b d <= c. All that is asked of the band follows
from these rows: the range of one end with the other kept, of the whole pipe with its slope kept, and the
shallowest levels of all.
"""

from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE
from zumbert.checks.limits import drop_limit, pipe_limit, standard_of
from zumbert.geometry.corners import along, best_corner
from zumbert.geometry.elements import Array
from zumbert.model.structure import Structure

End = Literal["up", "down"]
UNDER_RIM = 1e-5  # m: a crown at the rim breaks the rule, so it stays so much under it
FLATTER = 0.1  # m of both inverts together that a flatter pipe may cost: where it costs less it is taken
CROWN_PARTS = {"crowns": 1.0, "centres": 0.5, "0.8": 0.8}


class Row(NamedTuple):
    """One constraint on the inverts: a u + b d <= c (m), and the rule that sets it."""

    a: float
    b: float
    c: float
    rule: str


class Range(NamedTuple):
    """Allowed levels or shifts (m), each end with the rule that sets it; None: nothing bounds that side."""

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


@lru_cache(maxsize=3)
def rows(facts: Facts, f: PipeFacts) -> tuple[Row, ...]:
    """All constraints on the inverts of a pipe, its neighbours kept as they are; band, panel, snaps and entry line ask for one
    pipe's in turn, so those asked for last are remembered.
    """
    return *_cover_rows(facts, f), *_slope_rows(facts, f), *_drop_rows(facts, f), *_chamber_rows(facts, f)


@lru_cache(maxsize=6)
def end_range(facts: Facts, f: PipeFacts, end: End) -> Range:
    """The inverts (m above datum) that one end may have, the other end kept; where the slope is held it goes along."""
    now = f.pipe.invert_up if end == "up" else f.pipe.invert_down
    if f.pipe.keep_slope:
        return _shifted(shift_range(facts, f), now)
    return _shifted(_range(facts, f, (1.0, 0.0) if end == "up" else (0.0, 1.0)), now)


def shift_range(facts: Facts, f: PipeFacts) -> Range:
    """How far (m, up positive) the whole pipe may move with its slope kept."""
    return _range(facts, f, (1.0, 1.0))


def cover_bound(facts: Facts, f: PipeFacts, end: End | None, cover: float) -> float | None:
    """The invert at an end (or the shift of the whole pipe, end None) that gives exactly a least cover, m.

    None where no ground is known, or where the moving end has no say.
    """
    way = {"up": (1.0, 0.0), "down": (0.0, 1.0), None: (1.0, 1.0)}[end]
    step = _bounds(f, _lines_at(f, cover, "cover_min", 1.0), way).high
    if step is None:
        return None
    return step if end is None else step + (f.pipe.invert_up if end == "up" else f.pipe.invert_down)


def _range(facts: Facts, f: PipeFacts, way: tuple[float, float]) -> Range:
    return _bounds(f, rows(facts, f), way)


def _shifted(r: Range, by: float) -> Range:
    low = None if r.low is None else r.low + by
    return Range(low, r.low_rule, None if r.high is None else r.high + by, r.high_rule)


def _bounds(f: PipeFacts, rows: Iterable[Row], way: tuple[float, float]) -> Range:
    """How far the inverts may go along a direction before each row binds; rows that it does not move are silent."""
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


def _cover_rows(facts: Facts, f: PipeFacts) -> Iterator[Row]:
    yield from _lines_at(f, pipe_limit(facts.project, f.pipe, f.dn, "cover_min"), "cover_min", 1.0)
    yield from _lines_at(f, pipe_limit(facts.project, f.pipe, f.dn, "cover_max"), "cover_max", -1.0)


def _lines_at(f: PipeFacts, cover: float, rule: str, sign: float) -> list[Row]:
    """invert(s) <= ground(s) - cover - outside height at each point that can bind (sign -1: >=)."""
    if f.span.barrel is None or f.basis <= 1e-9:
        return []
    known = ~np.isnan(f.span.barrel.z)
    t = (f.span.barrel.s[known] - f.quoted_from) / f.basis
    z = sign * (f.span.barrel.z[known] - cover - f.outside_height)
    keep = _lower_hull(t, z)
    return [Row(sign * (1 - t), sign * t, z, rule) for t, z in zip(t[keep].tolist(), z[keep].tolist(), strict=True)]


def _lower_hull(t: Array, z: Array) -> list[int]:
    """Indices of the lower hull: a straight line under all points is under all of them if it is under these."""
    hull: list[int] = []
    x, y = t.tolist(), z.tolist()
    for i in range(len(x)):
        if hull and x[i] - x[hull[-1]] <= 1e-12:
            if y[i] >= y[hull[-1]]:
                continue
            hull.pop()
        while len(hull) > 1 and _over(x, y, hull[-2], hull[-1], i):
            hull.pop()
        hull.append(i)
    return hull


def _over(x: list[float], y: list[float], a: int, b: int, c: int) -> bool:
    return (y[b] - y[a]) * (x[c] - x[a]) >= (y[c] - y[a]) * (x[b] - x[a])


def _slope_rows(facts: Facts, f: PipeFacts) -> Iterator[Row]:
    least = pipe_limit(facts.project, f.pipe, f.dn, "slope_min")
    most = pipe_limit(facts.project, f.pipe, f.dn, "slope_max")
    yield Row(-1.0, 1.0, -least * f.basis, "slope_min")
    yield Row(1.0, -1.0, most * f.basis, "slope_max")


def _drop_rows(facts: Facts, f: PipeFacts) -> Iterator[Row]:
    """Rules at both chambers: as an inlet above the outlets of the lower, as an outlet below the inlets of the upper."""
    down, up = facts.structures[f.pipe.down], facts.structures[f.pipe.up]
    for d in down.drops:
        if d.inlet == f.pipe.id:
            out = next(o for o in down.pipes_out if o.pipe.id == d.outlet)
            least = least_drop(facts, down.structure, d.deflection, f.inside, out.inside)
            yield Row(0.0, -1.0, -(out.pipe.invert_up + least[0]), least[1])
            most = pipe_limit(facts.project, f.pipe, f.dn, "drop_max")
            yield Row(0.0, 1.0, out.pipe.invert_up + most, "drop_max")
    for d in up.drops:
        if d.outlet == f.pipe.id:
            inlet = next(i for i in up.pipes_in if i.pipe.id == d.inlet)
            least = least_drop(facts, up.structure, d.deflection, inlet.inside, f.inside)
            yield Row(1.0, 0.0, inlet.pipe.invert_down - least[0], least[1])
            most = pipe_limit(facts.project, inlet.pipe, inlet.dn, "drop_max")
            yield Row(-1.0, 0.0, -(inlet.pipe.invert_down - most), "drop_max")


def _chamber_rows(facts: Facts, f: PipeFacts) -> Iterator[Row]:
    """Rules of the chambers at both ends: the crown under the rim, and a depth that the type goes to."""
    for key, a, b in ((f.pipe.up, 1.0, 0.0), (f.pipe.down, 0.0, 1.0)):
        at = facts.structures[key]
        kind, rim = facts.project.types[at.structure.type], at.place.rim
        if rim is None or not kind.inside or at.structure.status == "abandoned":
            continue
        yield Row(a, b, rim - f.inside - UNDER_RIM, "rim_above_crowns")
        if kind.depth_max is not None:
            yield Row(-a, -b, kind.depth_max - rim, "chamber_depth")
        if kind.depth_min is not None:
            others = [v for g, v in ends_at(at) if g.pipe.id != f.pipe.id]
            if not others or min(others) > rim - kind.depth_min + TOLERANCE:  # no other pipe makes it deep enough
                yield Row(a, b, rim - kind.depth_min, "chamber_depth")


def ends_at(at: StructureFacts) -> Iterator[tuple[PipeFacts, float]]:
    """The pipes in use at a structure with their inverts (m) there."""
    yield from ((g, g.pipe.invert_down) for g in at.pipes_in if g.pipe.status != "abandoned")
    yield from ((g, g.pipe.invert_up) for g in at.pipes_out if g.pipe.status != "abandoned")


def least_drop(
    facts: Facts, structure: Structure, deflection: float, inside_in: float, inside_out: float
) -> tuple[float, str]:
    """The drop (m) that least drop, crowns and lowest outlet together ask for, and which of them does."""
    drop = drop_limit(facts.project, structure, deflection)
    part = CROWN_PARTS.get(standard_of(facts.project, structure).crowns, 0.0)
    crown = part * (inside_out - inside_in)
    return max((drop, "drop_min"), (crown, "crowns"), (0.0, "outlet_lowest"), key=lambda p: p[0])


def least_breach(rows: Sequence[Row], rule: str) -> float | None:
    """By how much (m) the rows of one rule must be eased at the least so that all rows can be kept, exact.

    The easing is a third unknown. None where easing does not help.
    """
    a = np.array([(r.a, r.b, -1.0 if r.rule == rule else 0.0) for r in rows] + [(0.0, 0.0, -1.0)])
    found = best_corner(np.array([0.0, 0.0, 1.0]), a, np.array([*(r.c for r in rows), 0.0]))
    return None if found is None else float(found[2])


def shallowest(rows: Sequence[Row]) -> tuple[float, float] | None:
    """The inverts (u, d) that keep all rows with the greatest sum, exact; None where none keep them.

    Of corners of what is allowed whose sums are no more than FLATTER apart that of the flattest pipe is taken: else a dip in the
    ground that moves by a metre would turn a flat pipe into a steep one.
    """
    a, c = np.array([(r.a, r.b) for r in rows]).reshape(-1, 2), np.array([r.c for r in rows])
    x = best_corner(np.array([-1.0, -1.0]), a, c)
    if x is None:
        return None
    least, fall = x.sum() - FLATTER, x[0] - x[1]
    while True:  # from corner to corner, each flatter than the last
        holding = a[a @ x > c - 1e-7]
        ways = np.vstack(
            [np.column_stack([-holding[:, 1], holding[:, 0]]), np.column_stack([holding[:, 1], -holding[:, 0]])]
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
