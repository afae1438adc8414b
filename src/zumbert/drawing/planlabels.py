"""Labels of structures and pipes in plan: the fields that are chosen, clear of lines and of each
other.
"""

from collections.abc import Iterable, Iterator, Mapping
from math import cos, degrees, hypot, radians, sin

import numpy as np

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.drawing.labels import LEADING, Labels, around, stacked
from zumbert.drawing.marks import Mark, Stroke, Target, Text, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import PlanSight
from zumbert.drawing.style import text_width
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, label_fields
from zumbert.geometry.elements import Array
from zumbert.model.ids import PipeId, StructureId

AREA = 350.0  # square drawing units that a line of a structure's label takes up
ROOM = 50.0  # drawing units of a pipe that its label leaves free at least
LEADER = 22.0  # drawing units: a label moved farther has a line to its place
AWAY = 7.0
Lines = list[tuple[str, str]]
At = tuple[float, float]


class PlacedLabels:
    """The labels that found a place, by what they name, and the boxes by which a hand moves
    them.
    """

    def __init__(self, labels: Labels) -> None:
        self.labels = labels
        self.named: set[str] = set()
        self.targets: list[Target] = []
        self.leaders: list[Mark] = []

    def add(self, key: str, texts: list[Text]) -> None:
        """Notes the label of a thing."""
        self.named.add(key)
        self.targets += [label_target(key, t) for t in texts]


def label_target(key: str, t: Text) -> Target:
    """Where a line of a label is taken hold of: along the middle of its letters."""
    wide = text_width(t.text, t.role)
    left = {"left": 0.0, "middle": -wide / 2, "right": -wide}[t.anchor]
    c, s = cos(radians(t.angle)), sin(radians(t.angle))
    ends = [(t.x + x * c + 4 * s, t.y + x * s - 4 * c) for x in (left, left + wide)]
    return Target("label", key, points(*ends), 6.0)


def structure_lines(f: StructureFacts, facts: Facts) -> Lines:
    """The lines of a structure's label, by the fields that are chosen."""
    project = facts.project
    out: Lines = []
    chosen = project.settings.structure_label
    head = "gully-label" if project.types[f.structure.type].kind == "gully" else "structure-label"
    before = ""
    for field in label_fields(STRUCTURE_FIELDS):
        lines = field.label_lines(facts, f) if field.key in chosen else []
        if lines and field.beside and before == field.beside:
            out[-1] = ("ink", f"{out[-1][1]} {lines.pop()}")
        elif lines:
            before = field.key
        out += [(head if field.key == "label" else "ink", line) for line in lines]
    return out


def pipe_text(f: PipeFacts, facts: Facts) -> str:
    """The label along a pipe, by the fields that are chosen."""
    chosen = facts.project.settings.pipe_label
    return "  ".join(
        s for x in label_fields(PIPE_FIELDS) if x.key in chosen for s in x.label_lines(facts, f)
    )


def place_labels(
    picture: Picture,
    at: Mapping[StructureId, At],
    axes: Mapping[PipeId, Array],
    sight: PlanSight,
    labels: Labels,
) -> PlacedLabels:
    """Sets the labels: those moved by hand where they were put, then chambers, then pipes, then
    gullies where there is room. Where there are more than would fill the drawing, they wait until
    one looks nearer.
    """
    out, facts = PlacedLabels(labels), picture.facts
    project = facts.project
    height = max(1, len(project.settings.structure_label))
    if len(at) * AREA * height > sight.width * sight.height:
        return out
    for pipe, axis in axes.items():
        labels.block_line(axis, pipe)
    for key, place in at.items():
        _moved_label(picture, key, place, out)
    chambers: list[StructureId] = []
    gullies: list[StructureId] = []
    for key in at:
        if key not in out.named:
            (
                gullies if project.types[project.structures[key].type].kind == "gully" else chambers
            ).append(key)
    _round(facts, chambers, at, out)
    _along(picture, axes, out)
    if sight.scale >= 2.5:
        _round(facts, gullies, at, out)
    return out


def _moved_label(picture: Picture, key: StructureId, place: At, out: PlacedLabels) -> None:
    facts, moved = picture.facts, picture.label_at(key)
    lines = structure_lines(facts.structures[key], facts) if moved is not None else []
    if moved is None or not lines:
        return
    x, y = place[0] + moved[0], place[1] + moved[1]
    texts = list(stacked(lines, x, y, "left"))
    if hypot(*moved) > LEADER:
        out.leaders.append(_leader(place, texts))
    out.labels.set(texts)
    out.add(key, texts)


def _leader(place: At, texts: list[Text]) -> Stroke:
    """From a structure to the nearer end of its label's first line."""
    t = texts[0]
    ends = ((t.x - 3, t.y - 4), (t.x + text_width(t.text, t.role) + 3, t.y - 4))
    near = min(ends, key=lambda e: hypot(e[0] - place[0], e[1] - place[1]))
    return Stroke("leader", points(place, near))


def _round(
    facts: Facts, keys: Iterable[StructureId], at: Mapping[StructureId, At], out: PlacedLabels
) -> None:
    for key in keys:
        lines = structure_lines(facts.structures[key], facts)
        before = len(out.labels.texts)
        if lines and out.labels.put_lines(lines, around(*at[key], AWAY, len(lines))):
            out.add(key, out.labels.texts[before:])


def always_label(facts: Facts, key: StructureId, at: At) -> list[Text]:
    """The label of a structure that is looked at, on a plate, where it found no place among the
    others.
    """
    made = Labels()
    lines = structure_lines(facts.structures[key], facts) or [
        ("structure-label", facts.project.structures[key].label)
    ]
    made.put_lines(lines, around(*at, AWAY, len(lines))[:1], always=True)
    return [Text(t.role, t.text, t.x, t.y, t.anchor, t.angle, True) for t in made.texts]


def _along(picture: Picture, axes: Mapping[PipeId, Array], out: PlacedLabels) -> None:
    """Along each pipe that has room for it, at the first of some places that is free."""
    facts = picture.facts
    for key, xy in axes.items():
        f = facts.pipes[key]
        text = pipe_text(f, facts)
        long = np.hypot(*np.diff(xy, axis=0).T)
        whole = float(long.sum())
        moved = picture.label_at(key)
        if (
            not text
            or whole != whole
            or (moved is None and whole < text_width(text, f.pipe.service) + ROOM)
        ):
            continue
        if moved is not None:
            x, y, angle = _on(xy, long, 0.5)
            texts = [
                Text(f.pipe.service, text, x + moved[0], y + moved[1], "middle", angle, plate=True)
            ]
        else:
            found = (
                t
                for t in _along_places(f.pipe.service, text, xy, long)
                if out.labels.fits([t], key)
            )
            first = next(found, None)
            texts = [first] if first is not None else []
        if texts:
            out.labels.set(texts)
            out.add(key, texts)


def _along_places(role: str, text: str, xy: Array, long: Array) -> Iterator[Text]:
    """Over the pipe, then under it, at a few parts of its length."""
    for t in (0.3, 0.5, 0.7, 0.4):
        x, y, angle = _on(xy, long, t)
        c, s = cos(radians(angle)), sin(radians(angle))
        for by in (-7.0, LEADING):
            yield Text(role, text, x - by * s, y + by * c, "middle", angle, plate=True)


def middle_of(xy: Array) -> tuple[float, float]:
    """The middle of a line, by its length."""
    return _on(xy, np.hypot(*np.diff(xy, axis=0).T), 0.5)[:2]


def _on(xy: Array, long: Array, t: float) -> tuple[float, float, float]:
    """A place at a part of a line, and the angle (degrees) at which a text there reads from the
    left.
    """
    run = np.concatenate([[0.0], np.cumsum(long)])
    s = t * run[-1]
    i = min(int(np.searchsorted(run, s, "right")) - 1, len(long) - 1)
    d = xy[i + 1] - xy[i]
    x, y = (xy[i] + d * ((s - run[i]) / max(float(long[i]), 1e-9))).tolist()
    return x, y, (degrees(np.arctan2(d[1], d[0])) + 90) % 180 - 90
