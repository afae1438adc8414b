"""What has to hold for the rim of a chamber: on its surface within a tolerance, over all crowns, as deep as its type goes.

Walls and joints have no rim to stand on: a headwall's top and a joint are not judged.
"""

from collections.abc import Iterator

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.legal import ends_at
from zumbert.checks.limits import standard_of
from zumbert.checks.where import stand


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
        u, by = facts.units, off[0]
        words = (
            f"{u.deep(abs(by))} {'over' if by > 0 else 'under'} {facts.surfaces.name(off[1])}, allowed {u.deep(need)}."
        )
        message = f"The fixed rim of {f.structure.label}, {u.level(f.place.rim)}, lies {words}"
        yield _finding(f, "rim_on_surface", by, need, message, ("rim_on_surface",))


def _above_crowns(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    if not _chamber(facts, f) or f.place.rim is None:
        return
    u = facts.units
    for g, invert in ends_at(f):
        crown = invert + g.inside
        if f.place.rim <= crown + TOLERANCE:
            far = facts.project.structures[g.pipe.up if g.pipe.down == f.structure.id else g.pipe.down].label
            message = (
                f"The rim of {f.structure.label}, {u.level(f.place.rim)}, is not over the crown of the pipe "
                f"{'from' if g in f.pipes_in else 'to'} {far}, {u.level(crown)}."
            )
            yield _finding(f, "rim_above_crowns", f.place.rim, crown, message)


def _depth(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    kind, u = facts.project.types[f.structure.type], facts.units
    if f.depth is None or not kind.inside:
        return
    for limit, broken, words in (
        (kind.depth_max, kind.depth_max is not None and f.depth > kind.depth_max + TOLERANCE, "at most"),
        (kind.depth_min, kind.depth_min is not None and f.depth < kind.depth_min - TOLERANCE, "at least"),
    ):
        if broken and limit is not None:
            message = f"{f.structure.label} is {u.deep(f.depth)} deep, {kind.name} goes {words} {u.deep(limit)}."
            yield _finding(f, "chamber_depth", f.depth, limit, message)


def _chamber(facts: Facts, f: StructureFacts) -> bool:
    return bool(facts.project.types[f.structure.type].inside)


def _finding(
    f: StructureFacts, rule: str, value: float, limit: float, message: str, fixes: tuple[str, ...] = ()
) -> Finding:  # fmt: skip
    return Finding(
        rule=rule, severity="breach", structure=f.structure.id, label=f.structure.label, value=value, limit=limit,
        message=message, fixes=fixes, **stand(f),
    )  # fmt: skip


RIM_ON_SURFACE = Rule("rim_on_surface", "Rim on its surface", "structure", _on_surface)
RIM_ABOVE_CROWNS = Rule("rim_above_crowns", "Rim over crowns", "structure", _above_crowns)
CHAMBER_DEPTH = Rule("chamber_depth", "Depth of the chamber", "structure", _depth)
