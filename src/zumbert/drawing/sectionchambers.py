"""Structures of a long section: chambers at true width with wall, base, sump and openings, and
their labels.
"""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.chambers import StructureFacts, extent
from zumbert.analysis.pipes import PipeFacts
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import Anchor, Disc, Fill, Mark, Stroke, Target, points
from zumbert.drawing.picture import Picture, RunPicture
from zumbert.drawing.sight import SectionSight
from zumbert.geometry.elements import Array
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.project import base_thickness


def chamber_box(
    picture: Picture, key: StructureId, at: float, sight: SectionSight
) -> tuple[float, float, float, float] | None:
    """The outside of a chamber in drawing units: left, right, rim, underside of base."""
    f = picture.facts.structures[key]
    kind = picture.facts.project.types[f.structure.type]
    upright = extent(f)
    if upright is None:
        return None
    rim, bottom = upright
    half = max(kind.outside * sight.sx / 2, 4.0)
    x = sight.x_of(at)
    under = sight.y_of(
        bottom - (base_thickness(picture.facts.project, f.structure) if kind.inside else 0.15)
    )
    return x - half, x + half, sight.y_of(rim), under


def chamber(
    picture: Picture, key: StructureId, at: float, sight: SectionSight, own: frozenset[PipeId]
) -> Iterator[Mark]:
    """A chamber as it is built, with the openings of pipes that are not the run's own; a wall or
    a ring for what has none.
    """
    box = chamber_box(picture, key, at, sight)
    if box is None or box[1] < sight.left or box[0] > sight.width:
        return
    f = picture.facts.structures[key]
    kind = picture.facts.project.types[f.structure.type]
    x0, x1, y0, y1 = box
    x = (x0 + x1) / 2
    yield Stroke("column", points((x, y1), (x, sight.height)))
    if kind.kind == "joint":
        level = f.lowest or 0.0
        yield Disc("field", x, sight.y_of(level), 3.0, "chamber")
        return
    if not kind.inside:  # a wall that the pipe comes out of
        yield Fill(
            "chamber-wall", points((x - 3, y0), (x + 3, y0), (x + 3, y1), (x - 3, y1)), "chamber"
        )
        return
    wall = max(1.5, (x1 - x0) / 2 * (1 - kind.inside / kind.outside))
    yield Fill("chamber-wall", points((x0, y0), (x1, y0), (x1, y1), (x0, y1)), "chamber")
    floor = sight.y_of(f.sump_level) if f.sump_level is not None else y1 - 4
    inner = points((x0 + wall, y0 + 4), (x1 - wall, y0 + 4), (x1 - wall, floor), (x0 + wall, floor))
    yield Fill("field", inner, "chamber-inner")
    yield Fill("ink", points((x - 4, y0 - 2), (x + 4, y0 - 2), (x + 4, y0 + 2), (x - 4, y0 + 2)))
    for g, invert in openings(f, own):
        y = sight.y_of(invert)
        tall, wide = g.inside * sight.sz, max(2.5, min(g.inside * sight.sx, x1 - x0 - 2 * wall - 1))
        yield Stroke(
            f"{g.pipe.service}-inside", oval(x, y - tall / 2, wide / 2, tall / 2), closed=True
        )


def openings(f: StructureFacts, own: frozenset[PipeId]) -> Iterator[tuple[PipeFacts, float]]:
    """The pipes at a structure that are not the run's own, with their inverts there (m above
    datum).
    """
    ends = [
        *((g, g.pipe.invert_down) for g in f.pipes_in),
        *((g, g.pipe.invert_up) for g in f.pipes_out),
    ]
    yield from ((g, level) for g, level in ends if g.pipe.id not in own)


def opening_labels(
    picture: Picture, sight: SectionSight, labels: Labels, own: frozenset[PipeId]
) -> None:
    """Whence each side branch comes and its invert, beside the chamber, where there is room: to
    check it against the run's. From far only those of selected structures.
    """
    project, u = picture.facts.project, picture.units
    for key, at in picture.run.structures if picture.run is not None else ():
        box = chamber_box(picture, key, at, sight)
        near = key in picture.structures or sight.sx >= OPENING_SCALE
        if box is None or box[1] < sight.left or box[0] > sight.width or not near:
            continue
        for g, level in openings(picture.facts.structures[key], own):
            far = project.structures[g.pipe.up if g.pipe.down == key else g.pipe.down].label
            y = sight.y_of(level) + 4 - g.inside * sight.sz / 2
            sides: tuple[tuple[float, Anchor], ...] = ((box[1] + 5, "left"), (box[0] - 5, "right"))
            places = [
                (x, y + dy, anchor) for dy in (0, -13, 13, -26, 26, -39) for x, anchor in sides
            ]
            labels.put(g.pipe.service, f"{far} {u.level(level)}", places)


# drawing units a metre along: from here on the inverts of side branches are written at every
# chamber
OPENING_SCALE = 15.0


def oval(x: float, y: float, a: float, b: float) -> Array:
    """An oval about a place, half as wide and high as given."""
    t = np.linspace(0, 2 * np.pi, 25)[:-1]
    return np.column_stack([x + a * np.cos(t), y + b * np.sin(t)])


def structure_target(picture: Picture, key: StructureId, at: float, sight: SectionSight) -> Target:
    """The target of a structure: its shaft."""
    box = chamber_box(picture, key, at, sight)
    if box is None:
        return Target("structure", key, points((sight.x_of(at), -50)), 1.0)
    x0, x1, y0, y1 = box
    return Target(
        "structure", key, points(((x0 + x1) / 2, y0), ((x0 + x1) / 2, y1)), max(5.0, (x1 - x0) / 2)
    )


def structure_labels(picture: RunPicture, sight: SectionSight, labels: Labels) -> None:
    """The labels of structures over their rims, selected ones first."""
    ordered = sorted(picture.run.structures, key=lambda s: (s[0] not in picture.structures, s[1]))
    for key, at in ordered:
        box = chamber_box(picture, key, at, sight)
        if (
            box is None
            or box[3] < 0
            or not sight.left + 12 < (box[0] + box[1]) / 2 < sight.width - 6
        ):
            continue
        text = picture.facts.project.structures[key].label
        x, y = (box[0] + box[1]) / 2, max(13.0, box[2] - 8)
        labels.put(
            "section-label",
            text,
            [(x, y, "middle"), (x, y - 14, "middle")],
            key in picture.structures,
        )
