"""The level rows under a long section: their columns stand under the drawing."""

from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import Any, NamedTuple

from zumbert.analysis.crossings import Reach
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.pits import PitFacts
from zumbert.drawing.picture import Picture, RunPicture
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field
from zumbert.model.display import NONE
from zumbert.model.ids import StructureId

ROW = 16.5  # height of a row


_NOT_WITH_TRENCHES = ("Run length", "Rim", "Depth", "Slope")  # of the usual rows
END_ROOM = 16.0  # of a slope cell at each end, for the mark that says which of them is kept


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
        if in_columns(picture, r, ends)
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


def in_columns(picture: Picture, reach: Reach, ends: dict[StructureId, RunColumn]) -> bool:
    """Leads of a road's gullies have no room of their own under the section."""
    f = picture.facts.pipes[reach.pipe]
    c = ends.get(f.pipe.down) or ends.get(f.pipe.up)  # the lower end may be left out
    return c is not None and f in (c.inlet, c.outlet)
