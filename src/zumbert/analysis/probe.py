"""All levels of a pipe at one place along it."""

import numpy as np
from msgspec import Struct

from zumbert.analysis.crossings import Reach, crossings, nearby, roads_met
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.roads import nearest
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, level_at
from zumbert.geometry.segments import crossed_at
from zumbert.model.background import Background
from zumbert.model.ids import PipeId
from zumbert.model.note import CoverFrom


class Levels(Struct, frozen=True, kw_only=True):
    """The values at a distance along a pipe; levels are m above datum, None where a value does
    not exist.
    """

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


def levels(
    f: PipeFacts, facts: Facts, distance: float, cover_from: CoverFrom = "reference"
) -> Levels:
    """The levels at a distance (m), held between the inner walls of the pipe's chambers; the
    cover from a chosen surface.
    """
    s = within(f, distance)
    x, y = f.span.point(s)
    invert = f.invert(s)
    near = nearest(facts.roads, np.array([x]), np.array([y]))
    ch = float(near.chainage[0])
    top, over = invert + f.outside_height, _surface(f, facts, s, cover_from)
    return Levels(
        pipe=f.pipe.id,
        distance=s,
        x=x,
        y=y,
        chainage=None if ch != ch else ch,
        invert=invert,
        centre=invert + f.inside / 2,
        crown=invert + f.inside,
        top=top,
        underside=invert - f.wall,
        ground=_at(f.span.ground, s),
        design=_at(f.span.design, s),
        cover=None if over is None else over - top,
    )


def _surface(f: PipeFacts, facts: Facts, s: float, which: CoverFrom) -> float | None:
    """The level of a surface over a pipe, m above datum; None where there is none."""
    along = {"reference": f.span.barrel, "existing": f.span.ground, "design": f.span.design}
    if which in along:
        return _at(along[which], s)
    tin = facts.surfaces.formation if which == "formation" else facts.surfaces.rock
    if tin is None:
        return None
    x, y = f.span.point(s)
    z = float(tin.level(np.array([x]), np.array([y]))[0])
    return None if z != z else z


def within(f: PipeFacts, distance: float) -> float:
    """A distance (m) held between the pipe's inner walls; between its reference points where no
    barrel is left.
    """
    a, b = f.span.reach_up, f.span.length - f.span.reach_down
    return min(max(distance, a), b) if b > a else min(max(distance, 0.0), f.span.length)


def _at(line: Line | None, s: float) -> float | None:
    if line is None or not line.s[0] - 1e-9 <= s <= line.s[-1] + 1e-9:
        return None
    z = float(level_at(line, np.array([min(max(s, float(line.s[0])), float(line.s[-1]))]))[0])
    return None if z != z else z


def _drawn_lines(b: Background, xy: Array, at: Array) -> list[tuple[float, str]]:
    """The places along a line of corners at which the line work of a drawing that is shown
    crosses it, by its layer.
    """
    if not b.shown or not len(b.segments):
        return []
    low, high = xy.min(axis=0), xy.max(axis=0)
    e = b.segments
    near = (np.minimum(e[:, :2], e[:, 2:]) <= high).all(axis=1) & (
        np.maximum(e[:, :2], e[:, 2:]) >= low
    ).all(axis=1)
    rows = np.flatnonzero(near & np.array([name not in b.off for name in b.layers], bool)[b.layer])
    s, j = crossed_at(xy, at, e[rows])
    return [
        (v, f"line of {b.layers[int(b.layer[rows[i]])]}")
        for v, i in zip(s.tolist(), j.tolist(), strict=True)
    ]


def stops(facts: Facts, pipe: PipeId) -> list[tuple[float, str]]:
    """The places along a pipe (m) at which something crosses it, or it ends, each with its name."""
    f, project = facts.pipes[pipe], facts.project
    a, b = within(f, 0.0), within(f, f.span.length)
    at = f.span.chords()
    xy = f.span.points(at)
    out = [
        (a, f"wall of {project.structures[f.pipe.up].label}"),
        (b, f"wall of {project.structures[f.pipe.down].label}"),
    ]
    reaches = [Reach(pipe, 0.0, f.span.length)]
    out += [(c.at, c.label) for c in crossings(facts, reaches, xy, at, nearby(facts, reaches, xy))]
    out += [(c.at, facts.roads[c.id].road.name) for c in roads_met(facts, (), xy, at)]
    for drawing in project.backgrounds.values():
        out += _drawn_lines(drawing, xy, at)
    return sorted((s, name) for s, name in out if a - 1e-9 <= s <= b + 1e-9)
