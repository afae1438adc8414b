"""Kinds of ground beside and under roads: carriageway, verge and field, as the road strips have
them.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import ArrayLike

from zumbert.analysis.roads import RoadFacts
from zumbert.geometry.strip import at_chainages
from zumbert.model.ids import RoadId

KINDS = ("carriageway", "verge", "field")


def kinds_at(roads: Mapping[RoadId, RoadFacts], x: ArrayLike, y: ArrayLike) -> np.ndarray:
    """The numbers of the kinds of ground at points. Where strips overlap a carriageway counts
    before a verge.
    """
    px, py = np.asarray(x, float), np.asarray(y, float)
    best = np.full(px.shape, len(KINDS) - 1)
    for r in roads.values():
        if r.road.strip is None:
            continue
        ch, off, _ = r.alignment.foot(px, py)
        at = at_chainages(r.road.strip.sections, np.nan_to_num(ch))
        half, out = np.where(off < 0, at["left"], at["right"]), np.abs(off)
        known = ~np.isnan(ch)
        best = np.where(known & (out <= half + at["verge"]), np.minimum(best, 1), best)
        best = np.where(known & (out <= half), 0, best)
    return best
