"""Tables to a spreadsheet: one sheet a table, numbers as numbers, units in the heads."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from zumbert.errors import ReadError
from zumbert.exchange.tables import Column, Formula, Table
from zumbert.fields import CellValue
from zumbert.model.quantity import DN


def write_xlsx(path: str | Path, tables: Sequence[Table]) -> None:
    """Tables to one workbook. Texts stay texts, whatever they begin with. Raises ReadError if it
    cannot be written.
    """
    import xlsxwriter
    from xlsxwriter.exceptions import XlsxWriterException

    options = {"strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    try:
        with xlsxwriter.Workbook(str(path), options) as book:
            head = book.add_format({"bold": True, "bottom": 1, "text_wrap": True, "valign": "top"})
            for table in tables:
                sheet = book.add_worksheet(table.name)
                sheet.freeze_panes(1, 1)
                for i, column in enumerate(table.columns):
                    sheet.write_string(0, i, column.title, head)
                    sheet.set_column(i, i, _width(table, i), _format(book, column))
                    for j, row in enumerate(table.rows, 1):
                        _write(sheet, j, i, row[i])
                _write_sums(book, sheet, table)
    except (OSError, XlsxWriterException) as e:
        raise ReadError(
            f"{path} could not be written: {e}. Close it elsewhere, or choose another folder."
        ) from e


def _zeros(column: Column) -> str:
    if column.of is DN:
        return "General"
    return "0." + "0" * column.decimals if column.decimals else "0"


def _format(book: Any, column: Column) -> Any:
    return None if column.of is None else book.add_format({"num_format": _zeros(column)})


def _write(sheet: Any, row: int, column: int, value: CellValue) -> None:
    if isinstance(value, str):
        sheet.write_string(row, column, value)
    elif isinstance(value, Formula):
        sheet.write_formula(row, column, f"={value.text}", None, float(value))
    elif value is not None:
        sheet.write_number(row, column, value)


def _write_sums(book: Any, sheet: Any, table: Table) -> None:
    """The row of totals, as formulas over the rows."""
    last = len(table.rows)
    if not table.sums or not last:
        return
    strong = book.add_format({"bold": True, "top": 1})
    for i in range(len(table.columns)):
        sheet.write_string(last + 1, i, "Total" if not i else "", strong)
    for i in table.sums:
        numbers = [row[i] for row in table.rows if isinstance(row[i], (int, float))]
        letter = column_letter(i)
        form = book.add_format({"bold": True, "top": 1, "num_format": _zeros(table.columns[i])})
        sheet.write_formula(
            last + 1,
            i,
            f"=SUM({letter}2:{letter}{last + 1})",
            form,
            float(sum(numbers)),  # type: ignore[arg-type]
        )


def column_letter(i: int) -> str:
    """The name of a column of a spreadsheet, by its number from 0."""
    name = ""
    i += 1
    while i:
        i, rest = divmod(i - 1, 26)
        name = chr(ord("A") + rest) + name
    return name


def _width(table: Table, i: int) -> float:
    texts = [row[i] for row in table.rows if isinstance(row[i], str)]
    longest = max((len(t) for t in texts if isinstance(t, str)), default=0)
    return min(60, max(11, longest + 2, len(table.columns[i].title) * 0.7))
