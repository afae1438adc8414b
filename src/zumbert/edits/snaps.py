"""Named snap levels of a dragged pipe end."""

from typing import NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import rule_of
from zumbert.checks.legal import rows, rule_bound
from zumbert.checks.limits import pipe_limit
from zumbert.model.ids import StructureId
from zumbert.model.pipe import End


class Snap(NamedTuple):
    """A level (m above datum) of the end in hand, and what it stands for."""

    level: float
    name: str


def snaps(facts: Facts, f: PipeFacts, end: End | None) -> list[Snap]:
    """Snaps of an end, or of the upper end of a pipe that moves whole (end None)."""
    u = facts.units
    out = []
    need = pipe_limit(facts.project, f.pipe, f.dn, "cover_min")
    bound = rule_bound(facts, f, end, "cover_min")
    if bound is not None:
        at = bound if end is not None else f.pipe.invert_up + bound
        out.append(Snap(at, f"Least cover {u.length(need)}"))
    fall = f.pipe.invert_up - f.pipe.invert_down
    for row in rows(facts, f):
        name = rule_of(row.rule).snap
        if not name:
            continue
        of: End = "up" if row.a else "down"
        to = row.c if row.a > 0 or row.b > 0 else -row.c
        if end == of:
            out.append(Snap(to, name))
        elif end is None:
            out.append(Snap(to if of == "up" else to + fall, name))
    return out


def snapped(facts: Facts, f: PipeFacts, end: End | None, to: float, within: float) -> Snap:
    """The nearest snap within a distance (m), else the nearest 5 mm (in feet: the nearest
    hundredth).
    """
    near = [s for s in snaps(facts, f, end) if abs(s.level - to) <= within]
    if near:
        return min(near, key=lambda s: abs(s.level - to))
    return Snap(_rounded(facts, to), "")


def snapped_rim(facts: Facts, structure: StructureId, to: float, within: float) -> Snap:
    """A rim (m above datum) on design or ground within a distance (m), else at the nearest 5 mm."""
    p = facts.places[structure]
    on = [
        Snap(z, name)
        for z, name in ((p.design, "On the design"), (p.ground, "On the ground"))
        if z is not None
    ]
    near = [s for s in on if abs(s.level - to) <= within]
    return min(near, key=lambda s: abs(s.level - to)) if near else Snap(_rounded(facts, to), "")


def _rounded(facts: Facts, to: float) -> float:
    """The nearest 5 mm; in feet the nearest hundredth."""
    step = facts.units.measures.level_step
    return round(to / step) * step


def snapped_slope(facts: Facts, f: PipeFacts, end: End, to: float) -> Snap:
    """The level of an end at the nearest round slope: 0.05 %, or 1:n with a whole n where slopes
    are written so.
    """
    other = f.pipe.invert_down if end == "up" else f.pipe.invert_up
    sign = 1.0 if end == "up" else -1.0
    slope = (
        _round_slope(sign * (to - other) / f.basis, facts.units.slopes == "ratio")
        if f.basis
        else 0.0
    )
    return Snap(other + sign * slope * f.basis, f"Slope {facts.units.slope(slope)}")


def _round_slope(slope: float, ratio: bool) -> float:
    """The nearest slope of 0.05 % steps, or of 1:n; level stays level."""
    if not ratio or abs(slope) < 1 / 2000:
        return round(slope / 0.0005) * 0.0005
    return (1.0 if slope > 0 else -1.0) / max(1, round(1 / abs(slope)))
