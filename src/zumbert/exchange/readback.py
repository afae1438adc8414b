"""Reads back a schedule that was changed elsewhere: rows are matched by label and compared with
the project.
"""

from collections.abc import Iterable
from pathlib import Path
from typing import Any, NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.edits.fields import FieldText, set_fields
from zumbert.edits.ground import own_origins
from zumbert.errors import ReadError
from zumbert.exchange.reader import reader
from zumbert.exchange.schedules import schedule_of
from zumbert.exchange.sheets import ListSheet
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field
from zumbert.geometry.placing import Placing
from zumbert.model.display import NONE
from zumbert.model.ids import SizeKey
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import Project, nominal, size_of, size_words
from zumbert.model.structure import Anchored, Structure

Values = dict[str, tuple[str, float]]  # text and factor to SI of each field of a row
EXACT = 5e-7  # m: numbers of a spreadsheet that differ by less are the same


class Difference(NamedTuple):
    """One value that is another in the file."""

    thing: Any
    label: str
    field: str
    title: str  # the field in words
    now: str
    file: str
    held: bool  # kept on purpose: not taken
    edit: FieldText


class Readback(NamedTuple):
    """The differences of a file, and what could not be matched."""

    differences: tuple[Difference, ...]
    notes: tuple[str, ...]


@reader
def read_back(project: Project, facts: Facts, path: str | Path) -> Readback:
    """The differences between a project and a file of it (CSV of structures or of pipes, XLSX of
    both), in the order of the file. Raises ReadError where the file is no schedule, or a row of it
    cannot be read.
    """
    out: list[Difference] = []
    notes: list[str] = []
    for sheet in schedule_of(path).sheets(path):
        found, said = _compared(project, facts, sheet)
        out += found
        notes += said
    return Readback(tuple(out), tuple(notes))


def taken(project: Project, facts: Facts, chosen: Iterable[Difference]) -> Project:
    """The project with the chosen differences taken; held ones stay. Raises EditError that names
    the first that fails.
    """
    return set_fields(project, facts, [d.edit for d in chosen if not d.held])


# -- differences -----------------------------------------------------------------------------------


def _compared(
    project: Project, facts: Facts, sheet: ListSheet
) -> tuple[list[Difference], list[str]]:
    records: dict[Any, Any] = getattr(project, sheet.what)
    by_label = {r.label: r for r in records.values()}
    out: list[Difference] = []
    notes: list[str] = []
    placing = _placing(project, sheet)
    seen: set[str] = set()
    fresh: list[str] = []
    for number, cells in sheet.rows:
        values = {
            c[0]: (t, c[1])
            for c, t in zip(sheet.columns, cells, strict=False)
            if c is not None and t != ""
        }
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
            out += _of_pipe(facts, by_label[label], values, where, sheet.exact, notes)
        else:
            s = by_label[label]
            here = (
                values
                if placing is None
                else _at_home(facts, s, values, placing, where, sheet.exact)
            )
            out += _of_structure(facts, s, here, where, sheet.exact)
    missing = [k for k in by_label if k not in seen]
    one = "structure" if sheet.what == "structures" else "pipe"
    if fresh:
        notes.append(f"No {one} here is called {_some(fresh)}: passed over.")
    if missing:
        notes.append(f"Not in the file, and left as they are: {_some(missing)}.")
    return out, notes


def _placing(project: Project, sheet: ListSheet) -> Placing | None:
    """Where the source of a sheet's coordinates is placed; None where they are the project's."""
    if not sheet.source:
        return None
    for name, placing in own_origins(project).items():
        if name.lower() == sheet.source:
            return placing
    raise ReadError(
        f'{sheet.name}: its x and y are at the origin of "{sheet.source}", and nothing of that '
        "name is placed here: "
        "read it and place it first, or take the two columns out."
    )


def _at_home(
    facts: Facts, s: Structure, values: Values, placing: Placing, where: str, exact: bool
) -> Values:
    """The values of a row with x and y at the project's origin; left out where the file has the
    place that is there.
    """
    p, found = facts.places[s.id], _Found(facts, s, values, where, exact)
    rest = {k: v for k, v in values.items() if k not in ("x", "y")}
    if not {"x", "y"} & values.keys() or p.x is None or p.y is None:
        return rest
    [there] = placing.back.apply([(p.x, p.y)]).tolist()
    for axis, now in zip("xy", there, strict=True):
        found.number(STRUCTURE_FIELDS[axis], now)
    if not found.out:
        return rest
    at = [
        float(values[a][0]) * values[a][1] if a in values else now
        for a, now in zip("xy", there, strict=True)
    ]
    [(x, y)] = placing.apply([at]).tolist()
    return {**rest, "x": (f"{x:.9f}", 1.0), "y": (f"{y:.9f}", 1.0)}


def _some(labels: list[str]) -> str:
    return ", ".join(labels[:4]) + (f" and {len(labels) - 4} more" if len(labels) > 4 else "")


class _Found:
    """The differences of one record."""

    def __init__(
        self, facts: Facts, record: Structure | Pipe, values: Values, where: str, exact: bool
    ) -> None:
        self.facts, self.record, self.values, self.where, self.exact = (
            facts,
            record,
            values,
            where,
            exact,
        )
        self.out: list[Difference] = []

    def add(self, field: Field, now: str, file: str, text: str) -> None:
        """Notes a value that differs."""
        r = self.record
        edit = FieldText(r.id, field.key, text, f"{r.label}, {field.title}")
        self.out.append(
            Difference(r.id, r.label, field.key, field.title, now, file, field.held(r), edit)
        )

    def number(self, field: Field, now: float | None) -> None:
        """Notes a length or level (m) that differs by more than the file rounds."""
        if field.key not in self.values:
            return
        text, factor = self.values[field.key]
        try:
            value = float(text) * factor
        except ValueError as e:
            raise ReadError(
                f'{self.where}: {field.title} is "{text}", which is no number: correct it.'
            ) from e
        tolerance = (
            EXACT if self.exact else 0.5 * 10.0 ** -len(text.partition(".")[2]) * factor + EXACT
        )
        if now is None or abs(value - now) > tolerance:
            u = self.facts.units
            shown = NONE if now is None else field.kind.show(u, now)
            self.add(field, shown, field.kind.show(u, value), f"={u.shown(value):.6f}")

    def word(self, field: Field, now: str, key: str) -> None:
        """Notes a word that differs from the present one and from its key."""
        text = self.values.get(field.key, (now, 1.0))[0]
        if text.lower() not in (now.lower(), key.lower()):
            self.add(field, now, text, text)

    def stored(self, fields: dict[str, Field], of: Any, without: tuple[str, ...] = ()) -> "_Found":
        """Compares each field that stands in the record."""
        for field in fields.values():
            if not field.stored or field.key in ("label", *without) or not field.when(self.record):
                continue
            value = field.read(self.facts, of)
            if field.kind.number:
                self.number(field, value)
            else:
                self.word(field, str(field.cell(self.facts, of) or ""), str(value))
        return self


def _of_structure(
    facts: Facts, s: Structure, values: Values, where: str, exact: bool
) -> list[Difference]:
    along = isinstance(s.place, Anchored) and not {"chainage", "offset"} & values.keys()
    here = {**values, **_on_road(facts, s, values, where, exact)} if along else values
    return _Found(facts, s, here, where, exact).stored(STRUCTURE_FIELDS, facts.structures[s.id]).out


def _on_road(facts: Facts, s: Structure, values: Values, where: str, exact: bool) -> Values:
    """Chainage and offset of an anchored structure of which the file tells another x and y."""
    p, at = facts.places[s.id], _Found(facts, s, values, where, exact)
    for axis, now in (("x", p.x), ("y", p.y)):
        at.number(STRUCTURE_FIELDS[axis], now)
    if not at.out or not isinstance(s.place, Anchored) or p.x is None or p.y is None:
        return {}
    x = float(values["x"][0]) * values["x"][1] if "x" in values else p.x
    y = float(values["y"][0]) * values["y"][1] if "y" in values else p.y
    ch, off = (float(v) for v in facts.roads[s.place.road].alignment.project(x, y))
    if ch != ch:
        raise ReadError(
            f"{where}: {s.label} would stand beyond the end of its road: correct x and y."
        )
    return {"chainage": (f"{ch:.9f}", 1.0), "offset": (f"{off:.9f}", 1.0)}


def _of_pipe(
    facts: Facts, p: Pipe, values: Values, where: str, exact: bool, notes: list[str]
) -> list[Difference]:
    for end, key in (("from", p.up), ("to", p.down)):
        here = facts.project.structures[key].label
        if end in values and values[end][0] != here:
            notes.append(
                f"{p.label} goes {end} {values[end][0]} in the file, here {end} {here}: not taken."
            )
    found = _Found(facts, p, values, where, exact)
    _size(facts.project, p, values, found)
    return found.stored(PIPE_FIELDS, facts.pipes[p.id], without=("size",)).out


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
        raise ReadError(
            f'{found.where}: there is no pipe size "{name}" in the library: add it first.'
        )
    shown = (
        f"{nominal(project, p):g} mm"
        if isinstance(p.size, Bore)
        else size_words(project, project.sizes[p.size])
    )
    found.add(PIPE_FIELDS["size"], shown, size_words(project, project.sizes[wanted]), str(wanted))


def _near(text: str, factor: float, dn: float, exact: bool) -> bool:
    """Whether a written DN is one in mm, as far as it is rounded."""
    try:
        value = float(text) * factor
    except ValueError:
        return False
    return abs(value - dn) <= (
        0.01 if exact else 0.5 * 10.0 ** -len(text.partition(".")[2]) * factor
    )


def _size_meant(
    project: Project, text: str, factor: float, material: str, exact: bool
) -> SizeKey | None:
    """The size of the library that a written DN and material mean, the nearest if several; None
    where there is none.
    """
    of = [
        s for s in project.sizes.values() if not material or s.material.lower() == material.lower()
    ]
    near = [s for s in of if _near(text, factor, s.dn, exact)]
    if near:
        return min(near, key=lambda s: abs(s.dn - float(text) * factor)).key
    found = size_of(project, text)
    return found if found in project.sizes else None
