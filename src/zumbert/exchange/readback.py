"""A network changed elsewhere and read back: schedules matched by label, and what in them differs from the project."""

import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, Literal, NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.edits.change import size_words
from zumbert.edits.fields import CellEdit, set_fields
from zumbert.edits.ground import own_origins
from zumbert.errors import ReadError
from zumbert.exchange.rows import decoded
from zumbert.geometry.placing import Placing
from zumbert.model.display import FOOT
from zumbert.model.ids import SizeKey
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import Project, nominal, size_of
from zumbert.model.structure import Anchored, Structure

What = Literal["structures", "pipes"]
_UNITS = {"m": 1.0, "ft": FOOT, "mm": 1.0, "in": 25.4, "": 1.0}  # to m, or DN to mm
_NAMES = {  # heads of the schedules and of network files, and the field that they stand for
    "structure": "label", "pipe": "label", "label": "label", "type": "type", "road": "road", "alignment": "road",
    "chainage": "chainage", "offset": "offset", "x": "x", "y": "y", "rim": "rim", "status": "status",
    "network": "network", "from": "from", "to": "to", "dn": "size", "size": "size", "material": "material",
    "invert up": "invert_up", "invert_up": "invert_up", "invert down": "invert_down", "invert_down": "invert_down",
}  # fmt: skip
_TITLES = {
    "type": "Type", "chainage": "Chainage", "offset": "Offset", "x": "x", "y": "y", "rim": "Rim", "status": "Status",
    "network": "Network", "size": "Size", "invert_up": "Invert up", "invert_down": "Invert down",
}  # fmt: skip
EXACT = 5e-7  # m: numbers of a spreadsheet that differ by less are the same


class Difference(NamedTuple):
    """One value that is another in the file."""

    thing: Any
    label: str
    field: str
    now: str
    file: str
    held: bool  # kept on purpose: not taken
    edit: CellEdit

    @property
    def title(self) -> str:
        """The field in words."""
        return _TITLES[self.field]


class Readback(NamedTuple):
    """What a file differs in, and what of it could not be matched."""

    differences: tuple[Difference, ...]
    notes: tuple[str, ...]


class _Sheet(NamedTuple):
    """Rows of cells with their heads read: field and factor to SI of each column."""

    name: str
    what: What
    columns: tuple[tuple[str, float] | None, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]  # number in the file, and cells
    exact: bool  # numbers are not rounded
    source: str  # at whose own origin x and y are; "" for the project's


def read_back(project: Project, facts: Facts, path: str | Path) -> Readback:
    """The differences between a project and a file of it (CSV of structures or of pipes, XLSX of both), in the order of
    the file. Raises ReadError where the file is no schedule, or a row of it cannot be read.
    """
    sheets = _xlsx(path) if str(path).lower().endswith((".xlsx", ".xlsm")) else [_csv(path)]
    out: list[Difference] = []
    notes: list[str] = []
    for sheet in sheets:
        found, said = _compared(project, facts, sheet)
        out += found
        notes += said
    return Readback(tuple(out), tuple(notes))


def taken(project: Project, facts: Facts, chosen: Iterable[Difference]) -> Project:
    """The project with the chosen differences taken; held ones stay. Raises EditError that names the first that fails."""
    return set_fields(project, facts, [d.edit for d in chosen if not d.held])


# -- files -------------------------------------------------------------------------------------------------------------


def _csv(path: str | Path) -> _Sheet:
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
    return _headed(str(path), lines[0][1], rows, False)


def _plain(cell: str, comma: bool) -> str:
    """A cell without the quote that keeps spreadsheets from taking it for a formula, and with a decimal point."""
    t = cell.strip()
    t = t[1:] if t[:2] in ("'=", "'+", "'-", "'@") else t
    return t.replace(",", ".") if comma and re.fullmatch(r"[+-]?\d+,\d+", t) else t


def _xlsx(path: str | Path) -> list[_Sheet]:
    from openpyxl import load_workbook

    try:
        book = load_workbook(path, read_only=True, data_only=True)
    except Exception as e:
        raise ReadError(f"{path} could not be read as a spreadsheet: {e}. Save it anew as XLSX.") from e
    out: list[_Sheet] = []
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
            f"{path} has no sheet of structures or pipes: its first row needs Structure or Pipe among its heads."
        )
    return out


def _kind(heads: Iterable[str]) -> What | None:
    """What a schedule lists, by its heads."""
    names = [_head(h)[0] for h in heads]
    if "pipe" in names or ("label" in names and "from" in names):
        return "pipes" if "label" in [_NAMES.get(n) for n in names] and "excavation" not in names else None
    return (
        "structures"
        if ("structure" in names or ("label" in names and "type" in names)) and "pit excavation" not in names
        else None
    )


def _head(text: str) -> tuple[str, str]:
    """A head without its unit, and the unit."""
    m = re.fullmatch(r"(.*?)\s*(?:\(([^)]*)\))?", text.strip().lower())
    return (m.group(1), m.group(2) or "") if m else (text, "")


def _headed(name: str, heads: Iterable[str], rows: Iterable[tuple[int, tuple[str, ...]]], exact: bool) -> _Sheet:
    found = list(heads)
    what = _kind(found)
    if what is None:
        raise ReadError(
            f"{name}, row 1: these are no heads of a schedule: it needs Structure or Pipe (or label, type or from)."
        )
    columns = []
    source = ""
    for text in found:
        head, unit = _head(text)
        if head.startswith(("x in ", "y in ")):
            head, source = head[0], head[5:]
        field = _NAMES.get(head)
        columns.append(None if field is None or unit not in _UNITS else (field, _UNITS[unit]))
    return _Sheet(name, what, tuple(columns), tuple(rows), exact, source)


# -- differences -------------------------------------------------------------------------------------------------------


def _compared(project: Project, facts: Facts, sheet: _Sheet) -> tuple[list[Difference], list[str]]:
    records: dict[Any, Any] = getattr(project, sheet.what)
    by_label = {r.label: r for r in records.values()}
    out: list[Difference] = []
    notes: list[str] = []
    placing = _placing(project, sheet)
    seen: set[str] = set()
    fresh: list[str] = []
    for number, cells in sheet.rows:
        values = {c[0]: (t, c[1]) for c, t in zip(sheet.columns, cells, strict=False) if c is not None and t != ""}
        label = values.get("label", ("", 1.0))[0]
        where = f"{sheet.name}, row {number}"
        if not label:
            raise ReadError(f"{where}: the label is missing: fill it in, or take the row out.")
        if label in seen:
            raise ReadError(f'{where}: "{label}" comes twice: take one of the rows out.')
        seen.add(label)
        if label not in by_label:
            fresh.append(label)
        elif sheet.what == "pipes":
            out += _of_pipe(project, by_label[label], values, where, sheet.exact, notes)
        else:
            s = by_label[label]
            here = values if placing is None else _at_home(facts, s, values, placing, where, sheet.exact)
            out += _of_structure(project, facts, s, here, where, sheet.exact)
    missing = [k for k in by_label if k not in seen]
    one = "structure" if sheet.what == "structures" else "pipe"
    if fresh:
        notes.append(f"No {one} here is called {_some(fresh)}: passed over.")
    if missing:
        notes.append(f"Not in the file, and left as they are: {_some(missing)}.")
    return out, notes


def _placing(project: Project, sheet: _Sheet) -> Placing | None:
    """Where the source of a sheet's coordinates is placed; None where they are the project's."""
    if not sheet.source:
        return None
    for name, placing in own_origins(project).items():
        if name.lower() == sheet.source:
            return placing
    raise ReadError(
        f'{sheet.name}: its x and y are at the origin of "{sheet.source}", and nothing of that name is placed here: '
        "read it and place it first, or take the two columns out."
    )


def _at_home(facts: Facts, s: Structure, values: "Values", placing: Placing, where: str, exact: bool) -> "Values":
    """The values of a row with x and y at the project's origin; left out where the file has the place that is there."""
    p, found = facts.places[s.id], _Found(s, where, facts.project, exact)
    rest = {k: v for k, v in values.items() if k not in ("x", "y")}
    if not {"x", "y"} & values.keys() or p.x is None or p.y is None:
        return rest
    [there] = placing.back.apply([(p.x, p.y)]).tolist()
    for axis, now in zip("xy", there, strict=True):
        found.number(axis, values, now, facts.units.coordinate)
    if not found.out:
        return rest
    at = [float(values[a][0]) * values[a][1] if a in values else now for a, now in zip("xy", there, strict=True)]
    [(x, y)] = placing.apply([at]).tolist()
    return {**rest, "x": (f"{x:.9f}", 1.0), "y": (f"{y:.9f}", 1.0)}


def _some(labels: list[str]) -> str:
    return ", ".join(labels[:4]) + (f" and {len(labels) - 4} more" if len(labels) > 4 else "")


Values = dict[str, tuple[str, float]]


class _Found:
    """The differences of one record."""

    def __init__(self, record: Structure | Pipe, where: str, project: Project, exact: bool) -> None:
        self.record, self.where, self.project, self.exact = record, where, project, exact
        self.out: list[Difference] = []

    def add(self, field: str, now: str, file: str, text: str, held: bool = False) -> None:
        """Notes a value that differs."""
        edit = CellEdit(self.record.id, field, text, f"{self.record.label}, {_TITLES[field]}")
        self.out.append(Difference(self.record.id, self.record.label, field, now, file, held, edit))

    def number(
        self, field: str, values: Values, now: float | None, shown: Callable[[float | None], str], held: bool = False
    ) -> None:
        """Notes a length or level (m) that differs by more than the file rounds."""
        if field not in values:
            return
        text, factor = values[field]
        try:
            value = float(text) * factor
        except ValueError as e:
            raise ReadError(f'{self.where}: {_TITLES[field]} is "{text}", which is no number: correct it.') from e
        tolerance = EXACT if self.exact else 0.5 * 10.0 ** -len(text.partition(".")[2]) * factor + EXACT
        if now is None or abs(value - now) > tolerance:
            u = self.project.units
            self.add(field, shown(now), shown(value), f"={u.shown(value):.6f}", held)

    def word(self, field: str, values: Values, now: str, held: bool = False) -> None:
        """Notes a word that differs."""
        if field in values and values[field][0].lower() != now.lower():
            self.add(field, now, values[field][0], values[field][0], held)


def _of_structure(
    project: Project, facts: Facts, s: Structure, values: Values, where: str, exact: bool
) -> list[Difference]:  # fmt: skip
    u, found, place = project.units, _Found(s, where, project, exact), facts.places[s.id]
    if "type" in values and values["type"][0].lower() != project.types[s.type].name.lower():
        found.word("type", values, s.type, s.keep_size)
    if isinstance(s.place, Anchored):
        if "chainage" in values or "offset" in values:
            found.number("chainage", values, s.place.chainage, u.coordinate)
            found.number("offset", values, s.place.offset, u.offset)
        else:
            _moved_on_road(facts, s, values, found)
    else:
        found.number("x", values, s.place.x, u.coordinate)
        found.number("y", values, s.place.y, u.coordinate)
    found.number("rim", values, place.rim, u.level)
    found.word("status", values, s.status)
    found.word("network", values, project.networks[s.network].name)
    return found.out


def _moved_on_road(facts: Facts, s: Structure, values: Values, found: _Found) -> None:
    """An anchored structure of which the file tells x and y: where that is on its road."""
    p, u = facts.places[s.id], facts.units
    at = _Found(found.record, found.where, found.project, found.exact)
    at.number("x", values, p.x, u.coordinate)
    at.number("y", values, p.y, u.coordinate)
    if not at.out or not isinstance(s.place, Anchored) or p.x is None or p.y is None:
        return
    x = float(values["x"][0]) * values["x"][1] if "x" in values else p.x
    y = float(values["y"][0]) * values["y"][1] if "y" in values else p.y
    ch, off = (float(v) for v in facts.roads[s.place.road].alignment.project(x, y))
    if ch != ch:
        raise ReadError(f"{found.where}: {s.label} would stand beyond the end of its road: correct x and y.")
    found.number("chainage", {"chainage": (f"{ch:.9f}", 1.0)}, s.place.chainage, u.coordinate)
    found.number("offset", {"offset": (f"{off:.9f}", 1.0)}, s.place.offset, u.offset)


def _of_pipe(
    project: Project, p: Pipe, values: Values, where: str, exact: bool, notes: list[str]
) -> list[Difference]:  # fmt: skip
    u, found = project.units, _Found(p, where, project, exact)
    for end, key in (("from", p.up), ("to", p.down)):
        if end in values and values[end][0] != project.structures[key].label:
            notes.append(
                f"{p.label} goes {end} {values[end][0]} in the file, here {end} {project.structures[key].label}: not taken."
            )
    _size(project, p, values, found)
    found.number("invert_up", values, p.invert_up, u.level, p.keep_up)
    found.number("invert_down", values, p.invert_down, u.level, p.keep_down)
    found.word("status", values, p.status)
    found.word("network", values, project.networks[p.network].name)
    return found.out


def _size(project: Project, p: Pipe, values: Values, found: _Found) -> None:
    if "size" not in values:
        return
    text, factor = values["size"]
    now = project.sizes[p.size].material if isinstance(p.size, str) else ""
    material = values.get("material", ("", 1.0))[0] or now
    wanted = _size_meant(project, text, factor, material, found.exact)
    same = now.lower() == material.lower() and _near(text, factor, nominal(project, p), found.exact)
    if same or wanted == p.size:
        return
    if wanted is None:
        name = f"{text} {material}".strip()
        raise ReadError(f'{found.where}: there is no pipe size "{name}" in the library: add it first.')
    shown = f"{nominal(project, p):g} mm" if isinstance(p.size, Bore) else size_words(project, project.sizes[p.size])
    found.add("size", shown, size_words(project, project.sizes[wanted]), str(wanted), p.keep_size)


def _near(text: str, factor: float, dn: float, exact: bool) -> bool:
    """Whether a written DN is one in mm, as far as it is rounded."""
    try:
        value = float(text) * factor
    except ValueError:
        return False
    return abs(value - dn) <= (0.01 if exact else 0.5 * 10.0 ** -len(text.partition(".")[2]) * factor)


def _size_meant(project: Project, text: str, factor: float, material: str, exact: bool) -> SizeKey | None:
    """The size of the library that a written DN and material mean, the nearest if several; None where there is none."""
    of = [s for s in project.sizes.values() if not material or s.material.lower() == material.lower()]
    near = [s for s in of if _near(text, factor, s.dn, exact)]
    if near:
        return min(near, key=lambda s: abs(s.dn - float(text) * factor)).key
    found = size_of(project, text)
    return found if found in project.sizes else None
