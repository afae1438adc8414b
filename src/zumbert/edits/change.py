"""Edits of structures and pipes: place, type, size, rim. Neighbours stay attached."""

from math import isfinite
from typing import Any, Literal

from zumbert.analysis.facts import Facts
from zumbert.edits.levels import slopes_kept
from zumbert.edits.records import with_pipe, with_structure
from zumbert.errors import EditError, known
from zumbert.model.ids import PipeId, RoadId, SizeKey, StructureId, TypeKey
from zumbert.model.levels import on_land
from zumbert.model.pipe import Bore
from zumbert.model.project import Project, size_words
from zumbert.model.structure import Anchored, FixedRim, Free, OnSurface

RimOn = Literal["design", "existing", "fixed"]


def move_structure(
    project: Project, facts: Facts, structure: StructureId, place: Anchored | Free
) -> Project:
    """The project with a structure at another place; its pipes follow, their inverts stay, but for
    slopes that are held.

    Raises EditError for a chainage beyond the ends of the road.
    """
    if isinstance(place, Anchored):
        on_road(facts, place)
    elif not (isfinite(place.x) and isfinite(place.y)):
        raise EditError("A place needs x and y in metres.")
    made = with_structure(project, structure, place=place)
    return slopes_kept(project, facts, made, facts.links.at(structure))


def on_road(facts: Facts, place: Anchored) -> None:
    """Raises EditError unless a road has the chainage of a place."""
    u = facts.units
    road = facts.roads[place.road]
    a = road.alignment
    if not (isfinite(place.chainage) and isfinite(place.offset)):
        raise EditError("A place on a road needs chainage and offset in metres.")
    if not a.start - 1e-6 <= place.chainage <= a.end + 1e-6:
        raise EditError(
            f'Chainage {u.chainage(place.chainage)} is outside the road "{road.road.name}", '
            f"which runs from {u.chainage(a.start)} to {u.chainage(a.end)}."
        )


def set_size(project: Project, pipe: PipeId, size: SizeKey | Bore) -> Project:
    """The project with a pipe of another size, its inverts kept. Raises EditError for an unknown
    size.
    """
    if not isinstance(size, Bore) and size not in project.sizes:
        raise EditError(f'There is no pipe size "{size}": {known(size, project.sizes)}')
    p = project.pipes[pipe]
    if p.hold_size and p.size != size:
        raise EditError(f'Pipe "{p.label}" keeps its size: let it go first.')
    return with_pipe(project, pipe, size=size)


def set_type(project: Project, structure: StructureId, key: TypeKey) -> Project:
    """The project with a structure of another type; pipes shorten or lengthen to its walls.
    EditError if unknown.
    """
    if key not in project.types:
        raise EditError(f'There is no structure type "{key}": {known(key, project.types)}')
    s = project.structures[structure]
    if s.hold_size and s.type != key:
        raise EditError(f"{s.label} keeps its type: let it go first.")
    return with_structure(project, structure, type=key)


def misfit(project: Project, facts: Facts, structure: StructureId, key: TypeKey) -> str:
    """Why a type does not fit a structure with the pipes that it has; empty where it fits."""
    kind, f, u = project.types[key], facts.structures[structure], project.units
    largest = max((g.dn for g in (*f.pipes_in, *f.pipes_out)), default=0.0)
    if kind.dn_max is not None and largest > kind.dn_max + 1e-6:
        return f"takes {u.dn(kind.dn_max)} at most, {u.dn(largest)} is joined"
    if f.depth is not None and kind.depth_max is not None and f.depth > kind.depth_max + 1e-6:
        return f"goes {u.long(kind.depth_max)} deep at most, {u.long(f.depth)} is needed"
    if f.depth is not None and kind.depth_min is not None and f.depth < kind.depth_min - 1e-6:
        return f"goes no shallower than {u.long(kind.depth_min)}, {u.long(f.depth)} is there"
    return ""


def size_misfit(project: Project, pipe: PipeId, key: SizeKey) -> str:
    """Why a size does not fit the chambers at a pipe's ends; empty where it fits."""
    p = project.pipes[pipe]
    for end in (project.structures[p.up], project.structures[p.down]):
        why = type_misfit(project, end.type, key)
        if why:
            return f"{end.label} {why}"
    return ""


def type_misfit(project: Project, key: TypeKey, size: SizeKey) -> str:
    """Why a type does not take a pipe size; empty where it does."""
    kind = project.types[key]
    if kind.dn_max is not None and project.sizes[size].dn > kind.dn_max + 1e-6:
        return f"takes {project.units.dn(kind.dn_max)} at most"
    return ""


Offered = list[tuple[Any, str, str]]  # key, words, and why it does not fit


def types_for(project: Project, size: SizeKey) -> Offered:
    """The allowed types, each with why it does not take a pipe size."""
    return [
        (t.key, t.name, type_misfit(project, t.key, size))
        for t in project.types.values()
        if t.allowed
    ]


def sizes_for(project: Project, key: TypeKey, last: StructureId | None = None) -> Offered:
    """The allowed pipe sizes, each with why a next structure of a type, or the last one placed,
    does not take it.
    """
    out: Offered = []
    for size in project.sizes.values():
        if size.allowed:
            why = type_misfit(project, key, size.key)
            if not why and last is not None:
                s = project.structures[last]
                at_last = type_misfit(project, s.type, size.key)
                why = f"{s.label} {at_last}" if at_last else ""
            out.append((size.key, size_words(project, size), why))
    return out


def sizes_like(project: Project, key: SizeKey) -> list[SizeKey]:
    """The allowed sizes of a size's material, it itself included, from small to large."""
    own = project.sizes[key]
    found = (
        s
        for s in project.sizes.values()
        if s.key == key or (s.allowed and s.material == own.material)
    )
    return [s.key for s in sorted(found, key=lambda s: s.inside)]


def set_outfall(project: Project, structure: StructureId, outfall: bool) -> Project:
    """The project with a structure declared an outfall, or no longer one; its pipes stay."""
    return with_structure(project, structure, outfall=outfall)


def set_anchor(
    project: Project, facts: Facts, structure: StructureId, road: RoadId | None
) -> Project:
    """The project with a structure anchored to a road where it stands, or (None) free; it does not
    move.

    Raises EditError where the road has no chainage for it.
    """
    p = facts.places[structure]
    label = project.structures[structure].label
    if p.x is None or p.y is None:
        raise EditError(f"{label} stands beyond the end of its road: give it a chainage first.")
    if road is None:
        return with_structure(project, structure, place=Free(p.x, p.y))
    ch, off = (float(v) for v in facts.roads[road].alignment.project(p.x, p.y))
    if ch != ch:
        raise EditError(
            f'The road "{project.roads[road].name}" has no chainage where {label} stands.'
        )
    return with_structure(project, structure, place=Anchored(road, ch, off))


def set_rotation(project: Project, structure: StructureId, rotation: float | None) -> Project:
    """The project with a structure at a fixed bearing (radians clockwise from north), or (None)
    square to the road.
    """
    return with_structure(project, structure, rotation=rotation)


def rim_on(project: Project, facts: Facts, structure: StructureId, surface: RimOn) -> Project:
    """The project with a rim on the design surface or the existing ground, its adjustment kept, or
    fixed where it is now.

    Raises EditError for a rim that is fixed where no level is known.
    """
    s = project.structures[structure]
    if surface == "fixed":
        rim = facts.places[structure].rim
        if rim is None:
            raise EditError(f"{s.label} has no rim level yet that could be fixed: type one.")
        return set_rim(project, structure, s.rim if isinstance(s.rim, FixedRim) else FixedRim(rim))
    adjustment = s.rim.adjustment if isinstance(s.rim, OnSurface) else 0.0
    return set_rim(project, structure, OnSurface(surface=surface, adjustment=adjustment))


def adjust_rim(project: Project, structure: StructureId, adjustment: float) -> Project:
    """The project with a rim so far (m) above its surface. Raises EditError for a fixed one, or
    more than 5 m.
    """
    s = project.structures[structure]
    if not isinstance(s.rim, OnSurface):
        raise EditError(f"The rim of {s.label} is fixed: put it on a surface first.")
    if abs(adjustment) > 5:
        raise EditError(f"A rim lies within {project.units.long(5.0)} of its surface.")
    return set_rim(project, structure, OnSurface(surface=s.rim.surface, adjustment=adjustment))


def set_sump(project: Project, structure: StructureId, level: float | None) -> Project:
    """The project with a sump at a level (m above datum), or (None) derived from the lowest
    invert.
    """
    return with_structure(project, structure, sump=level)


def set_sump_depth(project: Project, structure: StructureId, depth: float | None) -> Project:
    """The project with a sump so far (m) below the lowest invert, or (None) as the type has it.
    EditError beyond 0 to 10.
    """
    if depth is not None and not 0 <= depth <= 10:
        raise EditError(f"A sump lies 0 to {project.units.long(10.0)} below the lowest invert.")
    return with_structure(project, structure, sump_depth=depth)


def set_next_slope(
    project: Project, facts: Facts, structure: StructureId, slope: float | None
) -> Project:
    """The project with the slope (fraction) that the next pipe down from a structure will be laid
    at; None: as it is laid.

    Raises EditError for a structure that has an outlet already, or a slope beyond 1:1.
    """
    label = project.structures[structure].label
    if slope is not None and facts.links.outlets.get(structure):
        raise EditError(f"{label} has an outlet already: set the slope of that pipe.")
    if slope is not None and not abs(slope) <= 1:
        raise EditError(f"A slope of {slope:g} is steeper than 1:1: type 1.25%, 1:80 or 0.0125.")
    return with_structure(project, structure, next_slope=slope)


def set_cover(project: Project, structure: StructureId, at: tuple[float, float]) -> Project:
    """The project with a structure's cover off its middle: along its bearing and to the right of
    it, m.

    Raises EditError where the cover's opening would not lie over the chamber.
    """
    s = project.structures[structure]
    kind, u = project.types[s.type], project.units
    long, wide = kind.inside / 2, (kind.across if kind.across is not None else kind.inside) / 2
    half = kind.frame / 2
    if kind.across is None:
        fine = (at[0] ** 2 + at[1] ** 2) ** 0.5 + half <= long + 1e-9
    else:
        fine = abs(at[0]) + half <= long + 1e-9 and abs(at[1]) + half <= wide + 1e-9
    if not fine and at != (0.0, 0.0):
        raise EditError(
            f"The cover of {s.label} would not lie over its chamber: {kind.name} is "
            f"{u.long(kind.inside)} inside, "
            f"its cover {u.long(kind.frame)}."
        )
    return with_structure(project, structure, cover=at)


def set_rim(project: Project, structure: StructureId, rim: OnSurface | FixedRim) -> Project:
    """The project with a rim on a surface or at a fixed level. Raises EditError for a level that
    no ground has.
    """
    if isinstance(rim, FixedRim):
        on_land(rim.level, project.units)
    return with_structure(project, structure, rim=rim)
