"""What has to hold for the rim of a chamber: on its surface within a tolerance, over all crowns, as deep as its type goes.

Walls and joints have no rim to stand on: a headwall's top and a joint are not judged.
"""

from collections.abc import Iterator
from typing import Literal

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.legal import ends_at
from zumbert.checks.limits import standard_of
from zumbert.checks.where import stand
from zumbert.model.ids import PipeId


def off_surface(f: StructureFacts) -> tuple[float, str] | None:
    """How far (m) a fixed rim lies over its surface (negative: under it), and which that is; None where it is not fixed,
    or no surface is known there.
    """
    p = f.place
    if p.rim is None or p.rim_from != "fixed":
        return None
    if p.design is not None:
        return p.rim - p.design, "design"
    return None if p.ground is None else (p.rim - p.ground, "existing")


def _on_surface(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    off = off_surface(f) if _chamber(facts, f) else None
    need = standard_of(facts.project, f.structure).rim_tolerance
    if off is not None and abs(off[0]) > need + TOLERANCE:
        yield _finding(f, "rim_on_surface", off[0], need, "more", fixes=("rim_on_surface",))


def _say_on_surface(facts: Facts, n: Finding) -> str:
    f, u, by = facts.structures[n.structure], facts.units, n.value or 0.0  # type: ignore[index]
    _, role = off_surface(f) or (0.0, "design")
    words = f"{u.deep(abs(by))} {'over' if by > 0 else 'under'} {facts.surfaces.name(role)}, allowed {u.deep(n.limit)}."
    return f"The fixed rim of {f.structure.label}, {u.level(f.place.rim)}, lies {words}"


def _above_crowns(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    if not _chamber(facts, f) or f.place.rim is None:
        return
    for g, invert in ends_at(f):
        crown = invert + g.inside
        if f.place.rim <= crown + TOLERANCE:
            inward = g.pipe.down == f.structure.id
            ends = (g.pipe.id, None) if inward else (None, g.pipe.id)
            yield _finding(f, "rim_above_crowns", f.place.rim, crown, "less", *ends)


def _say_above_crowns(facts: Facts, n: Finding) -> str:
    f, u, project = facts.structures[n.structure], facts.units, facts.project  # type: ignore[index]
    if n.inlet is not None:
        pipe = f"from {project.structures[project.pipes[n.inlet].up].label}"
    else:
        pipe = f"to {project.structures[project.pipes[n.outlet].down].label}"  # type: ignore[index]
    rim, crown = u.level(n.value), u.level(n.limit)
    return f"The rim of {f.structure.label}, {rim}, is not over the crown of the pipe {pipe}, {crown}."


def _depth(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    kind = facts.project.types[f.structure.type]
    if f.depth is None or not kind.inside:
        return
    if kind.depth_max is not None and f.depth > kind.depth_max + TOLERANCE:
        yield _finding(f, "chamber_depth", f.depth, kind.depth_max, "more")
    if kind.depth_min is not None and f.depth < kind.depth_min - TOLERANCE:
        yield _finding(f, "chamber_depth", f.depth, kind.depth_min, "less")


def _say_depth(facts: Facts, n: Finding) -> str:
    s, u = facts.structures[n.structure].structure, facts.units  # type: ignore[index]
    words = "at most" if n.worse == "more" else "at least"
    return f"{s.label} is {u.deep(n.value)} deep, {facts.project.types[s.type].name} goes {words} {u.deep(n.limit)}."


def _chamber(facts: Facts, f: StructureFacts) -> bool:
    return bool(facts.project.types[f.structure.type].inside)


def _finding(
    f: StructureFacts, rule: str, value: float, limit: float, worse: Literal["less", "more"],
    inlet: PipeId | None = None, outlet: PipeId | None = None, fixes: tuple[str, ...] = (),
) -> Finding:  # fmt: skip
    return Finding(
        rule=rule, severity="breach", structure=f.structure.id, inlet=inlet, outlet=outlet, value=value, limit=limit,
        worse=worse, fixes=fixes, **stand(f),
    )  # fmt: skip


RIM_ON_SURFACE = Rule("rim_on_surface", "Rim on its surface", "structure", _on_surface, _say_on_surface)
RIM_ABOVE_CROWNS = Rule("rim_above_crowns", "Rim over crowns", "structure", _above_crowns, _say_above_crowns, cost=3e4)
CHAMBER_DEPTH = Rule("chamber_depth", "Depth of the chamber", "structure", _depth, _say_depth, cost=3e4)
