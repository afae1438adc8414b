"""Trench sections as a table: areas left and right of the axis with chainages, volumes by
average end area, and their sums.
"""

from typing import NamedTuple

from zumbert.analysis.crosssection import areas_by_side, stations, uppers_across
from zumbert.analysis.digs import is_dug, trench_type
from zumbert.delivery.job import Job
from zumbert.exchange.tables import Column, Table, in_units, text_column
from zumbert.fields import CellValue
from zumbert.model.ids import PipeId
from zumbert.model.quantity import LENGTH, SQUARE, VOLUME

Row = tuple[CellValue, ...]
ALONE = "beside the runs"  # pipes that lie on none


class SectionRow(NamedTuple):
    """One section of a trench: along its run (m; None for a pipe on none), areas (m²) and the
    volume (m³) since the one before.
    """

    at: float | None
    left: float
    right: float
    length: float
    volume: float


def sections(job: Job, pipe: PipeId, at: tuple[float, float] | None) -> list[SectionRow]:
    """The sections of a pipe's trench in the order of its run; `at` is where the run has the
    pipe's two ends (m).
    """
    t = job.dug.pipes[pipe]
    if (
        t.excavation is None
        or t.dig is None
        or t.length <= 1e-9
        or not is_dug(job.project, t.pipe.pipe)
    ):
        return []
    kind = trench_type(job.project, t.pipe.pipe)
    s = stations(t, t.pipe.span.ground, kind.spacing)
    both = areas_by_side(
        t.dig,
        [t.bottom(v) for v in s.tolist()],
        uppers_across(job.dug.world, t, t.dig, s, kind.upper),
    )
    out: list[SectionRow] = []
    for i, v in enumerate(s.tolist()):
        where = None if at is None else at[0] + v / t.pipe.span.length * (at[1] - at[0])
        left, right = both[:, i].tolist()
        long = v - float(s[i - 1]) if i else 0.0
        volume = long * (left + right + float(both[:, i - 1].sum())) / 2 if i else 0.0
        out.append(SectionRow(where, left, right, long, volume))
    return out


def runs_and_pipes(job: Job) -> list[tuple[str, list[tuple[PipeId, tuple[float, float] | None]]]]:
    """The pipes of each run, each pipe once: at the first run that has it; those on none come
    last.
    """
    seen: set[PipeId] = set()
    out: list[tuple[str, list[tuple[PipeId, tuple[float, float] | None]]]] = []
    for key in job.runs:
        made = job.run(key) if key.kind != "road" else None
        if made is None:
            continue
        mine = [r for r in made.reaches if r.pipe not in seen]
        seen.update(r.pipe for r in mine)
        if mine:
            out.append((made.name, [(r.pipe, (r.up, r.down)) for r in mine]))
    rest = [k for k in job.project.pipes if k not in seen]
    return [*out, (ALONE, [(k, None) for k in rest])] if rest else out


def trench_sections(job: Job) -> Table:
    """All sections with a sum for each pipe and each run, and the grand total."""
    columns = (
        text_column("Run"),
        text_column("Pipe"),
        Column("Chainage", LENGTH),
        Column("Area left", SQUARE, 2),
        Column("Area right", SQUARE, 2),
        Column("Area", SQUARE, 2),
        Column("Length", LENGTH),
        Column("Volume", VOLUME, 2),
    )
    rows: list[Row] = []
    total = 0.0
    for name, pipes in runs_and_pipes(job):
        of_run = 0.0
        for key, at in pipes:
            found = sections(job, key, at)
            label = job.project.pipes[key].label
            rows += [
                (name, label, r.at, r.left, r.right, r.left + r.right, r.length, r.volume)
                for r in found
            ]
            if found:
                volume = sum(r.volume for r in found)
                rows.append(
                    (
                        name,
                        f"Sum of {label}",
                        None,
                        None,
                        None,
                        None,
                        sum(r.length for r in found),
                        volume,
                    )
                )
                of_run += volume
        if of_run:
            rows.append((f"Sum of {name}", "", None, None, None, None, None, of_run))
        total += of_run
    rows.append(("Grand total", "", None, None, None, None, None, total))
    return in_units(Table(name="Trench sections", columns=columns, rows=tuple(rows)), job.units)
