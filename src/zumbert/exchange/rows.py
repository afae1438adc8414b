"""Rows of a CSV file: encodings, separators and decimal commas told apart; bad rows named."""

import csv
import math
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from zumbert.errors import ReadError, known


class Row(NamedTuple):
    """One row: the file, its line number in the file and its cells by head."""

    file: str
    number: int
    cells: dict[str, str]
    comma: bool  # decimal comma

    def text(self, head: str) -> str:
        """A cell's text, "" where it is empty or has no column."""
        return self.cells.get(head, "").strip()

    def needed(self, head: str) -> str:
        """A cell's text. Raises ReadError where it is empty."""
        text = self.text(head)
        if not text:
            raise self.error(f"{head} is missing: fill it in")
        return text

    def number_of(self, head: str) -> float | None:
        """A cell's number, None where it is empty. Raises ReadError where it is none."""
        text = self.text(head)
        if not text:
            return None
        try:
            value = float(text.replace(",", ".") if self.comma else text)
        except ValueError:
            value = math.nan
        if not math.isfinite(value):
            raise self.error(f'{head} is "{text}", which is no number: correct it')
        return value

    def needed_number(self, head: str) -> float:
        """A cell's number. Raises ReadError where it is empty or none."""
        self.needed(head)
        return self.number_of(head) or 0.0

    def one_of(self, head: str, names: tuple[str, ...], empty: str) -> str:
        """A cell's word, one of some names; `empty` where the cell is. Raises ReadError for another word."""
        text = self.text(head).lower() or empty
        if text not in names:
            raise self.error(f'{head} is "{text}": {known(text, names)}'.rstrip("."))
        return text

    def error(self, what: str) -> ReadError:
        """The error that names file and row."""
        end = "" if what.endswith("?") else "."
        return ReadError(f"{self.file}, row {self.number}: {what}{end}")


def decoded(path: str | Path) -> str:
    """The text of a file, UTF-8 with or without BOM, else Windows-1252. Raises ReadError where it cannot be read."""
    try:
        raw = Path(path).read_bytes()
    except OSError as e:
        raise ReadError(f"{path} could not be read: {e.strerror or e}. Check the name.") from e
    if raw[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return raw.decode("utf-16", errors="replace")
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        return raw.decode("cp1252", errors="replace")


def csv_rows(path: str | Path, heads: tuple[str, ...], needed: tuple[str, ...]) -> Iterator[Row]:
    """The rows of a CSV file, empty ones passed over. Raises ReadError for missing or unknown heads."""
    text = decoded(path)
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(";\t,", key=first.count)
    reader = csv.reader(text.splitlines(), delimiter=separator, skipinitialspace=True)
    found: list[str] | None = None
    for cells in reader:
        if not any(c.strip() for c in cells):
            continue
        if found is None:
            found = [c.strip().lower() for c in cells]
            _heads(path, found, heads, needed)
            continue
        if len(cells) > len(found) and any(c.strip() for c in cells[len(found) :]):
            raise ReadError(
                f"{path}, row {reader.line_num}: {len(cells)} cells under {len(found)} heads: take out what is too much."
            )
        yield Row(str(path), reader.line_num, dict(zip(found, cells, strict=False)), separator == ";")
    if found is None:
        raise ReadError(f"{path} is empty: its first row needs the heads {','.join(heads)}.")


def _heads(path: str | Path, found: list[str], heads: tuple[str, ...], needed: tuple[str, ...]) -> None:
    for head in needed:
        if head not in found:
            raise ReadError(f'{path}, row 1: the head "{head}" is missing: the heads are {",".join(heads)}.')
    for head in found:
        if head and head not in heads:
            raise ReadError(f'{path}, row 1: the head "{head}" means nothing here: {known(head, heads)}')
