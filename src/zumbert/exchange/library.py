"""The library as TOML, all of it, or as CSV, one of its two parts a file. Sizes in millimetres,
depths in metres.
"""

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any, NamedTuple

import msgspec

from zumbert.errors import ReadError, known
from zumbert.exchange.csv import write_csv
from zumbert.exchange.reader import reader
from zumbert.exchange.rows import CsvRow, csv_rows, decoded
from zumbert.exchange.tables import Table, text_column
from zumbert.fields import CellValue
from zumbert.model.catalogue import PipeSize, StructureType
from zumbert.model.ids import SizeKey, TypeKey
from zumbert.model.library import (
    FIELDS,
    Shelf,
    ShelfField,
    ShelfRecord,
    ShelfValue,
    fault,
    value_of,
    with_value,
)
from zumbert.model.project import Project

_FACTOR = {"mm": 1000.0}
_KEY = "key"


class Library(NamedTuple):
    """Records that a file holds."""

    types: tuple[StructureType, ...]
    sizes: tuple[PipeSize, ...]

    @property
    def words(self) -> str:
        """The result in words."""
        return f"{len(self.types)} structure types, {len(self.sizes)} pipe sizes"


@reader
def read_library(path: str | Path) -> Library:
    """The records of a TOML file, or of a CSV file of types or of sizes (its heads tell). Raises
    ReadError.
    """
    return _toml(path) if str(path).lower().endswith(".toml") else _csv(path)


def write_library(path: str | Path, project: Project) -> None:
    """The whole library as TOML. Raises ReadError where it cannot be written."""
    shelves: dict[Shelf, Mapping[Any, ShelfRecord]] = {
        "types": project.types,
        "sizes": project.sizes,
    }
    data = {
        shelf: [
            {_KEY: r.key, **{f.name: v for f in FIELDS[shelf] if (v := _out(r, f)) is not None}}
            for r in records.values()
        ]
        for shelf, records in shelves.items()
    }
    try:
        Path(path).write_bytes(msgspec.toml.encode(data))
    except OSError as e:
        raise ReadError(
            f"{path} could not be written: {e.strerror or e}. Choose another folder."
        ) from e


def write_shelf(path: str | Path, project: Project, shelf: Shelf) -> None:
    """The structure types or the pipe sizes as CSV. Raises ReadError where it cannot be written."""
    fields = FIELDS[shelf]
    columns = (text_column(_KEY), *(text_column(f.name) for f in fields))
    rows = tuple(
        (r.key, *(_text(_out(r, f)) for f in fields)) for r in getattr(project, shelf).values()
    )
    write_csv(path, Table(name=shelf, columns=columns, rows=rows))


def _out(record: ShelfRecord, field: ShelfField) -> ShelfValue:
    """A value in the unit of its name; a whole number as one."""
    value = value_of(record, field)
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        return value
    value = round(value * _FACTOR.get(field.of, 1.0), 9)
    return int(value) if value == int(value) else value


def _text(value: ShelfValue) -> CellValue:
    if value is None:
        return None
    return ("yes" if value else "no") if isinstance(value, bool) else f"{value}"


def _made(
    where: str, shelf: Shelf, key: str, values: Iterable[tuple[ShelfField, ShelfValue]]
) -> Any:
    """A record from its values in SI. Raises ReadError where it cannot be."""
    record: Any = (
        StructureType(key=TypeKey(key), name=key, kind="manhole")
        if shelf == "types"
        else PipeSize(key=SizeKey(key), dn=0.0, inside=0.0, wall=0.0)
    )
    for field, value in values:
        if value is not None:
            record = with_value(record, field, value)
    why = fault(record)
    if why is not None:
        raise ReadError(f"{where}: {why}. Correct it there.")
    return record


def _toml(path: str | Path) -> Library:
    try:
        data = dict(msgspec.toml.decode(decoded(path)))
    except (ValueError, msgspec.MsgspecError) as e:
        raise ReadError(f"{path} is no TOML: {e}. Correct it there.") from e
    for key in data:
        if key not in FIELDS:
            raise ReadError(f'{path}: "{key}" means nothing here: {known(key, list(FIELDS))}')
    return Library(tuple(_tables(path, data, "types")), tuple(_tables(path, data, "sizes")))


def _tables(path: str | Path, data: dict[str, Any], shelf: Shelf) -> list[Any]:
    names = {f.name: f for f in FIELDS[shelf]}
    records = data.get(shelf, [])
    if not isinstance(records, list) or not all(isinstance(r, dict) for r in records):
        raise ReadError(f"{path}: {shelf} is a list of tables: write each as [[{shelf}]].")
    out = []
    for i, record in enumerate(records, 1):
        where = f"{path}, {shelf} {i}"
        key = str(record.get(_KEY, "")).strip()
        if not key:
            raise ReadError(f"{where}: the key is missing: fill it in.")
        for name in record:
            if name != _KEY and name not in names:
                raise ReadError(f'{where}: "{name}" means nothing here: {known(name, list(names))}')
        values = [(f, _toml_value(where, f, record[n])) for n, f in names.items() if n in record]
        out.append(_made(where, shelf, key, values))
    return _once(str(path), out)


def _toml_value(where: str, field: ShelfField, value: Any) -> ShelfValue:
    if field.of == "yes":
        if not isinstance(value, bool):
            raise ReadError(f'{where}: {field.name} is "{value}": it is true or false.')
        return value
    if field.of in ("text", "choice"):
        return _word(where, field, str(value))
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise ReadError(f'{where}: {field.name} is "{value}": it is a number.')
    return round(float(value) / _FACTOR.get(field.of, 1.0), 9)


def _word(where: str, field: ShelfField, text: str) -> str:
    if field.of == "choice" and text not in field.words:
        raise ReadError(
            f'{where}: {field.name} is "{text}": {known(text, [w for w in field.words if w])}'
        )
    return text


def _csv(path: str | Path) -> Library:
    shelf = _shelf(path)
    fields = FIELDS[shelf]
    heads = (_KEY, *(f.name for f in fields))
    needed = ("key", "kind") if shelf == "types" else ("key", "dn", "inside_mm", "wall_mm")
    out = []
    for row in csv_rows(path, heads, needed):
        where = f"{row.file}, row {row.number}"
        out.append(_made(where, shelf, row.needed(_KEY), [(f, _csv_value(row, f)) for f in fields]))
    records = _once(str(path), out)
    return Library(tuple(records), ()) if shelf == "types" else Library((), tuple(records))


def _shelf(path: str | Path) -> Shelf:
    """Which part of the library a CSV file holds: types have a kind, sizes a DN."""
    first = next((line.lower() for line in decoded(path).splitlines() if line.strip()), "")
    return "types" if "kind" in first else "sizes"


def _csv_value(row: CsvRow, field: ShelfField) -> ShelfValue:
    text = row.text(field.name)
    if not text:
        return None
    if field.of == "yes":
        return row.one_of(field.name, ("yes", "no"), "yes") == "yes"
    if field.of in ("text", "choice"):
        return _word(f"{row.file}, row {row.number}", field, text)
    value = row.number_of(field.name)
    return None if value is None else round(value / _FACTOR.get(field.of, 1.0), 9)


def _once(path: str, records: list[Any]) -> list[Any]:
    """The records, where no key comes twice. Raises ReadError."""
    seen: set[str] = set()
    for r in records:
        if r.key in seen:
            raise ReadError(f'{path}: the key "{r.key}" comes twice: give each record its own.')
        seen.add(r.key)
    return records
