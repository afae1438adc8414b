"""Runs along a road: what lies beside it, and its profiles."""

from collections.abc import Iterator
from typing import Any, Literal

import numpy as np

from zumbert.analysis.crossings import Reach, crossings, roads_met
from zumbert.analysis.facts import Facts
from zumbert.analysis.roads import RoadFacts
from zumbert.analysis.runline import Other, Run, RunKey, fall_along, met_on, other_lines
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line
from zumbert.geometry.profile import Profile
from zumbert.model.ids import RoadId, StructureId


def road_run(facts: Facts, road: RoadId, before: Run | None) -> Run:
    """Everything anchored to a road at its chainage, what stands within the distance that the road
    shows, and the pipes whose both ends are shown. A structure near two roads is in the long
    sections of both. Its lines are those of an earlier run where nothing has moved in plan since.
    """
    project, r = facts.project, facts.roads[road]
    at = {
        k: p.chainage
        for k, p in facts.places.items()
        if p.road == road
        and p.chainage is not None
        and getattr(project.structures[k].place, "road", None) == road
    }
    at |= _beside(facts, r, set(at))
    at = {k: ch for k, ch in at.items() if k not in r.road.without}
    structures = tuple(
        sorted(((k, at[k]) for k in project.structures if k in at), key=lambda i: i[1])
    )
    reaches = tuple(
        Reach(k, at[p.up], at[p.down])
        for k, p in project.pipes.items()
        if p.up in at and p.down in at and at[p.up] != at[p.down]
    )
    a = r.alignment
    if before is not None:
        xy, ch, met, others = before.corners, before.at, met_on(before), before.others
        ground, design = before.ground, before.design
    else:
        ch = a.polyline(step=50.0)
        xy = np.column_stack(a.point(ch))
        met, others = (
            roads_met(facts, (), xy, ch, road),
            (*other_lines(facts, xy, ch), *_profiles(r, ch)),
        )
        ground, design = _along(facts, road, "existing"), _along(facts, road, "design")
    return Run(
        RunKey("road", road),
        r.road.name,
        structures,
        reaches,
        a.length,
        a.start,
        fall_along(project, reaches),
        ground,
        design,
        a,
        others,
        crossings(facts, (), xy, ch, (), met),
        xy,
        ch,
        (),
        (),
        facts.spans,
    )


def _beside(facts: Facts, r: RoadFacts, own: set[StructureId]) -> dict[StructureId, float]:
    """Chainages of the structures that stand within the road's distance and are not anchored to
    it.
    """
    near = r.road.near
    keys = (
        [k for k, p in facts.places.items() if k not in own and p.x is not None]
        if near is not None
        else []
    )
    if near is None or not keys:
        return {}
    xy = np.array([(facts.places[k].x, facts.places[k].y) for k in keys], float)
    ch, off = r.alignment.project(xy[:, 0], xy[:, 1])
    return {
        k: c
        for k, c, o in zip(keys, ch.tolist(), off.tolist(), strict=True)
        if abs(o) <= near + 1e-9
    }


def _profiles(r: RoadFacts, ch: Array) -> Iterator[Other]:
    """The profiles of a road that are not in force."""
    for i, profile in enumerate(r.road.profiles):
        if i == r.road.design:
            continue
        made = Profile(profile.pvis)
        at = np.unique(np.concatenate([ch, made.ch, made.ch - made.before, made.ch + made.beyond]))
        at = at[(at >= made.start) & (at <= made.end)]
        if len(at) > 1:
            role: Any = "existing profile" if profile.kind == "existing" else "design profile"
            yield Other(role, profile.name, Line(at, made.level(at)))


def _along(facts: Facts, road: RoadId, role: Literal["existing", "design"]) -> Line | None:
    """A surface along a road's centre line, on chords that leave it by 1 cm at most; else its
    profile in force.
    """
    r = facts.roads[road]
    tin = getattr(facts.surfaces, role)
    ch = r.alignment.polyline(step=50.0)
    if tin is not None:
        xy = np.column_stack(r.alignment.point(ch))
        s, z = tin.section(xy)
        chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))])
        return Line(np.interp(s, chord, ch), z)
    if role == "design" and r.profile is not None:
        return Line(ch, r.profile.level(ch))
    return None
