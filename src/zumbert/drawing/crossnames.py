"""Names and dimensions in a cross-section."""

from collections.abc import Iterator, Sequence

import numpy as np

from zumbert.analysis.crosssection import CrossSection, Cut
from zumbert.analysis.digs import Dig
from zumbert.analysis.trench import Trenches
from zumbert.drawing.labels import Labels, text_box
from zumbert.drawing.marks import Anchor, Fill, Mark, Segments, Stroke, Text, points, texts_in
from zumbert.drawing.sight import SectionSight
from zumbert.geometry.elements import Array
from zumbert.geometry.line import level_at
from zumbert.model.display import Units, number

STROKE = 4.5  # of the 45 degree ends of a dimension


NAMES = 150.0  # drawing units of room for the names at the right


def stratum_names(cut: CrossSection, sight: SectionSight, under: Sequence[Mark]) -> list[Text]:
    """The name of each stratum, at the right where it can be, clear of all texts that are there."""
    labels = Labels([text_box(t) for t in texts_in(under)])
    for i, (name, _) in enumerate(cut.strata):
        labels.put(
            "strong",
            name.capitalize(),
            [p for x in (sight.width - 12, sight.left + 100) for p in in_stratum(cut, sight, i, x)],
        )
    return labels.texts


def line_names(cut: CrossSection, sight: SectionSight) -> Iterator[Mark]:
    """The names of the lines, each over its own line, where no other line or name is near."""
    lines = [
        (cut.design, "design", "Design"),
        (cut.ground, "ground", "Ground"),
        (cut.formation, "design", "Formation"),
    ]
    taken: list[tuple[float, float]] = []
    for line, role, name in lines:
        if line is None:
            continue
        for x in np.linspace(
            sight.left + 10, sight.left + (sight.width - sight.left) * 0.4, 24
        ).tolist():
            ys = [
                sight.y_of(float(level_at(o, sight.s_at(x + 24))))
                for o, _, _ in lines
                if o is not None
            ]
            y = sight.y_of(float(level_at(line, sight.s_at(x + 24)))) - 6
            near = any(abs(y - t) < 14 and abs(x - at) < 74 for at, t in taken)
            if y != y or near or any(y - 12 < other < y + 2 for other in ys):
                continue
            taken.append((x, y))
            yield Text(role, name, x, y, "left", plate=True)
            break


def dimension(a: tuple[float, float], b: tuple[float, float], foot: float = 5.0) -> Iterator[Mark]:
    """A dimension line between two places, with strokes at its ends."""
    yield Segments("dimension", np.array([(*a, *b)]))
    s = STROKE
    yield Segments("dimension", np.array([(x - s, y + s, x + s, y - s) for x, y in (a, b)]))


def dimensions(cut: Cut, sight: SectionSight, u: Units) -> Iterator[Mark]:
    """Bottom width, and depth at the left and the right edge."""
    bottom = sight.y_of(cut.bottom)
    feet = cut.outline[np.abs(cut.outline[:, 1] - cut.bottom) < 1e-6]
    half = float(np.abs(feet[:, 0]).max()) if len(feet) else 0.5
    a, b = sight.x_of(-half), sight.x_of(half)
    yield Segments(
        "dimension", np.array([(a, bottom + 3, a, bottom + 25), (b, bottom + 3, b, bottom + 25)])
    )
    yield from dimension((a, bottom + 20), (b, bottom + 20))
    yield Text("strong", u.length(2 * half), (a + b) / 2, bottom + 16, "middle", plate=True)
    for x, z, deep, side in (
        (*cut.outline[0].tolist(), cut.left, -1),
        (*cut.outline[-1].tolist(), cut.right, 1),
    ):
        px, top = sight.x_of(x) + side * 18, sight.y_of(z)
        foot = a if side < 0 else b
        yield Segments(
            "dimension",
            np.array(
                [
                    (foot + side * 3, bottom, px + side * 5, bottom),
                    (px - side * 14, top, px + side * 5, top),
                ]
            ),
        )
        yield from dimension((px, top), (px, bottom))
        text = u.length(deep)
        yield Text(
            "strong",
            text,
            px + side * 8,
            (top + bottom) / 2,
            "right" if side < 0 else "left",
            plate=True,
        )


def name_marks(
    dug: Trenches, cut: CrossSection, trench: Cut, dig: Dig, sight: SectionSight, u: Units
) -> Iterator[Mark]:
    """The names of the parts, at the right, each with a line to it."""
    size, f = dig.size, dug.facts.pipes[cut.pipe]
    centre = cut.invert + f.inside / 2
    rows: list[tuple[float, float, str]] = []
    if size.batter > 0 and trench.right > size.vertical_height:
        z = (
            trench.bottom
            + size.vertical_height
            + 0.35 * max(0.0, trench.right - size.vertical_height)
        )
        z = min(z, trench.bottom + trench.right)
        rows.append(
            (
                float(np.interp(z, *side_of(trench.outline, 1))),
                z,
                f"{number(size.batter, 2).rstrip('0').rstrip('.')} out per 1 up",
            )
        )
    if size.surround is not None and trench.right > size.bedding + dig.outside / 2:
        rows.append(
            (
                dig.width * 0.42,
                trench.bottom + dig.top_of_surround - 0.06,
                f"Surround, {u.length(size.surround)} over pipe",
            )
        )
    rows.append((dig.outside / 2, centre, f"{u.dn(f.dn)}, outside {u.length(dig.outside, 1)}"))
    rows.append(
        (dig.width * 0.42, trench.bottom + size.bedding / 2, f"Bedding {u.length(size.bedding)}")
    )
    edge = sight.x_of(float(trench.outline[-1, 0])) + 62
    if edge + NAMES > sight.width:
        return
    x = min(max(edge, sight.x_of(dig.width / 2) + 110), sight.width - NAMES)
    last = -np.inf
    for out, z, text in rows:
        px, py = sight.x_of(out), sight.y_of(z)
        y = max(py, last + 19)
        last = y
        yield Stroke("leader", points((px, py), (px + 22, y), (x - 6, y)))
        yield Fill(
            "ink", points((px - 2, py - 2), (px + 2, py - 2), (px + 2, py + 2), (px - 2, py + 2))
        )
        yield Text("ink", text, x, y + 4, "left", plate=True)


def in_stratum(
    cut: CrossSection, sight: SectionSight, i: int, x: float
) -> list[tuple[float, float, Anchor]]:
    """Places in a stratum for a text that ends at x, the best first; none where it is too thin."""
    u = float(np.clip(sight.s_at(x - 30), -cut.half, cut.half))
    z = float(level_at(cut.strata[i][1], u))
    lower = float(level_at(cut.strata[i + 1][1], u)) if i + 1 < len(cut.strata) else -np.inf
    y0, y1 = sight.y_of(z), min(sight.height, sight.y_of(max(lower, sight.z)))
    if z != z or y1 - y0 <= 11:
        return []
    best = min(y0 + (y1 - y0) / 2 + 4, y0 + 40)
    return [
        (x, y, "right")
        for y in [
            best,
            *sorted(np.arange(y0 + 12, y1 - 3, 6.0).tolist(), key=lambda y: abs(y - best)),
        ]
    ]


def side_of(outline: Array, sign: int) -> tuple[Array, Array]:
    """Levels and distances out of one side, rising."""
    side = outline[outline[:, 0] * sign > 0]
    side = side[np.argsort(side[:, 1], kind="stable")]
    return side[:, 1], np.abs(side[:, 0])
