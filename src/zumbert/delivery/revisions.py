"""Issues, and what differs from the last one today: listed by field, marked on sheets."""

from collections.abc import Iterable, Iterator, Mapping
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.delivery.job import Job
from zumbert.delivery.paper import WorldWindow, windows_of
from zumbert.drawing.marks import Inset, Mark, Stroke, Text, points
from zumbert.drawing.sight import SectionSight
from zumbert.edits.records import free_name
from zumbert.exchange.tables import Table, text_column
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.model.display import NONE
from zumbert.model.ids import IssueId, PipeId, StructureId
from zumbert.model.project import Project, with_id
from zumbert.model.sheet import Issue

Values = Mapping[str, str | float | None]
SAME = 5e-7  # SI: values that differ by less are the same
BUMP = 11.0  # units: length of one arc of a cloud
ROOM = 16.0  # units from a thing to the cloud round it
TRIANGLE = 9.0  # units: half the side of a revision triangle


class IssueDifference(NamedTuple):
    """One value that is not as it was issued; None stands for a thing that was not there, or is
    there no longer.
    """

    kind: str  # structure or pipe
    id: str
    label: str
    field: Field | None  # None: the thing itself came or went
    old: str | float | None
    new: str | float | None


def _fields(fields: dict[str, Field]) -> list[Field]:
    """The values that an issue keeps of each thing: all that schedules show."""
    return [f for f in fields.values() if f.column]


def _values(facts: Facts, of: object, fields: dict[str, Field]) -> dict[str, str | float | None]:
    out: dict[str, str | float | None] = {}
    for f in _fields(fields):
        value = f.read(facts, of)
        out[f.key] = f.words(facts, value) if value is not None and f.words is not None else value
    return out


def issued(project: Project, facts: Facts, name: str, date: str, words: str) -> Project:
    """The project with what it is today kept as an issue. Raises EditError for no name, or one
    that was issued already.
    """
    name = free_name(project.issues, name, None, "revision")
    project, key = with_id(project, "i")
    issue = Issue(
        id=IssueId(key),
        name=name,
        date=date,
        words=words,
        structures={
            k: _values(facts, facts.structures[k], STRUCTURE_FIELDS) for k in project.structures
        },
        pipes={k: _values(facts, facts.pipes[k], PIPE_FIELDS) for k in project.pipes},
    )
    return replace(project, issues={**project.issues, issue.id: issue})


def next_name(project: Project) -> str:
    """The revision that comes next: A, B … Z, AA."""
    n = len(project.issues)
    taken = {i.name for i in project.issues.values()}
    while True:
        name, m = "", n + 1
        while m:
            m, rest = divmod(m - 1, 26)
            name = chr(ord("A") + rest) + name
        if name not in taken:
            return name
        n += 1


def last_issue(project: Project) -> Issue | None:
    """The last issue; None before the first."""
    return next(reversed(project.issues.values()), None)


def differences(facts: Facts, issue: Issue) -> tuple[IssueDifference, ...]:
    """All that has changed since the issue: structures before pipes, in the order of the
    project, what is gone last.
    """
    return _differences(issue, facts)


@kept(1)
def _differences(issue: Issue, facts: Facts) -> tuple[IssueDifference, ...]:
    """The same, kept: each page and each schedule asks for them."""
    p = facts.project
    structures = _compared(
        "structure", issue.structures, facts, facts.structures, p.structures, STRUCTURE_FIELDS
    )
    pipes = _compared("pipe", issue.pipes, facts, facts.pipes, p.pipes, PIPE_FIELDS)
    return (*structures, *pipes)


def _compared(
    kind: str,
    old: Mapping[str, Values],
    facts: Facts,
    now: Mapping[Any, object],
    order: Iterable[str],
    fields: dict[str, Field],
) -> Iterator[IssueDifference]:
    here = list(order)
    for key in here:
        values = _values(facts, now[key], fields)
        label = str(values["label"])
        if key not in old:
            yield IssueDifference(kind, key, label, None, None, label)
            continue
        for f in _fields(fields):
            if f.key in old[key] and _differ(old[key][f.key], values[f.key]):
                d = IssueDifference(kind, key, label, f, old[key][f.key], values[f.key])
                if value_words(facts, d, d.old) != value_words(
                    facts, d, d.new
                ):  # as they are written
                    yield d
    for key in old.keys() - set(here):
        yield IssueDifference(
            kind, key, str(old[key].get("label")), None, str(old[key].get("label")), None
        )


def _differ(a: str | float | None, b: str | float | None) -> bool:
    if isinstance(a, (int, float)) and isinstance(b, (int, float)):
        return abs(a - b) > SAME
    return a != b


def value_words(facts: Facts, d: IssueDifference, value: str | float | None) -> str:
    """A value of a difference as the project shows it."""
    if value is None:
        return NONE
    return (
        str(value)
        if isinstance(value, str) or d.field is None
        else d.field.kind.show(facts.units, value)
    )


def difference_table(facts: Facts, issue: Issue) -> Table:
    """The list of differences that goes out with the next issue."""
    columns = tuple(
        map(text_column, ("Object", "Label", "Value", f"Issue {issue.name}, {issue.date}", "Now"))
    )
    rows = []
    for d in differences(facts, issue):
        what = d.field.title if d.field is not None else ("added" if d.old is None else "taken out")
        rows.append(
            (d.kind, d.label, what, value_words(facts, d, d.old), value_words(facts, d, d.new))
        )
    return Table(name="Differences", columns=columns, rows=tuple(rows))


def with_changes(facts: Facts, table: Table, issue: Issue | None, kind: str) -> Table:
    """A schedule of structures or pipes with one column more: what was issued and what it is
    now.
    """
    if issue is None:
        return table
    changes: dict[str, list[str]] = {}
    for d in differences(facts, issue):
        if d.kind != kind or (d.new is None and d.field is None):
            continue
        words = (
            "new"
            if d.field is None
            else f"{d.field.title} {value_words(facts, d, d.old)} → {value_words(facts, d, d.new)}"
        )
        changes.setdefault(d.label, []).append(words)
    rows = tuple((*row, "; ".join(changes.get(str(row[0]), ())) or None) for row in table.rows)
    return replace(
        table, columns=(*table.columns, text_column(f"Changed since {issue.name}")), rows=rows
    )


def changed_things(facts: Facts, issue: Issue) -> tuple[list[StructureId], list[PipeId]]:
    """The structures and pipes that are there today and are not as they were issued."""
    found = [d for d in differences(facts, issue) if not (d.field is None and d.new is None)]
    structures = dict.fromkeys(StructureId(d.id) for d in found if d.kind == "structure")
    return list(structures), list(dict.fromkeys(PipeId(d.id) for d in found if d.kind == "pipe"))


# -- on sheets -------------------------------------------------------------------------------------


def clouds(job: Job, marks: Iterable[Mark]) -> list[Mark]:
    """Clouds round what is not as it was issued, with the triangle of the revision that is being
    made, in every drawing of a page that shows it.
    """
    issue = last_issue(job.project)
    if issue is None:
        return []
    structures, pipes = job.once("changed", lambda: changed_things(job.facts, issue))
    name = next_name(job.project)
    out: list[Mark] = []
    for window, m in windows_of(marks) if structures or pipes else ():
        inside = [
            mark for box in _boxes(job, window, structures, pipes) for mark in _cloud(box, name)
        ]
        out.append(Inset(tuple(inside), m.x, m.y, m.width, m.height))
    return out


BoxOf = tuple[float, float, float, float]


def _boxes(
    job: Job, window: WorldWindow, structures: Iterable[StructureId], pipes: Iterable[PipeId]
) -> Iterator[BoxOf]:
    """The boxes (in units of the inset) about what changed; a pipe's chambers that changed lie
    in its own.
    """
    facts, sight = job.facts, window.sight
    if not isinstance(sight, SectionSight):
        places = [facts.places[k] for k in structures]
        at = np.array([(p.x, p.y) for p in places if p.x is not None], float).reshape(-1, 2)
        for x, y in sight.to_drawing(at).tolist() if len(at) else ():
            if x == x:
                yield x, y, x, y
        for k in pipes:
            span = facts.spans[k]
            if span.up.x is not None and span.down.x is not None:
                yield from _box_of(
                    sight.to_drawing(
                        np.array([span.point(span.length * t) for t in (0.25, 0.5, 0.75)])
                    )
                )
        return
    if window.key is None:
        return
    left, shown = window.left, job.shown(window.key)
    chambers, lines = set(structures), set(pipes)
    for key, s in shown.structures:
        f = facts.structures[key]
        if key in chambers and f.place.rim is not None:
            low = f.sump_level if f.sump_level is not None else f.place.rim - 1.0
            yield from _box_of(
                points(
                    (sight.x_of(s) - left, sight.y_of(f.place.rim)),
                    (sight.x_of(s) - left, sight.y_of(low)),
                )
            )
    for r in shown.reaches:
        if r.pipe in lines:
            p = facts.pipes[r.pipe]
            ends = ((r.up, p.pipe.invert_up), (r.down, p.pipe.invert_down))
            yield from _box_of(points(*((sight.x_of(s) - left, sight.y_of(z)) for s, z in ends)))


def _box_of(xy: Array) -> Iterator[BoxOf]:
    if not np.isnan(xy).any():
        (x0, y0), (x1, y1) = xy.min(axis=0).tolist(), xy.max(axis=0).tolist()
        yield x0, y0, x1, y1


def _cloud(box: BoxOf, name: str) -> Iterator[Mark]:
    """Arcs round a box, and a triangle with the revision at its upper right corner."""
    x0, y0, x1, y1 = box[0] - ROOM, box[1] - ROOM, box[2] + ROOM, box[3] + ROOM
    corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)]
    arcs = []
    for (ax, ay), (bx, by) in pairwise(corners):
        n = max(2, round(np.hypot(bx - ax, by - ay) / BUMP))
        t = np.linspace(np.pi, 0.0, 7)
        dx, dy = (bx - ax) / n, (by - ay) / n
        for i in range(n):
            mx, my = ax + (i + 0.5) * dx, ay + (i + 0.5) * dy
            arcs.append(
                np.column_stack(
                    [
                        mx + np.cos(t) * dx / 2 + np.sin(t) * dy / 2,
                        my + np.cos(t) * dy / 2 - np.sin(t) * dx / 2,
                    ]
                )
            )
    yield Stroke("revision", np.vstack(arcs), closed=True)
    tx, ty = x1 + TRIANGLE + 3, y0 - 2
    yield Stroke(
        "revision",
        points(
            (tx - TRIANGLE - 2, ty + TRIANGLE),
            (tx + TRIANGLE + 2, ty + TRIANGLE),
            (tx, ty - TRIANGLE),
        ),
        closed=True,
    )
    yield Text("revision", name, tx, ty + TRIANGLE - 3.0, "middle")
