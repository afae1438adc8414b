"""Roads with their alignment and the profile in force."""

import numpy as np
from msgspec import Struct

from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Array
from zumbert.geometry.intersections import elements_through
from zumbert.geometry.profile import Profile
from zumbert.model.ids import RoadId
from zumbert.model.project import Project
from zumbert.model.road import Piece, Road


class RoadFacts(Struct, frozen=True, eq=False, dict=True):
    """A road with its alignment, and its design profile where one is in force."""

    road: Road
    alignment: Alignment
    profile: Profile | None


def roads(project: Project, before: dict[RoadId, RoadFacts]) -> dict[RoadId, RoadFacts]:
    """Facts of each road; those of an unchanged record are kept, and all of them where nothing
    changed.
    """
    out = {}
    for key, road in project.roads.items():
        old = before.get(key)
        out[key] = old if old is not None and old.road is road else _facts(road)
    same = len(out) == len(before) and all(out[k] is before.get(k) for k in out)
    return before if same else out


def _facts(road: Road) -> RoadFacts:
    profile = None if road.design is None else Profile(road.profiles[road.design].pvis)
    return RoadFacts(road=road, alignment=Alignment(pieces(road), road.start), profile=profile)


def pieces(road: Road) -> tuple[Piece, ...]:
    """The pieces of a road's alignment: as they came, or through its intersection points.

    Raises ValueError where the curves at its points do not fit; edits see to it that they do.
    """
    return elements_through(road.points) if road.points else road.elements


class Nearest(Struct, frozen=True, eq=False):
    """For each of n places the nearest road (index, -1: none), chainage and offset."""

    road: np.ndarray
    chainage: Array
    offset: Array


def nearest(roads: dict[RoadId, RoadFacts], x: Array, y: Array) -> Nearest:
    """The road that each place is nearest to; beyond that road's ends a place has no chainage
    and no offset.
    """
    best = np.full(np.shape(x), np.inf)
    road, ch, off = (
        np.full(np.shape(x), -1),
        np.full(np.shape(x), np.nan),
        np.full(np.shape(x), np.nan),
    )
    for i, facts in enumerate(roads.values()):
        c, o, far = facts.alignment.foot(x, y)
        near = far < best
        best = np.where(near, far, best)
        road, ch, off = np.where(near, i, road), np.where(near, c, ch), np.where(near, o, off)
    return Nearest(road=road, chainage=ch, offset=off)
