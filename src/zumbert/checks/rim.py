"""The rules for the rim of a chamber: on its surface within a tolerance, above all crowns, and as
deep as its type allows.

Walls and joints have no rim to stand on: a headwall's top and a joint are not judged.
"""

from collections.abc import Iterator
from typing import Literal

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Bound, Finding, Rule
from zumbert.checks.limits import limit_of, name_of_type
from zumbert.checks.where import stand
from zumbert.model.ids import PipeId
from zumbert.model.pipe import End

UNDER_RIM = 1e-5  # m: a crown at the rim breaks the rule, so it stays so much under it


def off_surface(f: StructureFacts) -> tuple[float, str] | None:
    """How far (m) a fixed rim lies over its surface (negative: under it), and which that is; None
    where it is not fixed, or no surface is known there.
    """
    p = f.place
    if p.rim is None or p.rim_from != "fixed":
        return None
    if p.design is not None:
        return p.rim - p.design, "design"
    return None if p.ground is None else (p.rim - p.ground, "existing")


def _on_surface(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    off = off_surface(f) if _chamber(facts, f) else None
    need = limit_of(facts.project, f.structure, "rim_tolerance")
    if off is not None and abs(off[0]) > need + TOLERANCE:
        yield _finding(f, "rim_on_surface", off[0], need, "more", fixes=("rim_on_surface",))


def _say_on_surface(facts: Facts, n: Finding) -> str:
    f, u, by = facts.structures[n.of_structure], facts.units, n.value or 0.0
    _, role = off_surface(f) or (0.0, "design")
    rim = f"The fixed rim of {f.structure.label}, {u.level(f.place.rim)}"
    off = f"{u.deep(abs(by))} {'over' if by > 0 else 'under'} {facts.surfaces.name(role)}"
    return f"{rim}, lies {off}, allowed {u.deep(n.limit)}."


def _above_crowns(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    if not _chamber(facts, f) or f.place.rim is None:
        return
    for g, _, invert in _ends(f):
        crown = invert + g.inside
        if f.place.rim <= crown + TOLERANCE:
            inward = g.pipe.down == f.structure.id
            inlet, outlet = (g.pipe.id, None) if inward else (None, g.pipe.id)
            yield _finding(
                f,
                "rim_above_crowns",
                f.place.rim,
                crown,
                "less",
                inlet,
                outlet,
                ("under_rim", "rim_on_surface"),
            )


def _say_above_crowns(facts: Facts, n: Finding) -> str:
    f, u, project = facts.structures[n.of_structure], facts.units, facts.project
    far = project.pipes[n.inlet].up if n.inlet is not None else project.pipes[n.of_outlet].down
    pipe = f"the pipe {'from' if n.inlet is not None else 'to'} {project.structures[far].label}"
    return (
        f"The rim of {f.structure.label}, {u.level(n.value)}, is not over the crown of {pipe}, "
        f"{u.level(n.limit)}."
    )


def _depth(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    kind = facts.project.types[f.structure.type]
    if f.depth is None or not kind.inside:
        return
    if kind.depth_max is not None and f.depth > kind.depth_max + TOLERANCE:
        yield _finding(
            f, "chamber_depth", f.depth, kind.depth_max, "more", fixes=("larger_chamber",)
        )
    if kind.depth_min is not None and f.depth < kind.depth_min - TOLERANCE:
        yield _finding(
            f, "chamber_depth", f.depth, kind.depth_min, "less", fixes=("larger_chamber",)
        )


def _say_depth(facts: Facts, n: Finding) -> str:
    s, u = facts.structures[n.of_structure].structure, facts.units
    kind, side = facts.project.types[s.type].name, "most" if n.worse == "more" else "least"
    return f"{s.label} is {u.deep(n.value)} deep, {kind} goes at {side} {u.deep(n.limit)}."


def _chamber(facts: Facts, f: StructureFacts) -> bool:
    return bool(facts.project.types[f.structure.type].inside)


def _finding(
    f: StructureFacts,
    rule: str,
    value: float,
    limit: float,
    worse: Literal["less", "more"],
    inlet: PipeId | None = None,
    outlet: PipeId | None = None,
    fixes: tuple[str, ...] = (),
) -> Finding:
    return Finding(
        rule=rule,
        severity="breach",
        structure=f.structure.id,
        inlet=inlet,
        outlet=outlet,
        value=value,
        limit=limit,
        worse=worse,
        fixes=fixes,
        **stand(f),
    )


def _crown_bounds(facts: Facts, f: StructureFacts) -> Iterator[Bound]:
    for g, end, _ in _bounded(facts, f):
        yield Bound(
            {(g.pipe.id, end): 1.0}, (f.place.rim or 0.0) - g.inside - UNDER_RIM, "rim_above_crowns"
        )


def _depth_bounds(facts: Facts, f: StructureFacts) -> Iterator[Bound]:
    """No end deeper than the type goes; one at least so deep as it must, where no other pipe is."""
    kind, rim = facts.project.types[f.structure.type], f.place.rim or 0.0
    ends = list(_bounded(facts, f))
    for g, end, _ in ends:
        if kind.depth_max is not None:
            yield Bound({(g.pipe.id, end): -1.0}, kind.depth_max - rim, "chamber_depth")
        others = [v for o, _, v in ends if o is not g]
        if kind.depth_min is not None and (
            not others or min(others) > rim - kind.depth_min + TOLERANCE
        ):
            yield Bound({(g.pipe.id, end): 1.0}, rim - kind.depth_min, "chamber_depth")


def _bounded(facts: Facts, f: StructureFacts) -> Iterator[tuple[PipeFacts, End, float]]:
    """The ends of pipes in use at a chamber with a rim."""
    if f.place.rim is not None and _chamber(facts, f) and f.structure.status != "abandoned":
        yield from _ends(f)


def _ends(f: StructureFacts) -> Iterator[tuple[PipeFacts, End, float]]:
    """The pipes in use at a structure, which of their ends is there, and its invert (m)."""
    yield from ((g, "down", g.pipe.invert_down) for g in f.pipes_in if g.pipe.status != "abandoned")
    yield from ((g, "up", g.pipe.invert_up) for g in f.pipes_out if g.pipe.status != "abandoned")


RIM_ON_SURFACE = Rule(
    "rim_on_surface",
    "Rim on its surface",
    "structure",
    _on_surface,
    _say_on_surface,
    limit="rim_tolerance",
    signed=True,
    at_rim=True,
)
RIM_ABOVE_CROWNS = Rule(
    "rim_above_crowns",
    "Rim over crowns",
    "structure",
    _above_crowns,
    _say_above_crowns,
    _crown_bounds,
    levels=True,
    at_rim=True,
    cost=3e4,
)
CHAMBER_DEPTH = Rule(
    "chamber_depth", "Depth of the chamber", "structure", _depth, _say_depth, _depth_bounds,
    source=name_of_type, of_type=True,
    cost=3e4,
)  # fmt: skip
