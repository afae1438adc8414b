"""Land areas and services from CSV: a row a corner or place, in order."""

from collections.abc import Iterator
from itertools import groupby
from pathlib import Path

from zumbert.edits.land import add_land, add_service
from zumbert.errors import EditError, ReadError
from zumbert.exchange.reader import reader
from zumbert.exchange.rows import Bad, CsvRow, csv_rows
from zumbert.model.land import LAND_WORDS
from zumbert.model.project import Project
from zumbert.model.service import SERVICE_KINDS

LAND_HEADS = ("name", "kind", "x", "y")
SERVICE_HEADS = ("label", "kind", "size", "clearance", "x", "y", "level", "diameter_mm")


@reader
def read_land(
    project: Project,
    path: str | Path,
    metres: float = 1.0,
    bad: list[str] | None = None,
    columns: tuple[str, ...] | None = None,
) -> Project:
    """The project with the areas of a CSV file: rows of one name, one after another, are its
    corners. An area with a bad row goes into `bad` and is passed over; without it ReadError names
    the first.
    """
    gather = Bad(bad)
    for rows in _grouped(path, LAND_HEADS, ("name", "x", "y"), "name", metres, gather, columns):
        first = rows[0]
        try:
            kind = first.one_of("kind", tuple(LAND_WORDS), "property")
            ring = [(r.needed_length("x"), r.needed_length("y")) for r in rows]
            project, _ = add_land(project, kind, ring, first.needed("name"))
        except EditError as e:
            gather.row(first.error(_lower(e)))
        except ReadError as e:
            gather.row(e)
    return project


@reader
def read_services(
    project: Project,
    path: str | Path,
    metres: float = 1.0,
    bad: list[str] | None = None,
    columns: tuple[str, ...] | None = None,
) -> Project:
    """The project with the services of a CSV file: rows of one label, one after another, are its
    places; size and clearance stand in its first row, an empty level is one that is not known. A
    service with a bad row goes into `bad` and is passed over; without it ReadError names the first.
    """
    gather = Bad(bad)
    for rows in _grouped(
        path, SERVICE_HEADS, ("label", "x", "y"), "label", metres, gather, columns
    ):
        first = rows[0]
        try:
            kind = first.one_of("kind", SERVICE_KINDS, "water")
            points = [
                (r.needed_length("x"), r.needed_length("y"), r.level_of("level")) for r in rows
            ]
            size, clearance = first.length_of("size"), first.length_of("clearance")
            wide = first.number_of("diameter_mm")
            size = wide / 1000 if size is None and wide is not None else size
            project, _ = add_service(
                project,
                kind,
                points,
                first.needed("label"),
                0.1 if size is None else size,
                0.3 if clearance is None else clearance,
            )
        except EditError as e:
            gather.row(first.error(_lower(e)))
        except ReadError as e:
            gather.row(e)
    return project


def _grouped(
    path: str | Path,
    heads: tuple[str, ...],
    needed: tuple[str, ...],
    by: str,
    metres: float,
    gather: Bad,
    columns: tuple[str, ...] | None,
) -> Iterator[list[CsvRow]]:
    """Rows that stand one after another under one name."""

    def named() -> Iterator[CsvRow]:
        for row in csv_rows(path, heads, needed, metres, gather, columns):
            try:
                row.needed(by)
            except ReadError as e:
                gather.row(e)
            else:
                yield row

    for _, rows in groupby(named(), key=lambda r: r.needed(by)):
        yield list(rows)


def _lower(e: EditError) -> str:
    text = str(e).rstrip(".")
    return text[0].lower() + text[1:]
