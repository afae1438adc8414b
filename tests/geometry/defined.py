"""Levels of a strip by its definition, to hold its triangles against."""

import numpy as np

from zumbert.geometry.strip import at_chainages


def strip_levels(profile, sections, ch, off):
    """Levels (m) as the strip is defined, at chainages and offsets; NaN beyond verges and profile.

    level(ch) + crossfall |off| on the carriageway; behind the kerb its upstand is added, and the
    verge's crossfall.
    """
    s = at_chainages(sections, ch)
    half = np.where(off < 0, s["left"], s["right"])
    crossfall = np.where(off < 0, s["crossfall_left"], s["crossfall_right"])
    out, paved = np.abs(off), np.minimum(np.abs(off), half)
    behind = out > half
    z = (
        profile.level(ch)
        + crossfall * paved
        + behind * (s["kerb"] + s["verge_crossfall"] * (out - half))
    )
    return np.asarray(np.where(out <= half + s["verge"] + 1e-9, z, np.nan))
