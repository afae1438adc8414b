"""Every schedule that goes out: by name, made from a project when it is asked for."""

from collections.abc import Callable, Iterable
from math import degrees, hypot
from typing import NamedTuple

from zumbert.analysis.chambers import StructureFacts
from zumbert.checks.clearance import other_name
from zumbert.checks.crossings import rooms
from zumbert.delivery.chambersheets import pipes_at
from zumbert.delivery.job import Job
from zumbert.delivery.revisions import difference_table, last_issue, with_changes
from zumbert.delivery.trenchtable import trench_sections
from zumbert.exchange.quantitytables import quantity_tables
from zumbert.exchange.tables import (
    Column,
    Table,
    finding_table,
    in_units,
    pipe_table,
    structure_table,
    text_column,
)
from zumbert.fields import CellValue
from zumbert.model.catalogue import StructureType
from zumbert.model.project import Project, base_thickness, size_words
from zumbert.model.quantity import ANGLE, DN, LENGTH, LEVEL, POSITION, SMALL

Row = tuple[CellValue, ...]


class ScheduleKind(NamedTuple):
    """One schedule: its permanent name, its title, and how it is made."""

    name: str
    title: str
    make: Callable[[Job], Table]


def _size(project: Project, key: object) -> str:
    size = project.sizes.get(key) if isinstance(key, str) else None  # type: ignore[call-overload]
    return size_words(project, size) if size is not None else ""


def _made(job: Job, name: str, columns: Iterable[Column], rows: Iterable[Row]) -> Table:
    return in_units(Table(name=name, columns=tuple(columns), rows=tuple(rows)), job.units)


def chambers(job: Job) -> Table:
    """One row for each pipe at each structure, clockwise from its outlet: bearing, size, invert;
    with cover and depth.
    """
    p = job.project
    columns = (
        text_column("Structure"),
        text_column("Type"),
        text_column("Cover"),
        Column("Rim", LEVEL),
        Column("Depth", LEVEL),
        Column("Sump", LEVEL),
        Column("Underside of base", LEVEL),
        text_column("Pipe"),
        text_column("Flow"),
        Column("Bearing", ANGLE, 1),
        Column("DN", DN),
        text_column("Size"),
        Column("Invert", LEVEL),
        Column("Drop to outlet", LEVEL),
    )
    rows: list[Row] = []
    for f in (job.facts.structures[k] for k in p.structures):
        kind = p.types[f.structure.type]
        under = (
            None
            if f.sump_level is None or not kind.inside
            else f.sump_level - base_thickness(p, f.structure)
        )
        head: Row = (
            f.structure.label,
            kind.name,
            cover_words(job, kind),
            f.place.rim,
            f.depth,
            f.sump_level,
            under,
        )
        entries = pipes_at(f)
        for e in entries:
            drop = next((d.drop for d in f.drops if e.into and d.inlet == e.pipe.pipe.id), None)
            rows.append(
                (
                    *head,
                    e.pipe.pipe.label,
                    "in" if e.into else "out",
                    degrees(e.bearing),
                    e.pipe.dn,
                    _size(p, e.pipe.pipe.size),
                    e.invert,
                    drop,
                )
            )
        if not entries:
            rows.append((*head, *[None] * 7))
    return _made(job, "Chambers", columns, rows)


def cover_words(job: Job, kind: StructureType) -> str:
    """The kind of a structure's cover: its clear opening, or how water comes in."""
    if kind.inlet is not None:
        return {
            "kerb": "kerb opening",
            "grate": "grate",
            "combined": "grate and kerb opening",
            "side": "side opening",
        }[kind.inlet.kind]
    if not kind.frame:
        return ""
    return f"cover {job.units.with_unit(SMALL, kind.frame * 1000)}"


def setting_out(job: Job) -> Table:
    """Coordinates, chainage and offset of each structure, and of its cover where that is not
    over its middle.
    """
    p = job.project
    columns = (
        text_column("Structure"),
        text_column("Type"),
        Column("x", POSITION),
        Column("y", POSITION),
        text_column("Road"),
        Column("Chainage", POSITION),
        Column("Offset", POSITION),
        Column("Rim", LEVEL),
        Column("Invert of outlet", LEVEL),
        Column("Bearing", ANGLE, 1),
        Column("x of cover", POSITION),
        Column("y of cover", POSITION),
    )
    return _made(
        job, "Setting out", columns, (_set_out(p, job.facts.structures[k]) for k in p.structures)
    )


def _set_out(p: Project, f: StructureFacts) -> Row:
    from math import cos, sin

    place, s = f.place, f.structure
    road = None if place.road is None else p.roads[place.road].name
    out = min((g.pipe.invert_up for g in f.pipes_out), default=None)
    cover: tuple[float | None, float | None] = (None, None)
    if hypot(*s.cover) > 1e-9 and place.x is not None and place.y is not None:
        c, n = cos(place.bearing), sin(place.bearing)
        cover = place.x + s.cover[0] * n + s.cover[1] * c, place.y + s.cover[0] * c - s.cover[1] * n
    return (
        s.label,
        p.types[s.type].name,
        place.x,
        place.y,
        road,
        place.chainage,
        place.offset,
        place.rim,
        out,
        degrees(place.bearing) % 360,
        *cover,
    )


def gullies(job: Job) -> Table:
    """Each gully with its inlet and the lead that takes its water on."""
    p = job.project
    columns = (
        text_column("Gully"),
        text_column("Type"),
        text_column("Inlet"),
        text_column("Road"),
        Column("Chainage", POSITION),
        Column("Offset", POSITION),
        Column("x", POSITION),
        Column("y", POSITION),
        Column("Rim", LEVEL),
        Column("Depth", LEVEL),
        text_column("Lead"),
        text_column("To"),
        Column("DN", DN),
        Column("Length", LENGTH),
        Column("Invert up", LEVEL),
        Column("Invert down", LEVEL),
    )
    rows: list[Row] = []
    for f in (
        job.facts.structures[k] for k, s in p.structures.items() if p.types[s.type].kind == "gully"
    ):
        kind, place = p.types[f.structure.type], f.place
        road = None if place.road is None else p.roads[place.road].name
        lead = f.pipes_out[0] if f.pipes_out else None
        tail: Row = (
            (None,) * 6
            if lead is None
            else (
                lead.pipe.label,
                p.structures[lead.pipe.down].label,
                lead.dn,
                lead.length(p.settings.length_basis),
                lead.pipe.invert_up,
                lead.pipe.invert_down,
            )
        )
        rows.append(
            (
                f.structure.label,
                kind.name,
                cover_words(job, kind),
                road,
                place.chainage,
                place.offset,
                place.x,
                place.y,
                place.rim,
                f.depth,
                *tail,
            )
        )
    return _made(job, "Gullies", columns, rows)


def crossings(job: Job) -> Table:
    """Each place where a pipe crosses a service or another pipe, or comes nearer than is asked
    for.
    """
    p = job.project
    columns = (
        text_column("Pipe"),
        text_column("Crosses"),
        Column("Distance", LENGTH),
        Column("x", POSITION),
        Column("y", POSITION),
        text_column("It lies"),
        Column("Its axis", LEVEL),
        Column("Pipe's centre", LEVEL),
        Column("Upright room", LEVEL),
        Column("Least room", LEVEL),
        Column("Needed", LEVEL),
        text_column("Result"),
    )
    rows: list[Row] = []
    for r in rooms(job.facts):
        f = job.facts.pipes[r.pipe]
        result = (
            "touches" if r.clear <= 1e-6 else "too near" if r.clear < r.need - 1e-6 else "has room"
        )
        rows.append(
            (
                p.pipes[r.pipe].label,
                other_name(job.facts, r.other),
                r.at,
                r.x,
                r.y,
                "above" if r.above else "below",
                r.level,
                f.invert(r.at) + f.inside / 2,
                r.upright,
                r.clear,
                r.need,
                result,
            )
        )
    return _made(job, "Crossings", columns, rows)


def pipes_by_trench(job: Job) -> Table:
    """Excavation by pipe."""
    return quantity_tables(job.facts, job.quantities)[0]


def takeoff(job: Job) -> Table:
    """The items to be billed."""
    return next(t for t in quantity_tables(job.facts, job.quantities) if t.name == "Takeoff")


SCHEDULE_KINDS: tuple[ScheduleKind, ...] = (
    ScheduleKind("structures", "Structures", lambda s: structure_table(s.facts)),
    ScheduleKind("pipes", "Pipes", lambda s: pipe_table(s.facts)),
    ScheduleKind("chambers", "Chambers", chambers),
    ScheduleKind("setting-out", "Setting out", setting_out),
    ScheduleKind("gullies", "Gullies", gullies),
    ScheduleKind("crossings", "Crossings", crossings),
    ScheduleKind("findings", "Findings", lambda s: finding_table(s.facts, s.findings)),
    ScheduleKind("trenches", "Trenches", pipes_by_trench),
    ScheduleKind("trench-sections", "Trench sections", trench_sections),
    ScheduleKind("takeoff", "Takeoff", takeoff),
)


def schedules(job: Job, names: Iterable[str]) -> list[Table]:
    """Schedules by their permanent names, unknown ones left out. After an issue those of structures
    and pipes tell what has changed since, and the list of differences is a schedule too.
    """
    out = []
    issue = last_issue(job.project)
    for name in names:
        kind = next((k for k in SCHEDULE_KINDS if k.name == name), None)
        if kind is not None:
            table = kind.make(job)
            out.append(
                with_changes(job.facts, table, issue, name.removesuffix("s"))
                if name in ("structures", "pipes")
                else table
            )
        elif name == "differences" and issue is not None:
            out.append(difference_table(job.facts, issue))
    return out
