"""The level rows under a long section: their columns stand under the drawing."""

from collections.abc import Callable, Iterable, Iterator
from functools import lru_cache
from itertools import chain
from typing import Any, NamedTuple

from zumbert.analysis.crossings import Reach
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.pits import PitFacts
from zumbert.checks.check import rule_of
from zumbert.drawing.handles import PipeHandle
from zumbert.drawing.marks import (
    Cell,
    Composed,
    Disc,
    Fill,
    Mark,
    Segments,
    Stroke,
    Text,
    cross,
    points,
)
from zumbert.drawing.picture import Part, Picture, RunPicture, rests
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.style import text_width
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field
from zumbert.model.display import NONE
from zumbert.model.ids import StructureId
from zumbert.model.pipe import End

ROW = 16.5  # height of a row


class RunColumn(NamedTuple):
    """One structure of the run: where it stands in the section, and its pipes there."""

    key: StructureId
    at: float  # m
    inlet: PipeFacts | None  # the run's pipe that comes in
    outlet: PipeFacts | None


RowValue = tuple[str, Any, str]  # text, thing, field ("" where it cannot be edited)


class LevelRow(NamedTuple):
    """A level row: a field of each structure, or of each pipe."""

    name: str
    ink: str
    of: Callable[[Any, Picture], RowValue]  # a column, or the facts of a pipe


def _run_length(c: RunColumn, p: Picture) -> RowValue:
    return p.units.length(c.at), None, ""


def _of_structure(field: Field) -> Callable[[RunColumn, Picture], RowValue]:
    def of(c: RunColumn, p: Picture) -> RowValue:
        f = p.facts.structures[c.key]
        offered = (
            field.edit
            and field.when(f.structure)
            and not (field.follows and field.follows(p.facts, f))
        )
        return (
            field.row_text(p.facts, f),
            c.key if field.edit else None,
            field.key if offered else "",
        )

    return of


def _of_pipe(field: Field) -> Callable[[PipeFacts, Picture], RowValue]:
    return lambda f, p: (field.row_text(p.facts, f), f.pipe.id, field.key if field.edit else "")


def _of_end(field: Field) -> Callable[[RunColumn, Picture], RowValue]:
    """Of the run's pipe that comes in or goes out at a structure."""
    of = _of_pipe(field)

    def at(c: RunColumn, p: Picture) -> RowValue:
        f = c.inlet if field.end == "down" else c.outlet
        return (NONE, None, "") if f is None else of(f, p)

    return at


def _rows(
    made: Iterable[tuple[Field, Callable[[Any, Picture], RowValue]]],
) -> tuple[tuple[int, LevelRow], ...]:
    """Rows with their places among the usual ones; those that are chosen come last."""
    found = [(f.usual, LevelRow(f.row, f.ink, of)) for f, of in made if f.row]
    return tuple(sorted(found, key=lambda r: r[0] or len(found) + 99))


@lru_cache(maxsize=4)
def _node_rows(
    structures: tuple[Field, ...], pipes: tuple[Field, ...]
) -> tuple[tuple[int, LevelRow], ...]:
    made = [(f, _of_structure(f)) for f in structures] + [
        (f, _of_end(f)) for f in pipes if f.end is not None
    ]
    return ((1, LevelRow("Run length", "row-2", _run_length)), *_rows(made))


@lru_cache(maxsize=4)
def _pipe_rows(pipes: tuple[Field, ...]) -> tuple[tuple[int, LevelRow], ...]:
    return _rows((f, _of_pipe(f)) for f in pipes if f.end is None)


def _every_node_row() -> tuple[tuple[int, LevelRow], ...]:
    return _node_rows(tuple(STRUCTURE_FIELDS.values()), tuple(PIPE_FIELDS.values()))


def _every_pipe_row() -> tuple[tuple[int, LevelRow], ...]:
    return _pipe_rows(tuple(PIPE_FIELDS.values()))


def row_names(usual: bool = False) -> tuple[str, ...]:
    """The names of all rows, or of the usual ones: structures first, then pipes."""
    return tuple(
        r.name for place, r in (*_every_node_row(), *_every_pipe_row()) if place or not usual
    )


@lru_cache(maxsize=32)
def _chosen(
    wanted: tuple[str, ...], rows: tuple[tuple[int, LevelRow], ...], without: tuple[str, ...]
) -> tuple[LevelRow, ...]:
    """Rows that are chosen, in the order in which they are, but for some; the usual ones where
    none is.
    """
    if not wanted:
        return tuple(r for usual, r in rows if usual and r.name not in without)
    found = (r for _, r in rows if r.name in wanted and r.name not in without)
    return tuple(sorted(found, key=lambda r: wanted.index(r.name)))


def _pit(c: RunColumn, p: Picture) -> PitFacts | None:
    return None if p.trenches is None else p.trenches.pits.get(c.key)


def _pit_bottom(c: RunColumn, p: Picture) -> RowValue:
    pit = _pit(c, p)
    return (NONE if pit is None else p.units.level(pit.bottom)), c.key, ""


def _pit_depth(c: RunColumn, p: Picture) -> RowValue:
    pit, upper = _pit(c, p), p.facts.places[c.key].ground
    known = pit is not None and pit.bottom is not None and upper is not None
    return (p.units.level(upper - pit.bottom) if known else NONE), c.key, ""  # type: ignore[operator, union-attr]


def _trench_width(f: PipeFacts, p: Picture) -> RowValue:
    dig = None if p.trenches is None else p.trenches.pipes[f.pipe.id].dig
    return (NONE if dig is None else p.units.length(dig.width)), f.pipe.id, ""


def _excavation(f: PipeFacts, p: Picture) -> RowValue:
    dug = None if p.trenches is None else p.trenches.pipes[f.pipe.id].excavation
    return (NONE if dug is None else f"{p.units.volume(dug)} {p.units.m3}"), f.pipe.id, ""


_TRENCH_NODES = (
    LevelRow("Pit bottom", "row", _pit_bottom),
    LevelRow("Pit depth", "row", _pit_depth),
)  # in the stage Trench
_TRENCH_PIPES = (
    LevelRow("Width", "row", _trench_width),
    LevelRow("Excavation", "row", _excavation),
)
_NOT_WITH_TRENCHES = ("Run length", "Rim", "Depth", "Slope")  # of the usual rows


def pipe_rows(picture: Picture) -> tuple[LevelRow, ...]:
    """The rows of pipes that are shown."""
    dug = picture.trenches is not None
    rows = _chosen(picture.rows_chosen, _every_pipe_row(), _NOT_WITH_TRENCHES if dug else ())
    return rows + _TRENCH_PIPES if dug else rows


def rows_shown(picture: Picture) -> tuple[LevelRow, ...]:
    """The rows of structures: a road has chainages alone, so no run length. Of the usual rows those
    stay away that would say nothing: chainages without a road, levels of a surface that is not
    there.
    """
    facts, chosen = picture.facts, picture.rows_chosen
    road = picture.run is not None and picture.run.key.kind == "road"
    without: tuple[str, ...] = ("Run length",) if road else ()
    if not chosen:
        surfaces = facts.surfaces
        there = {
            "Chainage": bool(facts.roads),
            "Ground": surfaces.existing is not None,
            "Design": surfaces.design is not None,
        }
        without += tuple(name for name, found in there.items() if not found)
    if picture.trenches is None:
        return _chosen(chosen, _every_node_row(), without)
    return (
        _chosen(chosen, _every_node_row(), (*without, *(() if chosen else _NOT_WITH_TRENCHES)))
        + _TRENCH_NODES
    )


def rows_height(picture: Picture) -> float:
    """Height of all rows, drawing units; none without a run."""
    if picture.run is None:
        return 0.0
    return ROW * (len(rows_shown(picture)) + len(pipe_rows(picture)))


def columns(picture: RunPicture) -> list[RunColumn]:
    """The columns of the run shown, in rising distance."""
    into: dict[StructureId, PipeFacts] = {}
    out: dict[StructureId, PipeFacts] = {}
    for reach in picture.run.reaches:
        f = picture.facts.pipes[reach.pipe]
        for ends, end in ((into, f.pipe.down), (out, f.pipe.up)):
            if end not in ends or ends[end].span.length < f.span.length:
                ends[end] = f
    return [RunColumn(k, at, into.get(k), out.get(k)) for k, at in picture.run.structures]


class Entry(NamedTuple):
    """One value of a row, anywhere along the run."""

    at: float  # m along the section
    thing: Any
    field: str  # "" where it cannot be edited
    text: str
    where: str  # the structure or pipe that it stands under, in words


def row_entries(picture: Picture, row: str) -> list[Entry]:
    """The values of a row along the whole run, in rising distance; none for a row that is not
    shown.
    """
    return [] if picture.run is None else _entries(picture.along(picture.run), row)


def _entries(picture: RunPicture, row: str) -> list[Entry]:
    labels, facts = picture.facts.project.structures, picture.facts
    for name, _, of in rows_shown(picture):
        if name == row:
            found = ((c, of(c, picture)) for c in columns(picture))
            return [
                Entry(
                    c.at,
                    c.key if thing is None else thing,
                    field,
                    text,
                    f"{row} at {labels[c.key].label}",
                )
                for c, (text, thing, field) in found
            ]
    ends = {c.key: c for c in columns(picture)}
    own = [
        r
        for r in sorted(picture.run.reaches, key=lambda r: min(r.up, r.down))
        if _in_columns(picture, r, ends)
    ]
    for name, _, of_pipe in pipe_rows(picture):
        if name == row:
            made = [(r, of_pipe(facts.pipes[r.pipe], picture)) for r in own]
            return [
                Entry(
                    (r.up + r.down) / 2,
                    r.pipe,
                    field,
                    text,
                    f"{row} of {facts.project.pipes[r.pipe].label}",
                )
                for r, (text, _, field) in made
            ]
    return []


def level_rows(
    picture: RunPicture,
    sight: SectionSight,
    hand: PipeHandle | None = None,
    part: Part | None = None,
) -> Composed:
    """Marks and cells of the rows, from the bottom of the drawing downwards; of a part of the
    structures and pipes alone, with the room of the others kept.
    """
    marks: list[Mark] = []
    cells: list[Cell] = []
    shown = rows_shown(picture)
    y, wide = sight.height, sight.width
    bottom = y + rows_height(picture)
    if rests(part):
        marks.append(Fill("paper", points((0, y), (wide, y), (wide, bottom), (0, bottom))))
        rules = [
            (0.0, y + ROW * i, wide, y + ROW * i)
            for i in range(1, len(shown) + len(pipe_rows(picture)))
        ]
        marks.append(Segments("row-rule", _rules(rules)))
    selected = list(_pipe_cells(picture, sight, hand, y + ROW * len(shown), cells, marks, part))
    _node_cells(picture, sight, y, cells, marks, part)
    marks += selected
    if not rests(part):
        return Composed(marks, [], cells)
    for i, (name, _, _) in enumerate((*shown, *pipe_rows(picture))):
        marks.append(Text("row-head", name, 14, y + ROW * i + 12.4))
    split = y + ROW * len(shown)
    marks.append(Segments("row-strong", _rules([(0, y, wide, y), (0, split, wide, split)])))
    marks.append(Stroke("axis", points((sight.left, y), (sight.left, bottom))))
    return Composed(marks, [], cells)


def _rules(rules: list[tuple[float, float, float, float]]) -> Any:
    return points(*[p for a, b, c, d in rules for p in ((a, b), (c, d))]).reshape(-1, 4)


def _broken(picture: Picture, thing: Any, field: str) -> bool:
    """Whether a rule is broken by the value that a cell shows."""
    if thing not in picture.facts.pipes:
        return False
    pipe = picture.facts.pipes[thing].pipe
    at_ends = (f for at in (pipe.up, pipe.down) for f in picture.found(at) if f.partner == thing)
    return bool(field) and any(
        rule_of(f.rule).cell == field and not f.decided
        for f in chain(picture.found(thing), at_ends)
    )


def _node_cells(
    picture: RunPicture,
    sight: SectionSight,
    y: float,
    cells: list[Cell],
    marks: list[Mark],
    part: Part | None,
) -> None:
    """Texts of structures; where columns stand too close the lesser ones give way: selected
    first, then chambers.
    """
    taken: list[tuple[float, float]] = []
    rows = rows_shown(picture)
    stand = columns(picture)
    live = {c.key for c in stand if c.key in part.hot} if part is not None and part.live else None
    order = sorted(
        stand, key=lambda c: (not _touched(picture, c), c.outlet is None and c.inlet is None, c.at)
    )
    for c in order:
        if live is not None and not live:
            return
        if live is not None:
            live.discard(c.key)
        x = sight.x_of(c.at)
        values = [(role, of(c, picture)) for _, role, of in rows]
        half = max(text_width(v[0], role) for role, v in values) / 2 + 4
        if x + half < sight.left or x - half > sight.width:
            continue
        centre = (
            min(max(x, sight.left + half), sight.width - half)
            if sight.left <= x <= sight.width
            else x
        )
        if (
            any(centre - half < b and a < centre + half for a, b in taken)
            or centre - half < sight.left - 1
        ):
            continue
        taken.append((centre - half, centre + half))
        if part is not None and not part.holds(c.key):
            continue
        for i, (role, (text, thing, field)) in enumerate(values):
            box = (centre - half, y + ROW * i, 2 * half, ROW)
            name = rows[i][0]
            chosen = thing is not None and thing in picture.pipes
            if chosen or (c.key in picture.structures and name in ("Chainage", "Rim")):
                marks.append(Fill("cell", _box(box)))
            use = (
                "row-breach"
                if _broken(picture, thing, field)
                else "row-selected"
                if chosen
                else role
            )
            marks.append(Text(use, text, centre, box[1] + 12.4, "middle"))
            if thing in picture.facts.pipes and _held(picture.facts.pipes[thing], field):
                marks.append(_held_mark(centre - text_width(text, use) / 2 - 7, box[1]))
            cells.append(Cell(box, name, thing if thing is not None else c.key, field, text))


def _touched(picture: Picture, c: RunColumn) -> bool:
    ends = [f.pipe.id for f in (c.inlet, c.outlet) if f is not None]
    return c.key in picture.structures or any(p in picture.pipes for p in ends)


def _box(box: tuple[float, float, float, float]) -> Any:
    x, y, w, h = box
    return points((x, y), (x + w, y), (x + w, y + h), (x, y + h))


def _pipe_cells(
    picture: RunPicture,
    sight: SectionSight,
    hand: PipeHandle | None,
    y: float,
    cells: list[Cell],
    marks: list[Mark],
    part: Part | None,
) -> Iterator[Mark]:
    ends = {c.key: c for c in columns(picture)}
    for reach in sorted(picture.run.reaches, key=lambda r: min(r.up, r.down)):
        x0, x1 = sorted((sight.x_of(reach.up), sight.x_of(reach.down)))
        x0, x1 = max(x0, sight.left), min(x1, sight.width)
        if (
            x1 - x0 < 4
            or not _in_columns(picture, reach, ends)
            or (part is not None and not part.holds(reach.pipe))
        ):
            continue
        marks.append(
            Segments(
                "column-rule",
                _rules(
                    [
                        (x, y, x, y + ROW * len(pipe_rows(picture)))
                        for x in (x0, x1)
                        if x > sight.left
                    ]
                ),
            )
        )
        chosen = reach.pipe in picture.pipes
        if chosen:
            marks.append(Fill("cell", _box((x0, y, x1 - x0, ROW * len(pipe_rows(picture))))))
        f = picture.facts.pipes[reach.pipe]
        for i, (name, role, of) in enumerate(pipe_rows(picture)):
            text, thing, field = of(f, picture)
            use = (
                "row-breach"
                if _broken(picture, thing, field)
                else "row-selected"
                if chosen
                else role
            )
            marked = _fit(text, use, x1 - x0 - 2 * END_ROOM) if field == "slope" else ""
            text = marked or _fit(text, use, x1 - x0 - 4)
            box = (x0, y + ROW * i, x1 - x0, ROW)
            if marked:
                pivot = (
                    hand.pivot if hand is not None and hand.pipe == reach.pipe else picture.pivot
                )
                yield from _end_marks(reach, pivot, box, cells)
            cells.append(Cell(box, name, reach.pipe, field, text))
            if text and _held(f, field):
                yield _held_mark((x0 + x1) / 2 - text_width(text, use) / 2 - 7, box[1])
            if text:
                yield Text(use, text, (x0 + x1) / 2, box[1] + 12.4, "middle")


END_ROOM = 16.0  # of a slope cell at each end, for the mark that says which of them is kept


def _end_marks(
    reach: Reach, pivot: End, box: tuple[float, float, float, float], cells: list[Cell]
) -> Iterator[Mark]:
    """A ring at each end of a slope cell, a cross in that of the end that is kept; a click on a
    ring keeps its end.
    """
    x0, y, wide, tall = box
    ends: tuple[End, End] = ("up", "down") if reach.up < reach.down else ("down", "up")
    for end, x in zip(ends, (x0 + END_ROOM / 2, x0 + wide - END_ROOM / 2), strict=True):
        yield Disc("field", x, y + tall / 2, 3.6, "end-mark" if end == pivot else "end-mark-other")
        if end == pivot:
            yield Segments("end-mark", cross(x, y + tall / 2, 2.3))
        cells.append(
            Cell((x - END_ROOM / 2, y, END_ROOM, tall), "Pivot", reach.pipe, f"pivot {end}", "")
        )


def _held(f: PipeFacts, field: str) -> bool:
    """Whether the value of a cell is held."""
    return field in PIPE_FIELDS and PIPE_FIELDS[field].held(f.pipe)


def _held_mark(x: float, y: float) -> Mark:
    """A small solid square before a value that is held."""
    return Fill("ink", _box((x, y + 6.5, 4.0, 4.0)))


def _in_columns(picture: Picture, reach: Reach, ends: dict[StructureId, RunColumn]) -> bool:
    """Leads of a road's gullies have no room of their own under the section."""
    f = picture.facts.pipes[reach.pipe]
    c = ends.get(f.pipe.down) or ends.get(f.pipe.up)  # the lower end may be left out
    return c is not None and f in (c.inlet, c.outlet)


def _fit(text: str, role: str, room: float) -> str:
    """A text, or its part before two spaces, or nothing where there is no room."""
    for part in (text, text.split("  ")[0]):
        if text_width(part, role) <= room:
            return part
    return ""
