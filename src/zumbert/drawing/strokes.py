"""A line that may have gaps as strokes."""

from collections.abc import Iterator

import numpy as np

from zumbert.drawing.marks import Mark, Stroke
from zumbert.geometry.elements import Array


def strokes(role: str, xy: Array) -> Iterator[Mark]:
    """The parts of a line between places that are not in sight."""
    ok = np.asarray(~np.isnan(xy).any(axis=1))
    for part in np.split(np.arange(len(xy)), np.flatnonzero(np.diff(ok.astype(int))) + 1):
        if len(part) > 1 and ok[part[0]]:
            yield Stroke(role, xy[part])
