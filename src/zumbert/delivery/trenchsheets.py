"""Sheets of trench cross-sections: each at its chainage, with area to the left and right of the
axis.
"""

from typing import NamedTuple

import numpy as np

from zumbert.analysis.crosssection import cross_section, half_needed
from zumbert.analysis.runline import RunKey
from zumbert.delivery.along import keys_of
from zumbert.delivery.grid import cells, shared
from zumbert.delivery.job import Job
from zumbert.delivery.paper import Box, line, scale_on_paper
from zumbert.drawing.crossnames import NAMES
from zumbert.drawing.crosssection import AXIS, crosssection_marks, levels_shown
from zumbert.drawing.marks import Inset, Mark, Stroke, Target, Text
from zumbert.drawing.sight import SectionSight
from zumbert.model.ids import PipeId
from zumbert.model.sheet import Sheet

HEAD = 22.0  # units over a section
BESIDE = 1.0  # m of ground beside a trench
SCALES = (20.0, 25.0, 40.0, 50.0, 75.0, 100.0, 150.0, 200.0, 250.0, 500.0)


class Station(NamedTuple):
    """A place at which a trench is cut: along a run and along its pipe, m."""

    run: RunKey
    name: str
    at: float
    pipe: PipeId
    s: float


def stations(job: Job, sheet: Sheet) -> list[Station]:
    """The chosen chainages of the runs that a sheet follows, or one every so many metres and
    none where nothing is dug.
    """
    out = []
    for key in keys_of(job, sheet):
        made = job.run(key)
        if made is None:
            continue
        step = max(sheet.step, 0.5)
        every = np.arange(
            np.ceil(made.start / step) * step, made.start + made.length + 1e-9, step
        ).tolist()
        for at in sheet.chainages or every:
            for r in made.reaches:
                lo, hi = sorted((r.up, r.down))
                t = job.dug.pipes[r.pipe]
                if t.dig is None or not lo <= at < hi or hi == lo:
                    continue
                s = (at - r.up) / (r.down - r.up) * t.pipe.span.length
                out.append(Station(key, made.name, at, r.pipe, float(s)))
                break
    return out


def pages(job: Job, sheet: Sheet, box: Box, unit: float) -> list[tuple[Station, ...]]:
    """Stations by page."""
    return shared(stations(job, sheet), len(_cells(box)))


def _cells(box: Box) -> list[Box]:
    return cells(box.inside(8, 8, 8, 8), 600.0, 330.0, 12.0)


def compose(
    job: Job, sheet: Sheet, group: tuple[Station, ...], box: Box, unit: float
) -> tuple[list[Mark], list[Target]]:
    """The sections of one page."""
    marks: list[Mark] = []
    for station, cell in zip(group, _cells(box), strict=False):
        marks += _one(job, station, cell, unit)
    return marks, []


def _one(job: Job, station: Station, cell: Box, unit: float) -> list[Mark]:
    """One section at the largest round scale at which it fits."""
    dug, u = job.dug, job.units
    need = half_needed(dug.pipes[station.pipe])
    cut = cross_section(dug, station.pipe, station.s, need + BESIDE)
    low, high = levels_shown(dug, cut)
    wide, tall, height = cell.width - AXIS, cell.height - HEAD - 96.0, cell.height - HEAD
    ratio = next(
        (
            r
            for r in SCALES
            if 2 * need * scale_on_paper(r, unit) <= wide - 2 * NAMES + 60.0
            and (high - low) * scale_on_paper(r, unit) <= tall
        ),
        SCALES[-1],
    )
    k = scale_on_paper(ratio, unit)
    sight = SectionSight(
        width=cell.width,
        height=height,
        left=AXIS,
        x=-wide / 2 / k,
        z=(low + high) / 2 - (height / 2 - 8) / k,
        sx=k,
        sz=k,
    )
    if wide / 2 / k > need + BESIDE:
        cut = cross_section(dug, station.pipe, station.s, wide / 2 / k + 0.1)
    pipe = dug.pipes[station.pipe].pipe.pipe.label
    head = f"{station.name}  {u.chainage(station.at)}  pipe {pipe}  1:{ratio:g}"
    out: list[Mark] = [
        Inset(tuple(crosssection_marks(dug, cut, sight)), cell.x, cell.y + HEAD, cell.width, height)
    ]
    out.append(line("sheet-strong", head, cell.x + 6, cell.y + 15, cell.width - 120))
    out.append(Stroke("sheet-rule", cell.xy, closed=True))
    if cut.trench is not None:
        area = f"area {u.square(cut.trench.area, 3)}"
        out.append(Text("sheet", area, cell.right - 8, cell.y + 15, "right"))
    return out
