"""A row of a trench type drawn in section with its dimensions, for a pipe of a size."""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.crosssection import floor_line
from zumbert.analysis.digs import TrenchShape
from zumbert.drawing.marks import Disc, Fill, Mark, Segments, Stroke, Text, points
from zumbert.model.display import Units, number
from zumbert.model.trench import TrenchSize

COVER = 1.2  # m over the pipe that are drawn at least
TICK = 4.0  # units: half the stroke at an end of a dimension


def trench_type_marks(
    size: TrenchSize, outside: float, u: Units, width: float, height: float
) -> Iterator[Mark]:
    """The trench of a pipe of an outside diameter (m) in a box of drawing units."""
    tall = max(
        size.bedding + outside + COVER,
        size.vertical_height + 0.6,
        (size.bench_height if size.bench_width else 0.0) + 0.9,
    )
    shape = TrenchShape(size=size, width=size.width_at(outside, tall), outside=outside)
    side = floor_line(shape, tall)
    k = min((width - 190.0) / (2 * float(side[:, 0].max())), (height - 70.0) / tall)
    x, bottom = width / 2 - 40.0, height - 40.0
    right = np.column_stack([x + side[:, 0] * k, bottom - side[:, 1] * k])
    left = np.column_stack([2 * x - right[:, 0], right[:, 1]])[::-1]
    top = bottom - tall * k
    yield Stroke("ground-cross", points((left[0, 0] - 30, top), (right[-1, 0] + 30, top)))
    yield Stroke("trench-outline", np.vstack([left, right]))
    half = shape.width / 2 * k
    bed = bottom - size.bedding * k
    yield Fill(
        "bedding",
        points((x - half, bed), (x + half, bed), (x + half, bottom), (x - half, bottom)),
        "bedding",
    )
    if size.surround is not None:
        over = bottom - shape.top_of_surround * k
        yield Fill(
            "surround",
            points((x - half, over), (x + half, over), (x + half, bed), (x - half, bed)),
            "bedding",
        )
    yield Disc("storm-wall", x, bed - outside / 2 * k, outside / 2 * k, "storm-outside")
    yield Disc("storm-bore", x, bed - outside / 2 * k, outside * 0.4 * k, "storm-inside")
    yield from _dimension(x - half, bottom + 14, x + half, bottom + 14)
    yield Text("strong", u.length(shape.width), x, bottom + 32, "middle", plate=True)
    told = [f"Bedding {u.length(size.bedding)}"]
    told += [f"Surround {u.length(size.surround)} over pipe"] if size.surround is not None else []
    told += [f"Upright {u.length(size.vertical_height)}"] if size.vertical_height else []
    told += [f"{number(size.batter, 2)} out per 1 up"] if size.batter else []
    told += (
        [f"Bench {u.length(size.bench_width)} each {u.length(size.bench_height)}"]
        if size.bench_width
        else []
    )
    told += (
        [f"Supported deeper than {u.length(size.support_above)}"]
        if size.support_above is not None
        else []
    )
    for i, words in enumerate(told[::-1]):
        yield Text(
            "ink",
            words,
            min(float(right[:, 0].max()) + 14, width - 130),
            bottom - 4 - 15 * i,
            plate=True,
        )


def _dimension(x0: float, y0: float, x1: float, y1: float) -> Iterator[Mark]:
    yield Stroke("dimension", points((x0, y0), (x1, y1)))
    yield Segments(
        "dimension",
        np.array([(x - TICK, y + TICK, x + TICK, y - TICK) for x, y in ((x0, y0), (x1, y1))]),
    )
