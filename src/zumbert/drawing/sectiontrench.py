"""Trench bottoms and pits in a long section."""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.digs import trench_type
from zumbert.drawing.marks import Fill, Mark, Segments, Stroke, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import SectionSight


def trench(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """Trench bottom from pit edge to pit edge, with a tick at each section."""
    assert picture.run is not None and picture.trenches is not None  # noqa: S101 - asked for with both
    for reach in picture.run.reaches:
        t = picture.trenches.pipes[reach.pipe]
        if t.length <= 0:
            continue
        f = picture.facts.pipes[reach.pipe]
        spacing = trench_type(picture.facts.project, f.pipe).spacing
        s = np.append(np.arange(t.begin, t.end, spacing), t.end)
        x = sight.px(reach.up + (reach.down - reach.up) * s / f.span.length)
        y = sight.py(np.array([t.bottom(d) for d in s.tolist()]))
        yield Stroke("trench-bottom", np.column_stack([x, y])[[0, -1]])
        yield Segments("trench-tick", np.column_stack([x, y, x, y + 5]))


def pits(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """The pits round chambers, from the ground down."""
    assert picture.run is not None and picture.trenches is not None  # noqa: S101 - asked for with both
    for key, at in picture.run.structures:
        pit = picture.trenches.pits.get(key)
        place = picture.facts.places[key]
        if pit is None or pit.bottom is None or place.ground is None:
            continue
        half = (pit.width if pit.across is None else max(pit.width, pit.across)) / 2
        x0, x1 = sight.x_of(at - half), sight.x_of(at + half)
        y0, y1 = sight.y_of(place.ground), sight.y_of(pit.bottom)
        yield Fill("plate", points((x0, y0), (x1, y0), (x1, y1), (x0, y1)), "pit")
