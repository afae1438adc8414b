"""Rain from and to TOML, and from a table that was copied from a spreadsheet."""

from pathlib import Path
from typing import Any

from zumbert.errors import ReadError
from zumbert.exchange.reader import reader
from zumbert.exchange.tomlfile import TomlFile, plain, write_toml
from zumbert.model.rain import Rain, RainFormula, RainTable, rain_fault

FORMULA = ("a", "b", "c", "m")
FIRST = RainFormula().form


@reader
def read_rain(path: str | Path) -> Rain:
    """A rain: `name`, `years`, `climate`, `entry` (min), and a `[formula]` of a, b, c, m or a
    `[table]` of minutes and `[table.years]`; a formula of another form than the first has its
    `form` too. Raises ReadError.
    """
    file = TomlFile(path)
    data = file.data
    file.keys(data, ("name", "years", "climate", "entry", "formula", "table"))
    if ("formula" in data) == ("table" in data):
        raise ReadError(f"{path} needs one of [formula] and [table].")
    values: dict[str, Any] = {
        k: file.number(k, data[k]) for k in ("years", "climate", "entry") if k in data
    }
    source = _formula(file, data["formula"]) if "formula" in data else _table(file, data["table"])
    if source.periods and "years" not in values:
        values["years"] = source.periods[0]
    rain = Rain(name=file.name, source=source, **values)
    if (fault := rain_fault(rain)) is not None:
        raise ReadError(f"{path} holds no rain that can be: {fault}.")
    return rain


def _formula(file: TomlFile, data: Any) -> RainFormula:
    if not isinstance(data, dict):
        raise ReadError(f"{file.path}: formula is a table of a, b, c and m.")
    file.keys(data, (*FORMULA, "form"), "formula.")
    numbers = {k: file.number(f"formula.{k}", v) for k, v in data.items() if k != "form"}
    return RainFormula(form=str(data.get("form", FIRST)), **numbers)


def _table(file: TomlFile, data: Any) -> RainTable:
    if (
        not isinstance(data, dict)
        or not isinstance(data.get("minutes"), list)
        or not isinstance(data.get("years"), dict)
    ):
        raise ReadError(
            f"{file.path}: table has minutes = [...] and [table.years] with a row for each "
            "return period."
        )
    file.keys(data, ("minutes", "years"), "table.")
    minutes = tuple(file.number("table.minutes", v) for v in data["minutes"])
    rows = []
    for years, row in data["years"].items():
        try:
            period = float(years)
        except ValueError as e:
            raise ReadError(
                f'{file.path}: table.years has the entry "{years}", which is no number.'
            ) from e
        if not isinstance(row, list) or not row:
            raise ReadError(f"{file.path}: table.years.{years} is a list of intensities.")
        rows.append((period, tuple(file.number(f"table.years.{years}", v) for v in row)))
    if not rows:
        raise ReadError(f"{file.path}: table.years is empty: give a row for each return period.")
    return RainTable(minutes=minutes, rows=tuple(sorted(rows)))


def write_rain(rain: Rain, path: str | Path) -> None:
    """Writes a rain with everything that it holds. Raises ReadError where it cannot be written."""
    data: dict[str, Any] = {
        "name": rain.name,
        "years": plain(rain.years),
        "climate": plain(rain.climate),
        "entry": plain(rain.entry),
    }
    s = rain.source
    if isinstance(s, RainFormula):
        form = {} if s.form == FIRST else {"form": s.form}
        data["formula"] = {k: plain(getattr(s, k)) for k in FORMULA} | form
    else:
        rows = {f"{years:g}": [plain(v) for v in row] for years, row in s.rows}
        data["table"] = {"minutes": [plain(v) for v in s.minutes], "years": rows}
    write_toml(data, path)


def pasted_table(text: str) -> RainTable:
    """A table as a spreadsheet puts it on the clipboard: the first row has the return periods, the
    first column the minutes, or the other way round where the corner says so ("years"). Raises
    ReadError.
    """
    rows = [
        line.replace(",", ".").split("\t") if "\t" in line else line.split()
        for line in text.splitlines()
        if line.strip()
    ]
    if len(rows) < 2:
        raise ReadError(
            "That is no table of rain: copy the durations with their intensities, the return "
            "periods on top."
        )
    head, width = rows[0], max(map(len, rows))
    corner = head[0] if len(head) == width else ""
    try:
        top = [_number(v) for v in head[-(width - 1) :]]
        side = [_number(row[0]) for row in rows[1:]]
        cells = [[_number(v) for v in row[1:]] for row in rows[1:]]
    except (ValueError, IndexError) as e:
        raise ReadError(
            f"That is no table of rain: {e}. Copy numbers alone, the return periods on top."
        ) from e
    if any(len(row) != len(top) for row in cells):
        raise ReadError("That is no table of rain: its rows are not all as long as the first.")
    if "year" in corner.lower():  # years down the side
        return RainTable(
            minutes=tuple(top), rows=tuple(sorted(zip(side, map(tuple, cells), strict=True)))
        )
    columns = [tuple(row[i] for row in cells) for i in range(len(top))]
    return RainTable(minutes=tuple(side), rows=tuple(sorted(zip(top, columns, strict=True))))


def _number(text: str) -> float:
    word = text.strip().split()[0] if text.strip() else ""
    try:
        return float(word)
    except ValueError as e:
        raise ValueError(f'"{text.strip()}" is no number') from e
