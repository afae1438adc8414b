"""The input of the drawings: a value, and what is selected and shown of it."""

from collections.abc import Mapping
from typing import Literal, NamedTuple

from msgspec import Struct

from zumbert.analysis.facts import Facts
from zumbert.analysis.runline import Run
from zumbert.analysis.trench import Trenches
from zumbert.analysis.union import Net
from zumbert.checks.check import Findings
from zumbert.checks.finding import Finding, Look
from zumbert.model.display import Units
from zumbert.model.ids import PinId, PipeId, StructureId
from zumbert.model.pipe import End

GRAVEST: tuple[Look, ...] = ("breach", "caution", "decided")
Show = Literal["legal", "cover", "trench", "bands", "services", "profile", "flow"]


class Part(NamedTuple):
    """The half of a drawing that is composed: what an edit changes, or everything else."""

    hot: frozenset[str]  # pipes and structures that an edit changes
    live: bool  # whether it is those that are composed, or all else

    def holds(self, key: str) -> bool:
        """Whether a pipe or structure is in this part."""
        return (key in self.hot) == self.live


def rests(part: Part | None) -> bool:
    """Whether a part includes what no edit changes (paper, ground, rules); None is the whole
    drawing.
    """
    return part is None or not part.live


class Picture(Struct, frozen=True, kw_only=True, eq=False):
    """One state to draw: the same for plan and long section."""

    facts: Facts
    findings: Findings
    run: Run | None = None
    pipes: frozenset[PipeId] = frozenset()  # selected
    structures: frozenset[StructureId] = frozenset()  # selected
    shows: frozenset[Show] = frozenset({"legal", "cover", "services"})
    fresh: frozenset[str] = frozenset()  # ids that a tool's preview adds
    trenches: Trenches | None = None
    net: Net | None = None  # the union of them, as it was worked out last
    rows: tuple[str, ...] = ()  # level rows of this drawing alone; none: those of the project
    moved: Mapping[str, tuple[float, float]] = {}  # labels moved by hand in this drawing alone
    pin: PinId | None = None  # the pinned level that is selected
    pivot: End = "up"  # the end of a pipe that a slope turns about
    before: Facts | None = None  # what a preview started from

    @property
    def units(self) -> Units:
        """How values are shown."""
        return self.facts.units

    @property
    def rows_chosen(self) -> tuple[str, ...]:
        """The level rows that are chosen; none: the usual ones."""
        return self.rows or self.facts.project.settings.rows

    def along(self, run: Run) -> "RunPicture":
        """The picture of a run."""
        return RunPicture(
            **{n: getattr(self, n) for n in self.__struct_fields__ if n != "run"}, run=run
        )

    def selected(self, key: str) -> bool:
        """Whether a pipe or structure is selected."""
        return key in self.pipes or key in self.structures

    def worst(self, key: str) -> Look | None:
        """How the gravest finding of a pipe or structure is drawn."""
        looks = {f.look for f in self.found(key)}
        return next((look for look in GRAVEST if look in looks), None)

    def found(self, key: str) -> tuple[Finding, ...]:
        """The findings of a pipe or structure."""
        return self.findings.of(key)

    def label_at(self, key: str) -> tuple[float, float] | None:
        """Where the label of a structure or pipe was put by hand; None where it finds its own
        place.
        """
        if key in self.moved:
            return self.moved[key]
        p = self.facts.project
        record = p.structures.get(StructureId(key)) or p.pipes.get(PipeId(key))
        return None if record is None else record.label_at


class RunPicture(Picture, frozen=True, kw_only=True, eq=False):
    """A picture with a run, as a long section is drawn from."""

    run: Run
