"""The reference of cover: the surfaces that the standard names, and under each kind of ground
its own least cover.
"""

from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.groundkinds import KINDS, kinds_at
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.spans import Span
from zumbert.checks.limits import limit_of, standard_of
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, between, filled
from zumbert.model.standard import limit_at, own_limit

STEP = 0.25  # m: a strip of ground narrower than this, along the pipe, may be passed over
# that a step in which the kind of ground changes is parted in, again and again: exact to rounding
PARTS, ROUNDS = 64, 7


class Reference(NamedTuple):
    """A stretch of ground that a pipe lies under, and the cover that it has to have there."""

    line: Line  # levels, m, along the pipe
    limit: float  # m
    # existing, where that is looked at beside or in place of the design; empty: as cover is told
    # everywhere
    surface: str = ""
    kind: str = ""  # carriageway, verge or field, where the standard tells them apart


def references(facts: Facts, f: PipeFacts, name: str) -> list[Reference]:
    """The depth that a limit of cover ("cover_min", "cover_max") requires along a pipe. None where
    nothing is known over it.
    """
    barrel = f.span.barrel
    if barrel is None:
        return []
    standard = standard_of(facts.project, f.pipe)
    own = limit_of(facts.project, f.pipe, name, f.dn)
    lines = list(_surfaces(f.span, barrel, standard.cover_against))
    kinds = {k: getattr(standard, f"cover_{k}") for k in KINDS} if name == "cover_min" else {}
    if own_limit(f.pipe.limits, name) is not None or not any(v is not None for v in kinds.values()):
        return [Reference(line, own, surface) for line, surface in lines]
    out = []
    for a, b, kind in kinds_along(facts, f.span):
        limit = own if kinds[kind] is None else limit_at(kinds[kind], f.dn)
        out += [Reference(between(line, a, b), limit, surface, kind) for line, surface in lines]
    return out


def _surfaces(span: Span, barrel: Line, against: str) -> Iterator[tuple[Line, str]]:
    """The levels that count, wall to wall: the design's, existing ground's, or both."""
    if against != "existing" or span.ground is None:
        yield barrel, ""
    if against != "design" and span.ground is not None:
        ground = between(span.ground, span.reach_up, span.length - span.reach_down)
        yield (
            (ground if ground.solid or against == "both" else filled(ground, barrel)),
            "existing",
        )


def kinds_along(facts: Facts, span: Span) -> list[tuple[float, float, str]]:
    """Stretches of a barrel by what is above it: from and to (m), and carriageway, verge or field,
    told from the road strips.

    Where strips overlap a carriageway counts before a verge.
    """
    a, b = span.reach_up, span.length - span.reach_down
    s = np.linspace(a, b, max(2, int(np.ceil((b - a) / STEP)) + 1))
    kind = _kinds(facts, span, s)
    change = np.flatnonzero(kind[1:] != kind[:-1])
    before = kind[change]
    low, high = s[change], s[change + 1]
    for _ in range(ROUNDS if len(change) else 0):
        at = np.linspace(low, high, PARTS + 1, axis=1)
        other = _kinds(facts, span, at[:, 1:-1].ravel()).reshape(len(at), -1) != before[:, None]
        first = np.where(other.any(axis=1), other.argmax(axis=1), PARTS - 1)
        low, high = (np.take_along_axis(at, (first + i)[:, None], axis=1)[:, 0] for i in (0, 1))
    ends = [a, *((low + high) / 2).tolist(), b]
    return [
        (*stretch, KINDS[k])
        for stretch, k in zip(pairwise(ends), [*before.tolist(), int(kind[-1])], strict=True)
    ]


def _kinds(facts: Facts, span: Span, s: Array) -> np.ndarray:
    """The number of the kind of ground at distances along a pipe."""
    return kinds_at(facts.roads, *span.points(s).T)
