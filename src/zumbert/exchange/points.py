"""Surveyed points from text: CSV or columns apart by blanks, the columns told apart or picked."""

from pathlib import Path
from typing import Literal

import numpy as np
from msgspec import Struct

from zumbert.errors import ReadError
from zumbert.exchange.reader import reader
from zumbert.exchange.rows import decoded
from zumbert.geometry.elements import Array
from zumbert.model.display import counted

PointColumn = Literal["number", "easting", "northing", "level", "code", "-"]
WHATS: tuple[PointColumn, ...] = ("number", "easting", "northing", "level", "code", "-")
TITLES = 20  # lines that may stand above the heads
MOST = 2_000_000  # rows: more is no survey
HEADS: dict[str, PointColumn] = {
    "number": "number", "no": "number", "nr": "number", "point": "number", "pt": "number",
    "id": "number", "name": "number", "easting": "easting", "east": "easting", "e": "easting",
    "x": "easting", "northing": "northing", "north": "northing", "n": "northing", "y": "northing",
    "level": "level", "elevation": "level", "elev": "level", "height": "level", "h": "level",
    "z": "level", "rl": "level", "code": "code", "description": "code", "desc": "code",
}  # fmt: skip


class PointText(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """A file of points as it stands: its rows of cells, and what its columns seem to be."""

    path: Path
    rows: tuple[tuple[str, ...], ...]
    lines: tuple[int, ...]  # the line of the file that each row stands in
    columns: tuple[PointColumn, ...]  # a guess to begin with
    comma: bool  # decimal comma

    @property
    def name(self) -> str:
        """The name of the surface over them."""
        return self.path.stem


class Points(Struct, frozen=True, kw_only=True, eq=False):
    """Points (n, 3): easting, northing, level, in the unit of the file; the code of each; and
    what was left out.
    """

    xyz: Array
    codes: tuple[str, ...]
    notes: tuple[str, ...]


@reader
def read_point_text(path: str | Path) -> PointText:
    """Reads a file of points. Raises ReadError where it is empty, or where no row has three
    numbers.
    """
    lines = [
        (i, t)
        for i, t in enumerate(decoded(path).splitlines(), 1)
        if t.strip() and not t.lstrip().startswith("#")
    ]
    if not lines:
        raise ReadError(f"{path} is empty: a row needs easting, northing and level.")
    if len(lines) > MOST:
        raise ReadError(
            f"{path} has {len(lines)} rows: at most {MOST} points are read from one file."
        )
    separator = _separator([t for _, t in lines[:50]])
    rows = [
        (i, tuple(c.strip().strip('"') for c in (t.split(separator) if separator else t.split())))
        for i, t in lines
    ]
    comma = separator != "," and any(
        "," in c and _is_number(c.replace(",", ".")) for c in rows[-1][1]
    )
    named = [[HEADS.get(c.lower()) for c in cells] for _, cells in rows[:TITLES]]
    at = next((i for i, head in enumerate(named) if sum(h is not None for h in head) >= 3), 0)
    if at:  # title lines stand above the heads
        rows = rows[at:]
    head = [HEADS.get(c.lower()) for c in rows[0][1]]
    if sum(h is not None for h in head) >= 3:
        columns: tuple[PointColumn, ...] = tuple(h or "-" for h in head)
        rows = rows[1:]
    else:
        columns = _guessed([cells for _, cells in rows[:200]], comma)
    if not rows or columns.count("easting") != 1 or columns.count("level") != 1:
        raise ReadError(
            f"{path} holds no points: a row needs easting, northing and level, with or without "
            "number and code."
        )
    return PointText(
        path=Path(path),
        rows=tuple(c for _, c in rows),
        lines=tuple(i for i, _ in rows),
        columns=columns,
        comma=comma,
    )


def _separator(lines: list[str]) -> str | None:
    """The separator of cells: ; or tab or comma where most lines have it twice, else blanks."""
    for sign in (";", "\t", ","):
        if sum(line.count(sign) >= 2 for line in lines) > len(lines) / 2:
            return sign
    return None


def _is_number(text: str) -> bool:
    try:
        return bool(np.isfinite(float(text)))
    except ValueError:
        return False


def _guessed(rows: list[tuple[str, ...]], comma: bool) -> tuple[PointColumn, ...]:
    """Columns by what stands in them: the last text is a code; of four numbers or more the first
    is the point's.
    """
    width = max(len(r) for r in rows)
    share = [
        sum(i < len(r) and _is_number(r[i].replace(",", ".") if comma else r[i]) for r in rows)
        / len(rows)
        for i in range(width)
    ]
    numbers = [i for i, s in enumerate(share) if s > 0.7]
    out: list[PointColumn] = ["-"] * width
    if len(numbers) >= 4 or (len(numbers) == 3 and numbers[0] > 0):
        if len(numbers) >= 4 or numbers[0] == 1:
            out[0] = "number"
        numbers = numbers[1:4] if len(numbers) >= 4 else numbers
    for i, what in zip(numbers, ("easting", "northing", "level"), strict=False):
        out[i] = what  # type: ignore[call-overload]
    text = [i for i, s in enumerate(share) if s <= 0.7 and out[i] == "-"]
    if text and text[-1] > (numbers or [0])[-1]:
        out[text[-1]] = "code"
    return tuple(out)


def points_of(text: PointText, columns: tuple[PointColumn, ...] | None = None) -> Points:
    """The points with the columns as picked; rows that cannot be read are left out and told with
    their number.

    Raises ReadError where the columns do not name easting, northing and level once each, or no row
    is left.
    """
    columns = columns or text.columns
    for what in ("easting", "northing", "level"):
        if columns.count(what) != 1:
            raise ReadError(f"{text.path.name}: pick one column for the {what}.")
    at = [columns.index(w) for w in ("easting", "northing", "level")]
    code = columns.index("code") if "code" in columns else None
    xyz, codes, bad = [], [], []
    for line, cells in zip(text.lines, text.rows, strict=True):
        try:
            place = [float(cells[i].replace(",", ".") if text.comma else cells[i]) for i in at]
        except (ValueError, IndexError):
            place = [float("nan")]
        if not np.isfinite(place).all() or max(map(abs, place)) > 1e9:
            bad.append(line)
            continue
        xyz.append(place)
        codes.append(cells[code] if code is not None and code < len(cells) else "")
    if not xyz:
        raise ReadError(
            f"{text.path.name}: no row has an easting, a northing and a level in these columns."
        )
    notes = []
    if bad:
        rows = ", ".join(map(str, bad[:6])) + (", …" if len(bad) > 6 else "")
        notes.append(f"{counted(len(bad), 'row')} without three numbers left out: {rows}.")
    return Points(xyz=np.array(xyz), codes=tuple(codes), notes=tuple(notes))
