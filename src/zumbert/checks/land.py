"""Proposed work inside the road reserve and the easements."""

from collections.abc import Iterator

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.land import outside, stands_outside
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.where import along, pipe_name, spot, stand


def _pipe(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    """The value is the length outside, the place the middle of the longest stretch."""
    stretches = outside(facts.land, f.span) if f.pipe.status == "proposed" else []
    if not stretches:
        return
    long = sum(b - a for a, b in stretches)
    a, b = max(stretches, key=lambda s: s[1] - s[0])
    yield Finding(
        rule="land",
        severity="breach",
        pipe=f.pipe.id,
        value=long,
        limit=0.0,
        worse="more",
        stretches=tuple(stretches),
        **spot(facts, f, (a + b) / 2),
    )


def _structure(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    far = stands_outside(facts.land, f.place) if f.structure.status == "proposed" else 0.0
    if far > TOLERANCE:
        yield Finding(
            rule="land",
            severity="breach",
            structure=f.structure.id,
            value=far,
            limit=0.0,
            worse="more",
            fixes=("into_land",),
            **stand(f),
        )


def _either(facts: Facts, f: PipeFacts | StructureFacts) -> Iterator[Finding]:
    return _pipe(facts, f) if isinstance(f, PipeFacts) else _structure(facts, f)


def _say(facts: Facts, n: Finding) -> str:
    u = facts.units
    if n.pipe is None:
        label = facts.structures[n.of_structure].structure.label
        return f"{label} stands {u.long(n.value)} outside the land."
    f = facts.pipes[n.pipe]
    where = along(facts, f, n.distance or 0.0)
    return f"Pipe {pipe_name(facts, f)} lies outside the land over {u.long(n.value)}, {where}."


def _mark(facts: Facts, n: Finding) -> str:
    return f"{facts.units.long(n.value)} outside the land"


LAND = Rule("land", "Outside the land", "either", _either, _say, mark=_mark, at_once=True)
