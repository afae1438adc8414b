"""The one place that changes: the current value, its history, what is selected and shown."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, cast

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from zumbert.analysis import Facts
from zumbert.analysis.runline import Run, RunKey
from zumbert.analysis.runlist import run_keys, run_with
from zumbert.analysis.runs import run
from zumbert.analysis.trench import Trenches, trenches
from zumbert.app.committed import what_stays
from zumbert.app.history import History
from zumbert.app.reading import Reading
from zumbert.app.stages.stage import WorkStage, stage_for
from zumbert.app.state import FileState, InHand, Look, State
from zumbert.app.value import Value, value
from zumbert.drawing.handles import PipeHandle
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.holding import held
from zumbert.edits.layoptions import first_way
from zumbert.edits.sense import far_off
from zumbert.errors import ZumbertError
from zumbert.log import logger
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End
from zumbert.model.project import Project


class Session(QObject):
    """Holds the state. `changed` tells the old and the new one; nothing else in the window keeps
    the project.
    """

    changed = Signal(object, object)
    refused = Signal(str)

    def __init__(
        self,
        project: Project,
        path: Path | None = None,
        parent: QObject | None = None,
        stages: Sequence[WorkStage[Any]] = (),
    ) -> None:
        super().__init__(parent)
        self.stages = {s.id: s for s in stages}
        self.told: object = None  # the deletion whose loose ends have been told
        self.trying = False  # while it holds edits are shown, not made, and refusals are not told
        # asks before what can hardly be meant
        self.sure: Callable[[str], bool] = lambda question: True
        # whether the key is held that passes the rules while they hold
        self.passes: Callable[[], bool] = lambda: False
        self._reading: Reading | None = None  # of the view that is made
        self._before: State | None = None  # what was shown before an action of several steps
        self._state: State
        self._start(project, path)

    def _start(self, project: Project, path: Path | None) -> None:
        v = value(project)
        self.history = History(v)
        self._dug: Trenches | None = None  # the last trenches that were asked for
        keys = tuple(run_keys(project, v.facts))
        key = keys[0] if keys else None
        stage = stage_for(self.stages.values(), lambda s: s.opens)
        self._run_made: Run | None = None
        self._run_kept = key  # what the long section showed before the edit that is tried
        self._state = State(
            shown=v,
            current=v,
            look=Look(keys=keys, run_key=key, run=self._run(v, key), stage=stage),
            held=InHand(way=first_way(project)),
            file=FileState(path=path),
        )

    @property
    def state(self) -> State:
        """The state of now; as long as a view is made from it, one that notes what is read."""
        return self._state if self._reading is None else cast(State, self._reading)

    @contextmanager
    def noted(self) -> Iterator[Reading]:
        """Notes what is read of the state meanwhile."""
        before, reading = self._reading, Reading(lambda: self._state)
        self._reading = reading
        try:
            yield reading
        finally:
            self._reading = before
            self.note(reading.read)

    def note(self, read: dict[str, Any]) -> None:
        """Notes as read what something is made from that is kept."""
        if self._reading is not None:
            self._reading.read |= read

    @property
    def units(self) -> Units:
        """How the project shows values and takes them."""
        return self.state.units

    # -- the value ---------------------------------------------------------------------------------

    def set(self, **values: Any) -> None:
        """Replaces parts of the state that are not the project."""
        new = self._state.with_values(**values)
        if "stage" in values or "shown" in values:
            wanted = new.look.stage.digs
            new = new.with_values(trenches=self.dug(new.shown.facts) if wanted else None)
        self._become(new)

    def to_stage(self, stage: str) -> None:
        """Goes to a stage of the table."""
        self.set(stage=self.stages[stage])

    def _become(self, new: State) -> None:
        old, self._state = self._state, new
        if self._before is None:
            self.changed.emit(old, new)

    @contextmanager
    def as_one(self) -> Iterator[None]:
        """All that changes meanwhile is one change: the views follow when it is over."""
        if self._before is not None:
            yield
            return
        self._before = self._state
        try:
            yield
        finally:
            before, self._before = self._before, None
            if self._state is not before:
                self.changed.emit(before, self._state)

    def dug(self, facts: Facts, tell: Callable[[float], None] = lambda share: None) -> Trenches:
        """The trenches of some facts; what has not changed since they were last asked for is
        kept.
        """
        if self._dug is None or self._dug.facts is not facts:
            self._dug = trenches(facts, self._dug, tell)
        return self._dug

    def point_at(self, place: tuple[float, float] | None, cursor: float | None) -> None:
        """Place in the world (m) and distance along the run (m) that the mouse points at."""
        if (place, cursor) != (self.state.at.place, self.state.at.cursor):
            self.set(place=place, cursor=cursor)

    def edit(self, name: str, make: Callable[[Project, Facts], Project]) -> bool:
        """Applies an edit to the current value as one undo step; a refusal is told and changes
        nothing.
        """
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
        """The part of an edit that the rules allow while they hold; all of it where they do not, or
        the key that passes them is held.
        """
        current, words = self.state.current, ""
        if self.state.held.holds and not self.passes() and project is not current.project:
            project, words = held(current.project, current.facts, project)
        if words != self.state.held.stopped:
            self.set(stopped=words)
        return project

    def apply(self, name: str, project: Project, told: bool = False, shown: bool = False) -> bool:
        """Makes a project the current value, as one undo step; the same project makes no step. What
        can hardly be meant is asked first, unless a summary has told it; False where it is not
        done. While the rules hold it goes as far as they let it, unless it is what was `shown`,
        which has gone that far.
        """
        before = self.state.current
        if self.trying:
            self.preview(project)
            return True
        if not told:
            project = project if shown else self.allowed(project)
        stopped = "" if told else self.state.held.stopped
        if project is before.project:
            self.preview(None)
            self._tell_stopped(name, stopped)
            return True
        if self.state.file.look_only:
            self.preview(None)
            self.refused.emit(
                "This project is here to look only, since it is open elsewhere: save it as "
                "another file to change it."
            )
            return False
        now = value(project, before)
        question = None if told else far_off(before.facts, now.facts)
        if question is not None and not self.sure(question):
            self.preview(None)
            return False
        logger.info(name)
        self.history.step(name, before)
        self._commit(now)
        self._tell_stopped(name, stopped)
        return True

    def _tell_stopped(self, name: str, stopped: str) -> None:
        if stopped:
            self.refused.emit(f"{name}: {stopped}. Rules hold; with Ctrl held they are passed.")

    def preview(
        self,
        project: Project | None,
        fresh: frozenset[str] = frozenset(),
        run_key: RunKey | None = None,
        told: bool = False,
    ) -> None:
        """Shows what an edit would make, or (None) the current value again; in the long section
        another run, if asked. It is what `apply` would take.
        """
        current = self.state.current
        project = project if told or project is None else self.allowed(project)
        if project is None or project is current.project:
            if self.state.shown is not current or self.state.held.fresh:
                self._show(current, frozenset())
            if project is None and self.state.held.stopped:
                self.set(stopped="")
            return
        self._show(value(project, current), fresh, run_key)

    def _show(self, shown: Value, fresh: frozenset[str], run_key: RunKey | None = None) -> None:
        if not self.state.previewing:
            self._run_kept = self.state.look.run_key
        key = run_key or self.state.look.run_key
        if self._run(shown, key) is None:
            key = self._run_kept  # what was shown of an edit that was tried before is gone with it
        self.set(shown=shown, run_key=key, run=self._run(shown, key), fresh=fresh)

    def _commit(self, v: Value) -> None:
        state = self.state
        keys = state.look.keys
        old = state.current.project
        if (
            v.project.pipes is not old.pipes
            or v.project.structures is not old.structures
            or v.project.roads is not old.roads
            or v.project.runs is not old.runs
        ):
            keys = tuple(run_keys(v.project, v.facts))
        key = state.look.run_key
        if key is None or self._run(v, key) is None:
            key = next((k for k in keys if self._run(v, k) is not None), None)
        self.set(
            shown=v,
            current=v,
            keys=keys,
            run_key=key,
            run=self._run(v, key),
            fresh=frozenset(),
            stopped="",
            saved=v is self.history.saved,
            visited=None,
            **what_stays(state, v),
        )

    def _run(self, v: Value, key: RunKey | None) -> Run | None:
        """The run of a key; the same object as before where nothing that it is made from has
        changed.
        """
        if key is None:
            return None
        self._run_made = run(v.facts, key, self._run_made)
        return self._run_made

    def undo(self) -> None:
        """Takes back the last step."""
        step = self.history.undo(self.state.current)
        if step is not None:
            logger.info("Undo: %s", step.name)
            self._commit(step.value)

    def redo(self) -> None:
        """Makes the last step taken back again."""
        step = self.history.redo(self.state.current)
        if step is not None:
            logger.info("Redo: %s", step.name)
            self._commit(step.value)

    def back_to(self, v: Value) -> bool:
        """Shows the current value, and takes back the steps since an earlier one; whether there
        were any.
        """
        self.preview(None)
        if not self.history.holds(v):
            return False
        with self.as_one():
            while self.state.current is not v:
                self.undo()
        return True

    # -- files -------------------------------------------------------------------------------------

    def open(self, project: Project, path: Path | None, saved: bool = True) -> None:
        """Opens another project with a new history; recovered work counts as unsaved."""
        logger.info("Open %s", path or project.name)
        old = self._state
        self._start(project, path)
        if not saved:
            self.history.saved = None
        kept = ("stage", "straight", "shows", "space", "space_at")
        new = self._state.with_values(saved=saved, **{k: getattr(old.look, k) for k in kept})
        if new.look.stage.digs:
            new = new.with_values(trenches=self.dug(new.current.facts))
        self._state = old
        self._become(new)

    def open_file(self, path: Path) -> None:
        """Opens a project file. Raises StoreError, and the project stays as it was."""
        from zumbert.store import load

        self.open(load(path), path)

    def save(self, path: Path, at: str) -> None:
        """Writes the current value. Raises StoreError."""
        logger.info("Save %s", path)
        from zumbert.store import save

        save(self.state.current.project, path)
        self.history.saved = self.state.current
        self.set(path=path, saved=True, saved_at=at)

    # -- looking -----------------------------------------------------------------------------------

    def select(
        self,
        pipes: frozenset[PipeId] = frozenset(),
        structures: frozenset[StructureId] = frozenset(),
        follow: bool = True,
    ) -> None:
        """Selects; with `follow` the long section turns to a run that shows a sole selected
        pipe.
        """
        state = self.state
        hand = None
        values: dict[str, Any] = {}
        if len(pipes) == 1 and not structures:
            pipe = next(iter(pipes))
            pivot = (
                state.chosen.hand.pivot
                if state.chosen.hand is not None and state.chosen.hand.pipe == pipe
                else state.chosen.pivot
            )
            hand = PipeHandle(
                pipe=pipe, pivot=state.shown.project.pipes[pipe].sole_end_held or pivot
            )
            shown = state.look.run is not None and any(
                r.pipe == pipe for r in state.look.run.reaches
            )
            if follow and not shown:
                key = run_with(
                    state.current.project, state.current.facts, list(state.look.keys), pipe
                )
                values = {"run_key": key, "run": self._run(state.shown, key)}
        self.set(pipes=pipes, structures=structures, hand=hand, item=None, part=None, **values)

    def set_pivot(self, end: End) -> None:
        """Sets the end about which slopes turn, for the pipe in hand and all others."""
        hand = self.state.chosen.hand
        self.set(pivot=end, hand=None if hand is None else replace(hand, pivot=end))

    def pick(self, item: GroundItem | None, part: tuple[str, int] | None = None) -> None:
        """Selects a surface, road, drawing, area, service, spot level or file; a road is shown
        in the long section.
        """
        values: dict[str, Any] = {}
        key = RunKey("road", item.id) if item is not None and item.kind == "road" else None
        if key is not None and self.state.look.run_key != key:
            values = {"run_key": key, "run": self._run(self.state.shown, key)}
        self.set(
            item=item, part=part, pipes=frozenset(), structures=frozenset(), hand=None, **values
        )

    def show_run(self, key: RunKey) -> None:
        """Shows a run or road in the long section."""
        self.set(run_key=key, run=self._run(self.state.shown, key))
