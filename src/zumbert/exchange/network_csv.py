"""Structures and pipes from CSV: a network as others list it."""

from pathlib import Path

from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.edits.change import on_road
from zumbert.edits.labels import pipe_label
from zumbert.edits.layoptions import first_way
from zumbert.edits.setup import network_named
from zumbert.errors import EditError, ReadError, known
from zumbert.exchange.reader import reader
from zumbert.exchange.rows import Bad, CsvRow, csv_rows
from zumbert.model.ids import PipeId, RoadId, SizeKey, StructureId, TypeKey
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import Project, size_of, with_id
from zumbert.model.structure import (
    SERVICES,
    STATUSES,
    Anchored,
    FixedRim,
    Free,
    OnSurface,
    Structure,
)

STRUCTURE_HEADS = (
    "label",
    "type",
    "alignment",
    "chainage",
    "offset",
    "x",
    "y",
    "rim",
    "service",
    "status",
    "network",
    "inflow_m3s",
)
PIPE_HEADS = ("label", "from", "to", "size", "diameter_mm", "wall_mm", "invert_up", "invert_down")


@reader
def read_structures(
    project: Project,
    path: str | Path,
    metres: float = 1.0,
    bad: list[str] | None = None,
    columns: tuple[str, ...] | None = None,
) -> Project:
    """The project with the structures of a CSV file whose lengths are in a unit (m). Bad rows go
    into `bad` and are passed over; without it ReadError names the first. A file without types gets
    the first manhole of the library.
    """
    gather = Bad(bad)
    facts = analyse(project)
    structures = project.structures.copy()
    labels = {s.label for s in structures.values()}
    for row in csv_rows(path, STRUCTURE_HEADS, ("label",), metres, gather, columns):
        try:
            label = row.needed("label")
            if label in labels:
                raise row.error(f'there is already a structure "{label}": labels are given once')
            rim, kind, place = row.level_of("rim"), _type(project, row), _place(project, facts, row)
            inflow = row.number_of("inflow_m3s") or 0.0
            if not 0 <= inflow <= 1000:
                raise row.error(f"inflow_m3s is {inflow:g}: an inflow is 0 or more")
            service, status = (
                row.one_of("service", SERVICES, "storm"),
                row.one_of("status", STATUSES, "proposed"),
            )
        except ReadError as e:
            gather.row(e)
            continue
        labels.add(label)
        project, network = network_named(project, row.text("network"))
        project, key = with_id(project, "s")
        structures[StructureId(key)] = Structure(
            id=StructureId(key),
            label=label,
            type=kind,
            place=place,
            network=network,
            rim=OnSurface() if rim is None else FixedRim(rim),
            service=service,
            status=status,
            inflow=inflow,
        )
    return replace(project, structures=structures)


def _type(project: Project, row: CsvRow) -> TypeKey:
    if "type" not in row.cells:
        return first_way(project).type
    name = row.needed("type")
    if name not in project.types:
        raise row.error(
            f'there is no structure type "{name}": {known(name, project.types)}'.rstrip(".")
        )
    return TypeKey(name)


def _place(project: Project, facts: Facts, row: CsvRow) -> Anchored | Free:
    """Chainage and offset on a road, or x and y."""
    if not row.text("chainage"):
        if not row.text("x") and not row.text("y"):
            raise row.error("there is no place: give chainage and offset, or x and y")
        return Free(row.needed_length("x"), row.needed_length("y"))
    place = Anchored(
        _road(project, row), row.needed_length("chainage"), row.length_of("offset") or 0.0
    )
    try:
        on_road(facts, place)
    except EditError as e:
        text = str(e).rstrip(".")
        raise row.error(text[0].lower() + text[1:] + ": correct the chainage") from e
    return place


def _road(project: Project, row: CsvRow) -> RoadId:
    name = row.text("alignment")
    names = {r.name: r.id for r in project.roads.values()}
    if name in names:
        return names[name]
    if not name and len(names) == 1:
        return next(iter(names.values()))
    if not name:
        raise row.error("alignment is missing: name the road that the chainage is on")
    raise row.error(f'there is no road "{name}": {known(name, names)}'.rstrip("."))


@reader
def read_pipes(
    project: Project,
    path: str | Path,
    metres: float = 1.0,
    bad: list[str] | None = None,
    columns: tuple[str, ...] | None = None,
) -> Project:
    """The project with the pipes of a CSV file between its structures; levels are in a unit (m),
    diameters in mm. Bad rows go into `bad` and are passed over; without it ReadError names the
    first. A pipe without a label gets the next one.
    """
    gather = Bad(bad)
    pipes = project.pipes.copy()
    labels = {p.label for p in pipes.values()}
    ends = {s.label: s for s in project.structures.values()}
    for row in csv_rows(
        path, PIPE_HEADS, ("from", "to", "invert_up", "invert_down"), metres, gather, columns
    ):
        try:
            label = row.needed("label") if "label" in row.cells else ""
            if label in labels:
                raise row.error(f'there is already a pipe "{label}": labels are given once')
            up, down = _end(row, "from", ends), _end(row, "to", ends)
            if up is down:
                raise row.error(
                    f'pipe "{label}" begins and ends at {up.label}: give two structures'
                )
            size, high, low = (
                _size(project, row),
                row.needed_level("invert_up"),
                row.needed_level("invert_down"),
            )
        except ReadError as e:
            gather.row(e)
            continue
        label = label or pipe_label(replace(project, pipes=pipes), up.id, down.id)
        labels.add(label)
        project, key = with_id(project, "p")
        pipes[PipeId(key)] = Pipe(
            id=PipeId(key),
            label=label,
            up=up.id,
            down=down.id,
            size=size,
            invert_up=high,
            invert_down=low,
            network=up.network,
            service=up.service,
            status=up.status,
        )
    return replace(project, pipes=pipes)


def _end(row: CsvRow, head: str, ends: dict[str, Structure]) -> Structure:
    label = row.needed(head)
    if label not in ends:
        raise row.error(
            f'{head} is "{label}", which is no structure here: {known(label, ends)}'.rstrip(".")
        )
    return ends[label]


def _size(project: Project, row: CsvRow) -> SizeKey | Bore:
    text = row.text("size")
    if text:
        key = size_of(project, text)
        if key not in project.sizes:
            raise row.error(
                f'there is no pipe size "{text}": {known(key, project.sizes)}'.rstrip(".")
            )
        return key
    inside, wall = row.number_of("diameter_mm"), row.number_of("wall_mm")
    if inside is None:
        raise row.error("there is no size: give size, or diameter_mm and wall_mm")
    if wall is None and "wall_mm" in row.cells:
        raise row.error("wall_mm is missing: give the wall of the pipe")
    if wall is None:  # a list of others tells diameters alone: the size of the library that has it
        key = size_of(project, f"{inside:g}")
        if key not in project.sizes:
            raise row.error(
                f"there is no pipe size of {inside:g} mm: {known(key, project.sizes)}".rstrip(".")
            )
        return key
    if not 0 < inside <= 20_000 or not 0 <= wall <= 2_000:
        raise row.error(
            f"a pipe of {inside:g} mm with a wall of {wall:g} mm cannot be: both are in millimetres"
        )
    return Bore(inside / 1000, wall / 1000)
