"""A cross-section of a trench: ground and strata, the trench with bedding, surround and pipe,
its dimensions and names.
"""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.crosssection import CrossSection, Cut, PitCut, floor_line, half_needed
from zumbert.analysis.digs import Dig
from zumbert.analysis.trench import Trenches
from zumbert.drawing.crossnames import (
    dimension,
    dimensions,
    line_names,
    name_marks,
    side_of,
    stratum_names,
)
from zumbert.drawing.hatches import hatch, pattern_of
from zumbert.drawing.marks import Fill, Mark, Segments, Stroke, Text, points
from zumbert.drawing.sectionground import solid_parts
from zumbert.drawing.sight import SectionSight
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, level_at
from zumbert.model.display import Units, number

AXIS = 84.0  # drawing units: the gutter with the levels


def crosssection_marks(dug: Trenches, cut: CrossSection, sight: SectionSight) -> list[Mark]:
    """All of a cross-section, the lowest first."""
    u = dug.facts.units
    t = dug.pipes[cut.pipe]
    marks: list[Mark] = [Fill("paper", _box(sight))]
    marks += _strata(dug, cut, sight)
    marks += _lines(cut, sight, u)
    if t.dig is not None:
        marks += _fill_first(dug, cut, t.dig, sight)
    if cut.trench is not None and t.dig is not None:
        marks += _bands(dug, cut, sight, u)
        marks += _trench(cut, cut.trench, t.dig, sight)
    if cut.pit is not None:
        marks += _pit(cut, cut.pit, sight, u)
    marks += _pipe(dug, cut, sight)
    if cut.trench is not None and t.dig is not None:
        marks += dimensions(cut.trench, sight, u)
        marks += name_marks(dug, cut, cut.trench, t.dig, sight, u)
    marks += stratum_names(cut, sight, marks)
    marks += _axis(sight, u)
    return marks


def levels_shown(dug: Trenches, cut: CrossSection) -> tuple[float, float]:
    """The lowest and highest level that a cross-section should show, m above datum."""
    t = dug.pipes[cut.pipe]
    low = (
        cut.pit.bottom
        if cut.pit is not None
        else cut.invert - 0.3
        if cut.trench is None
        else cut.trench.bottom
    )
    highs, half = [cut.invert + t.pipe.inside], half_needed(t)
    for line in (cut.ground, cut.design):
        if line is not None:
            near = np.concatenate(
                [
                    line.z[np.abs(line.s) <= half],
                    level_at(line, np.clip([-half, 0.0, half], *line.s[[0, -1]])),
                ]
            )
            highs += near[~np.isnan(near)].tolist()
    return low, max(highs)


def _box(sight: SectionSight) -> Array:
    return points(
        (sight.left, 0), (sight.width, 0), (sight.width, sight.height), (sight.left, sight.height)
    )


def _xy(line: Line, sight: SectionSight) -> list[Array]:
    return [np.column_stack([sight.px(s), sight.py(z)]) for s, z in solid_parts(line)]


def _strata(dug: Trenches, cut: CrossSection, sight: SectionSight) -> Iterator[Mark]:
    """Each stratum from its top down, with its pattern and its name at the right."""
    outline = None if cut.trench is None else cut.trench.outline
    for i, (name, top) in enumerate(cut.strata):
        pattern = pattern_of(name, i)
        for part in solid_parts(top):
            xy = np.column_stack([sight.px(part[0]), sight.py(part[1])])
            yield Fill(
                f"stratum-{pattern}",
                np.vstack([xy, [(xy[-1, 0], sight.height), (xy[0, 0], sight.height)]]),
            )
    for i, (name, top) in enumerate(cut.strata):
        under = cut.strata[i + 1][1] if i + 1 < len(cut.strata) else None

        def inside(x: Array, y: Array, top: Line = top, under: Line | None = under) -> np.ndarray:
            u = sight.x + (x - sight.left) / sight.sx
            z = sight.z + (sight.height - y) / sight.sz
            held = z < level_at(top, np.clip(u, top.s[0], top.s[-1]))
            if under is not None:
                lower = level_at(under, np.clip(u, under.s[0], under.s[-1]))
                held &= ~(z < np.where(np.isnan(lower), -np.inf, lower))
            if outline is not None:
                held &= ~_within(outline, u, z)
            return np.asarray(held & (u > top.s[0]) & (u < top.s[-1]))

        yield hatch(pattern_of(name, i), (sight.left, 0, sight.width, sight.height), inside)
        if i:
            yield from (Stroke("stratum", xy) for xy in _xy(top, sight))


def _within(outline: Array, u: Array, z: Array) -> np.ndarray:
    """Whether places lie in the trench: between its sides, over its floor."""
    bottom = outline[:, 1].min()
    out = np.array([np.interp(z, *side_of(outline, k)) for k in (-1, 1)])
    return np.asarray((z > bottom) & (u > -out[0]) & (u < out[1]))


def _lines(cut: CrossSection, sight: SectionSight, u: Units) -> Iterator[Mark]:
    for line, role in (
        (cut.formation, "formation"),
        (cut.design, "design"),
        (cut.ground, "ground-cross"),
    ):
        if line is not None:
            yield from (Stroke(role, xy) for xy in _xy(line, sight))
    yield from line_names(cut, sight)


def _pit(cut: CrossSection, pit: PitCut, sight: SectionSight, u: Units) -> Iterator[Mark]:
    """A pit and the chamber in it: walls, base and the room inside."""
    a, b = sight.x_of(pit.begin), sight.x_of(pit.end)
    bottom = sight.y_of(pit.bottom)
    tops = np.array([sight.y_of(pit.rim)] * 2)
    if cut.upper is not None:
        inner = cut.upper.s[(cut.upper.s > pit.begin) & (cut.upper.s < pit.end)]
        at = np.concatenate([[pit.begin], inner, [pit.end]])
        levels = level_at(cut.upper, at)
        if not np.isnan(levels).any():
            ground = np.column_stack([sight.px(at), sight.py(levels)])
            yield Fill("dug", np.vstack([ground, [(b, bottom), (a, bottom)]]))
            tops = ground[[0, -1], 1]
    yield Stroke("trench-outline", points((a, tops[0]), (a, bottom), (b, bottom), (b, tops[1])))
    if pit.chamber is not None:
        c, d = (sight.x_of(v) for v in pit.chamber)
        rim, floor, wall = sight.y_of(pit.rim), sight.y_of(pit.floor), pit.wall * sight.sx
        yield Fill("chamber-wall", points((c, rim), (d, rim), (d, bottom), (c, bottom)), "chamber")
        if d - c > 2 * wall:
            yield Fill(
                "field",
                points((c + wall, rim), (d - wall, rim), (d - wall, floor), (c + wall, floor)),
                "chamber-inner",
            )
    yield from dimension((a, bottom + 14), (b, bottom + 14))
    yield Text(
        "strong", u.length(pit.end - pit.begin), (a + b) / 2, bottom + 30, "middle", plate=True
    )


def _fill_first(dug: Trenches, cut: CrossSection, dig: Dig, sight: SectionSight) -> Iterator[Mark]:
    """The fill before the trench is dug: from the ground up to the crown, where that lies
    over it.
    """
    t = dug.pipes[cut.pipe]
    if cut.upper is None or not t.begin <= cut.s <= t.end:
        return
    crown, half = t.bottom(cut.s) + dig.size.bedding + dig.outside, dig.width / 2
    inner = cut.upper.s[(cut.upper.s > -half) & (cut.upper.s < half)]
    u = np.concatenate([[-half], inner, [half]])
    ground = level_at(cut.upper, u)
    if np.isnan(ground).any() or level_at(cut.upper, 0.0) >= crown:
        return
    low = np.column_stack([sight.px(u), sight.py(np.minimum(ground, crown))])
    y = sight.y_of(crown)
    yield Fill("fill-first", np.vstack([low, [(low[-1, 0], y), (low[0, 0], y)]]), "fill-first")
    yield Text(
        "caution-small", "Fill first, up to the crown", sight.x_of(0.0), y - 8, "middle", plate=True
    )


def _bands(dug: Trenches, cut: CrossSection, sight: SectionSight, u: Units) -> Iterator[Mark]:
    """The depths under the upper surface at which the bands of the quantities begin."""
    if cut.upper is None or cut.trench is None:
        return
    for d in dug.facts.project.digging.bands[1:]:
        if level_at(cut.upper, 0.0) - d < cut.trench.bottom:
            continue
        for xy in _xy(Line(cut.upper.s, cut.upper.z - d), sight):
            yield Stroke("depth-band", xy)
            yield Text(
                "small",
                f"{u.length(d)} {u.m} deep",
                xy[0, 0] + 96,
                float(np.interp(xy[0, 0] + 96, *xy.T)) - 4,
                "left",
                plate=True,
            )


def _trench(cut: CrossSection, trench: Cut, dig: Dig, sight: SectionSight) -> Iterator[Mark]:
    xy = np.column_stack([sight.px(trench.outline[:, 0]), sight.py(trench.outline[:, 1])])
    top = xy
    if cut.upper is not None:
        a, b = trench.outline[0, 0], trench.outline[-1, 0]
        inner = cut.upper.s[(cut.upper.s > a) & (cut.upper.s < b)][::-1]
        ground = np.column_stack([sight.px(inner), sight.py(level_at(cut.upper, inner))])
        top = np.vstack([xy, ground])
    yield Fill("dug", top)
    top_of_surround = 0.0 if dig.size.surround is None else dig.top_of_surround
    for low, high, role in (
        (0.0, dig.size.bedding, "bedding"),
        (dig.size.bedding, top_of_surround, "surround"),
    ):
        if high > low:
            shape = _slice(dig, trench, low, high)
            yield Fill(
                role, np.column_stack([sight.px(shape[:, 0]), sight.py(shape[:, 1])]), "bedding"
            )
            yield _stones(shape, sight)
    yield Stroke("trench-outline", xy)


def _slice(dig: Dig, trench: Cut, low: float, high: float) -> Array:
    """The part of a trench between two heights over its bottom, as deep as it is."""
    tall = float(trench.outline[:, 1].max()) - trench.bottom
    high = min(high, tall)
    side = floor_line(dig, max(tall, high) + 0.01)
    between = side[(side[:, 1] > low) & (side[:, 1] < high)]
    ends = [(float(np.interp(h, side[:, 1], side[:, 0])), h) for h in (low, high)]
    right = np.add([ends[0], *between.tolist(), ends[1]], (0.0, trench.bottom))
    return np.concatenate([right, right[::-1] * [-1.0, 1.0]])


def _stones(shape: Array, sight: SectionSight) -> Segments:
    low, high = shape[:, 1].min(), shape[:, 1].max()

    def inside(x: Array, y: Array) -> np.ndarray:
        u = sight.x + (x - sight.left) / sight.sx
        z = sight.z + (sight.height - y) / sight.sz
        out = np.interp(z, *side_of(shape, 1))
        return np.asarray((z > low) & (z < high) & (np.abs(u) < out))

    wide = float(np.abs(shape[:, 0]).max())
    return hatch(
        "stones", (sight.x_of(-wide), sight.y_of(high), sight.x_of(wide), sight.y_of(low)), inside
    )


def _pipe(dug: Trenches, cut: CrossSection, sight: SectionSight) -> Iterator[Mark]:
    f = dug.facts.pipes[cut.pipe]
    water = f.pipe.service
    centre = cut.invert + f.inside / 2
    turn = np.linspace(0, 2 * np.pi, 49)
    for radius, part, edge in (
        (f.inside / 2 + f.wall, "wall", "outside"),
        (f.inside / 2, "bore", "inside"),
    ):
        ring = np.column_stack(
            [sight.px(radius * np.cos(turn)), sight.py(centre + radius * np.sin(turn))]
        )
        yield Fill(f"{water}-{part}", ring, f"{water}-{edge}")
    x, y = sight.x_of(0.0), sight.y_of(centre)
    yield Segments("ink-thin", np.array([(x - 5, y, x + 5, y), (x, y - 5, x, y + 5)]))


def _axis(sight: SectionSight, u: Units) -> Iterator[Mark]:
    """The levels at the left."""
    yield Fill(
        "paper", points((0, 0), (sight.left, 0), (sight.left, sight.height), (0, sight.height))
    )
    one = u.metres
    step = one * next((s for s in (0.1, 0.2, 0.5, 1.0, 2.0, 5.0) if s * one * sight.sz >= 24), 10.0)
    for z in np.arange(
        np.ceil(sight.z_at(sight.height - 6) / step) * step, sight.z_at(34.0), step
    ).tolist():
        y = sight.y_of(z)
        yield Text("axis", number(u.shown(z), 1), sight.left - 9, y + 4, "right")
        yield Stroke("axis", points((sight.left - 5, y), (sight.left, y)))
    yield Stroke("axis", points((sight.left, 0), (sight.left, sight.height)))
