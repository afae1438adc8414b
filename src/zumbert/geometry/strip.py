"""A road strip as a triangulated surface: carriageway, kerbs and verges along an alignment at the levels of a profile."""

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Array
from zumbert.geometry.profile import Profile
from zumbert.geometry.tin import Tin

KERB_FACE = 0.001  # m: a kerb rises over this width, since a surface has one level at a place
SAGITTA = 0.005  # m: no chord leaves its arc by more, at the outer edge
LEVEL_ERROR = 0.001  # m: no face leaves the strip as it is defined by more (a test compares them)


class StripAt(Struct, frozen=True, kw_only=True):
    """The cross-section of a strip from a chainage (m) on; between two it changes evenly.

    Crossfalls are fractions, negative where they fall outward.
    """

    chainage: float = 0.0  # m
    left: float  # m from the alignment to the left kerb
    right: float  # m
    crossfall_left: float = -0.025
    crossfall_right: float = -0.025
    kerb: float = 0.0  # m, upstand at both kerbs
    verge: float = 0.0  # m behind each kerb
    verge_crossfall: float = 0.02


class StripTins(NamedTuple):
    """The design surface of a strip, and the formation under its carriageway."""

    design: Tin
    formation: Tin


def at_chainages(sections: Sequence[StripAt], ch: Array) -> dict[str, Array]:
    """The fields of the cross-section at chainages: even between sections, constant beyond the first and last."""
    known = np.array([s.chainage for s in sections])
    names = [f for f in StripAt.__struct_fields__ if f != "chainage"]
    return {n: np.interp(ch, known, [getattr(s, n) for s in sections]) for n in names}


def strip_levels(profile: Profile, sections: Sequence[StripAt], ch: Array, off: Array) -> Array:
    """Levels (m) as the strip is defined, at chainages and offsets; NaN beyond verges and profile.

    level(ch) + crossfall |off| on the carriageway; behind the kerb its upstand is added, and the verge's crossfall.
    """
    s = at_chainages(sections, ch)
    half = np.where(off < 0, s["left"], s["right"])
    crossfall = np.where(off < 0, s["crossfall_left"], s["crossfall_right"])
    out, paved = np.abs(off), np.minimum(np.abs(off), half)
    behind = out > half
    z = profile.level(ch) + crossfall * paved + behind * (s["kerb"] + s["verge_crossfall"] * (out - half))
    return np.asarray(np.where(out <= half + s["verge"] + 1e-9, z, np.nan))


def strip_tins(alignment: Alignment, profile: Profile, sections: Sequence[StripAt], depth: float) -> StripTins:
    """The strip as triangles; the formation lies `depth` (m) under the carriageway, from kerb to kerb.

    Cross-sections stand so near to each other that chords leave arcs by 5 mm at most, and that no level is off by
    more than 1 mm. Raises ValueError where alignment and profile have no chainage in common.
    """
    ch = _stations(alignment, profile, sections)
    s = at_chainages(sections, ch)
    z = profile.level(ch)
    columns: list[tuple[Array, Array]] = []
    for side, half, fall in ((-1.0, s["left"], s["crossfall_left"]), (1.0, s["right"], s["crossfall_right"])):
        edge = z + fall * half
        face = np.minimum(KERB_FACE, s["verge"])
        top = edge + np.where(s["verge"] > 0, s["kerb"], 0.0)
        outer = (side * (half + s["verge"]), top + s["verge_crossfall"] * s["verge"])
        rows = [(side * half, edge), (side * (half + face), top + s["verge_crossfall"] * face), outer]
        columns += rows[::-1] if side < 0 else rows
    design = [*columns[:3], (np.zeros_like(ch), z), *columns[3:]]
    formation = [(off, level - depth) for off, level in design[2:5]]
    return StripTins(_woven(alignment, ch, design), _woven(alignment, ch, formation))


def _woven(alignment: Alignment, ch: Array, columns: list[tuple[Array, Array]]) -> Tin:
    n, m = len(ch), len(columns)
    xyz = np.empty((n, m, 3))
    for j, (off, level) in enumerate(columns):
        xyz[:, j, 0], xyz[:, j, 1] = alignment.point(ch, off)
        xyz[:, j, 2] = level
    number = np.arange(n * m).reshape(n, m)
    a, b, c, d = number[:-1, :-1], number[:-1, 1:], number[1:, 1:], number[1:, :-1]
    faces = np.stack([np.stack([a, b, c], -1), np.stack([a, c, d], -1)], axis=2).reshape(-1, 3)
    return Tin(xyz.reshape(-1, 3), faces)


def _stations(alignment: Alignment, profile: Profile, sections: Sequence[StripAt]) -> Array:
    """Chainages of the cross-sections."""
    low, high = max(alignment.start, profile.start), min(alignment.end, profile.end)
    if not high - low > 1e-3:
        raise ValueError("its alignment and its profile have no chainage in common")
    curve_ends = np.concatenate([profile.ch - profile.before, profile.ch + profile.beyond])
    known = np.array([s.chainage for s in sections])
    breaks = np.unique(np.round(np.concatenate([[low, high], alignment.breaks, profile.ch, curve_ends, known]), 9))
    breaks = breaks[(breaks >= low) & (breaks <= high)]
    out = [breaks[:1]]
    for a, b in pairwise(breaks.tolist()):
        parts = int(np.ceil((b - a) / _step(alignment, profile, sections, a, b)))
        out.append(np.linspace(a, b, parts + 1)[1:])
    return np.concatenate(out)


def _step(alignment: Alignment, profile: Profile, sections: Sequence[StripAt], a: float, b: float) -> float:
    """The longest step (m) between two breaks that keeps within the errors."""
    inner = np.linspace(a, b, 9)[1:-1]
    s = at_chainages(sections, np.array([a, b]))
    wide = float(max((s["left"] + s["verge"]).max(), (s["right"] + s["verge"]).max()))
    turned = np.abs(np.diff(np.unwrap(alignment.bearing(inner))))
    bend = float(turned.max() / (inner[1] - inner[0]))
    step = b - a
    if bend > 1e-9:  # chord c on the outer radius r + wide leaves it by c²/8r
        outer = 1 / bend + wide
        step = min(step, float(np.sqrt(8 * outer * SAGITTA)) * (1 / bend) / outer)
    grades = profile.grade(inner)
    climb = bend * wide * float(np.abs(grades).max())
    if climb > 1e-9:  # a face between sections of unequal lengths leaves the even climb by an eighth of it
        step = min(step, 3 * LEVEL_ERROR / climb)
    curve = float(np.abs(np.diff(grades)).max() / (inner[1] - inner[0]))
    if curve > 1e-12:  # a chord leaves a parabola by k c²/8
        step = min(step, float(np.sqrt(8 * LEVEL_ERROR / 4 / curve)))
    rise = max(
        abs(float(np.diff(s[k] * s[w])[0]))
        for k, w in (("crossfall_left", "left"), ("crossfall_right", "right"), ("verge_crossfall", "verge"))
    ) + abs(float(np.diff(s["kerb"])[0]))
    widening = max(abs(float(np.diff(s[k])[0])) for k in ("left", "right", "verge"))
    if rise + widening > 1e-9:  # a twisted face leaves the even change by a quarter of it
        step = min(step, (b - a) * max(0.002, min(1.0, LEVEL_ERROR / (rise + 0.05 * widening + 1e-12))))
    return max(step, 0.02)
