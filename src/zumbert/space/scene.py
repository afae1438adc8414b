"""The scene in space: parts with ids and roles, from facts. A part whose facts have not
changed stays the same object.
"""

from collections.abc import Iterator, Sequence
from functools import partial
from typing import Any

import numpy as np
from msgspec import Struct

from zumbert.analysis.chambers import extent
from zumbert.analysis.digs import trench_type
from zumbert.analysis.facts import Facts, new_since
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.pits import PitFacts
from zumbert.analysis.runline import Run
from zumbert.analysis.trench import Trenches, TrenchFacts
from zumbert.drawing.picture import Picture
from zumbert.drawing.solids import (
    LOOKS,
    RIM,
    axis,
    has_barrel,
    pipe_mesh,
    service_mesh,
    structure_mesh,
)
from zumbert.geometry.cut import on_left
from zumbert.geometry.elements import Array
from zumbert.model.project import base_thickness
from zumbert.model.service import ServiceLine
from zumbert.space.digs import pit_mesh, trench_mesh
from zumbert.space.ground import ground_parts, lowest_seen, section_part
from zumbert.space.part import Key, Kind, Maker, SpacePart, solid_part
from zumbert.space.wanted import InSpace, Only

PLAIN = (bool, int, float, str)  # what a part is made from that is compared by value


Made = dict[
    Key, tuple[tuple[Any, ...], SpacePart | None]
]  # what each part was made from, and the part


class Scene(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """The parts that there are, and what they were made from."""

    parts: dict[Key, SpacePart]
    made: Made
    line: Array | None = None  # of the run in plan (n, 2), m: what parts the ground
    facts: Facts | None = None
    world: tuple[Any, ...] = ()  # all else that the parts go by


def scene(picture: Picture, wanted: InSpace, before: Scene | None = None) -> Scene:
    """Everything that is wanted; of an earlier scene all stays that was made from the same facts
    and records. While only levels change nothing else is looked at.
    """
    line = _line(picture.run) if wanted.cut or wanted.section else None
    if (
        before is not None
        and line is not None
        and before.line is not None
        and np.array_equal(line, before.line)
    ):
        line = before.line
    world = _world(picture, wanted, line)
    made: Made = {}
    asked = _asked(picture, wanted, line)
    if before is not None and before.facts is not None and _same(before.world, world):
        made = (
            {k: v for k, v in before.made.items() if k[0] != "former"}
            if _any_former(before)
            else dict(before.made)
        )
        asked = _changed(picture, before.facts)
    old: Made = {} if before is None else before.made
    for key, of, make in asked:
        kept = old.get(key)
        made[key] = kept if kept is not None and _same(kept[0], of) else (of, make())
    if (
        before is not None
        and len(made) == len(old)
        and all(old.get(k) is v for k, v in made.items())
    ):
        parts = before.parts
    else:
        parts = {k: part for k, (_, part) in made.items() if part is not None}
    if (
        before is not None
        and parts is before.parts
        and line is before.line
        and _same(before.world, world)
    ):
        return before
    return Scene(parts=parts, made=made, line=line, facts=picture.facts, world=world)


def _any_former(before: Scene) -> bool:
    return next(reversed(before.made), ("", ""))[0] == "former"  # they are asked for last


def _world(picture: Picture, wanted: InSpace, line: Array | None) -> tuple[Any, ...]:
    """All that parts go by but the facts of single pipes and structures; those too, where parts
    go by several.
    """
    facts, p, run = picture.facts, picture.facts.project, picture.run
    levels = (run, picture.trenches) if wanted.section or wanted.dug else (None, None)
    chosen = (
        (picture.pipes, picture.structures, run) if wanted.only != "all" else (None, None, None)
    )
    return (
        wanted.only,
        wanted.cut,
        wanted.section,
        wanted.dug,
        line,
        facts.surfaces,
        facts.spans,
        facts.places,
        facts.roads,
        p.types,
        p.trench_types,
        p.networks,
        p.services,
        p.land,
        p.surfaces,
        p.digging,
        p.settings,
        picture.fresh,
        *levels,
        *chosen,
        None if run is None else run.line,
    )


def _changed(picture: Picture, before: Facts) -> Iterator[tuple[Key, tuple[Any, ...], Maker]]:
    """The parts of the pipes and structures whose facts are others, and what is shown of those
    that an edit changes.
    """
    facts = picture.facts
    pipes, structures = new_since(facts, before)
    yield from _network(
        picture,
        [k for k in pipes if k in facts.pipes],
        [k for k in structures if k in facts.structures],
    )
    yield from _former(picture)


def _same(a: tuple[Any, ...], b: tuple[Any, ...]) -> bool:
    """Whether two things were made from the same: the same objects, or plain values that are
    equal.
    """
    return len(a) == len(b) and all(
        p is q or (type(p) in PLAIN and p == q) for p, q in zip(a, b, strict=True)
    )


def _asked(
    picture: Picture, wanted: InSpace, line: Array | None
) -> Iterator[tuple[Key, tuple[Any, ...], Maker]]:
    """Every part that is wanted: its key, what it is made from, and how."""
    facts, p = picture.facts, picture.facts.project
    pipes, structures = _chosen(picture, wanted.only)
    yield from _network(picture, pipes, structures)
    for v, service in p.services.items():
        if service.shown:
            yield ("service", v), (service,), partial(_service, service)
    yield from ground_parts(facts, wanted, line)
    if wanted.section and picture.run is not None:
        run = picture.run
        yield (
            ("section", "run"),
            (run.ground, run.line, lowest_seen(run, facts)),
            lambda: section_part(run, facts),
        )
    if wanted.dug and picture.trenches is not None:
        yield from _dug(picture.trenches, pipes, structures)
    yield from _former(picture)


def _network(
    picture: Picture, pipes: Sequence[Any], structures: Sequence[Any]
) -> Iterator[tuple[Key, tuple[Any, ...], Maker]]:
    """Pipes with their axes, and structures."""
    facts, p = picture.facts, picture.facts.project
    for k in pipes:
        f = facts.pipes[k]
        yield ("pipe", k), (f, k in picture.fresh), partial(_pipe, picture, f)
        yield ("axis", k), (f, k in picture.fresh), partial(_axis, picture, f)
    records = p.types, p.trench_types, p.networks
    for s in structures:
        sf = facts.structures[s]
        of = (sf, base_thickness(p, sf.structure), s in picture.fresh, *records)
        yield ("structure", s), of, partial(_structure, picture, s)


def _dug(
    dug: Trenches, pipes: Sequence[Any], structures: Sequence[Any]
) -> Iterator[tuple[Key, tuple[Any, ...], Maker]]:
    """Trenches and pits."""
    for k in pipes:
        t = dug.pipes.get(k)
        if t is not None and t.dig is not None:
            yield ("trench", k), (t,), partial(_trench, dug, t)
    for k in structures:
        pit = dug.pits.get(k)
        if pit is not None:
            yield ("pit", k), (pit,), partial(_pit, dug, pit)


def _trench(dug: Trenches, t: TrenchFacts) -> SpacePart | None:
    return solid_part("trench", t.pipe.pipe.id, "general", trench_mesh(t, dug.world))


def _pit(dug: Trenches, pit: PitFacts) -> SpacePart | None:
    record = pit.structure.structure
    return solid_part(
        "pit",
        record.id,
        "general",
        pit_mesh(pit, dug.world, trench_type(dug.facts.project, record).upper),
    )


def _chosen(picture: Picture, only: Only) -> tuple[Sequence[Any], Sequence[Any]]:
    """The pipes and structures that are wanted."""
    p = picture.facts.project
    if only == "run" and picture.run is not None:
        return [r.pipe for r in picture.run.reaches], [k for k, _ in picture.run.structures]
    if only == "selection":
        ends = [e for k in picture.pipes if k in p.pipes for e in (p.pipes[k].up, p.pipes[k].down)]
        chosen = [*(k for k in picture.structures if k in p.structures), *ends]
        return [k for k in picture.pipes if k in p.pipes], list(dict.fromkeys(chosen))
    return list(p.pipes), list(p.structures)


def _pipe(picture: Picture, f: PipeFacts) -> SpacePart | None:
    if not has_barrel(f):
        return None
    role = "ink" if f.pipe.id in picture.fresh else LOOKS.get(f.pipe.status, f.pipe.service)
    return SpacePart(
        "pipe",
        f.pipe.id,
        role,
        partial(pipe_mesh, f),
        thick=f.inside + 2 * f.wall,
        box=_pipe_box(f),
    )


def _pipe_box(f: PipeFacts) -> Array:
    """The box about a pipe."""
    span, half = f.span, f.inside / 2 + f.wall
    xy = span.points(span.chords())
    z = [f.invert(0.0), f.invert(span.length)]
    return np.array(
        [
            (*(xy.min(axis=0) - half), min(z) - f.wall),
            (*(xy.max(axis=0) + half), max(z) + f.inside + f.wall),
        ]
    )


def _axis(picture: Picture, f: PipeFacts) -> SpacePart | None:
    """The shape of a pipe from far away."""
    fresh = f.pipe.id in picture.fresh
    return _lines(
        "pipe",
        f,
        "preview"
        if fresh
        else f.pipe.service + ("-existing" if f.pipe.status != "proposed" else ""),
    )


def _service(service: ServiceLine) -> SpacePart | None:
    return solid_part("service", service.id, "service", service_mesh(service))


def _structure(picture: Picture, key: Any) -> SpacePart | None:
    """A structure; a chamber's body is made when it is drawn, that of others, which go by their
    pipes, at once.
    """
    facts, f = picture.facts, picture.facts.structures[key]
    role = "ink" if key in picture.fresh else LOOKS.get(f.structure.status, "chamber-wall")
    kind, upright = facts.project.types[f.structure.type], extent(f)
    if not kind.inside:
        return solid_part("structure", key, role, structure_mesh(facts, f))
    if upright is None or f.place.x is None or f.place.y is None:
        return None
    sides = kind.inside + 2 * kind.wall, (kind.across or kind.inside) + 2 * kind.wall
    out = max(
        float(np.hypot(*sides)) / 2, kind.frame / 2 + RIM + float(np.hypot(*f.structure.cover))
    )
    low, high = min(upright) - base_thickness(facts.project, f.structure) - 0.01, max(upright)
    box = np.array(
        [(f.place.x - out, f.place.y - out, low), (f.place.x + out, f.place.y + out, high)]
    )
    return SpacePart(
        "structure", key, role, partial(structure_mesh, facts, f), thick=min(sides), box=box
    )


def _former(picture: Picture) -> Iterator[tuple[Key, tuple[Any, ...], Maker]]:
    """The axes of pipes where they were before the edit that is tried."""
    before = picture.before
    if before is None or before is picture.facts:
        return
    for k in new_since(picture.facts, before)[0]:
        was, f = before.pipes.get(k), picture.facts.pipes.get(k)
        if was is not None and f is not None and was.pipe != f.pipe:
            yield ("former", k), (was,), partial(_lines, "former", was, "former")


def _lines(kind: Kind, f: PipeFacts, role: str) -> SpacePart | None:
    """The axis of a pipe."""
    if not has_barrel(f):
        return None
    return SpacePart(
        kind,
        f.pipe.id,
        role,
        lines=partial(_pieces, f),
        thick=f.inside + 2 * f.wall,
        box=_pipe_box(f),
    )


def _pieces(f: PipeFacts) -> Array:
    path = axis(f)
    return np.zeros((0, 2, 3)) if path is None else np.stack([path[:-1], path[1:]], axis=1)


# -- ground ----------------------------------------------------------------------------------------


# -- along the run ---------------------------------------------------------------------------------


def _line(run: Run | None) -> Array | None:
    """The run in plan (n, 2), m; None where it has no length."""
    if run is None or run.line is None:
        return None
    corners = np.asarray(run.corners, float)
    if len(corners) < 2 or run.key.kind == "road":
        n = max(2, int(run.length / 5.0) + 2)
        corners = np.column_stack(
            run.line.point(np.linspace(run.start, run.start + run.length, n), np.zeros(n))
        )
    corners = corners[~np.isnan(corners).any(axis=1)]
    corners = (
        corners[np.concatenate([[True], np.hypot(*np.diff(corners, axis=0).T) > 1e-6])]
        if len(corners)
        else corners
    )
    return corners if len(corners) > 1 else None


def near_side(scene: Scene, place: Array) -> str:
    """The side of the run on which an eye at a place stands: the half of the ground that is cut
    away, where that is parted.
    """
    return (
        "" if scene.line is None else "left" if on_left(scene.line, place[None, :2])[0] else "right"
    )


def box(scene: Scene, kinds: Sequence[str] = ("pipe", "structure")) -> Array:
    """The corners (8, 3) about the parts of some kinds, about all where there are none; (0, 3)
    where there is nothing.
    """
    every = [q for q in scene.parts.values() if q.box.any()]
    ends = np.array([q.box for q in every if q.kind in kinds] or [q.box for q in every]).reshape(
        -1, 2, 3
    )
    return (
        corners(ends[:, 0].min(axis=0), ends[:, 1].max(axis=0)) if len(ends) else np.zeros((0, 3))
    )


def corners(low: Array, high: Array) -> Array:
    """The corners (8, 3) of a box."""
    return np.array(np.meshgrid(*zip(low, high, strict=True))).reshape(3, -1).T
