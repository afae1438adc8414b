"""Where a finding is, in figures and in words."""

from typing import TypedDict

import numpy as np

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.roads import nearest


class PlaceOnPipe(TypedDict):
    """The place of a finding on a pipe, as its fields; None where a value does not exist."""

    distance: float | None
    chainage: float | None
    x: float | None
    y: float | None


class Stand(TypedDict):
    """The place of a finding at a structure."""

    chainage: float | None
    x: float | None
    y: float | None


def pipe_name(facts: Facts, f: PipeFacts) -> str:
    """A pipe by its ends: "S5 to S4"."""
    structures = facts.project.structures
    return f"{structures[f.pipe.up].label} to {structures[f.pipe.down].label}"


def pipe_named(facts: Facts, f: PipeFacts) -> str:
    """The beginning of a sentence about a pipe: "Pipe S5 to S4"."""
    return f"Pipe {pipe_name(facts, f)}"


def chainages(facts: Facts, f: PipeFacts, distances: tuple[float, ...]) -> list[float | None]:
    """Chainages on the nearest road at distances along a pipe; None beyond the roads' ends."""
    xy = f.span.points(np.array(distances))
    found = nearest(facts.roads, xy[:, 0], xy[:, 1]).chainage.tolist()
    return [None if c != c else c for c in found]


def spot(facts: Facts, f: PipeFacts, distance: float | None) -> PlaceOnPipe:
    """The place of a finding on a pipe, as the fields of a Finding; the middle where no distance
    is given.
    """
    at = f.span.length / 2 if distance is None else distance
    x, y = f.span.point(at)
    return {"distance": distance, "chainage": chainages(facts, f, (at,))[0], "x": x, "y": y}


def stand(f: StructureFacts) -> Stand:
    """The place of a finding at a structure, as the fields of a Finding."""
    return {"chainage": f.place.chainage, "x": f.place.x, "y": f.place.y}


def along(facts: Facts, f: PipeFacts, distance: float) -> str:
    """A place on a pipe in words: its chainage, else the distance from its upper end."""
    u = facts.units
    ch = chainages(facts, f, (distance,))[0]
    if ch is not None:
        return f"at {u.chainage(ch, 1)}"
    label = facts.project.structures[f.pipe.up].label
    return f"at {u.long(distance)} from {label}"
