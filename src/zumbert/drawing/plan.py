"""The network in plan, over ground and roads. Straightened or not, the same marks."""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.probe import within
from zumbert.analysis.spans import Span
from zumbert.drawing.labels import Box, Labels
from zumbert.drawing.marks import Disc, Fill, Mark, Segments, Target, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.pins import pin_lines, pin_marks, words_target
from zumbert.drawing.planlabels import always_label, middle_of, place_labels
from zumbert.drawing.planpipes import far_pipes, pipe_finding, pipe_marks
from zumbert.drawing.planstructures import severity_sign, structure_marks, turned
from zumbert.drawing.sight import PlanSight, StraightSight
from zumbert.drawing.strokes import strokes
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.note import Pin

POINTS = 13  # along a straight pipe where the plan is straightened


class PlanMarks(NamedTuple):
    """The network in plan: marks, what can be hit in it, and whose labels found a place."""

    marks: list[Mark]
    targets: list[Target]
    named: frozenset[str]


def network(
    picture: Picture,
    sight: PlanSight,
    taken: Sequence[Box] = (),
    only: frozenset[str] | None = None,
    without: frozenset[str] = frozenset(),
    under: Labels | None = None,
) -> PlanMarks:
    """Pipes, structures and findings; with what can be hit, nearest to the eye first. Labels keep
    off boxes that are taken, and off those of what lies under.

    With `only` nothing but the pipes and structures named is drawn, and nothing that is named in
    `without`.
    """
    marks: list[Mark] = []
    targets: list[Target] = []
    seen = _in_sight(picture.facts, sight, only, without)
    lines = _axes(picture.facts, seen.pipes, sight)
    marks += far_pipes(picture, lines, sight)
    for key, xy in lines.items():
        marks += pipe_marks(picture, picture.facts.pipes[key], xy, sight)
        if not np.isnan(xy).any():
            targets.append(Target("pipe", key, xy, 7.0))
    for key in seen.pipes:
        for finding in picture.found(key):
            marks += pipe_finding(picture, finding, picture.facts.pipes[key], lines[key], sight)
    for at, (x, y) in seen.structures.items():
        marks += structure_marks(picture, at, x, y, sight)
        targets.append(Target("structure", at, points((x, y)), _hit_radius(picture.facts, at)))
    labels = Labels(taken, under, plates=True)
    for m in marks:
        if isinstance(m, Fill) and m.role == "breach":  # labels keep off the notches
            (x0, y0), (x1, y1) = m.xy.min(axis=0).tolist(), m.xy.max(axis=0).tolist()
            if x0 == x0:
                labels.block((x0 - 2, y0 - 2, x1 + 2, y1 + 2))
    for at, (x, y) in seen.structures.items():
        sign = list(severity_sign(picture.worst(at), x, y - 7))
        marks += sign
        labels.block((x - 5, y - 5, x + 5, y + 5))
        if sign:
            labels.block((x - 7, y - 18, x + 7, y - 7))
    placed = place_labels(picture, seen.structures, lines, sight, labels)
    pins = _pin_places(picture.facts, seen.pipes, sight)
    for pin, (x, y) in pins:
        f = picture.facts.pipes[pin.pipe]
        before = len(labels.texts)
        marks += pin_marks(pin_lines(f, picture.facts, pin), x, y, labels, False)
        targets.append(words_target(pin.id, labels.texts[before:]))
        targets.append(Target("pin", pin.id, points((x, y)), 9.0))
    order = sorted([*targets, *placed.targets], key=lambda t: t.kind != "structure")
    return PlanMarks(marks + placed.leaders + list(labels.texts), order, frozenset(placed.named))


def halos(picture: Picture, sight: PlanSight) -> list[Mark]:
    """The pale halo under what is selected."""
    marks: list[Mark] = []
    facts = picture.facts
    seen = _in_sight(facts, sight, frozenset([*picture.pipes, *picture.structures]), frozenset())
    if len(seen.pipes) + len(seen.structures) > MANY:
        lines = [np.hstack([xy[:-1], xy[1:]]) for xy in _axes(facts, seen.pipes, sight).values()]
        lines += [np.array([(x - 1.0, y, x + 1.0, y)]) for x, y in seen.structures.values()]
        return [Segments("halo-many", (every := np.vstack(lines))[~np.isnan(every).any(axis=1)])]
    for xy in _axes(facts, seen.pipes, sight).values():
        marks += strokes("halo", xy)
    for key, (x, y) in seen.structures.items():
        gully = facts.project.types[facts.project.structures[key].type].kind == "gully"
        marks.append(Disc("halo", x, y, 9.0 if gully else 12.0))
    pin = facts.project.pins.get(picture.pin) if picture.pin is not None else None
    if pin is not None:
        marks += [
            Disc("halo", x, y, 9.0) for _, (x, y) in _pin_places(facts, [pin.pipe], sight, pin)
        ]
    return marks


# selected things: of more the halos are one plain mark, and labels that found no place stay away
MANY = 100


def end_place(
    facts: Facts, lit: tuple[PipeId, str] | None, sight: PlanSight
) -> tuple[float, float]:
    """The drawing place of the end of a pipe whose field has the keyboard; NaN where there is
    none.
    """
    if lit is None or lit[0] not in facts.spans:
        return np.nan, np.nan
    span = facts.spans[lit[0]]
    at = span.reach_up if lit[1] == "up" else span.length - span.reach_down
    x, y = sight.to_drawing(np.array([span.point(at)], float))[0].tolist()
    return x, y


def end_lit(facts: Facts, lit: tuple[PipeId, str] | None, sight: PlanSight) -> list[Mark]:
    """The end of a pipe whose field has the keyboard."""
    x, y = end_place(facts, lit, sight)
    return [Disc("halo", x, y, 15.0), Disc("field", x, y, 6.0, "ring-hand")] if x == x else []


def lifted(
    picture: Picture, sight: PlanSight, hover: str | None, named: frozenset[str]
) -> list[Mark]:
    """The top layer: the structure under the cursor, enlarged, and labels that found no place."""
    facts = picture.facts
    keys = frozenset([*picture.structures, *([hover] if hover is not None else [])])
    marks: list[Mark] = []
    for key, (x, y) in _in_sight(facts, sight, keys, frozenset()).structures.items():
        if key == hover:
            marks.append(Disc("field", x, y, 9.0, "ring-hand"))
            marks += structure_marks(picture, key, x, y, sight)
            marks += severity_sign(picture.worst(key), x, y - 7)
        if key not in named and len(keys) <= MANY:
            marks += always_label(facts, key, (x, y))
    return marks


def _pin_places(
    facts: Facts, pipes: Sequence[PipeId], sight: PlanSight, only: Pin | None = None
) -> Iterator[tuple[Pin, tuple[float, float]]]:
    """The levels that are pinned to the pipes in sight (or one of them only), and where."""
    pins = facts.project.pins.values() if only is None else [only]
    shown = set(pipes) if pins else set()
    for pin in pins:
        if pin.pipe not in shown:
            continue
        f = facts.pipes[pin.pipe]
        x, y = sight.to_drawing(np.array([f.span.point(within(f, pin.at))]))[0].tolist()
        if x == x:
            yield pin, (x, y)


class _Seen:
    """The part of the network that is in sight."""

    def __init__(self) -> None:
        self.pipes: list[PipeId] = []
        self.structures: dict[StructureId, tuple[float, float]] = {}


def _in_sight(
    facts: Facts, sight: PlanSight, only: frozenset[str] | None, without: frozenset[str]
) -> _Seen:
    out = _Seen()
    wanted = facts.places if only is None else _with_ends(facts, only)
    keys = [k for k in wanted if facts.places[k].x is not None]
    if not keys:
        return out
    world = np.array([(facts.places[k].x, facts.places[k].y) for k in keys], float)
    xy = sight.to_drawing(world)
    wide, tall = sight.width + 20, sight.height + 20
    at = dict(zip(keys, xy.tolist(), strict=True))
    out.structures = {
        k: (x, y)
        for k, (x, y) in at.items()
        if -20 < x < wide and -20 < y < tall and k not in without and (only is None or k in only)
    }
    pipes = facts.project.pipes
    for key in (
        pipes if only is None else (k for k in pipes if k in only)
    ):  # the first in the project has its label first
        p = pipes[key]
        if p.up in at and p.down in at and key not in without:
            (x0, y0), (x1, y1) = at[p.up], at[p.down]
            # an end that the straightened plan does not hold, or an arc: look at the pipe itself
            whole = x0 != x0 or x1 != x1 or p.through is not None
            if whole or (
                max(x0, x1) > -20
                and min(x0, x1) < wide
                and max(y0, y1) > -20
                and min(y0, y1) < tall
            ):
                out.pipes.append(p.id)
    return out


def _with_ends(facts: Facts, only: frozenset[str]) -> list[StructureId]:
    """The structures among some things, and those at the ends of the pipes among them."""
    pipes = facts.project.pipes
    wanted = {*only, *(e for k in only if k in pipes for e in (pipes[k].up, pipes[k].down))}  # type: ignore[index]
    return [k for k in facts.places if k in wanted]


def _axes(facts: Facts, keys: Sequence[PipeId], sight: PlanSight) -> dict[PipeId, Array]:
    """Axes from inner wall to inner wall; on a map those of straight pipes together."""
    curved = (
        [k for k in keys if facts.spans[k].arc is not None]
        if hasattr(sight, "turn")
        else list(keys)
    )
    straight = keys if not curved else [k for k in keys if k not in set(curved)]
    out: dict[PipeId, Array] = {}
    if straight:
        spans = [facts.spans[k] for k in straight]
        ends = np.array([(s.up.x, s.up.y, s.down.x, s.down.y) for s in spans], float)
        size = np.array([(s.length, s.reach_up, s.length - s.reach_down) for s in spans])
        none = (size[:, 2] <= size[:, 1])[:, None]  # chambers that meet: centre to centre
        at = np.where(none, np.array([0.0, 1.0]), size[:, 1:] / np.maximum(size[:, :1], 1e-9))
        world = ends[:, None, :2] + at[:, :, None] * (ends[:, None, 2:] - ends[:, None, :2])
        out = dict(
            zip(straight, sight.to_drawing(world.reshape(-1, 2)).reshape(-1, 2, 2), strict=True)
        )
    if curved and isinstance(sight, StraightSight):
        found = _along_line([facts.spans[k] for k in curved], sight.line)
        cuts = np.cumsum([len(ch) for ch, _ in found])[:-1]
        at = sight.placed(*(np.concatenate(part) for part in zip(*found, strict=True)))
        out |= dict(zip(curved, np.split(at, cuts), strict=True))
    else:
        out |= {k: _drawn_axis(facts.spans[k], sight) for k in curved}
    return out


def axes_in_sight(facts: Facts, sight: PlanSight) -> dict[PipeId, Array]:
    """The axes (drawing units) of the pipes that are in sight."""
    return _axes(facts, _in_sight(facts, sight, None, frozenset()).pipes, sight)


def label_base(facts: Facts, key: StructureId | PipeId, sight: PlanSight) -> tuple[float, float]:
    """The drawing place from which a label moved by hand is told: a structure's, or the middle
    of a pipe's axis.
    """
    if key in facts.places:
        p = facts.places[StructureId(key)]
        x, y = sight.to_drawing(np.array([(p.x, p.y)], float))[0].tolist()
        return x, y
    pipe = PipeId(key)
    return middle_of(_axes(facts, [pipe], sight)[pipe])


Along = tuple[Array, Array]  # chainages and offsets, m
KEPT = 20_000  # pipes whose places along a line are remembered; then all are forgotten


@kept(1)
def _kept(line: Alignment) -> dict[Span, Along]:
    """Where pipes lie along a line, as far as it was asked for."""
    return {}


def _along_line(spans: Sequence[Span], line: Alignment) -> list[Along]:
    """Chainages and offsets of places along the axes of pipes: a straight one bends where the plan
    is straightened. They are projected together and remembered, whatever the scale.
    """
    kept = _kept(line)
    if len(kept) > KEPT:
        kept.clear()
    new = [s for s in dict.fromkeys(spans) if s not in kept]
    if new:
        axes = _straight_axes(new)
        cuts = np.cumsum([len(a) for a in axes])[:-1]
        xy = np.vstack(axes)
        ch, off = line.project(xy[:, 0], xy[:, 1])
        kept.update(
            zip(new, zip(np.split(ch, cuts), np.split(off, cuts), strict=True), strict=True)
        )
    return [kept[s] for s in spans]


def _straight_axes(spans: Sequence[Span]) -> list[Array]:
    """Places (m) along the axes of pipes, those of straight ones made together."""
    ends = np.array([(s.up.x, s.up.y, s.down.x, s.down.y) for s in spans], float)
    size = np.array([(s.length, s.reach_up, s.length - s.reach_down) for s in spans])
    none = (size[:, 2] <= size[:, 1])[:, None]  # chambers that meet: centre to centre
    share = np.where(none, np.array([0.0, 1.0]), size[:, 1:] / np.maximum(size[:, :1], 1e-9))
    t = share[:, :1] + (share[:, 1:] - share[:, :1]) * np.linspace(0.0, 1.0, POINTS)
    at = ends[:, None, :2] + t[:, :, None] * (ends[:, None, 2:] - ends[:, None, :2])
    return [xy if s.arc is None else _axis(s) for s, xy in zip(spans, at, strict=True)]


@kept(2)
def _drawn_axis(span: Span, sight: PlanSight) -> Array:
    return sight.to_drawing(_axis(span))


def _axis(span: Span) -> Array:
    """Places (m) along the axis of a pipe, from inner wall to inner wall."""
    a, b = span.reach_up, span.length - span.reach_down
    if b <= a:
        a, b = 0.0, span.length
    n = POINTS if span.arc is None else 2 * POINTS - 1
    return span.points(np.linspace(a, b, n))


def _hit_radius(facts: Facts, key: StructureId) -> float:
    kind = facts.project.types[facts.project.structures[key].type].kind
    return 10.0 if kind == "gully" else 14.0


# -- over the plan ---------------------------------------------------------------------------------


def north_arrow(
    sight: PlanSight, x: float, y: float, at: tuple[float, float] | None = None
) -> Iterator[Mark]:
    """A needle in a ring; where the plan is straightened it tells north at the cursor."""
    turn = sight.north(*(at or (sight.width / 2, sight.height / 2)))
    yield Disc("chrome", x, y, 13.0, "pill")
    needle = points((0, -8), (4, 6), (0, 3), (-4, 6))
    yield Fill("ink", turned(needle, x, y, turn))
