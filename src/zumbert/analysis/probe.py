"""All levels of a pipe at one place along it."""

from itertools import pairwise
from typing import Any

import numpy as np
from msgspec import Struct

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.roads import nearest
from zumbert.geometry.line import Line, level_at
from zumbert.geometry.segments import crossed_at
from zumbert.model.ids import PipeId


class Levels(Struct, frozen=True, kw_only=True):
    """What holds at a distance along a pipe; levels are m above datum, None where a value does not exist."""

    pipe: PipeId
    distance: float  # m from the upstream reference point, on the plan path
    x: float
    y: float
    chainage: float | None  # m, on the nearest road
    invert: float
    centre: float
    crown: float
    top: float  # outside top
    underside: float
    ground: float | None
    design: float | None
    cover: float | None  # m, from the reference surface to the outside top


def levels(f: PipeFacts, facts: Facts, distance: float) -> Levels:
    """The levels at a distance (m), held between the inner walls of the pipe's chambers."""
    s = within(f, distance)
    x, y = f.span.point(s)
    invert = f.invert(s)
    near = nearest(facts.roads, np.array([x]), np.array([y]))
    ch = float(near.chainage[0])
    top, barrel = invert + f.outside_height, _at(f.span.barrel, s)
    return Levels(
        pipe=f.pipe.id, distance=s, x=x, y=y, chainage=None if ch != ch else ch, invert=invert, centre=invert + f.inside / 2,
        crown=invert + f.inside, top=top, underside=invert - f.wall, ground=_at(f.span.ground, s), design=_at(f.span.design, s),
        cover=None if barrel is None else barrel - top,
    )  # fmt: skip


def within(f: PipeFacts, distance: float) -> float:
    """A distance (m) held between the pipe's inner walls; between its reference points where no barrel is left."""
    a, b = f.span.reach_up, f.span.length - f.span.reach_down
    return min(max(distance, a), b) if b > a else min(max(distance, 0.0), f.span.length)


def _at(line: Line | None, s: float) -> float | None:
    if line is None or not line.s[0] - 1e-9 <= s <= line.s[-1] + 1e-9:
        return None
    z = float(level_at(line, np.array([min(max(s, float(line.s[0])), float(line.s[-1]))]))[0])
    return None if z != z else z


def stops(facts: Facts, pipe: PipeId) -> list[tuple[float, str]]:
    """The places along a pipe (m) at which something crosses it, or it ends, each with its name."""
    f, project = facts.pipes[pipe], facts.project
    a, b = within(f, 0.0), within(f, f.span.length)
    at = f.span.chords()
    xy = np.array([f.span.point(s) for s in at.tolist()])
    out = [
        (a, f"wall of {project.structures[f.pipe.up].label}"),
        (b, f"wall of {project.structures[f.pipe.down].label}"),
    ]
    for service in project.services.values():
        if service.shown:
            pieces = [(p[0], p[1], q[0], q[1]) for p, q in pairwise(service.points)]
            out += _crossing(xy, at, pieces, f"{service.label} {service.kind}")
    for key, g in facts.pipes.items():
        apart = {f.pipe.up, f.pipe.down}.isdisjoint((g.pipe.up, g.pipe.down))
        if key != pipe and apart and _boxes_meet(f, g):
            places = [g.span.point(s) for s in g.span.chords().tolist()]
            out += _crossing(xy, at, [(*p, *q) for p, q in pairwise(places)], g.pipe.label)
    for r in facts.roads.values():
        line = np.column_stack(r.alignment.point(r.alignment.polyline(20.0)))
        out += _crossing(xy, at, np.hstack([line[:-1], line[1:]]), r.road.name)
    return sorted((s, name) for s, name in out if a - 1e-9 <= s <= b + 1e-9)


def _crossing(xy: Any, at: Any, pieces: Any, name: str) -> list[tuple[float, str]]:
    s, _ = crossed_at(xy, at, np.asarray(pieces, float).reshape(-1, 4))
    return [(v, name) for v in s.tolist()]


def _boxes_meet(f: PipeFacts, g: PipeFacts) -> bool:
    """Whether two pipes may cross: the boxes about their ends meet, wider where one is curved."""
    ends = [(p.up.x, p.up.y, p.down.x, p.down.y) for p in (f.span, g.span)]
    if any(v is None for e in ends for v in e):
        return False
    wide = sum(p.span.length for p in (f, g) if p.span.arc is not None)
    (ax, ay, bx, by), (cx, cy, dx, dy) = np.array(ends, float).tolist()
    apart = max(ax, bx) + wide < min(cx, dx) or max(cx, dx) + wide < min(ax, bx)
    return not (apart or max(ay, by) + wide < min(cy, dy) or max(cy, dy) + wide < min(ay, by))
