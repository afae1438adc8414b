"""Crossings of a run in plan: services, pipes that are not joined to it, and other roads, each
with its clearance.
"""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Any, Literal, NamedTuple

import numpy as np

from zumbert.analysis.clearance import clear_of_pipe, clear_of_service
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.geometry.elements import Array
from zumbert.geometry.segments import crossed_at
from zumbert.model.ids import PipeId, RoadId


class Reach(NamedTuple):
    """One pipe of a run: distances (m) of its two reference points along the section."""

    pipe: PipeId
    up: float
    down: float

    def at(self, s: float, length: float) -> float:
        """Distance along the section of a distance s along the pipe (m)."""
        return self.up + (self.down - self.up) * (s / length if length else 0.0)


class Crossing(NamedTuple):
    """A service, pipe or road that crosses a run, at a place of the section."""

    kind: Literal["service", "pipe", "road"]
    id: Any
    label: str
    at: float  # m along the section
    level: float | None  # m above datum, of its axis, or the road's profile; None: not known
    size: float  # m, outside
    # m, in space between both outsides over whole lengths; at most 0 where they clash
    clear: float | None = None
    upright: float | None = None  # m, upright between both outsides where they cross in plan
    pipe: PipeId | None = None  # the pipe of the run that is crossed
    above: bool = False  # whether it lies above the run's pipe
    need: float = 0.0  # m, clearance that is asked for


def nearby(facts: Facts, reaches: Sequence[Reach], xy: Array) -> tuple[PipeId, ...]:
    """The pipes that may cross a run, by their boxes; they stay the same while nothing moves in
    plan.
    """
    return tuple(_near(facts, xy, {r.pipe for r in reaches})) if len(xy) > 1 else ()


def crossings(
    facts: Facts,
    reaches: Sequence[Reach],
    xy: Array,
    at: Array,
    near: Sequence[PipeId],
    met: Sequence[Crossing] = (),
) -> tuple[Crossing, ...]:
    """The crossings of a line of corners (k, 2) whose distances along the section are `at`, in
    rising distance; `met` are the roads that do.

    Exact, since all is straight between corners; the corners of a curved pipe leave its arc by 5 mm
    at most.
    """
    if len(xy) < 2:
        return ()
    out = [*_once(_services(facts, xy, at)), *_once(_pipes(facts, reaches, xy, at, near)), *met]
    return tuple(sorted((_with_room(facts, reaches, c) for c in out), key=lambda c: c.at))


def _once(found: list[Crossing]) -> Iterator[Crossing]:
    """Crossings of a thing at one place once: a corner on the run, or a place over a pipe's end,
    is met by both pieces there.
    """
    last: dict[str, float] = {}
    for c in sorted(found, key=lambda c: (c.id, c.at)):
        if not abs(c.at - last.get(c.id, np.inf)) < SAME:
            yield c
        last[c.id] = c.at


def _services(facts: Facts, xy: Array, at: Array) -> list[Crossing]:
    out = []
    for key, service in facts.project.services.items():
        if not service.shown:
            continue
        pieces = np.array([(p[0], p[1], q[0], q[1]) for p, q in pairwise(service.points)])
        ends = [(p, q) for p, q in pairwise(service.points)]
        for s, j in zip(*(v.tolist() for v in crossed_at(xy, at, pieces)), strict=True):
            p, q = ends[j]
            level = None
            if p[2] is not None and q[2] is not None:
                level = p[2] + _share(pieces[j], _place(xy, at, s)) * (q[2] - p[2])
            label = f"{service.label} {service.kind}"
            out.append(
                Crossing("service", key, label, s, level, service.size, need=service.clearance)
            )
    return out


def _pipes(
    facts: Facts, reaches: Sequence[Reach], xy: Array, at: Array, near: Sequence[PipeId]
) -> list[Crossing]:
    """Pipes that cross the run without being part of it or joined to it there."""
    out = []
    for key in near:
        g = facts.pipes[key]
        along = g.span.chords()
        places = g.span.points(along)
        for s, j in zip(
            *(v.tolist() for v in crossed_at(xy, at, np.hstack([places[:-1], places[1:]]))),
            strict=True,
        ):
            crossed = _reach_at(reaches, s)
            if crossed is not None and not _meet(facts.pipes[crossed.pipe], g):
                piece = np.concatenate([places[j], places[j + 1]])
                d = along[j] + _share(piece, _place(xy, at, s)) * (along[j + 1] - along[j])
                level = g.invert(float(d)) + g.inside / 2
                label = f"{g.pipe.label} {facts.units.dn(g.dn)}"
                out.append(Crossing("pipe", key, label, s, level, g.inside + 2 * g.wall))
    return out


def roads_met(
    facts: Facts, reaches: Sequence[Reach], xy: Array, at: Array, own: RoadId | None = None
) -> list[Crossing]:
    """Where the centre lines of roads cross, but for the section's own road and those that a pipe
    lies along; as chords of 5 m at most, their chainages exact for the place found. No level of a
    pipe plays a part.
    """
    out: list[Crossing] = []
    if len(xy) < 2:
        return out
    for key, road in facts.roads.items():
        if key == own:
            continue
        line = np.column_stack(road.alignment.point(road.alignment.polyline(step=5.0)))
        line[0] -= _onward(line[0], line[1])  # a road that begins or ends on a centre line meets it
        line[-1] -= _onward(line[-1], line[-2])
        for s, _ in zip(
            *(v.tolist() for v in crossed_at(xy, at, np.hstack([line[:-1], line[1:]]))), strict=True
        ):
            crossed = _reach_at(reaches, s)
            if crossed is not None and _along(facts, crossed.pipe, key):
                continue
            place = _place(xy, at, s)
            ch = float(road.alignment.project(*place)[0])
            if ch != ch:  # in the 5 cm beyond an end
                a = road.alignment
                ends = np.column_stack(a.point(np.array([a.start, a.end])))
                ch = (
                    a.start
                    if np.hypot(*(ends[0] - place)) < np.hypot(*(ends[1] - place))
                    else a.end
                )
            level = float(road.profile.level(ch)) if road.profile is not None else float("nan")
            label = f"{road.road.name} {facts.units.chainage(ch)}"
            out.append(Crossing("road", key, label, s, level if level == level else None, 0.0))
    return out


def _onward(end: Array, before: Array) -> Array:
    """The step of so many m from the end of a line back into it."""
    back = before - end
    return np.asarray(back / max(float(np.hypot(*back)), 1e-9) * MEETS)


SAME = 1e-3  # m: crossings of one thing nearer than this are one
MEETS = 0.05  # m: a road that stops so near to a line still meets it


def _along(facts: Facts, pipe: PipeId, road: RoadId) -> bool:
    """Whether both structures of a pipe are anchored to a road."""
    p, there = facts.project.pipes[pipe], facts.project.structures
    return all(getattr(there[e].place, "road", None) == road for e in (p.up, p.down))


def crosses(
    facts: Facts, pipes: Sequence[PipeId], reaches: Sequence[Reach], xy: Array, at: Array
) -> tuple[PipeId, ...]:
    """The pipes, among some, that cross a run or may cross it."""
    own = {r.pipe for r in reaches}
    chosen = [p for p in pipes if p in facts.pipes and p not in own]
    return tuple(_near(facts, xy, own, chosen)) if chosen and len(xy) > 1 else ()


def _near(
    facts: Facts, xy: Array, own: set[PipeId], chosen: Sequence[PipeId] | None = None
) -> list[PipeId]:
    """Pipes whose boxes meet that of the run."""
    keys = [
        k
        for k in (chosen if chosen is not None else facts.spans)
        if k not in own and facts.spans[k].up.x is not None
    ]
    if not keys:
        return []
    found = (facts.spans[k] for k in keys)
    e = np.array(
        [
            (s.up.x, s.up.y, s.down.x, s.down.y, s.length if s.arc is not None else 0.0)
            for s in found
        ],
        float,
    )
    low, high = (
        np.minimum(e[:, :2], e[:, 2:4]) - e[:, 4:],
        np.maximum(e[:, :2], e[:, 2:4]) + e[:, 4:],
    )
    meet = (low <= np.nanmax(xy, axis=0)).all(axis=1) & (high >= np.nanmin(xy, axis=0)).all(axis=1)
    return [keys[i] for i in np.flatnonzero(meet).tolist()]


def _meet(f: PipeFacts, g: PipeFacts) -> bool:
    return not {f.pipe.up, f.pipe.down}.isdisjoint((g.pipe.up, g.pipe.down))


def _place(xy: Array, at: Array, s: float) -> Array:
    return np.array([np.interp(s, at, xy[:, 0]), np.interp(s, at, xy[:, 1])])


def _share(piece: Array, place: Array) -> float:
    """How far along a piece (x0, y0, x1, y1) a place on it lies, 0 to 1."""
    d = piece[2:] - piece[:2]
    return float(np.clip((place - piece[:2]) @ d / max(float(d @ d), 1e-24), 0.0, 1.0))


def _reach_at(reaches: Sequence[Reach], s: float) -> Reach | None:
    return next(
        (r for r in reaches if min(r.up, r.down) - 1e-9 <= s <= max(r.up, r.down) + 1e-9), None
    )


def _with_room(facts: Facts, reaches: Sequence[Reach], c: Crossing) -> Crossing:
    """With the room to the run's pipe there, in space and upright."""
    reach = _reach_at(reaches, c.at)
    if reach is None or c.level is None or c.kind == "road":
        return c
    f = facts.pipes[reach.pipe]
    s = (
        (c.at - reach.up) / (reach.down - reach.up) * f.span.length
        if reach.down != reach.up
        else 0.0
    )
    axis = f.invert(s) + f.inside / 2
    upright = abs(c.level - axis) - c.size / 2 - f.inside / 2 - f.wall
    services = facts.project.services
    clear = (
        clear_of_service(f, services[c.id])
        if c.kind == "service"
        else clear_of_pipe(f, facts.pipes[c.id])
    )
    return c._replace(
        clear=upright if clear is None else clear,
        upright=upright,
        pipe=reach.pipe,
        above=c.level >= axis,
    )
