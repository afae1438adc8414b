"""Paths through a network from one structure to another."""

from heapq import heappop, heappush
from typing import NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.model.ids import PipeId, StructureId


class PathStep(NamedTuple):
    """One pipe of a path; forward where the path follows its flow."""

    pipe: PipeId
    forward: bool
    to: StructureId


def shortest(facts: Facts, a: StructureId, b: StructureId) -> list[PathStep] | None:
    """The shortest way from A to B by plan length, whatever the flow directions; None where there
    is none, or they are one; of two as short the one whose structures come first by label.
    """
    project = facts.project
    best: dict[StructureId, float] = {a: 0.0}
    back: dict[StructureId, tuple[PathStep, StructureId]] = {}  # how each was reached, from where
    queue: list[tuple[float, str, StructureId]] = [(0.0, "", a)]
    done: set[StructureId] = set()
    while queue:
        far, _, here = heappop(queue)
        if here in done:
            continue
        done.add(here)
        for key in facts.links.at(here):
            pipe = project.pipes[key]
            step = PathStep(key, pipe.up == here, pipe.down if pipe.up == here else pipe.up)
            reach = far + facts.pipes[key].span.length
            if step.to not in best or reach < best[step.to]:
                best[step.to], back[step.to] = reach, (step, here)
                heappush(queue, (reach, project.structures[step.to].label, step.to))
    if a == b or b not in best:
        return None
    out: list[PathStep] = []
    at = b
    while at != a:
        step, at = back[at]
        out.append(step)
    return out[::-1]
