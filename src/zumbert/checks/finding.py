"""A finding: one rule broken at one place. It is data; its sentence is made where it is shown
(`sentences.py`).
"""

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Any, Literal, NamedTuple, TypeVar

from msgspec import Struct

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.model.decision import Decision
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End, Pipe
from zumbert.model.structure import Structure

Severity = Literal["breach", "caution"]
Look = Literal["breach", "caution", "decided"]
Key = tuple[PipeId, End]
K = TypeVar("K", PipeId, StructureId)


class Bound(NamedTuple):
    """One constraint on some inverts: the sum of factors times inverts is at most `most`, m."""

    factors: Mapping[Key, float]
    most: float
    rule: str = ""


class Finding(Struct, frozen=True, kw_only=True):
    """One breach or caution: what is wrong, where and by how much. Values are SI: m, fractions,
    degrees.
    """

    rule: str
    severity: Severity
    pipe: PipeId | None = None  # the pipe that it is about, for rules of pipes
    structure: StructureId | None = None  # the structure where it happens, for rules of structures
    inlet: PipeId | None = None  # the pipes there that it is about
    outlet: PipeId | None = None
    other: str | None = None  # the service or pipe that the pipe comes near to
    partner: PipeId | None = None  # the one of them that would have to change
    distance: float | None = None  # m from the upstream reference point
    chainage: float | None = None  # m on the nearest road
    x: float | None = None
    y: float | None = None
    value: float | None = None
    limit: float | None = None
    worse: Literal["less", "more"] = "less"  # the side of the limit on which the value is
    fixes: tuple[str, ...] = ()  # names of the edits that apply
    stretches: tuple[tuple[float, float], ...] = ()  # where along the pipe it is broken, m
    under: str = ""  # the kind of ground there, where its limit goes by that
    surface: str = ""  # the surface that it is measured from, where that is not the usual one
    decision: Decision | None = None  # made about it; holds unless it is open again
    reopened: Literal["", "worse", "limit", "moved"] = ""  # why a decision does not hold any more

    @property
    def of_pipe(self) -> PipeId:
        """The pipe, of a finding of a rule of pipes."""
        return self._named(self.pipe)

    @property
    def of_structure(self) -> StructureId:
        """The structure, of a finding of a rule of structures."""
        return self._named(self.structure)

    @property
    def of_partner(self) -> PipeId:
        """The pipe that would have to change, of a finding that names one."""
        return self._named(self.partner)

    @property
    def of_inlet(self) -> PipeId:
        """The inlet, of a finding about one."""
        return self._named(self.inlet)

    @property
    def of_outlet(self) -> PipeId:
        """The outlet, of a finding about one."""
        return self._named(self.outlet)

    def _named(self, key: K | None) -> K:
        if key is None:
            raise LookupError(f"A finding of {self.rule} was asked for what it does not name.")
        return key

    @property
    def decided(self) -> bool:
        """Whether somebody accepted it, and that holds."""
        return self.decision is not None and not self.reopened

    @property
    def look(self) -> Look:
        """How it is drawn: as a breach, as a caution, or faint since it is decided."""
        return "decided" if self.decided else self.severity

    @property
    def key(self) -> tuple[str, str, str, str]:
        """Identifies the finding: the same rule, object and pair have the same key before and
        after an edit.
        """
        return (
            self.rule,
            self.pipe or self.structure or "",
            self.inlet or self.other or "",
            self.outlet or "",
        )


def record_of(fact: PipeFacts | StructureFacts) -> Pipe | Structure:
    """The record that facts are of."""
    return fact.pipe if isinstance(fact, PipeFacts) else fact.structure


FIRM = 1e6


class Rule(Struct, frozen=True):
    """One rule and all that is known of it."""

    name: str  # permanent
    title: str
    of: Literal["pipe", "structure", "either"]
    test: Callable[[Facts, Any], Iterator[Finding]]  # of one pipe's or structure's facts
    say: Callable[
        [Facts, Finding], str | tuple[str, str]
    ]  # the sentence; where it is in two, the first has the name
    # what it asks of the inverts there
    bounds: Callable[[Facts, Any], Iterable[Bound]] | None = None
    mark: Callable[[Facts, Finding], str] | None = None  # the words at its notch; None: its title
    limit: str = ""  # the field of the standard that it is the limit of, where there is one
    # where its limit comes from, where that is no such field
    source: Callable[[Facts, Finding], str] | None = None
    of_type: bool = False  # the type of the structure is at fault: another may mend it
    of_flow: bool = False  # the design flow breaks it
    mended_by: str = ""  # the rule to whose bound a level is brought to mend it; empty: its own
    match: str = ""  # what the level that just keeps it is told as when an inlet is raised to it
    levels: bool = False  # whether value and limit are levels
    signed: bool = False  # whether the value may be off to both sides: its size counts
    from_ground: bool = False  # the value is measured from the ground to the pipe: drawn as that
    at_once: bool = False  # told beside the place while a pipe is laid
    # its sign stands at the rim in the long section; else at the lowest invert
    at_rim: bool = False
    # the value of the pipe, or the partner, that is flagged
    cell: Literal["", "slope", "invert_down", "size"] = ""
    # it asks for a drop from one pipe to the next: of several that do, the most counts
    drop: bool = False
    snap: str = ""  # what the level is called at which it is just kept
    # of a metre off it beside a metre of depth: what costs least gives way first when levels are
    # sought
    cost: float = FIRM


TOLERANCE = 1e-6  # a value this near its limit meets it
