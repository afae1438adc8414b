"""Plan and long section: the plan over the section, chainage for chainage, cut to pages by
chainage with match lines.
"""

from collections.abc import Callable, Iterator
from itertools import pairwise
from math import ceil
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.analysis.runline import Run, RunKey
from zumbert.delivery.job import Job
from zumbert.delivery.paper import Box, WorldWindow, printed, scale_on_paper
from zumbert.delivery.planwindow import match_line, picture_of, plan_window
from zumbert.drawing.levelrows import rows_height
from zumbert.drawing.longsection import levels_told, section_marks
from zumbert.drawing.marks import Inset, Mark, Stroke, Target, Text, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.sectionprofile import TALL
from zumbert.drawing.sight import MapSight, SectionSight, StraightSight
from zumbert.model.sheet import Sheet

AXIS, LEFT, RIGHT = (
    84.0,
    26.0,
    26.0,
)  # units: gutter with the levels, room at the left and right of the stretch
GUTTER = AXIS + LEFT  # where a stretch begins
FAR = 1e5  # units
BEYOND, REACH = (
    200.0,
    70.0,
)  # m: a straightened plan goes on so far past the ends, and reaches so far to each side
PLAN = 0.42  # share of the height that the plan takes
OVER, UNDER = (
    1.6,
    0.8,
)  # m over the highest and under the lowest level that a section shows at least


class Stretch(NamedTuple):
    """The part of a run that one page shows, m along it, and where its neighbours go on; None at
    the run's ends.
    """

    key: RunKey
    name: str
    a: float
    b: float
    before: float | None
    after: float | None
    place: int  # among the pages of the run, from 0
    pages: int


def lengthwise(a: float, b: float, most: float, overlap: float) -> list[tuple[float, float]]:
    """A length cut to pieces of a greatest length, each of which overlaps its neighbours by so
    much.

    All are as long as the greatest but the last. Raises ValueError where the overlap leaves
    nothing.
    """
    if most <= overlap:
        raise ValueError("the overlap is longer than a sheet")
    n = max(1, ceil((b - a - overlap) / (most - overlap) - 1e-9))
    step = most - overlap
    return [(a + i * step, min(a + i * step + most, b)) for i in range(n)]


def keys_of(job: Job, sheet: Sheet) -> list[RunKey]:
    """The runs and roads that a sheet follows, those that are gone left out; all runs but roads
    where none is named.
    """
    if not sheet.along:
        return [k for k in job.runs if k.kind != "road"]
    return [k for k in (RunKey(a.kind, a.id) for a in sheet.along) if job.run(k) is not None]


def stretches(job: Job, sheet: Sheet, width: float, unit: float) -> list[Stretch]:
    """The pages of a sheet whose room is so wide (units)."""
    most = (width - GUTTER - RIGHT) / scale_on_paper(sheet.scale, unit)
    overlap = min(max(sheet.overlap, 0.0), 0.4 * most)
    out = []
    for key in keys_of(job, sheet):
        made = job.run(key)
        if made is None:
            continue
        parts = lengthwise(made.start, made.start + made.length, most, overlap)
        joins = [(a[1] + b[0]) / 2 for a, b in pairwise(parts)]
        for i, (a, b) in enumerate(parts):
            before, after = (joins[i - 1] if i else None), (joins[i] if i < len(joins) else None)
            out.append(Stretch(key, made.name, a, b, before, after, i, len(parts)))
    return out


def page_title(job: Job, stretch: Stretch) -> str:
    """The name of a page, beside the title of its sheet."""
    if stretch.pages == 1:
        return stretch.name
    u = job.units
    return f"{stretch.name}, {u.chainage(stretch.a, 0)} to {u.chainage(stretch.b, 0)}"


def compose(
    job: Job, sheet: Sheet, stretch: Stretch, box: Box, unit: float, neighbour: Callable[[int], str]
) -> tuple[list[Mark], list[Target]]:
    """The marks of one page in its room; `neighbour` gives the number of the page so many
    further on.
    """
    shown = job.shown(stretch.key)
    picture = replace(picture_of(job, sheet), run=shown)
    sx = scale_on_paper(sheet.scale, unit)
    plan_box = Box(box.x, box.y, box.width, PLAN * box.height)
    rows = rows_height(picture)
    section = Box(box.x, plan_box.bottom, box.width, box.height - plan_box.height)
    marks: list[Mark] = []
    targets: list[Target] = []
    sight = plan_sight(job, shown, sheet, stretch, plan_box, sx)
    if sight is not None:
        marks, targets = plan_window(
            picture, sight, plan_box, grid=isinstance(sight, MapSight), bar=sheet.plan == "turned"
        )
    marks += _section(picture, shown, sheet, stretch, section, section.height - rows, sx, unit)
    marks.append(Stroke("sheet-line", points((box.x, section.y), (box.right, section.y))))
    marks += _matches(
        job, stretch, sight, plan_box, section._replace(height=section.height - rows), sx, neighbour
    )
    return marks, targets


def plan_sight(
    job: Job, shown: Run, sheet: Sheet, stretch: Stretch, box: Box, sx: float
) -> MapSight | StraightSight | None:
    """The plan over a stretch: straightened, so that chainages lie over the section's, or turned
    so that its ends do.
    """
    if shown.line is None:
        return None
    if sheet.plan == "straightened":
        line = job.line_beyond(stretch.key, BEYOND) or shown.line
        radii = [e.radius for e in line.elements if hasattr(e, "radius")]
        return StraightSight(
            width=box.width,
            height=box.height,
            line=line,
            first=stretch.a,
            left=GUTTER,
            scale=sx,
            middle=box.height / 2,
            reach=min([REACH, *(0.9 * r for r in radii)]),
        )
    ends = np.column_stack(
        shown.line.point(
            np.clip(np.array([stretch.a, stretch.b]), shown.line.start, shown.line.end), 0.0
        )
    )
    (ax, ay), (bx, by) = ends.tolist()
    turn = float(np.arctan2(by - ay, bx - ax))
    on = MapSight(
        width=box.width, height=box.height, x=(ax + bx) / 2, y=(ay + by) / 2, scale=sx, turn=turn
    )
    shift = (GUTTER - RIGHT) / 2 - ((box.width - GUTTER - RIGHT) - (stretch.b - stretch.a) * sx) / 2
    return on.panned(shift, 0.0)


def spans_of_level(facts: Facts, shown: Run, a: float, b: float) -> tuple[float, float]:
    """The lowest and highest level that a section shows between two distances, m above datum."""
    found: list[float] = []
    for r in shown.reaches:
        lo, hi = sorted((r.up, r.down))
        if hi < a or lo > b:
            continue
        pipe = facts.pipes[r.pipe]
        for s in (max(lo, a), min(hi, b)):
            share = (s - r.up) / (r.down - r.up) if r.down != r.up else 0.0
            invert = pipe.pipe.invert_up + share * (pipe.pipe.invert_down - pipe.pipe.invert_up)
            found += [invert, invert + pipe.inside]
    for key, at in shown.structures:
        f = facts.structures[key]
        if a - 1e-6 <= at <= b + 1e-6:
            found += [v for v in (f.place.rim, f.sump_level, f.place.ground) if v is not None]
    for line in (shown.ground, shown.design):
        if line is not None:
            near = (line.s >= a) & (line.s <= b) & ~np.isnan(line.z)
            found += line.z[near].tolist()
            for s in (a, b):
                z = float(np.interp(s, line.s, line.z)) if line.s[0] <= s <= line.s[-1] else np.nan
                found += [z] if z == z else []
    return (min(found), max(found)) if found else (0.0, 5.0)


def datum_steps(
    facts: Facts, shown: Run, a: float, b: float, most: float
) -> list[tuple[float, float, float, float]]:
    """A stretch in parts whose levels fit into a height (m): from, to, lowest and highest level of
    each.

    A part ends at the last 200th of the stretch that still fits, and is at least ten of them long.
    Levels that fit nowhere are cut off at the top.
    """
    out: list[tuple[float, float, float, float]] = []
    step = (b - a) / 200 or 1.0
    at = a
    while at < b - 1e-9:
        low, high = spans_of_level(facts, shown, at, b)
        end = b
        if high - low > most:
            ends = np.arange(at + step, b, step).tolist()
            fits = [e for e in ends if np.diff(spans_of_level(facts, shown, at, e))[0] <= most]
            end = max([at + 10 * step, *fits[-1:]])
            low, high = spans_of_level(facts, shown, at, end)
        out.append((at, min(end, b), low, high))
        at = end
    return out or [(a, b, *spans_of_level(facts, shown, a, b))]


def _section(
    picture: Picture,
    shown: Run,
    sheet: Sheet,
    stretch: Stretch,
    box: Box,
    tall: float,
    sx: float,
    unit: float,
) -> Iterator[Mark]:
    """The long section of a stretch over its level rows; where its levels need it, with steps of
    the datum.
    """
    sz = scale_on_paper(sheet.up, unit)
    parts = datum_steps(picture.facts, shown, stretch.a, stretch.b, tall / sz - OVER - UNDER)
    end = GUTTER + (stretch.b - stretch.a) * sx
    for i, (a, b, low, high) in enumerate(parts):
        spare = max(0.0, tall / sz - (high - low)) * 0.4
        z = (
            low - max(UNDER, min(spare, tall / sz - (high - low) - OVER))
            if high - low < tall / sz
            else low - UNDER
        )
        whole = SectionSight(
            width=end + RIGHT, height=tall, left=AXIS, x=stretch.a - LEFT / sx, z=z, sx=sx, sz=sz
        )
        made = section_marks(picture, whole)
        left = AXIS if not i else GUTTER + (a - stretch.a) * sx
        right = end + RIGHT if i == len(parts) - 1 else GUTTER + (b - stretch.a) * sx
        inner = Inset(tuple(made.world), -left, 0.0, end + RIGHT, tall)
        yield Inset(
            (inner,),
            box.x + left,
            box.y,
            right - left,
            tall,
            window=WorldWindow(whole, stretch.key, left),
        )
        begins = left if i else 0.0
        edges = Inset(tuple(made.edges), -begins, 0.0, end + RIGHT, tall)
        yield Inset((edges,), box.x + begins, box.y, right - begins, tall)
        if i:
            yield from _datum_step(whole, box.x + left, box.y, picture)
        else:
            rows = section_rows(made.rows, tall)
            yield Inset(rows, box.x, box.y + tall, end + RIGHT, box.height - tall)


def section_rows(rows: list[Mark], tall: float) -> tuple[Mark, ...]:
    """The level rows as they are printed, moved up to an origin of their own."""
    return (Inset(printed(rows), 0.0, -tall, FAR, FAR),)


def _datum_step(sight: SectionSight, x: float, y: float, picture: Picture) -> Iterator[Mark]:
    """The line at which the datum changes, with the levels of the part that begins."""
    yield Stroke("axis", points((x, y), (x, y + sight.height)))
    for text, at in levels_told(sight, picture.units):
        yield Stroke("axis", points((x, y + at), (x + 5, y + at)))
        yield Text("axis", text, x + 8, y + at + 4, plate=True)


def _matches(
    job: Job,
    stretch: Stretch,
    sight: MapSight | StraightSight | None,
    plan: Box,
    section: Box,
    sx: float,
    neighbour: Callable[[int], str],
) -> Iterator[Mark]:
    """Match lines in plan and section, at the middle of the overlap."""
    u = job.units
    for at, to, inward in ((stretch.before, -1, 1.0), (stretch.after, 1, -1.0)):
        if at is None:
            continue
        words = f"{u.chainage(at, 2)}: joins sheet {neighbour(to)}"
        x = section.x + GUTTER + (at - stretch.a) * sx
        top = plan.y if isinstance(sight, StraightSight) else section.y
        yield from match_line((x, top), (x, section.bottom), words, inward, section.y + TALL + 8.0)
        shown = job.run(stretch.key)
        if isinstance(sight, MapSight) and shown is not None and shown.line is not None:
            half = 0.3 * plan.height / sight.scale
            ends = sight.to_drawing(
                np.column_stack(shown.line.point(np.full(2, at), np.array([-half, half])))
            )
            (ax, ay), (bx, by) = ends.tolist()
            yield Inset(tuple(match_line((ax, ay), (bx, by), words, inward)), *plan)
