"""The room in a chamber: for its pipes, and the wall that is left between their
openings.
"""

from collections.abc import Iterator, Sequence
from itertools import combinations
from math import asin, cos, inf, pi, sin

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.limits import limit_of, name_of_type
from zumbert.checks.where import stand
from zumbert.model.catalogue import StructureType

ENTERED = ("manhole", "catchpit")  # kinds that a person has to have room in
FIXES = ("larger_chamber",)


def pipes_at(f: StructureFacts) -> list[PipeFacts]:
    """The pipes in use at a structure."""
    return [g for g in (*f.pipes_in, *f.pipes_out) if g.pipe.status != "abandoned"]


def room_inside(kind: StructureType) -> float:
    """The inside size of a chamber that counts, m: its diameter, of a rectangle the shorter
    side.
    """
    return kind.inside if kind.across is None else min(kind.inside, kind.across)


def _size(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    kind, pipes = facts.project.types[f.structure.type], pipes_at(f)
    if kind.kind not in ENTERED or not kind.inside or not pipes:
        return
    largest = max(pipes, key=lambda g: g.dn)
    need = limit_of(facts.project, f.structure, "chamber_min", largest.dn)
    if room_inside(kind) < need - TOLERANCE:
        yield Finding(
            rule="chamber_size",
            severity="breach",
            structure=f.structure.id,
            partner=largest.pipe.id,
            value=room_inside(kind),
            limit=need,
            fixes=FIXES,
            **stand(f),
        )


def _say_size(facts: Facts, n: Finding) -> str:
    u = facts.units
    now, need = u.apart(u.long, n.value, n.limit)
    dn = u.dn(facts.pipes[n.of_partner].dn)
    return f"{_label(facts, n)} is {now} inside, needs {need} for {dn}."


def _largest(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    most, pipes = facts.project.types[f.structure.type].dn_max, pipes_at(f)
    if most is None or not pipes:
        return
    largest = max(pipes, key=lambda g: g.dn)
    if largest.dn > most + TOLERANCE:
        yield Finding(
            rule="largest_pipe",
            severity="breach",
            structure=f.structure.id,
            partner=largest.pipe.id,
            value=largest.dn,
            limit=most,
            worse="more",
            fixes=FIXES,
            **stand(f),
        )


def _say_largest(facts: Facts, n: Finding) -> str:
    u, kind = facts.units, facts.project.types[facts.project.structures[n.of_structure].type]
    return (
        f"{_label(facts, n)} has a pipe {u.dn(n.value or 0.0)}, {kind.name} takes "
        f"{u.dn(n.limit or 0.0)} at most."
    )


class _Opening:
    """The opening of a pipe in the wall of a chamber: where along the inner face, how wide, and
    from which level to which.
    """

    def __init__(self, kind: StructureType, f: StructureFacts, g: PipeFacts) -> None:
        outer = g.pipe.up == f.structure.id
        span = g.span
        self.pipe = g.pipe.id
        self.bearing = span.bearing if outer else span.bearing_down + pi
        level = g.invert(span.reach_up if outer else span.length - span.reach_down)
        self.low, self.high = level - g.wall, level + g.inside + g.wall
        wide = g.inside + 2 * g.wall
        if kind.across is None:
            r = kind.inside / 2
            self.round, half = 2 * pi * r, r * asin(min(1.0, wide / 2 / r))
            self.at = r * (self.bearing % (2 * pi))
        else:
            self.round = 2 * (kind.inside + kind.across)
            self.at, half = _on_box(
                kind.inside / 2, kind.across / 2, self.bearing - f.place.bearing, wide
            )
        self.half = half

    def clear_of(self, other: "_Opening") -> float:
        """The wall (m) between two openings along the inner face, under 0 where they overlap;
        inf where their levels do not.
        """
        if self.low >= other.high or other.low >= self.high:
            return inf
        apart = abs(self.at - other.at) % self.round
        return min(apart, self.round - apart) - self.half - other.half


def _on_box(a: float, b: float, turn: float, wide: float) -> tuple[float, float]:
    """Where a pipe leaves a rectangle (half sides a along its axis, b across), along its face from
    the middle of one end (m), and half the width (m) of its opening there, skew as it lies.
    """
    x, y = cos(turn), sin(turn)  # along the axis, and to the right
    t = min(a / abs(x) if abs(x) > 1e-12 else inf, b / abs(y) if abs(y) > 1e-12 else inf)
    px, py = x * t, y * t
    if abs(abs(px) - a) < 1e-9:
        square = abs(x)
        at = py if px > 0 else 2 * a + 2 * b - py
    else:
        square = abs(y)
        at = b + (a - px) if py > 0 else 3 * b + 2 * a + (px + a)
    return at, wide / 2 / max(square, 1e-9)


def openings(
    kind: StructureType, f: StructureFacts, pipes: Sequence[PipeFacts]
) -> list[tuple[float, PipeFacts, PipeFacts]]:
    """The wall (m) between each two pipes in a chamber of a kind whose levels overlap, the least
    first.
    """
    cut = [(_Opening(kind, f, g), g) for g in pipes]
    found = [(a.clear_of(b), g, h) for (a, g), (b, h) in combinations(cut, 2)]
    return sorted((v for v in found if v[0] < inf), key=lambda v: v[0])


def _walls(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    kind, pipes = facts.project.types[f.structure.type], pipes_at(f)
    if not kind.inside or len(pipes) < 2:
        return
    need = limit_of(facts.project, f.structure, "wall_gap")
    for clear, g, h in openings(kind, f, pipes):
        if clear < need - TOLERANCE:
            yield Finding(
                rule="wall_openings",
                severity="breach",
                structure=f.structure.id,
                inlet=g.pipe.id,
                outlet=h.pipe.id,
                partner=g.pipe.id,
                value=clear,
                limit=need,
                fixes=FIXES,
                **stand(f),
            )


def _say_walls(facts: Facts, n: Finding) -> str:
    u, pipes = facts.units, facts.project.pipes
    one, other = (pipes[k].label for k in (n.of_inlet, n.of_outlet))
    now, need = u.apart(u.long, n.value, n.limit)
    over = "At {label} the openings of {one} and {other} run into each other by {by}."
    thin = "At {label} {now} of wall is left between {one} and {other}, needs {need}."
    value = n.value or 0.0
    return (over if value < 0 else thin).format(
        label=_label(facts, n), one=one, other=other, now=now, need=need, by=u.long(-value)
    )


def _label(facts: Facts, n: Finding) -> str:
    return facts.project.structures[n.of_structure].label


CHAMBER_SIZE = Rule(
    "chamber_size",
    "Size of the chamber",
    "structure",
    _size,
    _say_size,
    limit="chamber_min",
    of_type=True,
)
WALL_OPENINGS = Rule(
    "wall_openings",
    "Wall between openings",
    "structure",
    _walls,
    _say_walls,
    limit="wall_gap",
    of_type=True,
)
LARGEST_PIPE = Rule(
    "largest_pipe",
    "Largest pipe",
    "structure",
    _largest,
    _say_largest,
    source=name_of_type,
    of_type=True,
)
