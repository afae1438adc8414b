"""All that the window shows: the current value and what is looked at, selected and in hand."""

from pathlib import Path
from typing import Any, Literal

from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis import Facts
from zumbert.analysis.roads import RoadFacts
from zumbert.analysis.runline import Run, RunKey
from zumbert.analysis.surfaces import Surfaces
from zumbert.analysis.trench import Trenches
from zumbert.analysis.union import Net
from zumbert.app.reading import StatePart, aside, composed, derived, note
from zumbert.app.stages.stage import NO_STAGE, WorkStage
from zumbert.app.value import Value
from zumbert.drawing.groundplan import seen_on_ground
from zumbert.drawing.handles import PipeHandle
from zumbert.drawing.picture import Picture, Show
from zumbert.drawing.planseen import seen_in_plan
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.layoptions import LayOptions
from zumbert.geometry.alignment import Alignment
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, RoadId, StructureId
from zumbert.model.pipe import End
from zumbert.space.wanted import InSpace

SpaceAt = Literal["", "place", "beside"]


class Look(StatePart, frozen=True, kw_only=True, eq=False):
    """The things that are looked at, and how."""

    keys: tuple[RunKey, ...] = ()  # of all runs and roads
    run_key: RunKey | None = None
    run: Run | None = None
    stage: WorkStage[Any] = NO_STAGE
    shows: frozenset[Show] = frozenset({"legal", "cover", "services"})
    hides: frozenset[Show] = frozenset()  # what a stage shows unless it is switched off
    ratio_kept: bool = True  # whether a zoom of the long section keeps the ratio of its scales
    straight: bool = True
    space: InSpace = InSpace()  # what is seen in space
    space_at: SpaceAt = ""  # where space is seen: nowhere, in the plan's place, beside the plan
    own: bool = True  # whether the view of a stage's own stands in the plan's place
    # cross-sections that are pinned: pipes and distances along them, m
    sections: tuple[tuple[PipeId, float], ...] = ()
    leaf: int = 1  # the page of the sheets that is shown, from 1


class Selection(StatePart, frozen=True, kw_only=True, eq=False):
    """The selection."""

    pipes: frozenset[PipeId] = frozenset()
    structures: frozenset[StructureId] = frozenset()
    item: GroundItem | None = None  # of ground, roads, drawings, land and services
    # the point of a road that is selected: "ip" or "pvi", and its number
    part: tuple[str, int] | None = None
    hand: PipeHandle | None = None
    pivot: End = "up"  # the end that a slope turns about, where a pipe is not in hand
    visited: Any = None  # the finding that was gone to


class At(StatePart, frozen=True, kw_only=True, eq=False):
    """Where the pointer and the keyboard are."""

    cursor: float | None = None  # m along the run
    place: tuple[float, float] | None = None  # m, x and y under the cursor
    # the pipe or structure under the pointer, in whichever drawing it is
    pointed: str | None = None
    lit: tuple[PipeId, End] | None = None  # the end of a pipe whose field has the keyboard


class InHand(StatePart, frozen=True, kw_only=True, eq=False):
    """The edit in hand: the one that is tried, and how the next thing is made."""

    fresh: frozenset[str] = frozenset()  # what the edit that is tried makes
    holds: bool = False  # whether the rules hold: an edit goes as far as they let it
    stopped: str = ""  # what the rules have changed of the edit that is shown
    way: LayOptions | None = None  # how a run is laid
    area_kind: str = "roof"  # of the next area that is drawn


class FileState(StatePart, frozen=True, kw_only=True, eq=False):
    """The file of the project, and those that it was made from."""

    path: Path | None = None
    saved: bool = True
    saved_at: str = ""
    look_only: bool = False  # the file is open elsewhere
    free: bool = False  # the file that is only looked at is open elsewhere no longer
    stale: frozenset[str] = frozenset()  # drawings whose file has changed since it was read


class Digs(StatePart, frozen=True, kw_only=True, eq=False):
    """The results for the trenches that are shown, and their source."""

    trenches: Trenches | None = None
    net: tuple[Trenches, Net] | None = None  # the last union of trenches and pits
    sectioned: tuple[Trenches, dict[PipeId, float]] | None = None  # volumes by average end areas


class State(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """All that the window shows; views compare parts of it by identity."""

    shown: Value  # what is drawn: the current value, or a preview of an edit
    current: Value  # the current value
    look: Look = Look()
    chosen: Selection = Selection()
    at: At = At()
    held: InHand = InHand()
    file: FileState = FileState()
    dug: Digs = Digs()

    def with_values(self, **values: Any) -> "State":
        """The state with other values, each in its part."""
        parts: dict[str, dict[str, Any]] = {}
        for name, value in values.items():
            parts.setdefault(PART_OF.get(name, ""), {})[name] = value
        own = parts.pop("", {})
        return replace(self, **own, **{k: replace(getattr(self, k), **v) for k, v in parts.items()})

    @derived
    def units(self) -> Units:
        """How the project shows values and takes them."""
        return self.shown.project.units

    @derived
    def surfaces(self) -> Surfaces:
        """The surfaces of the project that is shown."""
        return self.shown.facts.surfaces

    @derived
    def roads(self) -> dict[RoadId, RoadFacts]:
        """The roads of the project that is shown."""
        return self.shown.facts.roads

    @derived
    def levelling(self) -> bool:
        """Whether the rings that drag levels are shown."""
        return self.look.stage.rings

    @derived
    def previewing(self) -> bool:
        """Whether what is shown is a preview."""
        return self.shown is not self.current

    @derived
    def seen(self) -> frozenset[Show]:
        """The overlays of the drawings: those that are switched on, and those that the stage
        adds.
        """
        return self.look.shows | (self.look.stage.adds - self.look.hides)

    @derived
    def line(self) -> Alignment | None:
        """The line of the run, in plan."""
        return None if self.look.run is None else self.look.run.line

    @derived
    def in_plan(self) -> tuple[object, ...]:
        """The part of the project that the plan shows."""
        v = self.shown
        if self.held.fresh or not self.previewing:
            return v.facts, v.findings
        flows = (v.facts.flows,) if "flow" in self.seen else ()
        return *seen_in_plan(v.facts, v.findings, self.current.facts), *flows

    @derived
    def in_section(self) -> tuple[object, ...]:
        """The part of the project that the long section shows."""
        v, run = self.shown, self.look.run
        if run is None:
            return (v,)
        keys = [*(r.pipe for r in run.reaches), *(k for k, _ in run.structures)]
        return run, *map(v.findings.of, keys), *(v.facts.pipe_flow.get(r.pipe) for r in run.reaches)

    @derived
    def on_ground(self) -> tuple[object, ...]:
        """The part of the project that ground, roads and areas are drawn from."""
        return seen_on_ground(self.shown.facts, "flow" in self.seen)

    @derived
    def digging(self) -> bool:
        """Whether trenches are worked out."""
        return self.dug.trenches is not None

    @composed
    def picture(self) -> Picture:
        """The source of the drawings."""
        note(self, "shown", "look.run")
        return _drawn(self)

    @composed
    def plan(self) -> Picture:
        """The source of the plan."""
        note(self, "in_plan")
        return _drawn(self)

    @composed
    def section(self) -> Picture:
        """The source of the long section."""
        note(self, "in_section")
        return _drawn(self)

    @composed
    def resting(self) -> Picture:
        """The part of the long section that stays while levels are tried: that of the current
        value.
        """
        note(self, "digging", "seen", "held.fresh")
        note(self, *(f"chosen.{name}" for name in ("pipes", "structures", "item", "pivot")))
        return replace(
            aside(self).picture,
            facts=self.current.facts,
            findings=self.current.findings,
            before=None,
        )

    @composed
    def ground(self) -> Facts:
        """The source of ground, roads and areas."""
        note(self, "on_ground")
        return aside(self).shown.facts


# by value: the part that it is in
PART_OF = {
    field: name
    for name, of in State.__annotations__.items()
    if isinstance(of, type) and issubclass(of, StatePart)
    for field in of.__struct_fields__
}


def _drawn(s: State) -> Picture:
    """The picture of what is shown; of the project nothing is noted as read."""
    now = aside(s)
    current, shown = now.current, now.shown
    pipes, structures = s.chosen.pipes, s.chosen.structures
    if shown.project.standards is not current.project.standards:
        lit = _come_and_go(current, shown)
        pipes |= {PipeId(k) for k in lit if k in shown.project.pipes}
        structures |= {StructureId(k) for k in lit if k in shown.project.structures}
    return Picture(
        facts=shown.facts,
        findings=shown.findings,
        run=now.look.run,
        pipes=pipes,
        structures=structures,
        shows=s.seen,
        fresh=s.held.fresh,
        trenches=s.dug.trenches,
        net=None if s.dug.net is None else s.dug.net[1],
        before=current.facts if s.previewing else None,
        pivot=s.chosen.pivot,
        pin=s.chosen.item.id if s.chosen.item is not None and s.chosen.item.kind == "pin" else None,
    )


def _come_and_go(current: Value, shown: Value) -> frozenset[Any]:
    """The pipes and structures at which findings come or go by the limits that are tried out."""
    before, now = ({f.key: f for f in v.findings} for v in (current, shown))
    return frozenset((before.get(k) or now[k]).key[1] for k in before.keys() ^ now.keys())
