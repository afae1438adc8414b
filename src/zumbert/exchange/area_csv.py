"""Areas from CSV: one row with a size, or a row a corner."""

from itertools import groupby
from pathlib import Path

from zumbert.edits.areas import add_area
from zumbert.errors import EditError, ReadError, known
from zumbert.exchange.reader import reader
from zumbert.exchange.rows import Bad, CsvRow, csv_rows
from zumbert.model.ids import StructureId
from zumbert.model.project import Project

AREA_HEADS = ("name", "structure", "kind", "area_m2", "coefficient", "entry_min", "x", "y")


@reader
def read_areas(
    project: Project,
    path: str | Path,
    metres: float = 1.0,
    bad: list[str] | None = None,
    columns: tuple[str, ...] | None = None,
) -> Project:
    """The project with the areas of a CSV file: rows of one name, one after another, are the
    corners of one. An empty kind is the first of the project's; an empty structure drains nowhere.
    An area with a bad row goes into `bad` and is passed over; without it ReadError names the first.
    """
    gather = Bad(bad)
    labels = {s.label: s.id for s in project.structures.values()}
    named = (
        r
        for r in csv_rows(path, AREA_HEADS, ("name",), metres, gather, columns)
        if _has_name(r, gather)
    )
    for _, group in groupby(named, key=lambda r: r.needed("name")):
        rows = list(group)
        try:
            project = _taken(project, rows, labels)
        except EditError as e:
            text = str(e).rstrip(".")
            gather.row(rows[0].error(text[0].lower() + text[1:]))
        except ReadError as e:
            gather.row(e)
    return project


def _has_name(row: CsvRow, gather: Bad) -> bool:
    try:
        row.needed("name")
    except ReadError as e:
        gather.row(e)
        return False
    return True


def _taken(project: Project, rows: list[CsvRow], labels: dict[str, StructureId]) -> Project:
    first, kinds = rows[0], tuple(k.name for k in project.area_kinds)
    label = first.text("structure")
    if label and label not in labels:
        raise first.error(f'there is no structure "{label}": {known(label, labels)}'.rstrip("."))
    size = first.number_of("area_m2")
    ring = [(r.needed_length("x"), r.needed_length("y")) for r in rows] if size is None else []
    if size is not None and len(rows) > 1:
        raise rows[1].error(
            f'"{first.needed("name")}" stands in more than one row, and has a size: give it once'
        )
    return add_area(
        project,
        first.one_of("kind", kinds, kinds[0]),
        ring=ring,
        size=size,
        structure=labels.get(label),
        name=first.needed("name"),
        coefficient=first.number_of("coefficient"),
        entry=first.number_of("entry_min"),
    )[0]
