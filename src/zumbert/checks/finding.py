"""A finding: one rule broken at one place."""

from collections.abc import Callable, Iterator
from typing import Any, Literal

from msgspec import Struct

from zumbert.analysis.facts import Facts
from zumbert.model.ids import PipeId, StructureId

Severity = Literal["breach", "caution"]


class Finding(Struct, frozen=True, kw_only=True):
    """What is wrong, where, by how much. Values are SI: m, fractions, degrees."""

    rule: str
    severity: Severity
    pipe: PipeId | None = None  # the pipe that it is about, for rules of pipes
    structure: StructureId | None = None  # the structure where it happens, for rules of structures
    label: str
    distance: float | None = None  # m from the upstream reference point
    chainage: float | None = None  # m on the nearest road
    x: float | None = None
    y: float | None = None
    value: float | None = None
    limit: float | None = None
    message: str
    fixes: tuple[str, ...] = ()  # names of the edits that apply
    stretches: tuple[tuple[float, float], ...] = ()  # where along the pipe it is broken, m
    partner: PipeId | None = None  # the pipe at the structure that would have to change


class Rule(Struct, frozen=True):
    """One rule: its permanent name, a title and its test of one pipe's or structure's facts."""

    name: str
    title: str
    of: Literal["pipe", "structure", "either"]
    test: Callable[[Facts, Any], Iterator[Finding]]


TOLERANCE = 1e-6  # a value this near its limit meets it
