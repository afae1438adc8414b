"""The overlay of a long section: rings, legal band, end gauge, shared cursor, snap mark."""

from collections.abc import Iterator

import numpy as np
from msgspec import Struct

from zumbert.analysis.crossings import Reach
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import rule_of
from zumbert.checks.legal import Range, end_range
from zumbert.checks.limits import pipe_limit, written
from zumbert.drawing.marks import (
    Composed,
    Disc,
    Fill,
    Mark,
    Segments,
    Stroke,
    Target,
    Text,
    cross,
    points,
)
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import SectionSight
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End


class PipeHandle(Struct, frozen=True, kw_only=True):
    """The pipe whose rings are shown in the long section."""

    pipe: PipeId
    pivot: End = "up"  # the end that stays
    ring: str | None = None  # the ring under the cursor or in hand
    dragging: bool = False
    snap: str | None = None  # the name of the snap that holds


def ring_places(f: PipeFacts, reach: Reach, sight: SectionSight) -> dict[str, tuple[float, float]]:
    """Drawing places of the rings: up, down, mid, and beyond each end (turning about the other)."""
    up = sight.x_of(reach.at(f.quoted_from, f.span.length)), sight.y_of(f.pipe.invert_up)
    down = (
        sight.x_of(reach.at(f.quoted_from + f.basis, f.span.length)),
        sight.y_of(f.pipe.invert_down),
    )
    mid = (up[0] + down[0]) / 2, (up[1] + down[1]) / 2
    dx, dy = down[0] - up[0], down[1] - up[1]
    long = float(np.hypot(dx, dy)) or 1.0
    ux, uy = dx / long * 32, dy / long * 32
    return {
        "up": up,
        "down": down,
        "mid": mid,
        "beyond-up": (up[0] - ux, up[1] - uy),
        "beyond-down": (down[0] + ux, down[1] + uy),
    }


def handles(
    picture: Picture, hand: PipeHandle | None, cursor: float | None, sight: SectionSight
) -> Composed:
    """Marks of the live layer, and the rings as targets, those in front first."""
    marks: list[Mark] = []
    targets: list[Target] = []
    if cursor is not None and sight.left <= sight.x_of(cursor) <= sight.width:
        x = sight.x_of(cursor)
        marks.append(Stroke("cursor", points((x, 0), (x, sight.height))))
    reach = _reach(picture, hand)
    if hand is None or reach is None:
        return Composed(marks, targets, [])
    f = picture.facts.pipes[hand.pipe]
    places = ring_places(f, reach, sight)
    marks += _rings(hand, places)
    order = [hand.ring] if hand.ring in places else []
    names = [
        *order,
        *(n for n in ("down", "up", "mid", "beyond-down", "beyond-up") if n not in order),
    ]
    targets += [
        Target("ring", n, points(places[n]), 10.0 if n.startswith("beyond") else 11.0)
        for n in names
    ]
    return Composed(marks, targets, [])


def rim_rings(
    picture: Picture, hot: StructureId | None, dragging: bool, snap: str, sight: SectionSight
) -> Composed:
    """A ring at each rim that stands at a fixed level; the one under the cursor or in hand
    swells. On-surface rims have none.
    """
    marks: list[Mark] = []
    targets: list[Target] = []
    for key, at in picture.run.structures if picture.run is not None else ():
        p = picture.facts.places[key]
        if p.rim is None or p.rim_from != "fixed":
            continue
        x, y = sight.x_of(at), sight.y_of(p.rim)
        if not (sight.left < x < sight.width and -10 < y < sight.height):
            continue
        if key == hot:
            marks += [
                Disc("halo", x, y, 13.0),
                Disc("field", x, y, 7.0 if dragging else 6.0, "ring-hand"),
            ]
            if snap:
                marks += _snap_mark(x, y)
        else:
            marks.append(Disc("field", x, y, 5.0, "ring"))
        targets.append(Target("rim", key, points((x, y)), 11.0))
    return Composed(marks, targets, [])


def lit_place(
    picture: Picture, lit: tuple[PipeId, End] | None, sight: SectionSight
) -> tuple[float, float] | None:
    """The drawing place of the end of a pipe whose field has the keyboard; None where the run
    has no such pipe.
    """
    reach = (
        None
        if lit is None or picture.run is None
        else next((r for r in picture.run.reaches if r.pipe == lit[0]), None)
    )
    return (
        None
        if lit is None or reach is None
        else ring_places(picture.facts.pipes[lit[0]], reach, sight)[lit[1]]
    )


def lit_end(picture: Picture, lit: tuple[PipeId, End] | None, sight: SectionSight) -> list[Mark]:
    """The end of a pipe whose field has the keyboard."""
    at = lit_place(picture, lit, sight)
    if at is None:
        return []
    x, y = at
    return [Disc("halo", x, y, 15.0), Disc("field", x, y, 6.0, "ring-hand")]


def legal_band(picture: Picture, hand: PipeHandle | None, sight: SectionSight) -> list[Mark]:
    """The legal band of the pipe in hand, drawn under its barrel; nothing where none is in hand
    or it is not shown.
    """
    reach = _reach(picture, hand)
    if hand is None or reach is None or "legal" not in picture.shows:
        return []
    f = picture.facts.pipes[hand.pipe]
    return list(_band(picture, f, hand, ring_places(f, reach, sight), sight))


def _reach(picture: Picture, hand: PipeHandle | None) -> Reach | None:
    if hand is None or picture.run is None or hand.pipe not in picture.facts.pipes:
        return None
    return next((r for r in picture.run.reaches if r.pipe == hand.pipe), None)


def _rings(hand: PipeHandle, places: dict[str, tuple[float, float]]) -> Iterator[Mark]:
    for name, end in (("beyond-up", "up"), ("beyond-down", "down")):
        yield Stroke("stalk", points(places[end], places[name]))
        yield Disc("field", *places[name], 4.0, "ring")
    for name in ("mid", "up", "down"):
        if hand.ring == name:
            continue
        yield Disc("field", *places[name], 5.0, "ring")
        if name == hand.pivot:
            yield Segments("ring", cross(*places[name], 3.2))
    if hand.ring in places:
        x, y = places[hand.ring]
        yield Disc("halo", x, y, 13.0)
        yield Disc("field", x, y, 7.0 if hand.dragging else 6.0, "ring-hand")
        if hand.snap is not None:
            yield from _snap_mark(x, y)


def _snap_mark(x: float, y: float) -> Iterator[Mark]:
    yield Stroke(
        "snap", np.column_stack([x + 9.5 * np.cos(_TURN), y + 9.5 * np.sin(_TURN)]), closed=True
    )
    ticks = [
        (x + 9.5 * c, y + 9.5 * s, x + 14 * c, y + 14 * s)
        for c, s in ((1, 0), (-1, 0), (0, 1), (0, -1))
    ]
    yield Segments("snap", np.array(ticks))


_TURN = np.linspace(0, 2 * np.pi, 25)[:-1]


def _band(
    picture: Picture,
    f: PipeFacts,
    hand: PipeHandle,
    places: dict[str, tuple[float, float]],
    sight: SectionSight,
) -> Iterator[Mark]:
    """The zone for the invert between the bounds of the moving end, drawn from the pivot end; each
    bound has the name of its rule.
    """
    moving: End = "down" if hand.pivot == "up" else "up"
    allowed = end_range(picture.facts, f, moving)
    if allowed.empty:
        x, y = places[moving]
        yield Text("breach-small", "no level here keeps every rule", x + 14, y + 30, plate=True)
        return
    x, _ = places[moving]
    low = sight.y_of(allowed.low) if allowed.low is not None else sight.height
    high = sight.y_of(allowed.high) if allowed.high is not None else 0.0
    yield Fill("legal", points(places[hand.pivot], (x, high), (x, low)), "legal")
    away = 25.0 if x < places[hand.pivot][0] else -25.0
    yield Stroke("gauge", points((x + away, high), (x + away, low)))
    yield Segments("gauge-bar", np.array([(x + away - 5, v, x + away + 5, v) for v in (high, low)]))
    if abs(low - high) > 16:
        beside = x + away + (9 if away > 0 else -9)
        yield Text(
            "legal",
            "legal",
            beside,
            (low + high) / 2 + 4,
            "left" if away > 0 else "right",
            plate=True,
        )
    yield from _edge_names(picture, f, allowed, places[hand.pivot], (x, high), (x, low))


def _edge_names(
    picture: Picture,
    f: PipeFacts,
    allowed: Range,
    pivot: tuple[float, float],
    high: tuple[float, float],
    low: tuple[float, float],
) -> Iterator[Mark]:
    for rule, end, below in ((allowed.low_rule, low, 1), (allowed.high_rule, high, -1)):
        if rule is None or abs(end[0] - pivot[0]) < 150 or abs(low[1] - high[1]) < 26:
            continue
        a, b = (end, pivot) if end[0] < pivot[0] else (pivot, end)
        angle = float(np.degrees(np.arctan2(b[1] - a[1], b[0] - a[0])))
        share = 0.42 if end[0] < pivot[0] else 0.58
        x, y = a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share
        yield Text(
            "legal",
            limit_words(picture, f, rule),
            x,
            y + (14 if below > 0 else -6),
            "middle",
            angle,
        )


def limit_words(picture: Picture, f: PipeFacts, name: str) -> str:
    """A bound in words: "Greatest slope 8.00 %"."""
    rule, u = rule_of(name), picture.facts.units
    if rule.of != "pipe" or not rule.limit:
        return rule.title
    return (
        f"{rule.title} "
        f"{written(u, rule.limit, pipe_limit(picture.facts.project, f.pipe, f.dn, rule.limit))}"
    )
