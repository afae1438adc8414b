"""Every format that schedules are written to and read back from, once."""

import os
from collections.abc import Callable, Sequence
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import NamedTuple

from zumbert.errors import ReadError
from zumbert.exchange.csv import write_csv
from zumbert.exchange.sheets import ListSheet, csv_sheets, xlsx_sheets
from zumbert.exchange.tables import Table
from zumbert.exchange.xlsx import write_xlsx

Files = dict[Path, Sequence[Table]]  # what goes to which file


class Schedule(NamedTuple):
    """One format of schedules."""

    title: str
    endings: tuple[str, ...]
    sheets: Callable[[str | Path], list[ListSheet]]  # what is read back
    files: Callable[[Path, Sequence[Table]], Files]
    write: Callable[[Path, Sequence[Table]], None]


def _all_in_one(path: Path, tables: Sequence[Table]) -> Files:
    return {path: tables}


def _one_each(path: Path, tables: Sequence[Table]) -> Files:
    """A file a table: "job.csv" becomes "job pipes.csv" and so on."""
    return {path.with_name(f"{path.stem} {t.name.lower()}{path.suffix}"): (t,) for t in tables}


def _csv(path: Path, tables: Sequence[Table]) -> None:
    for table in tables:
        write_csv(path, table)


SCHEDULES = {
    "xlsx": Schedule("Spreadsheet", (".xlsx", ".xlsm"), xlsx_sheets, _all_in_one, write_xlsx),
    "csv": Schedule("CSV, a file a table", (".csv",), csv_sheets, _one_each, _csv),
}


def schedule_of(path: str | Path) -> Schedule:
    """The format of a file by its ending; CSV for any other."""
    return next(
        (s for s in SCHEDULES.values() if str(path).lower().endswith(s.endings)), SCHEDULES["csv"]
    )


def kinds() -> str:
    """The formats that quantities are written to, as a file dialog lists them."""
    return ";;".join(f"{s.title} (*{s.endings[0]})" for s in SCHEDULES.values())


def write_files(schedule: Schedule, files: Files, tell: Callable[[float, str], None]) -> None:
    """Writes tables to files of one folder, all or none: beside them first, then renamed over.
    Raises ReadError.

    `tell(share, words)` is told how far it is, 0 to 1, and may end it by raising.
    """
    folder = next(iter(files)).parent
    try:
        with TemporaryDirectory(dir=folder, prefix=".zumbert-") as spare:
            for i, (file, tables) in enumerate(files.items()):
                tell(i / len(files), f"Writing {file.name}")
                try:
                    schedule.write(Path(spare) / file.name, tables)
                except ReadError as e:
                    raise ReadError(str(e).replace(spare, str(folder))) from e
            tell(1.0, "Writing")
            for file in files:
                os.replace(Path(spare) / file.name, file)
    except OSError as e:
        raise ReadError(
            f"Nothing could be written to {folder}: {e.strerror or e}. Choose another folder."
        ) from e


def endings() -> str:
    """The endings of all, as a file dialog filters by them."""
    return " ".join(f"*{s.endings[0]}" for s in SCHEDULES.values())
