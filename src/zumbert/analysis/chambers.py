"""Facts of a structure: depth, sump level and the drops between its pipes."""

from collections.abc import Mapping
from math import degrees, pi

from msgspec import Struct

from zumbert.analysis.links import Links
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.places import PlaceFacts
from zumbert.model.ids import PipeId
from zumbert.model.project import Project
from zumbert.model.structure import Structure


class Drop(Struct, frozen=True):
    """One inlet and outlet pair."""

    inlet: PipeId
    outlet: PipeId
    drop: float  # m, invert in - invert out
    deflection: float  # degrees between the flow directions, 0 to 180


class StructureFacts(Struct, frozen=True, kw_only=True, eq=False):
    """Everything derived for a structure; None where a value does not exist."""

    structure: Structure
    place: PlaceFacts
    pipes_in: tuple[PipeFacts, ...]
    pipes_out: tuple[PipeFacts, ...]
    lowest: float | None  # m above datum, lowest connected invert in use
    depth: float | None  # m, rim to lowest invert
    sump_level: float | None  # m above datum
    drops: tuple[Drop, ...]


def structure_facts(
    project: Project,
    structure: Structure,
    place: PlaceFacts,
    links: Links,
    pipes: Mapping[PipeId, PipeFacts],
) -> StructureFacts:
    """Facts of one structure from its pipes. Abandoned ones say nothing of a structure that is in
    use: they are among its pipes, but make no drop and set neither its depth nor its sump.
    """
    pipes_in = tuple(pipes[p] for p in links.inlets.get(structure.id, ()))
    pipes_out = tuple(pipes[p] for p in links.outlets.get(structure.id, ()))
    every = structure.status == "abandoned"
    live_in = tuple(f for f in pipes_in if every or f.pipe.status != "abandoned")
    live_out = tuple(f for f in pipes_out if every or f.pipe.status != "abandoned")
    inverts = [f.pipe.invert_down for f in live_in] + [f.pipe.invert_up for f in live_out]
    lowest = min(inverts) if inverts else None
    sump = structure.sump
    if sump is None and lowest is not None:
        own = structure.sump_depth
        sump = lowest - (project.types[structure.type].sump if own is None else own)
    return StructureFacts(
        structure=structure,
        place=place,
        pipes_in=pipes_in,
        pipes_out=pipes_out,
        lowest=lowest,
        depth=None if place.rim is None or lowest is None else place.rim - lowest,
        sump_level=sump,
        drops=tuple(_drop(i, o) for i in live_in for o in live_out),
    )


def extent(f: StructureFacts) -> tuple[float, float] | None:
    """Rim and sump level of a structure as it is drawn, m above datum: without a rim, that of the
    ground or 1 m over the sump; without a sump, 1.2 m under the rim; None where neither is known.
    """
    rim = f.place.rim if f.place.rim is not None else f.place.ground
    if rim is None:
        return None if f.sump_level is None else (f.sump_level + 1.0, f.sump_level)
    return rim, rim - 1.2 if f.sump_level is None else f.sump_level


def _drop(inlet: PipeFacts, outlet: PipeFacts) -> Drop:
    turn = abs(inlet.span.bearing_down - outlet.span.bearing)
    return Drop(
        inlet.pipe.id,
        outlet.pipe.id,
        inlet.pipe.invert_down - outlet.pipe.invert_up,
        degrees(min(turn, 2 * pi - turn)),
    )
