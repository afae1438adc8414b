"""The scale bars of a long section: a bar along and one up, in a corner where nothing is drawn."""

from collections.abc import Iterator

import numpy as np

from zumbert.drawing.labels import Box
from zumbert.drawing.marks import Fill, Mark, Text, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.scalebar import BAR, half_length, scale_bar
from zumbert.drawing.sectionchambers import chamber_box
from zumbert.drawing.sectionpipes import barrel_ends
from zumbert.drawing.sectionprofile import TALL, band
from zumbert.drawing.sight import SectionSight
from zumbert.geometry.line import level_at
from zumbert.model.display import Units

ROOM = 14.0  # to the edges of the drawing


def _steps(sight: SectionSight, u: Units) -> tuple[float, float]:
    """The halves of both bars, in the unit of lengths; a low drawing gets a low bar."""
    return half_length(sight.sx * u.metres), half_length(
        sight.sz * u.metres, min(BAR / 3, sight.height / 16)
    )


def bars_box(picture: Picture, sight: SectionSight) -> Box | None:
    """The room of the bars: the first corner that is free of pipes, chambers, ground and design;
    None: there is none, and the scales over the drawing have to do.
    """
    along, up = _steps(sight, picture.units)
    wide = 2 * along * sight.sx * picture.units.metres + 54
    tall = 2 * up * sight.sz * picture.units.metres + 26
    right, low = sight.width - ROOM - wide, sight.height - 8 - tall
    left, high = sight.left + ROOM, (TALL if band(picture, sight) is not None else 0.0) + 6
    corners = [(right, low), (left, low), (left, high), (right, high)]
    boxes: list[Box] = [(x, y, x + wide, y + tall) for x, y in corners]
    return next((b for b in boxes if _free(picture, sight, b)), None)


def _free(picture: Picture, sight: SectionSight, box: Box) -> bool:
    """Whether all that is drawn over or under a box lies beyond it."""
    run = picture.run
    if run is None:
        return True
    x0, y0, x1, y1 = box
    top: list[float] = []
    bottom: list[float] = []
    at = np.linspace(sight.s_at(x0), sight.s_at(x1), 9)
    for line in (run.ground, run.design):
        if line is not None:
            y = sight.py(level_at(line, at[(at >= line.s[0]) & (at <= line.s[-1])]))
            top += y[~np.isnan(y)].tolist()
    for key, s in run.structures:
        shaft = chamber_box(picture, key, s, sight)
        if shaft is not None and shaft[0] < x1 and shaft[1] > x0:
            top.append(shaft[2] - 22)  # with its label
            bottom.append(shaft[3])
    for reach in run.reaches:
        f = picture.facts.pipes[reach.pipe]
        a, b, ia, ib = barrel_ends(f, reach)
        xa, xb = sight.x_of(a), sight.x_of(b)
        if min(xa, xb) < x1 and max(xa, xb) > x0:
            for share in np.linspace(0.0, 1.0, 9).tolist():
                if x0 <= xa + (xb - xa) * share <= x1:
                    level = ia + (ib - ia) * share
                    top.append(sight.y_of(level + f.outside_height))
                    bottom.append(sight.y_of(level - f.wall))
    over = y1 < min(top, default=np.inf) and y1 < min(bottom, default=np.inf)
    under = y0 > max(bottom, default=-np.inf) and y0 > max(top, default=-np.inf)
    return over or under


def scale_bars(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """A bar of a round length along and one of a round height, each in two halves."""
    u = picture.units
    box = bars_box(picture, sight)
    if box is None:
        return
    _, up = _steps(sight, u)
    x, y, tall = box[0] + 20, box[3] - 6, up * sight.sz * u.metres
    yield from scale_bar(sight.sx, x, y, u)
    for i, role in ((0, "ink"), (1, "field")):
        c, d = y - i * tall, y - (i + 1) * tall
        yield Fill(role, points((x - 14, c), (x - 10, c), (x - 10, d), (x - 14, d)), "ink-thin")
    yield Text("ink", f"{2 * up:g} {u.m}", x - 12, y - 2 * tall - 4, "middle", plate=True)
