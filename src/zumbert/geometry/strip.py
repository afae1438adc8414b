"""A road strip as a triangulated surface: carriageway, kerbs and verges along an alignment at
the levels of a profile.
"""

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from zumbert.geometry.alignment import CORNER, Alignment
from zumbert.geometry.elements import Array, Element
from zumbert.geometry.profile import Profile
from zumbert.geometry.tin import Tin

KERB_FACE = 0.001  # m: a kerb rises over this width, since a surface has one level at a place
SAGITTA = 0.005  # m: no chord leaves its arc by more, at the outer edge
SAME = 1e-6  # m: breaks nearer than this are one
STEEPEST = np.radians(80)  # half a turn: of a sharper corner no more is cut
FAN = np.radians(
    6
)  # between the cross-sections that turn about a corner: the chord leaves an arc of 4 m by 5 mm
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
    """The fields of the cross-section at chainages: even between sections, constant beyond the
    first and last.
    """
    known = np.array([s.chainage for s in sections])
    names = [f for f in StripAt.__struct_fields__ if f != "chainage"]
    return {n: np.interp(ch, known, [getattr(s, n) for s in sections]) for n in names}


def strip_tins(
    alignment: Alignment, profile: Profile, sections: Sequence[StripAt], depth: float
) -> StripTins:
    """The strip as triangles; the formation lies `depth` (m) under the carriageway, from kerb to
    kerb.

    Cross-sections stand so near to each other that chords leave arcs by 5 mm at most, and that no
    level is off by more than 1 mm. At a corner without radius each side ends square to its own
    straight: outside the corner itself is the foot of all places between the two, inside the
    straights meet on the bisector. Raises ValueError where alignment and profile have no chainage
    in common.
    """
    rows = _rows(alignment, _stations(alignment, profile, sections))
    wide = len(_columns(profile, sections, rows[0].ch))
    xyz = np.empty((sum(len(r.ch) for r in rows), wide, 3))
    n = 0
    for r in rows:
        plain = _columns(profile, sections, r.ch)
        for j, (off, level) in enumerate(plain):
            ch = np.clip(
                r.ch,
                r.start + np.abs(off) * r.shorter_before(off),
                r.end - np.abs(off) * r.shorter_after(off),
            )
            ch = np.where(r.fan, r.ch, ch)
            if (ch != r.ch).any():
                off, level = _columns(profile, sections, ch)[j]
            x, y = r.point(ch, off)
            xyz[n : n + len(ch), j] = np.column_stack([x, y, level])
        n += len(r.ch)
    lower = xyz[:, 2:5] - np.array([0.0, 0.0, depth])
    return StripTins(_woven(xyz), _woven(lower))


def _columns(profile: Profile, sections: Sequence[StripAt], ch: Array) -> list[tuple[Array, Array]]:
    """Offsets and levels (m) of the seven lines of the strip, from the left edge to the right,
    at chainages.
    """
    s = at_chainages(sections, ch)
    z = profile.level(ch)
    columns: list[tuple[Array, Array]] = []
    for side, half, fall in (
        (-1.0, s["left"], s["crossfall_left"]),
        (1.0, s["right"], s["crossfall_right"]),
    ):
        edge = z + fall * half
        face = np.minimum(KERB_FACE, s["verge"])
        top = edge + np.where(s["verge"] > 0, s["kerb"], 0.0)
        outer = (side * (half + s["verge"]), top + s["verge_crossfall"] * s["verge"])
        rows = [
            (side * half, edge),
            (side * (half + face), top + s["verge_crossfall"] * face),
            outer,
        ]
        columns += rows[::-1] if side < 0 else rows
    return [*columns[:3], (np.zeros_like(ch), z), *columns[3:]]


class _Rows(Struct, frozen=True, kw_only=True, eq=False):
    """Cross-sections along one element, or (fan) those that turn about a corner."""

    element: Element
    begin: float  # chainage of the element's beginning, m
    ch: Array  # chainages of the cross-sections
    start: float  # m: where the element's own strip begins and ends
    end: float
    before: float = 0.0  # half the turn at its beginning, radians, positive to the right
    after: float = 0.0
    fan: bool = False
    turned: Array = np.zeros(0)  # radians of each cross-section of a fan, from the element's end

    def shorter_before(self, off: Array) -> Array:
        """By how much a line at an offset begins later, m a metre of offset: inside a corner
        alone.
        """
        return np.asarray(np.where(off * self.before > 0, np.tan(abs(self.before)), 0.0))

    def shorter_after(self, off: Array) -> Array:
        """The same at the end."""
        return np.asarray(np.where(off * self.after > 0, np.tan(abs(self.after)), 0.0))

    def point(self, ch: Array, off: Array) -> tuple[Array, Array]:
        """X and y of places on the cross-sections."""
        if not self.fan:
            return self.element.point(ch - self.begin, off)
        long = self.element.length
        x, y = self.element.point(np.full_like(ch, long), np.zeros_like(ch))
        turn = float(self.element.bearing(np.array(long)))
        bearing = turn + self.turned + np.pi / 2
        inside = off * self.after > 0  # on the bisector, where the straights meet
        reach = np.where(inside, off / np.cos(self.after), off)
        bearing = np.where(inside, turn + self.after + np.pi / 2, bearing)
        return x + reach * np.sin(bearing), y + reach * np.cos(bearing)


def _rows(alignment: Alignment, ch: Array) -> list[_Rows]:
    """The cross-sections of each element, and fans at corners."""
    breaks, out = alignment.breaks, list[_Rows]()
    halves = [0.0]
    for one, other in pairwise(alignment.elements):
        turn = float(other.bearing(np.array(0.0)) - one.bearing(np.array(one.length)))
        turn = (turn + np.pi) % (2 * np.pi) - np.pi
        halves.append(float(np.clip(turn / 2, -STEEPEST, STEEPEST)) if abs(turn) > CORNER else 0.0)
    halves.append(0.0)
    for i, element in enumerate(alignment.elements):
        a, b = float(breaks[i]), float(breaks[i + 1])
        own = ch[(ch >= a - SAME) & (ch <= b + SAME)]
        if len(own) < 2:
            continue
        out.append(
            _Rows(
                element=element,
                begin=a,
                ch=own,
                start=a,
                end=b,
                before=halves[i],
                after=halves[i + 1],
            )
        )
        if halves[i + 1] and own[-1] >= b - SAME and ch[-1] > b + SAME:
            turned = np.linspace(0.0, 2 * halves[i + 1], 2 + int(abs(2 * halves[i + 1]) / FAN))[
                1:-1
            ]
            out.append(
                _Rows(
                    element=element,
                    begin=a,
                    ch=np.full(len(turned), b),
                    start=a,
                    end=b,
                    after=halves[i + 1],
                    fan=True,
                    turned=turned,
                )
            )
    return [r for r in out if len(r.ch)]


def _woven(xyz: Array) -> Tin:
    n, m = xyz.shape[:2]
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
    every = np.unique(np.concatenate([alignment.breaks, profile.ch, curve_ends, known]))
    inner = every[(every > low + SAME) & (every < high - SAME)]
    inner = inner[np.concatenate([[True], np.diff(inner) > SAME])] if len(inner) else inner
    breaks = np.concatenate(
        [[low], inner, [high]]
    )  # the ends themselves: a rounded one would lie beyond them
    out = [breaks[:1]]
    for a, b in pairwise(breaks.tolist()):
        parts = int(np.ceil((b - a) / _step(alignment, profile, sections, a, b)))
        out.append(np.linspace(a, b, parts + 1)[1:])
    return np.concatenate(out)


def _step(
    alignment: Alignment, profile: Profile, sections: Sequence[StripAt], a: float, b: float
) -> float:
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
    # a face between sections of unequal lengths leaves the even climb by an eighth of it
    if climb > 1e-9:
        step = min(step, 3 * LEVEL_ERROR / climb)
    curve = float(np.abs(np.diff(grades)).max() / (inner[1] - inner[0]))
    if curve > 1e-12:  # a chord leaves a parabola by k c²/8
        step = min(step, float(np.sqrt(8 * LEVEL_ERROR / 4 / curve)))
    rise = max(
        abs(float(np.diff(s[k] * s[w])[0]))
        for k, w in (
            ("crossfall_left", "left"),
            ("crossfall_right", "right"),
            ("verge_crossfall", "verge"),
        )
    ) + abs(float(np.diff(s["kerb"])[0]))
    widening = max(abs(float(np.diff(s[k])[0])) for k in ("left", "right", "verge"))
    if rise + widening > 1e-9:  # a twisted face leaves the even change by a quarter of it
        step = min(
            step, (b - a) * max(0.002, min(1.0, LEVEL_ERROR / (rise + 0.05 * widening + 1e-12)))
        )
    return max(step, 0.02)
