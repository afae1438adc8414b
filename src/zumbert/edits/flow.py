"""The likely flow direction between two structures."""

from typing import NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.analysis.links import downstream
from zumbert.model.catalogue import ENDS
from zumbert.model.ids import StructureId


class Flow(NamedTuple):
    """The flow between two structures, and the reason."""

    up: StructureId
    down: StructureId
    why: str


def sensible(facts: Facts, a: StructureId, b: StructureId) -> Flow:
    """The flow between two structures, the same whichever is named first, but for a tie: then from
    the first.

    In turn: to where water ends; not round in a ring; from a gully; from a head to what drains on;
    down the rims.
    """
    project = facts.project
    both = ((a, b), (b, a))

    def label(key: StructureId) -> str:
        return project.structures[key].label

    def ends(key: StructureId) -> bool:
        return (
            project.structures[key].outfall
            or project.types[project.structures[key].type].kind in ENDS
        )

    for up, down in both:
        if ends(down) and not ends(up):
            return Flow(up, down, f"water ends at {label(down)}")
    for up, down in both:
        if down in downstream(project, facts.links, up):
            return Flow(up, down, f"{label(up)} drains to {label(down)} already")
    for up, down in both:
        if _is_gully(facts, up) and not _is_gully(facts, down):
            return Flow(up, down, f"{label(up)} is a gully")
    for up, down in both:
        if not facts.links.outlets.get(up) and facts.links.outlets.get(down):
            return Flow(up, down, f"{label(up)} has no outlet yet")
    high, low = (facts.places[k].rim for k in (a, b))
    if high is not None and low is not None and high < low:
        return Flow(b, a, f"the ground falls from {label(b)}")
    why = (
        f"the ground falls from {label(a)}"
        if high is not None and low is not None and high > low
        else "as they were clicked"
    )
    return Flow(a, b, why)


def _is_gully(facts: Facts, key: StructureId) -> bool:
    return facts.project.types[facts.project.structures[key].type].kind == "gully"
