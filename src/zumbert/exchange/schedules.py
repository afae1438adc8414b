"""Every format that schedules are written to and read back from, once."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple

from zumbert.exchange.csv import write_csv
from zumbert.exchange.sheets import Sheet, csv_sheets, xlsx_sheets
from zumbert.exchange.tables import Table
from zumbert.exchange.xlsx import write_xlsx


class Schedule(NamedTuple):
    """One format of schedules."""

    title: str
    endings: tuple[str, ...]
    sheets: Callable[[str | Path], list[Sheet]]  # what is read back
    write: Callable[[str | Path, Sequence[Table]], None]


def _first(path: str | Path, tables: Sequence[Table]) -> None:
    """CSV holds one table: the first."""
    write_csv(path, tables[0])


SCHEDULES = {
    "xlsx": Schedule("Spreadsheet", (".xlsx", ".xlsm"), xlsx_sheets, write_xlsx),
    "csv": Schedule("CSV", (".csv",), csv_sheets, _first),
}


def schedule_of(path: str | Path) -> Schedule:
    """The format of a file by its ending; CSV for any other."""
    return next((s for s in SCHEDULES.values() if str(path).lower().endswith(s.endings)), SCHEDULES["csv"])


def endings() -> str:
    """The endings of all, as a file dialog filters by them."""
    return " ".join(f"*{s.endings[0]}" for s in SCHEDULES.values())
