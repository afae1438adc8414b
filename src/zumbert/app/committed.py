"""The parts of the state that stay when the current value changes."""

from typing import Any

from msgspec.structs import replace

from zumbert.app.state import State
from zumbert.app.value import Value
from zumbert.edits.grounditems import record
from zumbert.edits.layoptions import first_way


def what_stays(state: State, v: Value) -> dict[str, Any]:
    """The selection, what is in hand and how a run is laid, without what the value has lost."""
    project = v.project
    pipes = frozenset(p for p in state.chosen.pipes if p in project.pipes)
    hand = (
        state.chosen.hand
        if state.chosen.hand is not None and state.chosen.hand.pipe in pipes
        else None
    )
    if hand is not None:
        hand = replace(hand, pivot=project.pipes[hand.pipe].sole_end_held or hand.pivot)
    way = state.held.way
    if way is not None and (way.type not in project.types or way.size not in project.sizes):
        way = first_way(project)  # the library has lost what it was laid with
    there = state.chosen.item is not None and record(project, state.chosen.item) is not None
    return {
        "pipes": pipes,
        "structures": frozenset(s for s in state.chosen.structures if s in project.structures),
        "hand": hand,
        "sections": tuple(c for c in state.look.sections if c[0] in project.pipes),
        "item": state.chosen.item if there else None,
        "part": state.chosen.part if there else None,
        "way": way,
    }
