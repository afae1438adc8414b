"""Chambers drawn one by one: in plan with pipes by bearing, in section with every invert, drop
and depth.
"""

from collections.abc import Callable, Iterator
from math import cos, degrees, pi, sin
from typing import NamedTuple

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.pipes import PipeFacts
from zumbert.delivery.grid import cells, shared
from zumbert.delivery.job import Job
from zumbert.delivery.paper import Box, line, scale_on_paper
from zumbert.delivery.planwindow import outside
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import (
    Anchor,
    Disc,
    Fill,
    Inset,
    Mark,
    Stroke,
    Target,
    Text,
    arrow,
    points,
)
from zumbert.drawing.planstructures import turned
from zumbert.model.catalogue import StructureType
from zumbert.model.ids import StructureId
from zumbert.model.project import base_thickness, size_words
from zumbert.model.sheet import Sheet

HEAD, LEAST = 22.0, 15.0  # units: over a chamber, and from line to line of what is told
SCALES = (10.0, 20.0, 25.0, 50.0, 75.0, 100.0, 150.0, 200.0, 250.0, 500.0, 1000.0)
PLAN = 0.36  # share of a cell that the plan takes
TALK = 118.0  # units beside a section for what is told of its pipes


Level = Callable[[float], float]  # where a level (m) is drawn


class PipeEntry(NamedTuple):
    """A pipe at a chamber: which way it leaves it in plan, and at which invert."""

    pipe: PipeFacts
    into: bool  # whether its water comes in
    bearing: float  # radians clockwise from north, from the chamber outwards
    invert: float  # m above datum


def pipes_at(f: StructureFacts) -> list[PipeEntry]:
    """The pipes of a structure, clockwise from the first outlet; from north where it has none."""
    entries = [
        PipeEntry(p, True, (p.span.bearing_down + pi) % (2 * pi), p.pipe.invert_down)
        for p in f.pipes_in
    ]
    entries += [
        PipeEntry(p, False, p.span.bearing % (2 * pi), p.pipe.invert_up) for p in f.pipes_out
    ]
    first = f.pipes_out[0].span.bearing if f.pipes_out else 0.0
    return sorted(entries, key=lambda e: round((e.bearing - first) % (2 * pi), 9))


def chosen(job: Job, sheet: Sheet) -> list[StructureId]:
    """The chambers of a sheet in the order of their labels as they were made; all that have a
    pit where none is named.
    """
    p = job.project
    if sheet.structures:
        return [k for k in sheet.structures if k in p.structures]
    return [
        k
        for k, s in p.structures.items()
        if p.types[s.type].inside and p.types[s.type].kind != "gully"
    ]


def _cells(box: Box) -> list[Box]:
    return cells(box.inside(8, 8, 8, 8), 640.0, 330.0, 12.0)


def pages(job: Job, sheet: Sheet, box: Box) -> list[tuple[StructureId, ...]]:
    """Chambers by page."""
    return shared(chosen(job, sheet), len(_cells(box)))


def compose(
    job: Job, group: tuple[StructureId, ...], box: Box, unit: float
) -> tuple[list[Mark], list[Target]]:
    """The chambers of one page."""
    marks: list[Mark] = []
    for key, cell in zip(group, _cells(box), strict=False):
        marks += _one(job, key, cell, unit)
    return marks, []


def _one(job: Job, key: StructureId, cell: Box, unit: float) -> Iterator[Mark]:
    f = job.facts.structures[key]
    kind = job.project.types[f.structure.type]
    yield Stroke("sheet-rule", cell.xy, closed=True)
    yield line(
        "sheet-strong",
        f"{f.structure.label}  {kind.name}",
        cell.x + 8,
        cell.y + 15,
        cell.width - 16,
    )
    plan = Box(cell.x, cell.y + HEAD, PLAN * cell.width, cell.height - HEAD)
    section = Box(plan.right, plan.y, cell.width - plan.width, plan.height)
    yield Inset(tuple(_plan(job, f, kind, plan, unit)), *plan)
    yield Stroke("sheet-rule", points((section.x, section.y), (section.x, section.bottom)))
    yield Inset(tuple(_section(job, f, kind, section, unit)), *section)


def _scale(wide: float, tall: float, room: tuple[float, float], unit: float) -> tuple[float, float]:
    """The largest round scale at which so many metres fit into a room (units): its ratio, and
    units a metre.
    """
    fits = (
        r
        for r in SCALES
        if wide * scale_on_paper(r, unit) <= room[0] and tall * scale_on_paper(r, unit) <= room[1]
    )
    ratio = next(fits, SCALES[-1])
    return ratio, scale_on_paper(ratio, unit)


def _plan(
    job: Job, f: StructureFacts, kind: StructureType, box: Box, unit: float
) -> Iterator[Mark]:
    """The chamber from above, north up, with each pipe by its bearing."""
    across = max(kind.outside, (kind.across or 0.0) + 2 * kind.wall, 0.6)
    room = 0.36 * min(box.width, box.height)
    ratio, k = _scale(across, across, (room, room), unit)
    x, y = box.width / 2, box.height / 2
    out = across / 2 * k + 26.0
    labels = Labels(outside(box.width, box.height), plates=True)
    labels.block((x - across / 2 * k, y - across / 2 * k, x + across / 2 * k, y + across / 2 * k))
    for e in pipes_at(f):
        half = (e.pipe.inside / 2 + e.pipe.wall) * k
        dx, dy = sin(e.bearing), -cos(e.bearing)
        begin = 0.35 * across * k
        sides = [
            points(*((x + dx * r - dy * h, y + dy * r + dx * h) for r in (begin, out)))
            for h in (-half, half)
        ]
        yield Fill(
            f"{e.pipe.pipe.service}-bore", points(*sides[0].tolist(), *sides[1][::-1].tolist())
        )
        role = (
            e.pipe.pipe.service
            + ("-existing" if e.pipe.pipe.status != "proposed" else "")
            + "-outside"
        )
        yield from (Stroke(role, s) for s in sides)
        middle = (across / 2 * k + out) / 2
        flow = (e.bearing - pi / 2) + (pi if e.into else 0.0)
        yield Fill(e.pipe.pipe.service, arrow(x + dx * middle, y + dy * middle, flow, 9.0))
        labels.block_line(points((x, y), (x + dx * out, y + dy * out)), e.pipe.pipe.id)
        _told_in_plan(job, e, (x, y), out + 6, (dx, dy), labels)
    if kind.across is None:
        yield Disc("chamber-wall", x, y, kind.outside / 2 * k, "chamber")
        yield Disc("field", x, y, kind.inside / 2 * k, "chamber-inner")
    else:
        for role, edge, wall in (
            ("chamber-wall", "chamber", kind.wall),
            ("field", "chamber-inner", 0.0),
        ):
            a, b = (kind.inside / 2 + wall) * k, (kind.across / 2 + wall) * k
            ring = points((-a, -b), (a, -b), (a, b), (-a, b))
            yield Fill(role, turned(ring, x, y, f.place.bearing - pi / 2), edge)
    if kind.frame:
        c, s = cos(f.place.bearing), sin(f.place.bearing)
        along, right = f.structure.cover[0] * k, f.structure.cover[1] * k
        yield Disc(
            "plate",
            x + along * s + right * c,
            y - along * c + right * s,
            kind.frame / 2 * k,
            "chamber-inner",
        )
    yield from labels.texts
    yield Fill(
        "ink",
        points(
            (box.width - 16, 8), (box.width - 11, 24), (box.width - 16, 20), (box.width - 21, 24)
        ),
    )
    yield Text("note", f"1:{ratio:g}", 8.0, box.height - 8.0)


def _told_in_plan(
    job: Job,
    e: PipeEntry,
    at: tuple[float, float],
    out: float,
    way: tuple[float, float],
    labels: Labels,
) -> None:
    """Label and bearing of a pipe beyond its end, or beside that where others stand there."""
    lines = [("strong", e.pipe.pipe.label), ("ink", job.units.angle(degrees(e.bearing), 1))]
    (x, y), (dx, dy) = at, way
    anchor: Anchor = "left" if dx > 0.3 else "right" if dx < -0.3 else "middle"
    drop = 10.0 if dy > 0.3 else -16.0 if dy < -0.3 else -3.0
    places = [
        (x + dx * (out + far) - dy * aside, y + dy * (out + far) + dx * aside + drop, anchor)
        for far in (0.0, 14.0, 28.0)
        for aside in (0.0, 22.0, -22.0, 40.0, -40.0)
    ]
    labels.put_lines(lines, places, always=True)


def _section(
    job: Job, f: StructureFacts, kind: StructureType, box: Box, unit: float
) -> Iterator[Mark]:
    """The chamber cut along its outlet, with openings where its pipes come through the wall,
    levels and depths.
    """
    u, entries = job.units, pipes_at(f)
    rim, floor = f.place.rim, f.sump_level
    if rim is None or floor is None:
        yield line("sheet", "no rim or no pipe yet: no section", 10, 24, box.width - 20)
        return
    base = base_thickness(job.project, f.structure)
    deep = rim - floor + base
    room = (box.width - 2 * TALK - 30.0, box.height - 110.0)
    ratio, k = _scale(max(kind.outside, 0.4), deep, room, unit)
    x, top = box.width / 2, 30.0 + max(0.0, (room[1] - deep * k) / 2)

    def level(z: float) -> float:
        return top + (rim - z) * k

    outer, inner = kind.outside / 2 * k, kind.inside / 2 * k
    under = level(floor - base)
    yield Fill(
        "chamber-wall",
        points((x - outer, top), (x + outer, top), (x + outer, under), (x - outer, under)),
        "chamber",
    )
    slab = min(0.2, 0.3 * (rim - floor)) * k
    yield Fill(
        "field",
        points(
            (x - inner, top + slab),
            (x + inner, top + slab),
            (x + inner, level(floor)),
            (x - inner, level(floor)),
        ),
        "chamber-inner",
    )
    frame = kind.frame / 2 * k
    yield Fill(
        "field",
        points(
            (x - frame, top), (x + frame, top), (x + frame, top + slab), (x - frame, top + slab)
        ),
        "chamber-inner",
    )
    yield Fill(
        "ink",
        points(
            (x - frame - 2, top - 2),
            (x + frame + 2, top - 2),
            (x + frame + 2, top + 2),
            (x - frame - 2, top + 2),
        ),
    )
    first = f.pipes_out[0].span.bearing if f.pipes_out else 0.0
    for e in entries:
        yield from _opening(e, (e.bearing - first) % (2 * pi), x, inner, outer, k, level)
    ins, outs = [e for e in entries if e.into], [e for e in entries if not e.into]
    yield from _column(
        [_lines(job, e) for e in ins],
        x - outer - 16.0,
        "right",
        level,
        [e.invert for e in ins],
        x - outer,
        8.0,
    )
    yield from _column(
        [_lines(job, e) for e in outs],
        x + outer + 16.0,
        "left",
        level,
        [e.invert for e in outs],
        x + outer,
        8.0,
    )
    yield Text("strong", f"rim {u.level(rim)}", x, top - 12.0, "middle")
    yield from _depth(
        u.length(f.depth), x + 0.55 * inner, top, level(floor if f.lowest is None else f.lowest)
    )
    yield from _told_below(job, f, box, ratio)


def _depth(words: str, x: float, top: float, bottom: float) -> Iterator[Mark]:
    """The depth to the lowest invert, as a dimension inside the chamber."""
    yield Stroke("dimension", points((x, top), (x, bottom)))
    for y in (top, bottom):
        yield Stroke("dimension", points((x - 4.0, y + 4.0), (x + 4.0, y - 4.0)))
    yield Text("strong", words, x, (top + bottom) / 2 + 4.0, "middle", plate=True)


def _told_below(job: Job, f: StructureFacts, box: Box, ratio: float) -> Iterator[Mark]:
    """Depth, sump and every drop, under the section."""
    u, pipes = job.units, job.project.pipes
    drops = [
        f"{pipes[d.inlet].label} to {pipes[d.outlet].label}: {u.deep(d.drop)}" for d in f.drops
    ]
    head = f"Depth {u.deep(f.depth)}, sump {u.level(f.sump_level)}"
    lines = [head, *("; ".join(group) for group in shared(drops, 3))][:3]
    for i, words in enumerate(lines):
        yield line(
            "sheet" if not i else "note", words, 8.0, box.height - 52.0 + 14.0 * i, box.width - 16.0
        )
    yield Text("note", f"1:{ratio:g}", box.width - 8.0, box.height - 8.0, "right")


def _opening(
    e: PipeEntry, turn: float, x: float, inner: float, outer: float, k: float, level: Level
) -> Iterator[Mark]:
    """A pipe through the wall: cut along where it lies near the section's plane, an opening in
    the far wall elsewhere.
    """
    y0, y1 = level(e.invert + e.pipe.inside), level(e.invert)
    side = cos(turn)
    if abs(side) > 0.7:
        sign = 1.0 if side > 0 else -1.0
        a, b = x + sign * inner, x + sign * (outer + 22.0)
        wall = e.pipe.wall * k
        yield Fill(
            f"{e.pipe.pipe.service}-wall",
            points((a, y0 - wall), (b, y0 - wall), (b, y1 + wall), (a, y1 + wall)),
        )
        yield Fill(f"{e.pipe.pipe.service}-bore", points((a, y0), (b, y0), (b, y1), (a, y1)))
        for y in (y0, y1):
            yield Stroke(f"{e.pipe.pipe.service}-inside", points((a, y), (b, y)))
    else:
        yield Disc(
            f"{e.pipe.pipe.service}-bore",
            x + side * inner,
            (y0 + y1) / 2,
            (y1 - y0) / 2,
            f"{e.pipe.pipe.service}-outside",
        )


def _lines(job: Job, e: PipeEntry) -> list[str]:
    size = job.project.sizes.get(e.pipe.pipe.size) if isinstance(e.pipe.pipe.size, str) else None
    words = size_words(job.project, size) if size is not None else job.units.dn(e.pipe.dn)
    return [f"{e.pipe.pipe.label} {job.units.level(e.invert)}", words]


def _column(
    told: list[list[str]],
    x: float,
    anchor: Anchor,
    level: Level,
    inverts: list[float],
    wall: float,
    gap: float,
) -> Iterator[Mark]:
    """The notes on the pipes on one side, the highest first, spread so that no lines meet,
    each led to its invert.
    """
    order = sorted(range(len(told)), key=lambda i: -inverts[i])
    y = -1e9
    for i in order:
        at = level(inverts[i])
        y = max(at - LEAST, y)
        for j, words in enumerate(told[i]):
            yield Text(
                "strong" if not j else "ink", words, x, y + j * (LEAST - 2), anchor, plate=True
            )
        end = x - 3 if anchor == "left" else x + 3
        yield Stroke("leader", points((wall, at), (end, y - 4)))
        y += len(told[i]) * (LEAST - 2) + gap
