"""Land areas and services from CSV: a row a corner or place, in order."""

from collections.abc import Iterator
from itertools import groupby
from pathlib import Path

from zumbert.edits.land import add_land, add_service
from zumbert.errors import EditError
from zumbert.exchange.rows import Row, csv_rows
from zumbert.model.land import LAND_WORDS
from zumbert.model.project import Project
from zumbert.model.service import SERVICE_KINDS

LAND_HEADS = ("name", "kind", "x", "y")
SERVICE_HEADS = ("label", "kind", "size", "clearance", "x", "y", "level")


def read_land(project: Project, path: str | Path) -> Project:
    """The project with the areas of a CSV file: rows of one name, one after another, are its corners."""
    for rows in _grouped(path, LAND_HEADS, ("name", "x", "y"), "name"):
        first = rows[0]
        kind = first.one_of("kind", tuple(LAND_WORDS), "property")
        ring = [(r.needed_number("x"), r.needed_number("y")) for r in rows]
        try:
            project, _ = add_land(project, kind, ring, first.needed("name"))  # type: ignore[arg-type]
        except EditError as e:
            raise first.error(_lower(e)) from e
    return project


def read_services(project: Project, path: str | Path) -> Project:
    """The project with the services of a CSV file: rows of one label, one after another, are its places; size and
    clearance in m stand in its first row, an empty level is one that is not known.
    """
    for rows in _grouped(path, SERVICE_HEADS, ("label", "x", "y"), "label"):
        first = rows[0]
        kind = first.one_of("kind", SERVICE_KINDS, "water")
        points = [(r.needed_number("x"), r.needed_number("y"), r.number_of("level")) for r in rows]
        size, clearance = first.number_of("size"), first.number_of("clearance")
        try:
            project, _ = add_service(
                project, kind, points, first.needed("label"),  # type: ignore[arg-type]
                0.1 if size is None else size, 0.3 if clearance is None else clearance,
            )  # fmt: skip
        except EditError as e:
            raise first.error(_lower(e)) from e
    return project


def _grouped(path: str | Path, heads: tuple[str, ...], needed: tuple[str, ...], by: str) -> Iterator[list[Row]]:
    for _, rows in groupby(csv_rows(path, heads, needed), key=lambda r: r.needed(by)):
        yield list(rows)


def _lower(e: EditError) -> str:
    text = str(e).rstrip(".")
    return text[0].lower() + text[1:]
