"""Water in the drawings: how full pipes run, areas with where they drain to, the key of what the
tints mean.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from zumbert.analysis.areas import AreaFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.flowfacts import PipeFlow
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import Disc, Fill, Mark, Segments, Stroke, Target, Text, points
from zumbert.drawing.picture import Picture, RunPicture
from zumbert.drawing.plan import axes_in_sight
from zumbert.drawing.sectionpipes import barrel_ends
from zumbert.drawing.sight import PlanSight, SectionSight
from zumbert.drawing.strokes import strokes
from zumbert.drawing.style import text_width
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.model.display import Units
from zumbert.model.ids import AreaId

NAMED = 46.0  # drawing units: an area has its name where it is as wide


class Fullness(NamedTuple):
    """A band of how full pipes are, design flow over full-bore flow up to a share."""

    upto: float
    role: str
    words: str


FULLNESS: tuple[Fullness, ...] = (
    Fullness(0.5, "flow-half", "to 0.50"), Fullness(0.8, "flow-most", "to 0.80"),
    Fullness(1.0, "flow-near", "to 1.00"),
    Fullness(np.inf, "flow-over", "over 1.00"),
)  # fmt: skip


def fullness(flow: PipeFlow) -> Fullness:
    """The band of a pipe; one that does not fall takes nothing."""
    used = np.inf if flow.used is None and flow.flow > 0 else flow.used or 0.0
    return next(b for b in FULLNESS if used <= b.upto + 1e-9)


def tints(picture: Picture, sight: PlanSight) -> list[Mark]:
    """A tint along each pipe by how full it is, and a small square on one whose size is held."""
    facts = picture.facts
    marks: list[Mark] = []
    for key, xy in axes_in_sight(facts, sight).items():
        flow = facts.pipe_flow.get(key)
        if flow is not None and flow.flow > 0:
            marks += strokes(fullness(flow).role, xy)
        if facts.project.pipes[key].hold_size:  # its size stays: a small square
            x, y = xy[len(xy) // 2 - 1 : len(xy) // 2 + 1].mean(axis=0).tolist()
            if x == x:
                marks.append(
                    Fill(
                        "ink",
                        points((x - 3, y - 3), (x + 3, y - 3), (x + 3, y + 3), (x - 3, y + 3)),
                    )
                )
    return marks


def tint_key(facts: Facts, right: float, bottom: float) -> list[Mark]:
    """The key of tints and washes, its lower right corner at a place; nothing where there is
    neither flow nor area.
    """
    kinds = list(dict.fromkeys(f.area.kind for f in facts.areas.values() if f.ring is not None))
    bands = FULLNESS if facts.pipe_flow else ()
    if not bands and not kinds:
        return []
    head = "Flow over full bore" if bands else "Areas"
    words = [head, *(f"{'':8}{w}" for w in (*(b.words for b in bands), *kinds))]
    wide = max(text_width(w, "small") + (44 if w is not head else 0) for w in words) + 16
    tall = 20.0 + 16.0 * (len(bands) + len(kinds))
    x, y = right - wide, bottom - tall
    marks: list[Mark] = [Fill("plate", points((x, y), (right, y), (right, bottom), (x, bottom)))]
    marks.append(Text("small", head, x + 8, y + 14))
    for i, b in enumerate(bands):
        at = y + 26 + 16 * i
        marks.append(Stroke(b.role, points((x + 8, at), (x + 40, at))))
        marks.append(Text("small", b.words, x + 48, at + 4))
    for i, kind in enumerate(kinds, len(bands)):
        at = y + 26 + 16 * i
        ring = points((x + 8, at - 5), (x + 40, at - 5), (x + 40, at + 5), (x + 8, at + 5))
        marks += [
            Fill(area_role(facts, kind), ring),
            Stroke("area-edge", ring, closed=True),
            Text("small", kind, x + 48, at + 4),
        ]
    return marks


def water(picture: RunPicture, sight: SectionSight) -> Iterator[Mark]:
    """The water in the barrels of a long section, as deep as the design flow runs in each."""
    for reach in picture.run.reaches:
        flow, f = picture.facts.pipe_flow.get(reach.pipe), picture.facts.pipes[reach.pipe]
        if flow is None or flow.flow <= 0:
            continue
        a, b, ia, ib = barrel_ends(f, reach)
        x0, x1 = sight.x_of(a), sight.x_of(b)
        if max(x0, x1) < sight.left or min(x0, x1) > sight.width:
            continue
        deep = flow.depth_ratio * f.inside
        over = flow.used is None or flow.used > 1
        yield Fill(
            "water-over" if over else "water",
            points(
                (x0, sight.y_of(ia + deep)),
                (x1, sight.y_of(ib + deep)),
                (x1, sight.y_of(ib)),
                (x0, sight.y_of(ia)),
            ),
        )


# -- areas -----------------------------------------------------------------------------------------


def area_role(facts: Facts, kind: str) -> str:
    """The wash of a kind: those of the project's table in turn."""
    kinds = [k.name for k in facts.project.area_kinds]
    return f"area-{kinds.index(kind) % WASHES + 1}" if kind in kinds else "area-1"


WASHES = 6


@kept(1)
def _middle(f: AreaFacts) -> tuple[float, float]:
    import shapely

    at = shapely.polygons(f.ring).representative_point()
    return float(at.x), float(at.y)


def washes(facts: Facts, sight: PlanSight, labels: Labels) -> Iterator[Mark]:
    """Areas as light washes by kind with a line to the structure that each drains to, broken
    where there is none.
    """
    for f in facts.areas.values():
        if f.ring is None or len(f.ring) < 3:
            continue
        xy = sight.to_drawing(f.ring)
        ok = ~np.isnan(xy).any(axis=1)
        if ok.sum() < 3 or not _in_sight(xy[ok], sight):
            continue
        yield Fill(area_role(facts, f.area.kind), xy[ok])
        yield Stroke(
            "area-edge" if f.area.structure is not None else "area-loose", xy[ok], closed=True
        )
        [[x, y]] = sight.to_drawing(np.array([_middle(f)])).tolist()
        if x != x:
            continue  # its middle is not in the straightened plan
        place = facts.places.get(f.area.structure) if f.area.structure is not None else None
        if place is not None and place.x is not None:
            [[sx, sy]] = sight.to_drawing(np.array([(place.x, place.y)])).tolist()
            if sx == sx:
                yield Segments("area-edge", np.array([(x, y, sx, sy)]))
                yield Disc("field", x, y, 2.5, "area-edge")
        low, high = xy[ok].min(axis=0), xy[ok].max(axis=0)
        if high[0] - low[0] > max(NAMED, text_width(f.area.name, "small") + 8):
            labels.put("small", f.area.name, [(x, y - 6, "middle"), (x, y + 14, "middle")])


def _in_sight(xy: Array, sight: PlanSight) -> bool:
    low, high = xy.min(axis=0), xy.max(axis=0)
    return bool(high[0] > 0 and high[1] > 0 and low[0] < sight.width and low[1] < sight.height)


def area_targets(facts: Facts, sight: PlanSight) -> list[Target]:
    """The targets of areas: the middle of each."""
    out = []
    for key, f in facts.areas.items():
        if f.ring is not None and len(f.ring) > 2:
            at = sight.to_drawing(np.array([_middle(f)]))
            if not np.isnan(at).any():
                out.append(Target("area", key, at, 12.0))
    return out


def area_at(facts: Facts, x: float, y: float) -> AreaId | None:
    """The smallest area that holds a place (m)."""
    import shapely

    at = shapely.points(x, y)
    best: tuple[float, AreaId] | None = None
    for key, f in facts.areas.items():
        if f.ring is None or len(f.ring) < 3 or (best is not None and f.size >= best[0]):
            continue
        (x0, y0), (x1, y1) = f.ring.min(axis=0).tolist(), f.ring.max(axis=0).tolist()
        if (
            x0 <= x <= x1
            and y0 <= y <= y1
            and shapely.make_valid(shapely.polygons(f.ring)).covers(at)
        ):
            best = f.size, key
    return None if best is None else best[1]


def area_halo(facts: Facts, key: AreaId, sight: PlanSight) -> list[Mark]:
    """The outline of an area that is selected."""
    f = facts.areas.get(key)
    if f is None or f.ring is None or not len(f.ring):
        return []
    return list(strokes("halo-wide", sight.to_drawing(np.vstack([f.ring, f.ring[:1]]))))


# -- the part-full curve ---------------------------------------------------------------------------


def part_full_curve(flow: PipeFlow, u: Units, wide: float, tall: float) -> Iterator[Mark]:
    """Flow and velocity over their full-bore values against depth over diameter, with the point
    in use.
    """
    left, top, right, bottom = 34.0, 10.0, wide - 12.0, tall - 26.0
    most = 1.2

    def at(share: float, ratio: float) -> tuple[float, float]:
        return left + share / most * (right - left), bottom - ratio * (bottom - top)

    for ratio in (0.0, 0.25, 0.5, 0.75, 1.0):
        yield Segments("grid-major", np.array([(left, at(0, ratio)[1], right, at(0, ratio)[1])]))
        yield Text("small", u.ratio(ratio), left - 5, at(0, ratio)[1] + 4, "right")
    for share in (0.0, 0.5, 1.0):
        yield Segments("grid-major", np.array([(at(share, 0)[0], top, at(share, 0)[0], bottom)]))
        yield Text("small", u.ratio(share), at(share, 0)[0], bottom + 14, "middle")
    t = np.linspace(0.0, 2 * np.pi, 121)[1:]
    cut = t - np.sin(t)
    ratios = (np.sin(t / 4) ** 2).tolist()
    for role, shares in (
        ("storm", cut ** (5 / 3) / (2 * np.pi * t ** (2 / 3))),
        ("design", (cut / t) ** (2 / 3)),
    ):
        yield Stroke(
            role, np.array([at(s, r) for s, r in zip(shares.tolist(), ratios, strict=True)])
        )
    yield Text("storm", "Q", at(0.55, 0.0)[0], at(0, 0.44)[1], "middle", plate=True)
    yield Text("design", "V", at(0.74, 0.0)[0], at(0, 0.2)[1], "middle", plate=True)
    if flow.used is not None and flow.flow > 0:
        over = flow.used > 1
        x, y = at(min(flow.used, most), flow.depth_ratio)
        yield Segments("dimension", np.array([(left, y, x, y), (x, y, x, bottom)]))
        yield Disc("breach" if over else "storm", x, y, 4.0, "ink-thin")
