"""All places where pipes cross services and each other in plan, or come nearer than is asked
for, with the room there.
"""

from typing import NamedTuple

import numpy as np

from zumbert.analysis.clearance import axis, moved
from zumbert.analysis.facts import Facts
from zumbert.analysis.meetings import Meeting, plan_pairs
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.clearance import needed, outside_of
from zumbert.geometry.elements import Array
from zumbert.geometry.space import between_pieces, nearest
from zumbert.model.ids import PipeId
from zumbert.model.pipe import End


class Room(NamedTuple):
    """A pipe and what it crosses or comes near to."""

    pipe: PipeId
    other: str  # id of the service or pipe
    service: bool
    at: float  # m along the pipe: where both are nearest
    clear: float  # m between both outsides over whole lengths; at most 0 where they touch
    need: float  # m that is asked for
    # m, upright between both outsides where they cross in plan; None: they do not
    upright: float | None
    above: bool  # whether the other lies above the pipe there
    level: float  # m above datum: its axis there
    x: float  # m
    y: float


def rooms(facts: Facts) -> list[Room]:
    """All of them, that with the least room over its need first. Of two pipes each pair is told
    once.
    """
    out = []
    for k, other, service in plan_pairs(facts.made):
        found = room(facts, facts.pipes[k], other, service)
        if found is not None and (found.upright is not None or found.clear < found.need):
            out.append(found)
    return sorted(out, key=lambda r: r.clear - r.need)


def room(facts: Facts, f: PipeFacts, other: str, service: bool) -> Room | None:
    """The room between a pipe and a service or pipe; None where a level is not known."""
    mine, (theirs, radius) = axis(f), outside_of(facts, other)
    if not len(mine) or not len(theirs) or np.isnan(mine).any():
        return None
    near = nearest(mine[:, None], theirs[None])
    i, j = np.unravel_index(int(near.far.argmin()), near.far.shape)
    outside = radius + f.inside / 2 + f.wall
    s, place = (
        _at(f, mine, int(i), float(near.s[i, j])),
        theirs[j, 0] + near.t[i, j] * (theirs[j, 1] - theirs[j, 0]),
    )
    x, y = f.span.point(s)
    crossing = _crossing(mine, theirs)
    upright = None
    if crossing is not None:
        upright = abs(crossing[1] - crossing[0]) - outside
    own = f.invert(s) + f.inside / 2
    above = bool(place[2] > own) if crossing is None else crossing[1] > crossing[0]
    clear = float(near.far[i, j]) - outside
    need = needed(facts, f, Meeting(other, service, clear, s))
    return Room(
        f.pipe.id,
        other,
        service,
        s,
        clear,
        need,
        upright,
        above,
        float(place[2]),
        float(x),
        float(y),
    )


def _at(f: PipeFacts, pieces: Array, piece: int, share: float) -> float:
    """The distance (m) along a pipe of a place on a piece of its axis."""
    a, b = f.span.reach_up, f.span.length - f.span.reach_down
    long = np.hypot(*(pieces[:, 1, :2] - pieces[:, 0, :2]).T)
    done = float(long[:piece].sum() + share * long[piece]) / max(float(long.sum()), 1e-9)
    return a + done * (b - a)


def _crossing(p: Array, q: Array) -> tuple[float, float] | None:
    """The levels (m) of both axes at the first place where they cross in plan."""
    u, v = p[:, None, 1] - p[:, None, 0], q[None, :, 1] - q[None, :, 0]
    w = q[None, :, 0] - p[:, None, 0]
    det = u[..., 0] * v[..., 1] - u[..., 1] * v[..., 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        s = (w[..., 0] * v[..., 1] - w[..., 1] * v[..., 0]) / det
        t = (w[..., 0] * u[..., 1] - w[..., 1] * u[..., 0]) / det
    hit = np.argwhere((np.abs(det) > 1e-12) & (s >= 0) & (s <= 1) & (t >= 0) & (t <= 1))
    if not len(hit):
        return None
    i, j = hit[0]
    return float(p[i, 0, 2] + s[i, j] * u[i, 0, 2]), float(q[j, 0, 2] + t[i, j] * v[0, j, 2])


def room_when_moved(facts: Facts, f: PipeFacts, other: str, end: End, steps: Array) -> Array:
    """The room (m) to a service or pipe when an end is raised by so many m, the other end as it
    is.
    """
    theirs, radius = outside_of(facts, other)
    outside = radius + f.inside / 2 + f.wall
    out = []
    for by in steps.tolist():
        there = moved(f, by if end == "up" else 0.0, by if end == "down" else 0.0)
        out.append(float(between_pieces(axis(there), theirs).min()) - outside)
    return np.array(out)
