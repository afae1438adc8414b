"""The long section: ground, design, pipes as barrels, chambers at true width, and what breaks
the rules where it does.
"""

from collections.abc import Generator, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.crossings import Crossing, Reach
from zumbert.analysis.runline import Run
from zumbert.drawing.flowmarks import water
from zumbert.drawing.handles import PipeHandle, legal_band
from zumbert.drawing.labels import Box, Labels
from zumbert.drawing.levelcells import level_rows
from zumbert.drawing.marks import Cell, Composed, Fill, Mark, Segments, Stroke, Target, Text, points
from zumbert.drawing.picture import Part, Picture, RunPicture, rests
from zumbert.drawing.sectionbars import bars_box, scale_bars
from zumbert.drawing.sectionchambers import (
    chamber,
    chamber_box,
    opening_labels,
    structure_labels,
    structure_target,
)
from zumbert.drawing.sectioncrossings import crossing_marks, pin_targets, pinned
from zumbert.drawing.sectionfindings import finding_strip, findings
from zumbert.drawing.sectionground import (
    ground_fill,
    others,
    surface_labels,
    surface_lines,
    surfaces,
    surfaces_over,
    turning_points,
)
from zumbert.drawing.sectionpipes import (
    barrel,
    barrel_shape,
    former,
    halos,
    least_cover,
    next_slope,
    pipe_target,
)
from zumbert.drawing.sectionprofile import band, profile_data
from zumbert.drawing.sectiontrench import bands, fill_first, pits, strata, trench
from zumbert.drawing.sight import SectionSight
from zumbert.model.display import Units, number


class SectionMarks(NamedTuple):
    """A long section: what it shows, what stands at the edges of its window, the level rows under
    it, what can be hit, what can be edited, its labels.
    """

    world: list[Mark]
    edges: list[
        Mark
    ]  # the levels at the left, the road's figures, scale bars, what is out of sight
    rows: list[Mark]
    targets: list[Target]
    cells: list[Cell]
    labels: Labels

    @property
    def drawing(self) -> list[Mark]:
        """All but the rows."""
        return self.world + self.edges


def long_section(picture: Picture, sight: SectionSight, hand: PipeHandle | None = None) -> Composed:
    """Marks of a long section with its level rows; empty but for the grid where there is no run."""
    made = section_marks(picture, sight, hand)
    return Composed(made.drawing + made.rows, made.targets, made.cells)


def section_marks(
    picture: Picture,
    sight: SectionSight,
    hand: PipeHandle | None = None,
    part: Part | None = None,
    under: Labels | None = None,
) -> SectionMarks:
    """A long section whole, or the part of it that an edit leaves as it is, or changes: drawn one
    over the other they are the whole. Labels keep off those of what lies under.
    """
    steps = section_steps(picture, sight, hand, part, under)
    try:
        while True:
            next(steps)
    except StopIteration as done:
        made: SectionMarks = done.value
        return made


def section_steps(
    picture: Picture,
    sight: SectionSight,
    hand: PipeHandle | None = None,
    part: Part | None = None,
    under: Labels | None = None,
) -> Generator[None, None, SectionMarks]:
    """The same in small steps, for a drawing that is made while other things go on."""
    labels = Labels(under=under, plates=True)
    base = rests(part)
    marks: list[Mark] = list(_grid(sight, picture.units)) if base else []
    targets: list[Target] = []
    rows, whole = Composed([], [], []), None
    if picture.run is not None:
        whole = picture.along(_in_sight(picture.run, sight))
        seen = whole if part is None else replace(whole, run=_part_of(whole.run, part))
        rows = level_rows(whole, sight, hand, part)
        yield
        for mark in _inner(whole.run, seen, sight, hand, base):
            marks.append(mark)
            yield
        room = [band(whole, sight), bars_box(whole, sight) if base else None]
        if (
            part is not None and base
        ):  # what stays leaves room for the chambers that change, and for their labels
            hot = replace(whole, run=_part_of(whole.run, part._replace(live=True)))
            grown = [(x0 - 6, y0 - 18, x1 + 6, y1) for x0, y0, x1, y1 in _chamber_room(hot, sight)]
            labels = Labels(under=Labels(grown), plates=True)
        for box in [*_chamber_room(seen, sight), *(b for b in room if b is not None)]:
            labels.block(box)
        shown = {r.pipe for r in whole.run.reaches}
        far = (
            [r for r in picture.run.reaches if r.pipe in picture.pipes and r.pipe not in shown]
            if base
            else []
        )
        words = list[Target]()
        names = part is None or part.live  # what an edit moves may come to lie where they stand
        for mark in _labelled(whole.run, seen, sight, labels, base, names, far, words):
            marks.append(mark)
            yield
        targets = [*words, *_targets(seen, sight)]
    marks += labels.texts
    edges: list[Mark] = []
    if whole is not None and (part is None or part.live):
        edges += finding_strip(whole, sight)
    if base:
        if picture.run is not None and whole is not None:
            edges += profile_data(picture.along(picture.run), sight)
            edges += scale_bars(whole, sight)
        edges += _frame(sight)
        edges += _axis_labels(sight, picture.units)
    return SectionMarks(marks, edges, rows.marks, targets, rows.cells, labels.alone())


def _part_of(run: Run, part: Part) -> Run:
    """A run with what an edit changes alone, or without it; a crossing belongs to the pipe that
    is crossed, and to its own.
    """
    hot = [r for r in run.reaches if r.pipe in part.hot]

    def touched(c: Crossing) -> bool:
        return c.id in part.hot or any(min(r.up, r.down) <= c.at <= max(r.up, r.down) for r in hot)

    return run._replace(
        reaches=tuple(r for r in run.reaches if part.holds(r.pipe)),
        structures=tuple(s for s in run.structures if part.holds(s[0])),
        crossings=tuple(c for c in run.crossings if touched(c) == part.live),
    )


def _inner(
    run: Run, seen: RunPicture, sight: SectionSight, hand: PipeHandle | None, base: bool
) -> Iterator[Mark]:
    """All but labels and what stands with them, the lowest first."""
    dug = seen.trenches if "trench" in seen.shows else None
    if base:
        yield from ground_fill(run, sight)
    if dug is not None:
        yield from strata(replace(seen, run=run) if base else seen, dug, sight)
    yield from halos(seen, sight)
    if dug is not None:
        yield from pits(seen, dug, sight)
    yield from legal_band(seen, hand, sight)
    yield from former(seen, sight)
    if base:
        yield from next_slope(seen, sight)
    for reach in seen.run.reaches:
        yield from barrel(seen, reach, sight)
    if "flow" in seen.shows:
        yield from water(seen, sight)
    if "cover" in seen.shows:
        yield from least_cover(seen, sight)
    if base:
        yield from others(run, sight)
    yield from surfaces(run, sight) if base else surfaces_over(run, seen.run.reaches, sight)
    if dug is not None:
        yield from fill_first(seen, dug, sight)
        yield from trench(seen, dug, sight)
    if "bands" in seen.shows and seen.trenches is not None:
        yield from bands(seen, seen.trenches, sight)
    own = frozenset(r.pipe for r in run.reaches)
    for key, at in seen.run.structures:
        yield from chamber(seen, key, at, sight, own)


def _labelled(
    run: Run,
    seen: RunPicture,
    sight: SectionSight,
    labels: Labels,
    base: bool,
    names: bool,
    far: Sequence[Reach],
    words: list[Target],
) -> Iterator[Mark]:
    """The marks with words: findings, turning points, crossings, pins; then the names of
    lines, where there is room.
    """
    structure_labels(seen, sight, labels)
    yield from findings(seen, sight, labels, far)
    if base:
        yield from turning_points(seen, sight, labels)
    yield from crossing_marks(seen, sight, labels)
    yield from pinned(seen, seen.run, sight, labels, words)
    for reach in seen.run.reaches:  # branches' labels and surface names keep off the barrels
        labels.block_shape(barrel_shape(seen, reach, sight))
    for xy in (
        surface_lines(run, sight) if base else ()
    ):  # and off the surfaces, which no level moves
        labels.block_line(xy, "")
    opening_labels(seen, sight, labels, frozenset(r.pipe for r in run.reaches))
    if names:
        surface_labels(seen, run, sight, labels)


def _chamber_room(seen: RunPicture, sight: SectionSight) -> Iterator[Box]:
    """Boxes about the chambers, for labels to keep off."""
    for key, at in seen.run.structures:
        box = chamber_box(seen, key, at, sight)
        if box is not None:
            yield box[0] - 2, box[2] - 3, box[1] + 2, box[3]


def _targets(seen: RunPicture, sight: SectionSight) -> list[Target]:
    """Structures before pipes."""
    pipes = [pipe_target(seen, r, sight) for r in seen.run.reaches]
    shafts = [structure_target(seen, key, at, sight) for key, at in seen.run.structures]
    return [*pipes, *shafts, *pin_targets(seen, sight)][::-1]


# m along a run beyond the drawing that are composed too: chambers and labels reach in
BESIDE = 30.0


def _in_sight(run: Run, sight: SectionSight) -> Run:
    """A run without the pipes and structures that are far out of sight."""
    a, b = sight.s_at(sight.left) - BESIDE, sight.s_at(sight.width) + BESIDE
    return run._replace(
        reaches=tuple(r for r in run.reaches if max(r.up, r.down) >= a and min(r.up, r.down) <= b),
        structures=tuple(s for s in run.structures if a <= s[1] <= b),
    )


def _grid(sight: SectionSight, u: Units) -> Iterator[Mark]:
    yield Fill(
        "paper", points((0, 0), (sight.width, 0), (sight.width, sight.height), (0, sight.height))
    )
    for role, step in (
        ("grid-minor", level_step(sight, u) / 2),
        ("grid-major", level_step(sight, u)),
    ):
        z = np.arange(np.ceil(sight.z_at(sight.height) / step) * step, sight.z_at(0.0), step)
        y = sight.py(z)
        yield Segments(
            role, np.column_stack([np.full_like(y, sight.left), y, np.full_like(y, sight.width), y])
        )


def level_step(sight: SectionSight, u: Units) -> float:
    """Metres between labelled levels, round in the project's unit: no nearer than 24 units."""
    one = u.metres
    return one * next(
        (s for s in (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0) if s * one * sight.sz >= 24),
        100.0,
    )


def levels_told(sight: SectionSight, u: Units) -> Iterator[tuple[str, float]]:
    """The round levels that stand at the axis, and their drawing y."""
    step = level_step(sight, u)
    for z in np.arange(
        np.ceil(sight.z_at(sight.height - 6) / step) * step, sight.z_at(10.0), step
    ).tolist():
        yield number(u.shown(z), 1), sight.y_of(z)


def _axis_labels(sight: SectionSight, u: Units) -> Iterator[Mark]:
    for text, y in levels_told(sight, u):
        yield Text("axis", text, sight.left - 9, y + 4, "right")
        yield Stroke("axis", points((sight.left - 5, y), (sight.left, y)))


def _frame(sight: SectionSight) -> Iterator[Mark]:
    yield Fill(
        "paper", points((0, 0), (sight.left, 0), (sight.left, sight.height), (0, sight.height))
    )
    yield Stroke("axis", points((sight.left, 0), (sight.left, sight.height)))
