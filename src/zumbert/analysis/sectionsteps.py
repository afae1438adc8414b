"""Where the cross-sections of the trenches along a run stand, and which of them a place on the
run is.
"""

from itertools import pairwise
from typing import NamedTuple

import numpy as np

from zumbert.analysis.digs import trench_type
from zumbert.analysis.facts import Facts
from zumbert.analysis.roads import nearest
from zumbert.analysis.runline import Run
from zumbert.analysis.trench import Trenches
from zumbert.model.ids import PipeId


class SectionPlace(NamedTuple):
    """A place of a cross-section."""

    pipe: PipeId
    s: float  # m along the pipe
    run: float  # m along the run


def place_on(dug: Trenches, run: Run, at: float) -> SectionPlace | None:
    """The pipe that a place on a run lies on, and where; None beside all of them."""
    for reach in run.reaches:
        low, high = sorted((reach.up, reach.down))
        if low <= at <= high and high > low and reach.pipe in dug.pipes:
            long = dug.facts.pipes[reach.pipe].span.length
            return SectionPlace(reach.pipe, (at - reach.up) / (reach.down - reach.up) * long, at)
    return None


def where_words(facts: Facts, pipe: PipeId, s: float) -> str:
    """Where a place along a pipe lies: its chainage on the nearest road, else its distance along
    the pipe.
    """
    x, y = facts.spans[pipe].point(s)
    chainage = float(nearest(facts.roads, np.array([x]), np.array([y])).chainage[0])
    u = facts.units
    return u.chainage(chainage) if chainage == chainage else f"{u.length(s)} {u.m}"


def run_distance(dug: Trenches, run: Run, pipe: PipeId, s: float) -> float | None:
    """The place on a run of a distance along one of its pipes; None where the run has not that
    pipe.
    """
    reach = next((r for r in run.reaches if r.pipe == pipe), None)
    if reach is None:
        return None
    long = dug.facts.pipes[pipe].span.length
    return reach.up + (reach.down - reach.up) * (s / long if long else 0.0)


def stops(dug: Trenches, run: Run) -> list[float]:
    """Where sections stand along a run (m), from its beginning on: at the spacing of each
    trench, and at its ends.
    """
    out: list[float] = []
    for reach in run.reaches:
        t = dug.pipes.get(reach.pipe)
        if t is None or t.length <= 1e-9:
            continue
        spacing = trench_type(dug.facts.project, t.pipe.pipe).spacing
        for s in np.append(np.arange(t.begin, t.end - 1e-6, spacing), t.end).tolist():
            at = run_distance(dug, run, reach.pipe, s)
            if at is not None:
                out.append(at)
    out.sort()
    return [a for a, b in pairwise([*out, np.inf]) if b - a > 1e-6]


def next_stop(dug: Trenches, run: Run, at: float | None, forward: bool) -> float | None:
    """The section after a place on a run, or before it; the first or last where there is no
    place yet, None where there is none.
    """
    places = stops(dug, run)
    if not places:
        return None
    if at is None:
        return places[0] if forward else places[-1]
    beyond = [p for p in places if (p > at + 1e-6 if forward else p < at - 1e-6)]
    return None if not beyond else beyond[0] if forward else beyond[-1]
