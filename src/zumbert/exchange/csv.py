"""Tables to CSV."""

import csv
from pathlib import Path

from zumbert.errors import ReadError
from zumbert.exchange.tables import Column, Table, written
from zumbert.fields import CellValue
from zumbert.model.typed import MINUS


def write_csv(path: str | Path, table: Table) -> None:
    """One table to a CSV file (UTF-8), rounded to its decimals. Raises ReadError where it cannot
    be written.
    """
    try:
        with open(path, "w", newline="", encoding="utf-8") as f:
            out = csv.writer(f)
            out.writerow([c.title for c in table.columns])
            for row in table.rows:
                out.writerow([_cell(c, v) for c, v in zip(table.columns, row, strict=True)])
    except OSError as e:
        raise ReadError(
            f"{path} could not be written: {e.strerror or e}. Choose another folder."
        ) from e


def _cell(column: Column, value: CellValue) -> str:
    if value is None:
        return ""
    if isinstance(value, str):  # a spreadsheet would take these for formulas
        return "'" + value if value[:1] in ("=", "+", "-", "@", "\t", "\r") else value
    return written(column, value, column.exact).replace(MINUS, "-")
