"""The one place that changes: the current value, its history, what is selected and shown."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from zumbert.analysis import Facts
from zumbert.analysis.runlist import run_keys, run_with
from zumbert.analysis.runs import Run, RunKey, run
from zumbert.analysis.trench import Trenches, trenches
from zumbert.analysis.union import Net
from zumbert.app.value import HistoryStep, Value, value
from zumbert.drawing.handles import PipeHandle
from zumbert.drawing.picture import Picture, Show
from zumbert.edits.grounditems import GroundItem, record
from zumbert.edits.holding import held
from zumbert.edits.lay import LayOptions, first_way
from zumbert.edits.sense import far_off
from zumbert.errors import ZumbertError
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End
from zumbert.model.project import Project
from zumbert.space.wanted import InSpace

SpaceAt = Literal["", "place", "beside"]
StageName = Literal["ground", "layout", "levels", "flow", "checks", "trench", "deliver"]


class State(Struct, frozen=True, kw_only=True, eq=False):
    """All that the window shows; views compare parts of it by identity."""

    shown: Value  # what is drawn: the current value, or a preview of an edit
    current: Value  # the current value
    keys: tuple[RunKey, ...]
    run_key: RunKey | None
    run: Run | None
    stage: StageName = "levels"
    pipes: frozenset[PipeId] = frozenset()
    structures: frozenset[StructureId] = frozenset()
    shows: frozenset[Show] = frozenset({"legal", "cover", "services"})
    hides: frozenset[Show] = frozenset()  # what the stage Trench shows unless it is switched off
    ratio_kept: bool = True  # whether a zoom of the long section keeps the ratio of its scales
    straight: bool = True
    hand: PipeHandle | None = None
    pivot: End = "up"  # the end that a slope turns about, where a pipe is not in hand
    lit: tuple[PipeId, End] | None = None  # the end of a pipe whose field has the keyboard
    fresh: frozenset[str] = frozenset()
    cursor: float | None = None  # m along the run
    place: tuple[float, float] | None = None  # m, x and y under the cursor
    hint: str = ""
    holds: bool = False  # whether the rules hold: an edit goes as far as they let it
    stopped: str = ""  # what the rules have changed of the edit that is shown
    path: Path | None = None
    saved: bool = True
    saved_at: str = ""
    look_only: bool = False  # the file is open elsewhere
    free: bool = False  # the file that is only looked at is open elsewhere no longer
    way: LayOptions | None = None  # how a run is laid
    trenches: Trenches | None = None
    net: tuple[Trenches, Net] | None = None  # the last union of trenches and pits that is worked out, and what of
    sectioned: tuple[Trenches, dict[PipeId, float]] | None = None  # volumes by average end areas, and what of
    pointed: str | None = None  # the pipe or structure under the pointer, in whichever drawing it is
    space: InSpace = InSpace()  # what is seen in space
    space_at: SpaceAt = ""  # where space is seen: nowhere, in the plan's place, beside the plan
    cross: bool = True  # whether the stage Trench shows the cross-section in the plan's place
    sections: tuple[tuple[PipeId, float], ...] = ()  # cross-sections that are pinned: pipes and distances along them, m
    visited: Any = None  # the finding that was gone to
    item: GroundItem | None = None  # what is selected of ground, roads, drawings, land and services
    stale: frozenset[str] = frozenset()  # drawings whose file has changed since it was read
    area_kind: str = "roof"  # of the next area that is drawn
    leaf: int = 1  # the page of the sheets that is shown, from 1
    part: tuple[str, int] | None = None  # the point of it that is selected: "ip" or "pvi", and its number

    @property
    def units(self) -> Units:
        """How the project shows values and takes them."""
        return self.shown.project.units

    @property
    def levelling(self) -> bool:
        """Whether the rings that drag levels are shown: in the stages Levels, Flow and Trench."""
        return self.stage in ("levels", "flow", "trench")

    @property
    def previewing(self) -> bool:
        """Whether what is shown is a preview."""
        return self.shown is not self.current

    def _come_and_go(self) -> frozenset[Any]:
        """The pipes and structures at which findings come or go by the limits that are tried out."""
        before, now = ({f.key: f for f in v.findings} for v in (self.current, self.shown))
        return frozenset((before.get(k) or now[k]).key[1] for k in before.keys() ^ now.keys())

    @property
    def picture(self) -> Picture:
        """What the drawings are made from."""
        dug: frozenset[Show] = frozenset({"trench", "bands"})
        more = dug - self.hides if self.stage == "trench" else frozenset[Show]({"flow"} if self.stage == "flow" else ())
        pipes, structures = self.pipes, self.structures
        if self.shown.project.standards is not self.current.project.standards:
            lit = self._come_and_go()
            pipes |= {PipeId(k) for k in lit if k in self.shown.project.pipes}
            structures |= {StructureId(k) for k in lit if k in self.shown.project.structures}
        return Picture(
            facts=self.shown.facts, findings=self.shown.findings, run=self.run, pipes=pipes, structures=structures,
            shows=self.shows | more, fresh=self.fresh, trenches=self.trenches, net=None if self.net is None else self.net[1],
            before=self.current.facts if self.previewing else None, pivot=self.pivot,
            pin=self.item.id if self.item is not None and self.item.kind == "pin" else None,
        )  # fmt: skip


class Session(QObject):
    """Holds the state. `changed` tells the old and the new one; nothing else in the window keeps the project."""

    changed = Signal(object, object)
    refused = Signal(str)

    def __init__(self, project: Project, path: Path | None = None) -> None:
        super().__init__()
        self.told: object = None  # the deletion whose loose ends have been told
        self.trying = False  # while it holds edits are shown, not made, and refusals are not told
        self.sure: Callable[[str], bool] = lambda question: True  # asks before what can hardly be meant
        self.passes: Callable[[], bool] = lambda: False  # whether the key is held that passes the rules while they hold
        self.state: State
        self._start(project, path)

    def _start(self, project: Project, path: Path | None) -> None:
        v = value(project)
        self._past: list[HistoryStep] = []
        self._future: list[HistoryStep] = []
        self._saved_value: Value | None = v
        self._dug: Trenches | None = None  # the last trenches that were asked for
        keys = tuple(run_keys(project, v.facts))
        key = keys[0] if keys else None
        self._run_made: Run | None = None
        self._run_kept = key  # what the long section showed before the edit that is tried
        self.state = State(
            shown=v, current=v, keys=keys, run_key=key, run=self._run(v, key), path=path, saved=True, way=first_way(project)
        )

    @property
    def units(self) -> Units:
        """How the project shows values and takes them."""
        return self.state.shown.project.units

    # -- the value -----------------------------------------------------------------------------------------------------

    def set(self, **values: Any) -> None:
        """Replaces parts of the state that are not the project."""
        old = self.state
        new = replace(old, **values)
        if "stage" in values or "shown" in values:
            wanted = new.stage == "trench"
            new = replace(new, trenches=self.dug(new.shown.facts) if wanted else None)
        self.state = new
        self.changed.emit(old, new)

    def dug(self, facts: Facts, tell: Callable[[float], None] = lambda share: None) -> Trenches:
        """The trenches of some facts; what has not changed since they were last asked for is kept."""
        if self._dug is None or self._dug.facts is not facts:
            self._dug = trenches(facts, self._dug, tell)
        return self._dug

    def point_at(self, place: tuple[float, float] | None, cursor: float | None) -> None:
        """The place in the world (m) and the distance along the run (m) that the mouse points at."""
        if (place, cursor) != (self.state.place, self.state.cursor):
            self.set(place=place, cursor=cursor)

    def edit(self, name: str, make: Callable[[Project, Facts], Project]) -> bool:
        """Applies an edit to the current value as one undo step; a refusal is told and changes nothing."""
        current = self.state.current
        try:
            project = make(current.project, current.facts)
        except ZumbertError as e:
            self.preview(None)
            self.refused.emit(str(e))
            return False
        return self.apply(name, project)

    def trial(self, run: Callable[[], object]) -> None:
        """Previews what a function would edit."""
        self.preview(None)
        self.trying = True
        try:
            run()
        finally:
            self.trying = False

    def allowed(self, project: Project) -> Project:
        """What the rules leave of an edit while they hold; all of it where they do not, or the key that passes them is held."""
        current, words = self.state.current, ""
        if self.state.holds and not self.passes() and project is not current.project:
            project, words = held(current.project, current.facts, project)
        if words != self.state.stopped:
            self.set(stopped=words)
        return project

    def apply(self, name: str, project: Project, told: bool = False, shown: bool = False) -> bool:
        """Makes a project the current value, as one undo step; the same project makes no step. What can hardly be meant is
        asked first, unless a summary has told it; False where it is not done. While the rules hold it goes as far as they let it,
        unless it is what was `shown`, which has gone that far.
        """
        before = self.state.current
        if self.trying:
            self.preview(project)
            return True
        if not told:
            project = project if shown else self.allowed(project)
        stopped = "" if told else self.state.stopped
        if project is before.project:
            self.preview(None)
            self._tell_stopped(name, stopped)
            return True
        if self.state.look_only:
            self.preview(None)
            self.refused.emit(
                "This project is here to look only, since it is open elsewhere: save it as another file to change it."
            )
            return False
        now = value(project, before)
        question = None if told else far_off(before.facts, now.facts)
        if question is not None and not self.sure(question):
            self.preview(None)
            return False
        self._past.append(HistoryStep(name, before))
        self._future.clear()
        self._commit(now)
        self._tell_stopped(name, stopped)
        return True

    def _tell_stopped(self, name: str, stopped: str) -> None:
        if stopped:
            self.refused.emit(f"{name}: {stopped}. Rules hold; with Ctrl held they are passed.")

    def preview(
        self, project: Project | None, fresh: frozenset[str] = frozenset(), run_key: RunKey | None = None, told: bool = False
    ) -> None:
        """Shows what an edit would make, or (None) the current value again; in the long section another run, if asked. It is what
        `apply` would take.
        """
        current = self.state.current
        project = project if told or project is None else self.allowed(project)
        if project is None or project is current.project:
            if self.state.shown is not current or self.state.fresh:
                self._show(current, frozenset())
            if project is None and self.state.stopped:
                self.set(stopped="")
            return
        self._show(value(project, current), fresh, run_key)

    def _show(self, shown: Value, fresh: frozenset[str], run_key: RunKey | None = None) -> None:
        if not self.state.previewing:
            self._run_kept = self.state.run_key
        key = run_key or self.state.run_key
        if shown is self.state.current and self._run(shown, key) is None:
            key = self._run_kept  # what was shown of the edit that was tried is gone with it
        self.set(shown=shown, run_key=key, run=self._run(shown, key), fresh=fresh)

    def _commit(self, v: Value) -> None:
        state = self.state
        keys = state.keys
        old = state.current.project
        if (
            v.project.pipes is not old.pipes
            or v.project.structures is not old.structures
            or v.project.roads is not old.roads
            or v.project.runs is not old.runs
        ):
            keys = tuple(run_keys(v.project, v.facts))
        key = state.run_key
        if key is None or self._run(v, key) is None:
            key = next((k for k in keys if self._run(v, k) is not None), None)
        pipes = frozenset(p for p in state.pipes if p in v.project.pipes)
        structures = frozenset(s for s in state.structures if s in v.project.structures)
        hand = state.hand if state.hand is not None and state.hand.pipe in pipes else None
        if hand is not None:
            hand = replace(hand, pivot=v.project.pipes[hand.pipe].sole_end_held or hand.pivot)
        way = state.way
        if way is not None and (way.type not in v.project.types or way.size not in v.project.sizes):
            way = first_way(v.project)  # the library has lost what it was laid with
        item = state.item if state.item is not None and record(v.project, state.item) is not None else None
        self.set(
            shown=v, current=v, keys=keys, run_key=key, run=self._run(v, key), pipes=pipes, structures=structures,
            hand=hand, fresh=frozenset(), stopped="", saved=v is self._saved_value, visited=None, item=item,
            sections=tuple(c for c in state.sections if c[0] in v.project.pipes),
            part=state.part if item is not None else None, way=way,
        )  # fmt: skip

    def _run(self, v: Value, key: RunKey | None) -> Run | None:
        """The run of a key; the same object as before where nothing that it is made from has changed."""
        if key is None:
            return None
        self._run_made = run(v.facts, key, self._run_made)
        return self._run_made

    @property
    def undo_name(self) -> str | None:
        """The step that undo takes back, in words."""
        return self._past[-1].name if self._past else None

    @property
    def redo_name(self) -> str | None:
        """The step that redo makes again."""
        return self._future[-1].name if self._future else None

    def earlier(self) -> list[tuple[str, Value]]:
        """Values to compare with: that of the last save, and those before each step, the last first."""
        saved = [] if self._saved_value is None else [("since the last save", self._saved_value)]
        return [*saved, *((f"since before: {s.name}", s.value) for s in reversed(self._past))]

    @property
    def undo_names(self) -> list[str]:
        """All steps that can be taken back, the last first."""
        return [s.name for s in reversed(self._past)]

    def undo(self) -> None:
        """Takes back the last step."""
        if self._past:
            step = self._past.pop()
            self._future.append(HistoryStep(step.name, self.state.current))
            self._commit(step.value)

    def redo(self) -> None:
        """Makes the last step taken back again."""
        if self._future:
            step = self._future.pop()
            self._past.append(HistoryStep(step.name, self.state.current))
            self._commit(step.value)

    # -- files ---------------------------------------------------------------------------------------------------------

    def open(self, project: Project, path: Path | None, saved: bool = True) -> None:
        """Opens another project with a new history; recovered work counts as unsaved."""
        old = self.state
        self._start(project, path)
        if not saved:
            self._saved_value = None
        self.state = replace(
            self.state, stage=old.stage, straight=old.straight, shows=old.shows, saved=saved, space=old.space,
            space_at=old.space_at,
        )  # fmt: skip
        if self.state.stage == "trench":
            self.state = replace(self.state, trenches=self.dug(self.state.current.facts))
        self.changed.emit(old, self.state)

    def open_file(self, path: Path) -> None:
        """Opens a project file. Raises StoreError, and the project stays as it was."""
        from zumbert.store import load

        self.open(load(path), path)

    def save(self, path: Path, at: str) -> None:
        """Writes the current value. Raises StoreError."""
        from zumbert.store import save

        save(self.state.current.project, path)
        self._saved_value = self.state.current
        self.set(path=path, saved=True, saved_at=at)

    # -- looking -------------------------------------------------------------------------------------------------------

    def select(
        self, pipes: frozenset[PipeId] = frozenset(), structures: frozenset[StructureId] = frozenset(), follow: bool = True
    ) -> None:
        """Selects; with `follow` the long section turns to a run that shows a sole selected pipe."""
        state = self.state
        hand = None
        values: dict[str, Any] = {}
        if len(pipes) == 1 and not structures:
            pipe = next(iter(pipes))
            pivot = state.hand.pivot if state.hand is not None and state.hand.pipe == pipe else state.pivot
            hand = PipeHandle(pipe=pipe, pivot=state.shown.project.pipes[pipe].sole_end_held or pivot)
            shown = state.run is not None and any(r.pipe == pipe for r in state.run.reaches)
            if follow and not shown:
                key = run_with(state.current.project, state.current.facts, list(state.keys), pipe)
                values = {"run_key": key, "run": self._run(state.shown, key)}
        self.set(pipes=pipes, structures=structures, hand=hand, item=None, part=None, **values)

    def set_pivot(self, end: End) -> None:
        """Sets the end about which slopes turn, for the pipe in hand and all others."""
        hand = self.state.hand
        self.set(pivot=end, hand=None if hand is None else replace(hand, pivot=end))

    def pick(self, item: GroundItem | None, part: tuple[str, int] | None = None) -> None:
        """Selects a surface, road, drawing, area, service, spot level or file; a road is shown in the long section."""
        values: dict[str, Any] = {}
        if item is not None and item.kind == "road" and self.state.run_key != RunKey("road", item.id):
            values = {"run_key": RunKey("road", item.id), "run": self._run(self.state.shown, RunKey("road", item.id))}
        self.set(item=item, part=part, pipes=frozenset(), structures=frozenset(), hand=None, **values)

    def show_run(self, key: RunKey) -> None:
        """Shows a run or road in the long section."""
        self.set(run_key=key, run=self._run(self.state.shown, key))
