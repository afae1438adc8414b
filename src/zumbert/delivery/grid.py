"""Cells of one size, set out on pages in rows."""

from collections.abc import Sequence
from typing import TypeVar

from zumbert.delivery.paper import Box

T = TypeVar("T")


def cells(box: Box, width: float, height: float, gap: float = 8.0) -> list[Box]:
    """As many cells of at least a size as a box holds, in rows, spread over it; one at least,
    never larger than the box.
    """
    across = max(1, int((box.width + gap) // (width + gap)))
    down = max(1, int((box.height + gap) // (height + gap)))
    wide, tall = (box.width - (across - 1) * gap) / across, (box.height - (down - 1) * gap) / down
    return [
        Box(box.x + i * (wide + gap), box.y + j * (tall + gap), wide, tall)
        for j in range(down)
        for i in range(across)
    ]


def shared(things: Sequence[T], many: int) -> list[tuple[T, ...]]:
    """Things in groups of so many, in their order."""
    return [tuple(things[i : i + many]) for i in range(0, len(things), many)]
