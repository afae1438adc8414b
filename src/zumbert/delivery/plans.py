"""Plans: the whole job or a window of it at a scale, over as many pages as that needs, with
match lines and a key plan.
"""

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from zumbert.delivery.along import lengthwise
from zumbert.delivery.job import Job
from zumbert.delivery.paper import Box, scale_on_paper
from zumbert.delivery.planwindow import match_line, picture_of, plan_window
from zumbert.drawing.marks import Fill, Inset, Mark, Segments, Stroke, Target, points
from zumbert.drawing.sight import MapSight
from zumbert.drawing.strokes import strokes
from zumbert.geometry.elements import Array
from zumbert.model.sheet import Sheet

MARGIN = 8.0  # m round the whole job
KEY = 190.0  # units: width of a key plan


class Tile(NamedTuple):
    """The window of one page: its middle in turned coordinates (m) and where it stands among the
    others.
    """

    u: float
    v: float
    column: int
    row: int


def turned(xy: Array, turn: float) -> Array:
    """Places (n, 2) in axes that lie along a turned plan: to the right and up."""
    c, s = np.cos(turn), np.sin(turn)
    return np.column_stack([xy[:, 0] * c + xy[:, 1] * s, -xy[:, 0] * s + xy[:, 1] * c])


def turned_back(u: float, v: float, turn: float) -> tuple[float, float]:
    """The world place of turned coordinates."""
    c, s = float(np.cos(turn)), float(np.sin(turn))
    return u * c - v * s, u * s + v * c


def job_places(job: Job) -> Array:
    """Places that a plan of the whole job shows: structures, and roads; the ground's corners
    where there is neither.
    """
    facts = job.facts
    xy = [
        np.array([(p.x, p.y) for p in facts.places.values() if p.x is not None], float).reshape(
            -1, 2
        )
    ]
    xy += [
        np.column_stack(r.alignment.point(r.alignment.polyline(20.0)))
        for r in facts.roads.values()
        if r.road.shown
    ]
    whole = np.vstack(xy)
    if not len(whole) and facts.surfaces.existing is not None:
        x0, y0, x1, y1 = facts.surfaces.existing.extents
        whole = points((x0, y0), (x1, y1))
    return whole[~np.isnan(whole).any(axis=1)] if len(whole) else points((0.0, 0.0))


def tiles(job: Job, sheet: Sheet, box: Box, unit: float) -> list[Tile]:
    """The windows of a plan: one where it fits on the paper or a window is asked for; without
    those that show nothing.
    """
    scale = scale_on_paper(sheet.scale, unit)
    wide, tall = box.width / scale, box.height / scale
    if sheet.centre is not None:
        (u, v) = turned(points(sheet.centre), sheet.turn)[0].tolist()
        w, h = sheet.window or (wide, tall)
        low, high = np.array([u - w / 2, v - h / 2]), np.array([u + w / 2, v + h / 2])
        places = points((u, v))
    else:
        places = turned(job_places(job), sheet.turn)
        low, high = places.min(axis=0) - MARGIN, places.max(axis=0) + MARGIN
    overlap = min(max(sheet.overlap, 0.0), 0.4 * min(wide, tall))
    across = _even(float(low[0]), float(high[0]), wide, overlap)
    down = _even(float(low[1]), float(high[1]), tall, overlap)[::-1]
    out = []
    for row, v in enumerate(down):
        for column, u in enumerate(across):
            near = (
                np.abs(places - (u, v))
                <= ((wide - overlap) / 2 + 1e-6, (tall - overlap) / 2 + 1e-6)
            ).all(axis=1)
            if near.any() or sheet.centre is not None:
                out.append(Tile(u, v, column, row))
    return out


def _even(low: float, high: float, most: float, overlap: float) -> list[float]:
    """The middles of windows over a length, spread so that the spare lies on both sides."""
    if high - low <= most:
        return [(low + high) / 2]
    n = len(lengthwise(low, high, most, overlap))
    spare = n * most - (n - 1) * overlap - (high - low)
    return [low - spare / 2 + most / 2 + i * (most - overlap) for i in range(n)]


def tile_sight(sheet: Sheet, tile: Tile, box: Box, unit: float) -> MapSight:
    """The plan of one window."""
    x, y = turned_back(tile.u, tile.v, sheet.turn)
    return MapSight(
        width=box.width,
        height=box.height,
        x=x,
        y=y,
        scale=scale_on_paper(sheet.scale, unit),
        turn=sheet.turn,
    )


def compose(
    job: Job,
    sheet: Sheet,
    tile: Tile,
    every: list[Tile],
    box: Box,
    unit: float,
    neighbour: Callable[[int], str],
) -> tuple[list[Mark], list[Target]]:
    """The marks of one page in its room; `neighbour` gives the number of the page so many
    further on.
    """
    sight = tile_sight(sheet, tile, box, unit)
    marks, targets = plan_window(picture_of(job, sheet), sight, box, grid=sheet.grid)
    marks += _matches(sheet, tile, every, sight, box, neighbour)
    if sheet.key_plan and len(every) > 1:
        marks += key_plan(job, sheet, tile, every, box, unit)
    return marks, targets


def _matches(
    sheet: Sheet,
    tile: Tile,
    every: list[Tile],
    sight: MapSight,
    box: Box,
    neighbour: Callable[[int], str],
) -> Iterator[Mark]:
    """Match lines where neighbours go on, at the middle of the overlap."""
    for dc, dr in ((-1, 0), (1, 0), (0, -1), (0, 1)):
        other = next(
            (t for t in every if (t.column, t.row) == (tile.column + dc, tile.row + dr)), None
        )
        if other is None:
            continue
        words = f"joins sheet {neighbour(every.index(other) - every.index(tile))}"
        x = box.width / 2 + (other.u - tile.u) / 2 * sight.scale
        y = box.height / 2 - (other.v - tile.v) / 2 * sight.scale
        ends = ((x, 0.0), (x, box.height)) if dc else ((0.0, y), (box.width, y))
        yield Inset(tuple(match_line(*ends, words, -1.0 if dc > 0 or dr > 0 else 1.0)), *box)


def key_plan(
    job: Job, sheet: Sheet, tile: Tile, every: list[Tile], box: Box, unit: float
) -> list[Mark]:
    """The whole job small, with the windows of all pages and the own one filled; in the corner
    that the job leaves free.
    """
    scale = scale_on_paper(sheet.scale, unit)
    wide, tall = box.width / scale, box.height / scale
    u0, u1 = min(t.u for t in every) - wide / 2, max(t.u for t in every) + wide / 2
    v0, v1 = min(t.v for t in every) - tall / 2, max(t.v for t in every) + tall / 2
    k = KEY / max(u1 - u0, v1 - v0)
    width, height = (u1 - u0) * k + 12, (v1 - v0) * k + 12
    x, y = turned_back((u0 + u1) / 2, (v0 + v1) / 2, sheet.turn)
    sight = MapSight(width=width, height=height, x=x, y=y, scale=k, turn=sheet.turn)
    frame = points((0, 0), (width, 0), (width, height), (0, height))
    marks: list[Mark] = [Fill("paper", frame, "sheet-line")]
    for t in every:
        cx, cy = 6 + (t.u - u0) * k, 6 + (v1 - t.v) * k
        w, h = wide * k / 2, tall * k / 2
        ring = points((cx - w, cy - h), (cx + w, cy - h), (cx + w, cy + h), (cx - w, cy + h))
        marks.append(
            Fill("halo", ring, "sheet-line")
            if t is tile
            else Stroke("sheet-rule", ring, closed=True)
        )
    for r in job.facts.roads.values():
        marks += strokes(
            "centre-line",
            sight.to_drawing(np.column_stack(r.alignment.point(r.alignment.polyline(10.0)))),
        )
    spans = job.facts.spans.values()
    ends = np.array(
        [
            (s.up.x, s.up.y, s.down.x, s.down.y)
            for s in spans
            if s.up.x is not None and s.down.x is not None
        ],
        float,
    )
    if len(ends):
        marks.append(Segments("storm", sight.to_drawing(ends.reshape(-1, 2)).reshape(-1, 4)))
    corners = [
        (box.right - width - 8, box.y + 52),
        (box.x + 8, box.y + 8),
        (box.right - width - 8, box.bottom - height - 8),
    ]
    own = tile_sight(sheet, tile, box, unit)
    at = own.to_drawing(job_places(job)) + np.array([box.x, box.y])

    def covered(corner: tuple[float, float]) -> int:
        inside = (at >= corner).all(axis=1) & (at <= (corner[0] + width, corner[1] + height)).all(
            axis=1
        )
        return int(inside.sum())

    left, top = min(corners, key=covered)
    return [Inset(tuple(marks), left, top, width, height)]
