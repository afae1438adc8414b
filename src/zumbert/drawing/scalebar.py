"""A scale bar of a round length, in two halves: of plans, and along long sections."""

from collections.abc import Iterator

from zumbert.drawing.marks import Fill, Mark, Text, points
from zumbert.drawing.style import text_width
from zumbert.model.display import METRIC, Units

BAR = 60.0  # drawing units: the least length of a half
STEPS = tuple(a * 10.0**n for n in range(-1, 7) for a in (1, 2, 5))


def half_length(scale: float, least: float = BAR) -> float:
    """The least round length whose bar is no shorter than so many drawing units, at a scale in
    units a length.
    """
    return next((s for s in STEPS if s * scale >= least), STEPS[-1])


def scale_bar(
    scale: float, x: float, y: float, units: Units = METRIC, plate: bool = False
) -> Iterator[Mark]:
    """The bar from a place to the right, at so many drawing units a metre; with a plate on a
    clear ground.
    """
    step = half_length(scale * units.metres)
    wide = step * scale * units.metres
    if plate:
        end = x + 2 * wide + text_width(f"{2 * step:g} {units.m}", "ink") / 2 + 4
        yield Fill("plate", points((x - 7, y - 18), (end, y - 18), (end, y + 7), (x - 7, y + 7)))
    yield Fill("ink", points((x, y), (x + wide, y), (x + wide, y + 4), (x, y + 4)))
    yield Fill(
        "field",
        points((x + wide, y), (x + 2 * wide, y), (x + 2 * wide, y + 4), (x + wide, y + 4)),
        "ink-thin",
    )
    yield Text("ink", "0", x, y - 4, "middle")
    yield Text("ink", f"{step:g}", x + wide, y - 4, "middle")
    yield Text("ink", f"{2 * step:g} {units.m}", x + 2 * wide, y - 4, "middle")
