"""Sheets of schedules as others save them: CSV and spreadsheets, their heads read."""

import re
from collections.abc import Iterable
from pathlib import Path
from typing import Literal, NamedTuple

from zumbert.errors import ReadError
from zumbert.exchange.rows import decoded
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS
from zumbert.model.quantity import DN, LENGTH
from zumbert.model.unitsystem import UNIT_SYSTEMS

ListKind = Literal["structures", "pipes"]
# to m, or DN to mm
_UNITS = {"": 1.0} | {
    unit.name: unit.size for s in UNIT_SYSTEMS.values() for unit in (s.unit(LENGTH), s.unit(DN))
}


class ListSheet(NamedTuple):
    """Rows of cells with their heads read: field and factor to SI of each column."""

    name: str
    what: ListKind
    columns: tuple[tuple[str, float] | None, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]  # number in the file, and cells
    exact: bool  # numbers are not rounded
    source: str  # at whose own origin x and y are; "" for the project's


def csv_sheets(path: str | Path) -> list[ListSheet]:
    """The one sheet of a CSV file. Raises ReadError."""
    import csv

    text = decoded(path)
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(";\t,", key=first.count)
    lines = [
        (i, row)
        for i, row in enumerate(csv.reader(text.splitlines(), delimiter=separator), 1)
        if any(map(str.strip, row))
    ]
    if not lines:
        raise ReadError(f"{path} is empty: its first row needs the heads of a schedule.")
    comma = separator == ";"
    rows = [(i, tuple(_plain(c, comma) for c in row)) for i, row in lines[1:]]
    return [_headed(str(path), lines[0][1], rows, False)]


def _plain(cell: str, comma: bool) -> str:
    """A cell without the quote that keeps spreadsheets from taking it for a formula, and with a
    decimal point.
    """
    t = cell.strip()
    t = t[1:] if t[:2] in ("'=", "'+", "'-", "'@") else t
    return t.replace(",", ".") if comma and re.fullmatch(r"[+-]?\d+,\d+", t) else t


def xlsx_sheets(path: str | Path) -> list[ListSheet]:
    """The sheets of a spreadsheet that list structures or pipes. Raises ReadError."""
    from openpyxl import load_workbook

    try:
        book = load_workbook(path, read_only=True, data_only=True)
    except Exception as e:
        raise ReadError(
            f"{path} could not be read as a spreadsheet: {e}. Save it again as XLSX."
        ) from e
    out: list[ListSheet] = []
    try:
        for sheet in book.worksheets:
            rows = [
                (i, tuple("" if v is None else str(v).strip() for v in r))
                for i, r in enumerate(sheet.iter_rows(values_only=True), 1)
            ]
            rows = [(i, r) for i, r in rows if any(r)]
            if rows and _kind(rows[0][1]) is not None:
                out.append(_headed(f"{path}, sheet {sheet.title}", rows[0][1], rows[1:], True))
    finally:
        book.close()
    if not out:
        raise ReadError(
            f"{path} has no sheet of structures or pipes: its first row needs Structure or Pipe "
            "among its heads."
        )
    return out


def _names() -> dict[str, str]:
    """Heads of the schedules and of network files, and the field that they stand for."""
    every = (*STRUCTURE_FIELDS.values(), *PIPE_FIELDS.values())
    return {
        head: f.key
        for f in every
        for head in (f.title.lower(), f.key, f.key.replace("_", " "), *f.heads)
    }


def _kind(heads: Iterable[str]) -> ListKind | None:
    """The kind of a schedule, by its heads."""
    names, fields = [_head(h)[0] for h in heads], _names()
    if "pipe" in names or ("label" in names and "from" in names):
        return (
            "pipes"
            if "label" in [fields.get(n) for n in names] and "excavation" not in names
            else None
        )
    return (
        "structures"
        if ("structure" in names or ("label" in names and "type" in names))
        and "pit excavation" not in names
        else None
    )


def _head(text: str) -> tuple[str, str]:
    """A head without its unit, and the unit."""
    m = re.fullmatch(r"(.*?)\s*(?:\(([^)]*)\))?", text.strip().lower())
    return (m.group(1), m.group(2) or "") if m else (text, "")


def _headed(
    name: str, heads: Iterable[str], rows: Iterable[tuple[int, tuple[str, ...]]], exact: bool
) -> ListSheet:
    found = list(heads)
    what = _kind(found)
    if what is None:
        raise ReadError(
            f"{name}, row 1: these are no heads of a schedule: it needs Structure or Pipe (or "
            "label, type or from)."
        )
    columns = []
    source, fields = "", _names()
    for text in found:
        head, unit = _head(text)
        if head.startswith(("x in ", "y in ")):
            head, source = head[0], head[5:]
        field = fields.get(head)
        columns.append(None if field is None or unit not in _UNITS else (field, _UNITS[unit]))
    return ListSheet(name, what, tuple(columns), tuple(rows), exact, source)
