"""The cells of the level rows under a long section, as marks and as what can be edited."""

from collections.abc import Iterator
from itertools import chain
from typing import Any

from zumbert.analysis.crossings import Reach
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import rule_of
from zumbert.drawing.handles import PipeHandle
from zumbert.drawing.levelrows import (
    END_ROOM,
    ROW,
    RunColumn,
    columns,
    in_columns,
    pipe_rows,
    rows_height,
    rows_shown,
)
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
from zumbert.fields import PIPE_FIELDS
from zumbert.model.pipe import End


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
            or not in_columns(picture, reach, ends)
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


def _fit(text: str, role: str, room: float) -> str:
    """A text, or its part before two spaces, or nothing where there is no room."""
    for part in (text, text.split("  ")[0]):
        if text_width(part, role) <= room:
            return part
    return ""
