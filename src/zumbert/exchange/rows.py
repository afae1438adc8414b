"""Rows of a CSV file: recognises encoding, separator and decimal comma, and names bad rows."""

import csv
import itertools
import math
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple, TypeVar

from zumbert.errors import ReadError, known
from zumbert.exchange.sense import FARTHEST
from zumbert.model.levels import HIGHEST, LOWEST

IGNORED = "-"  # the head of a column that is passed over
MOST_TOLD = 50
OTHER_HEADS: dict[str, tuple[str, ...]] = {  # what others call a column, without its _ and dots
    "label": ("node", "node reference", "manhole", "manhole reference", "manhole id", "structure",
              "reference", "ref", "id", "name",
              "asset id", "pipe", "pipe reference", "link"),
    "x": ("easting", "east", "e", "x coordinate", "x m"),
    "y": ("northing", "north", "n", "y coordinate", "y m"),
    "rim": ("cover level", "cover", "cl", "lid level", "rim level", "top level"),
    "level": ("z", "elevation", "invert", "invert level", "level m"),
    "type": ("structure type", "manhole type"),
    "from": ("upstream node", "us node", "from node", "upstream manhole", "us manhole",
             "start node"),
    "to": ("downstream node", "ds node", "to node", "downstream manhole", "ds manhole", "end node"),
    "invert_up": ("upstream invert", "us invert", "us il", "invert up", "start invert",
                  "upstream invert level"),
    "invert_down": ("downstream invert", "ds invert", "ds il", "invert down", "end invert",
                    "downstream invert level"),
    "diameter_mm": ("diameter", "dia", "diameter mm", "bore", "internal diameter", "size mm", "dn"),
    "wall_mm": ("wall", "wall thickness", "wall mm"),
    "size": ("diameter m", "outside diameter"),
    "kind": ("utility", "service type"),
}  # fmt: skip

Word = TypeVar("Word", bound=str)


class CsvRow(NamedTuple):
    """One row: the file, its line number in the file and its cells by head."""

    file: str
    number: int
    cells: dict[str, str]
    comma: bool  # decimal comma
    metres: float = 1.0  # of one unit of its lengths

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

    def length_of(self, head: str) -> float | None:
        """A cell's length or coordinate in m, None where it is empty. Raises ReadError where it
        is none on Earth.
        """
        value = self.number_of(head)
        if value is not None and abs(value * self.metres) > FARTHEST:
            raise self.error(
                f'{head} is "{self.text(head)}", which is farther than any place: correct it'
            )
        return None if value is None else value * self.metres

    def level_of(self, head: str) -> float | None:
        """A cell's level in m above datum, None where it is empty. Raises ReadError where no
        land lies there.
        """
        value = self.length_of(head)
        if value is not None and not LOWEST <= value <= HIGHEST:
            raise self.error(
                f'{head} is "{self.text(head)}", and no ground has that level: correct it'
            )
        return value

    def needed_length(self, head: str) -> float:
        """A cell's length or coordinate in m. Raises ReadError where it is empty or none."""
        self.needed(head)
        return self.length_of(head) or 0.0

    def needed_level(self, head: str) -> float:
        """A cell's level in m. Raises ReadError where it is empty or none."""
        self.needed(head)
        return self.level_of(head) or 0.0

    def one_of(self, head: str, names: tuple[Word, ...], empty: Word) -> Word:
        """A cell's word, one of some names; `empty` where the cell is. Raises ReadError for
        another word.
        """
        text = self.text(head).lower() or empty
        found = next((n for n in names if n == text), None)
        if found is None:
            raise self.error(f'{head} is "{text}": {known(text, names)}'.rstrip("."))
        return found

    def error(self, what: str) -> ReadError:
        """The error that names file and row."""
        end = "" if what.endswith("?") else "."
        return ReadError(f"{self.file}, row {self.number}: {what}{end}")


def decoded(path: str | Path) -> str:
    """The text of a file, UTF-8 with or without BOM, else Windows-1252. Raises ReadError where
    it cannot be read.
    """
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


class Bad:
    """The rows of a file that cannot be taken. Without a list to gather them in, the first ends
    the reading.
    """

    def __init__(self, into: list[str] | None) -> None:
        self._into = into

    def row(self, error: ReadError) -> None:
        """Notes a bad row, or raises its error."""
        if self._into is None:
            raise error
        self._into.append(str(error))


def told(bad: list[str]) -> str:
    """Bad rows in words: a sole one by itself, of many the first fifty."""
    if len(bad) == 1:
        return bad[0]
    more = f"\nand {len(bad) - MOST_TOLD} more" if len(bad) > MOST_TOLD else ""
    return f"{len(bad)} rows cannot be taken:\n" + "\n".join(bad[:MOST_TOLD]) + more


def csv_rows(
    path: str | Path,
    heads: tuple[str, ...],
    needed: tuple[str, ...],
    metres: float = 1.0,
    bad: Bad | None = None,
    columns: tuple[str, ...] | None = None,
) -> Iterator[CsvRow]:
    """The rows of a CSV file, empty ones passed over, under its own heads or (columns) those that
    are picked.

    Heads are those of `heads`, or words that others use for the same (OTHER_HEADS); with one of
    these, heads that mean nothing here are passed over. Raises ReadError for missing or unknown
    heads.
    """
    text = decoded(path)
    separator = separator_of(text)
    reader = csv.reader(text.splitlines(), delimiter=separator, skipinitialspace=True)
    found: list[str] | None = None
    for cells in reader:
        if not any(c.strip() for c in cells):
            continue
        if found is None:
            found = (
                list(columns)
                if columns is not None
                else meant([c.strip().lower() for c in cells], heads)
            )
            _heads(path, found, heads, needed)
            continue
        if len(cells) > len(found) and any(c.strip() for c in cells[len(found) :]):
            error = (
                f"{path}, row {reader.line_num}: {len(cells)} cells under {len(found)} heads: "
                "take out what is too much."
            )
            (bad or Bad(None)).row(ReadError(error))
            continue
        own = {head: cell for head, cell in zip(found, cells, strict=False) if head != IGNORED}
        yield CsvRow(str(path), reader.line_num, own, separator == ";", metres)
    if found is None:
        raise ReadError(f"{path} is empty: its first row needs the heads {','.join(heads)}.")


def heads_of(path: str | Path) -> list[str]:
    """The heads of a CSV file as they stand in its first row, in small letters."""
    return [h.lower() for h in next(iter(first_rows(path, 1)), [])]


def first_rows(path: str | Path, count: int) -> list[list[str]]:
    """The first rows of a CSV file that hold something, cell by cell."""
    text = decoded(path)
    rows = csv.reader(text.splitlines(), delimiter=separator_of(text), skipinitialspace=True)
    return [
        [c.strip() for c in r]
        for r in itertools.islice((r for r in rows if any(c.strip() for c in r)), count)
    ]


def separator_of(text: str) -> str:
    """The separator of a CSV text, by its first row."""
    first = next((line for line in text.splitlines() if line.strip()), "")
    return max(";\t,", key=first.count)


def meant(found: list[str], heads: tuple[str, ...]) -> list[str]:
    """The heads of a file as those that are known here. Words of others are taken for what they
    mean; beside them, a head that means nothing is passed over.
    """
    plain = [" ".join(h.replace("_", " ").replace(".", " ").split()) for h in found]
    other = [next((k for k in heads if w in OTHER_HEADS.get(k, ())), None) for w in plain]
    if not any(o is not None and h not in heads for o, h in zip(other, found, strict=True)):
        return found
    out: list[str] = []
    for h, o in zip(found, other, strict=True):
        name = h if h in heads else o
        out.append(IGNORED if name is None or name in out else name)
    return out


def _heads(
    path: str | Path, found: list[str], heads: tuple[str, ...], needed: tuple[str, ...]
) -> None:
    for head in needed:
        if head not in found:
            raise ReadError(
                f'{path}, row 1: the head "{head}" is missing: the heads are {",".join(heads)}.'
            )
    for head in found:
        if head and head != IGNORED and head not in heads:
            raise ReadError(
                f'{path}, row 1: the head "{head}" means nothing here: {known(head, heads)}'
            )
