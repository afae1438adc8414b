"""Design flow: of 10,000 pipes against one part-full pass over all of them as arrays, after an
edit, and sizing.
"""

from collections.abc import Iterator
from math import log10

import numpy as np
from msgspec.structs import replace

from benchmarks.measure import Figure, median_ms
from benchmarks.networks import network
from zumbert.analysis import analyse
from zumbert.analysis.facts import Facts
from zumbert.analysis.flow import flows
from zumbert.edits.levels import set_invert
from zumbert.edits.sizing import HowToSize, sized
from zumbert.geometry.elements import Array
from zumbert.model.area import Area
from zumbert.model.ids import AreaId, PipeId
from zumbert.model.project import Project
from zumbert.model.rain import Rain


def flowing() -> Iterator[Figure]:
    large = analyse(rained(network(10_000)))
    share = np.random.default_rng(1).uniform(0.02, 0.98, 10_000)
    floor = median_ms(lambda: part_full(share), 9)
    ours = median_ms(lambda: _whole(large), 5)
    yield Figure("flow of 10,000 pipes, against a part-full pass", ours, floor, ours / floor, 25.0)
    small = analyse(rained(network(1_000)))
    tenth = median_ms(lambda: _whole(small), 9)
    yield Figure("the same, exponent from 1k to 10k pipes", ours, tenth, log10(ours / tenth), 1.15)
    chain = rained(network(200, run=200))
    facts = analyse(chain)
    edited = [
        set_invert(
            chain, PipeId("p0-1"), "down", chain.pipes[PipeId("p0-1")].invert_down + 0.001 * i
        )
        for i in range(12)
    ]
    spent = iter(edited * 20)
    ours = median_ms(lambda: analyse(next(spent), facts), 21)
    yield Figure("facts after a level edit at the top of 200 pipes", ours, None, ours, 4.0)
    project = rained(network(2_000))
    facts = analyse(project)
    once = median_ms(lambda: _whole(facts), 7)
    ours = median_ms(lambda: sized(project, facts, HowToSize()), 3)
    yield Figure("sizing 2,000 pipes, against a flow pass", ours, once, ours / once, 40.0)


def rained(project: Project) -> Project:
    """A network with an area at every structure but the ends, and a rain."""
    areas = {
        AreaId(f"a{i}"): Area(
            id=AreaId(f"a{i}"), name=f"A{i}", kind="roof", structure=p.up, size=120.0 + i % 90
        )
        for i, p in enumerate(project.pipes.values())
    }
    return replace(project, areas=areas, rain=Rain())


def _whole(facts: Facts) -> object:
    return flows(facts.project, facts.links, facts.pipes, facts.made["drains"], None)


def part_full(share: Array) -> Array:
    """Angles at which round pipes carry shares of their full flow, all at once: Newton's steps
    on the logarithm of the flow.
    """
    t = np.full_like(share, 3.0)
    want = np.log(share * 2 * np.pi)
    for _ in range(8):
        cut = t - np.sin(t)
        off = 5 / 3 * np.log(cut) - 2 / 3 * np.log(t) - want
        slope = 5 / 3 * (1 - np.cos(t)) / cut - 2 / 3 / t
        t = np.clip(t - off / np.maximum(slope, 0.05), 0.02, 4.6)
    return t
