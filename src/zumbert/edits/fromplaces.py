"""Structures from the circles, points and blocks of a drawing by others."""

from collections.abc import Mapping, Sequence
from math import hypot
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.analysis.roads import nearest
from zumbert.edits.join import placed
from zumbert.edits.lay import ALONG, structure_at
from zumbert.edits.layoptions import LayOptions
from zumbert.errors import EditError
from zumbert.model.background import Background, DrawnPlace, DrawnWhat
from zumbert.model.ids import StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

ONE = 0.1  # m: places nearer than this are one, such as the inner and outer circle of a chamber


class Group(NamedTuple):
    """Places of a drawing that look alike: circles of one size, points, or blocks of one name,
    on one layer.
    """

    what: DrawnWhat
    layer: str
    name: str  # of a block
    radius: float  # m, of circles, to the millimetre


def group_of(place: DrawnPlace) -> Group:
    """The group that a place belongs to."""
    return Group(place.what, place.layer, place.name, round(place.radius, 3))


def groups(background: Background) -> dict[Group, int]:
    """The groups of a drawing's places with how many each has; layers that are off are left out."""
    out: dict[Group, int] = {}
    for place in background.places:
        if place.layer not in background.off:
            out[group_of(place)] = out.get(group_of(place), 0) + 1
    return out


def likely_type(project: Project, group: Group) -> TypeKey | None:
    """The type that circles of a size most likely are: the inside or outside that is nearest,
    within a tenth; else none.
    """
    wide = 2 * group.radius
    if group.what != "circle" or not wide:
        return None
    near = [
        (min(abs(t.inside - wide), abs(t.outside - wide)), t.key)
        for t in project.types.values()
        if t.allowed and t.inside and t.across is None
    ]
    best = min(near, key=lambda n: n[0], default=None)  # of several the first of the library
    return None if best is None or best[0] > 0.1 * wide else best[1]


class FromPlaces(NamedTuple):
    """The project with structures more, and how many places had one already."""

    project: Project
    structures: tuple[StructureId, ...]
    there: int


def from_places(
    project: Project,
    facts: Facts,
    background: Background,
    types: Mapping[Group, TypeKey],
    way: LayOptions,
    on_roads: bool = True,
) -> FromPlaces:
    """The project with a structure of a type at each place of the groups named, in the order of the
    drawing.

    Within 25 m of a road they are anchored to it (on_roads), else free; blocks keep their turn
    where they are free. A place where a structure stands already is passed over. Raises EditError
    where no place is left.
    """
    chosen = [
        p for p in background.places if p.layer not in background.off and group_of(p) in types
    ]
    made: list[StructureId] = []
    there = 0
    put: list[tuple[float, float]] = []
    for drawn, place in zip(chosen, _places(facts, chosen, on_roads), strict=True):
        taken = structure_at(facts, Free(drawn.x, drawn.y)) is not None
        if taken or any(hypot(x - drawn.x, y - drawn.y) < ONE for x, y in put):
            there += 1
            continue
        one = placed(
            project, facts, types[group_of(drawn)], place, way.network, way.service, way.status
        )
        project = one.project
        if drawn.what == "block" and isinstance(place, Free):
            s = project.structures[one.structure]
            project = replace(
                project, structures={**project.structures, s.id: replace(s, rotation=drawn.turn)}
            )
        made.append(one.structure)
        put.append((drawn.x, drawn.y))
    if not made:
        raise EditError(
            "Structures stand at all these places already."
            if there
            else "Choose what becomes structures."
        )
    return FromPlaces(project, tuple(made), there)


def _places(facts: Facts, drawn: Sequence[DrawnPlace], on_roads: bool) -> list[Anchored | Free]:
    """Where each stands: on the nearest road that is near enough, else free."""
    if not on_roads or not facts.roads or not drawn:
        return [Free(p.x, p.y) for p in drawn]
    near = nearest(facts.roads, np.array([p.x for p in drawn]), np.array([p.y for p in drawn]))
    keys = list(facts.roads)
    return [
        Free(p.x, p.y)
        if ch != ch or abs(off) > ALONG
        else Anchored(keys[int(road)], round(ch, 3), round(off, 3))
        for p, ch, off, road in zip(
            drawn, near.chainage.tolist(), near.offset.tolist(), near.road.tolist(), strict=True
        )
    ]
