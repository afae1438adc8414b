"""The content of a report, in any format: headings in order, each with values, tables
and pictures.
"""

from collections.abc import Callable
from typing import NamedTuple

from msgspec.structs import replace

from zumbert.analysis.runline import RunKey
from zumbert.delivery.along import AXIS, LEFT, RIGHT, spans_of_level
from zumbert.delivery.job import Job, Tell
from zumbert.delivery.paper import printed, scale_on_paper, unit_of
from zumbert.delivery.planwindow import picture_of
from zumbert.delivery.revisions import last_issue
from zumbert.delivery.schedules import schedules
from zumbert.delivery.trenchtable import trench_sections
from zumbert.drawing.levelrows import rows_height
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import Mark
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.trenchtype import trench_type_marks
from zumbert.edits.standards import limit_words
from zumbert.exchange.quantitytables import quantity_tables
from zumbert.exchange.tables import Table
from zumbert.model.ids import SheetId
from zumbert.model.project import inside_and_wall
from zumbert.model.sheet import Sheet
from zumbert.model.standard import LIMITS
from zumbert.model.trench import UPPER_WORDS

TALLEST = 240.0  # units of a long section without its rows
PAGE = 860.0  # units: width of a picture that is as wide as a page
SCALES = (100.0, 125.0, 200.0, 250.0, 500.0, 1000.0, 1250.0, 2000.0, 2500.0, 5000.0, 10000.0)


class Figure(NamedTuple):
    """A picture with the words under it; its size in units."""

    words: str
    marks: tuple[Mark, ...]
    width: float
    height: float


class ReportPart(NamedTuple):
    """A heading with what stands under it."""

    title: str
    values: tuple[tuple[str, str], ...] = ()
    tables: tuple[Table, ...] = ()
    figures: tuple[Figure, ...] = ()
    words: str = ""


class Report(NamedTuple):
    """A whole report."""

    title: str
    date: str
    revision: str
    drawn: str
    checked: str
    parts: tuple[ReportPart, ...]


def report(job: Job, tell: Tell) -> Report:
    """The report of a project. `tell` hears each part and may end it by raising."""
    how, issue = job.project.delivery, last_issue(job.project)
    makers: tuple[tuple[str, Callable[[Job], ReportPart | None]], ...] = (
        ("Project data", _data),
        ("Standards", _standards),
        ("Schedules", _schedules),
        ("Long sections", _sections),
        ("Findings and decisions", _findings),
        ("Quantities", _quantities),
        ("Trench types", _trench_types),
        ("Trench sections", _trench_sections),
        ("Changes since the last issue", _changes),
    )
    parts = []
    for i, (title, make) in enumerate(makers):
        tell(i / len(makers), title)
        made = make(job)
        if made is not None:
            parts.append(made._replace(title=title))
    return Report(
        job.project.name,
        how.date or (issue.date if issue is not None else ""),
        issue.name if issue is not None else "",
        how.drawn,
        how.checked,
        tuple(parts),
    )


def _data(job: Job) -> ReportPart:
    p, u = job.project, job.units
    s = p.settings
    length = sum(
        f.length(s.length_basis) for f in job.facts.pipes.values() if f.pipe.status == "proposed"
    )
    values = [
        ("Project", p.name),
        ("Roads", ", ".join(r.name for r in p.roads.values()) or "none"),
        (
            "Existing ground",
            job.facts.surfaces.name("existing")
            if job.facts.surfaces.existing is not None
            else "none",
        ),
        (
            "Design surface",
            job.facts.surfaces.name("design") if job.facts.surfaces.design is not None else "none",
        ),
        ("Networks", ", ".join(n.name for n in p.networks.values())),
        ("Structures", str(len(p.structures))),
        ("Pipes", str(len(p.pipes))),
        ("Length of proposed pipes", f"{u.long(length)}, {s.length_basis.replace('-', ' ')}"),
        ("Inverts are quoted at", s.invert_basis),
        ("Units", u.measures.title),
    ]
    if p.delivery.epsg is not None:
        values.append(("Coordinate system", f"EPSG {p.delivery.epsg}"))
    return ReportPart("", tuple(values))


def _standards(job: Job) -> ReportPart:
    p = job.project
    values: list[tuple[str, str]] = []
    for key in dict.fromkeys(n.standard for n in p.networks.values()):
        standard = p.standards[key]
        takers = ", ".join(n.name for n in p.networks.values() if n.standard == key)
        values.append((standard.name, f"for {takers}"))
        for name, f in LIMITS.items():
            limit = getattr(standard, name)
            if limit is not None:
                values.append((f.title, limit_words(job.units, name, limit)))
    return ReportPart("", tuple(values))


def _schedules(job: Job) -> ReportPart:
    return ReportPart(
        "",
        tables=tuple(
            schedules(
                job, ("structures", "pipes", "chambers", "setting-out", "gullies", "crossings")
            )
        ),
    )


def _sections(job: Job) -> ReportPart | None:
    figures = [
        f for k in job.runs if k.kind != "road" and (f := section_figure(job, k)) is not None
    ]
    return ReportPart("", figures=tuple(figures)) if figures else None


def section_figure(job: Job, key: RunKey) -> Figure | None:
    """A run's long section as wide as a page, at the largest round scale at which it fits."""
    shown = job.run(key)
    if shown is None or not shown.reaches:
        return None
    sheet = Sheet(id=SheetId(""), title="", kind="plan-and-section")
    picture: Picture = picture_of(job, sheet)
    unit = unit_of(job.project.delivery)
    room = PAGE - AXIS - LEFT - RIGHT
    ratio = next((r for r in SCALES if shown.length * scale_on_paper(r, unit) <= room), SCALES[-1])
    sx = scale_on_paper(ratio, unit)
    low, high = spans_of_level(job.facts, shown, shown.start, shown.start + shown.length)
    up = (
        next(
            (
                r
                for r in SCALES[::-1]
                if r <= ratio and (high - low + 3.0) * scale_on_paper(r / 10, unit) > TALLEST
            ),
            100.0,
        )
        / 10
    )
    sz = min(scale_on_paper(up, unit), TALLEST / (high - low + 3.0))
    tall = (high - low + 3.0) * sz
    sight = SectionSight(
        width=PAGE, height=tall, left=AXIS, x=shown.start - LEFT / sx, z=low - 1.2, sx=sx, sz=sz
    )
    picture = replace(picture, run=shown)
    made = section_marks(picture, sight)
    rows = printed(made.rows)
    words = f"{shown.name}, 1:{ratio:g} along, levels {sz / sx:.1f} times"
    return Figure(words, (*made.drawing, *rows), PAGE, tall + rows_height(picture))


def _findings(job: Job) -> ReportPart:
    f = job.findings
    words = f"{f.breaches} breaches, {f.cautions} cautions, {f.decided} decided."
    return ReportPart("", tables=tuple(schedules(job, ("findings",))), words=words)


def _quantities(job: Job) -> ReportPart | None:
    if not job.project.pipes:
        return None
    u = job.units
    values = []
    for status, t in job.quantities.totals.items():
        values += [
            (f"Excavation, {status}", f"{u.volume(t.excavation)} {u.m3}"),
            (f"Net of shared space, {status}", f"{u.volume(t.excavation_net)} {u.m3}"),
            (f"Backfill, {status}", f"{u.volume(t.backfill)} {u.m3}"),
        ]
    return ReportPart("", tuple(values), quantity_tables(job.facts, job.quantities))


def _trench_types(job: Job) -> ReportPart:
    p, u = job.project, job.units
    figures = []
    for key in dict.fromkeys(n.trench for n in p.networks.values()):
        kind = p.trench_types[key]
        for row in kind.sizes:
            fits = [
                q
                for q in p.pipes.values()
                if q.network in p.networks
                and (row.dn is None or job.facts.pipes[q.id].dn <= row.dn)
            ]
            inside, wall = inside_and_wall(p, fits[0]) if fits else (0.3, 0.045)
            outside = inside + 2 * wall
            sizes = "any size" if row.dn is None else f"up to {u.dn(row.dn)}"
            words = f"{kind.name}: {sizes}, dug from {UPPER_WORDS[kind.upper]}"
            figures.append(
                Figure(words, tuple(trench_type_marks(row, outside, u, 560.0, 300.0)), 560.0, 300.0)
            )
    return ReportPart("", figures=tuple(figures))


def _trench_sections(job: Job) -> ReportPart | None:
    return ReportPart("", tables=(trench_sections(job),)) if job.project.pipes else None


def _changes(job: Job) -> ReportPart | None:
    found = schedules(job, ("differences",))
    return ReportPart("", tables=tuple(found)) if found else None
