"""Laying a run: click after click, or typed place after typed place."""

from html import escape
from typing import TYPE_CHECKING, NamedTuple, get_args

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.runline import RunKey
from zumbert.analysis.runlist import run_with
from zumbert.analysis.runs import run
from zumbert.app.told import told
from zumbert.app.tools.layplace import Mode, place_text, pointed_at
from zumbert.app.tools.tool import ClickTool, MousePlace, Plan, Words, road_pointed_at, road_shown
from zumbert.checks.check import rule_of
from zumbert.checks.sentences import mark
from zumbert.edits.change import sizes_like
from zumbert.edits.flow import Flow, sensible
from zumbert.edits.lay import Before, Laid, LayTarget, OnPipe, lay_next
from zumbert.edits.layoptions import Edge, LayOptions, first_way
from zumbert.edits.typed import place_after, without_level
from zumbert.errors import EditError
from zumbert.model.ids import PipeId, RoadId, StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

if TYPE_CHECKING:
    from zumbert.app.session import Session


class LaidPlace(NamedTuple):
    """One structure of the run in hand."""

    structure: StructureId
    before: Before | None  # the pipe to it


class LayTool(ClickTool):
    """ready -place-> laying -place-> laying …; Backspace takes back the last place; Esc ends the
    run (it stays), Esc again puts the tool down. A place on a structure joins it, one on a pipe
    splits that. Alone, structures get no pipes; joining, only structures that are there are taken.
    """

    kind = "lay"
    places = True
    letters = frozenset("dz")
    keys = frozenset("[]tbae")

    def __init__(self, session: "Session", start: StructureId | None = None) -> None:
        super().__init__(session)
        self._start = start  # a structure that is there, to go on from
        self.placed: list[LaidPlace] = []
        self._next: tuple[LayTarget, Laid] | None = None
        self._why = ""
        self._snap = ""
        self.mode: Mode = "run"
        self._chamber: TypeKey | None = None  # the type before a joint was asked for
        self.began = session.state.look.run_key  # what the long section showed
        self._flow: Flow | None = None  # while joining: which way the water runs, and why

    @property
    def way(self) -> LayOptions:
        """How the next place is laid."""
        return self.session.state.held.way or first_way(self.session.state.current.project)

    @property
    def last(self) -> StructureId | None:
        """The structure that the run goes on from; None where there is none, or where an undo
        took it away.
        """
        there = self.session.state.current.project.structures
        while self.placed and self.placed[-1].structure not in there:
            self.placed.pop()
        return self.placed[-1].structure if self.placed and self.mode != "alone" else None

    @property
    def hint(self) -> str:  # type: ignore[override]
        project = self.session.state.current.project
        if self.mode == "join":
            to = "" if self.last is None else f" from {project.structures[self.last].label}"
            return f"Click one structure after another to join them{to}. Esc: put down."
        if self.mode == "alone":
            return (
                "Click to place structures without pipes, or type chainage and offset. A: with "
                "pipes again. Esc: put down."
            )
        if self.last is None:
            return (
                "Click where the run begins, on a structure to go on from it, or type chainage "
                "and offset. Esc: put down."
            )
        label = project.structures[self.last].label
        return (
            "Click to place the next, or type chainage and offset. Backspace: take back. Esc: "
            f"end the run at {label}."
        )

    def clicked(self) -> bool:
        if self._next is not None:
            self._take(self._next[0])
        elif self._why:
            self.session.refused.emit(self._why)
        return True

    @told(False)
    def _take(self, place: LayTarget) -> bool:
        """Lays the next place as one undo step."""
        state = self.session.state
        last = self.last
        laid = lay_next(
            state.current.project,
            state.current.facts,
            last,
            place,
            self._way_to(place),
            self._before,
        )
        structure = laid.project.structures[laid.structure]
        name = (
            f"Place {structure.label}" if laid.pipe is None else f"Lay a pipe to {structure.label}"
        )
        self._next = None
        given = self.way.start is not None
        before = None if laid.pipe is None else Before(laid.pipe, given)
        self.placed.append(LaidPlace(laid.structure, before))
        if not self.session.apply(name, laid.project):
            self.placed.pop()
            return False
        if laid.pipe is not None or len(self.placed) == 1:
            self._show_run(laid.structure)
        if laid.pipe is not None:  # a start level is for the first pipe alone
            self.session.set(way=replace(self.way, start=None, level=None))
        return True

    def _way_to(self, place: LayTarget) -> LayOptions:
        """How the pipe to a place is laid: while joining, as the water would run."""
        self._flow = None
        if (
            self.mode != "join"
            or self.last is None
            or not isinstance(place, str)
            or place == self.last
        ):
            return self.way
        self._flow = sensible(self.session.state.current.facts, self.last, StructureId(place))
        return replace(self.way, up=self._flow.down == self.last)

    @property
    def _last_pipe(self) -> PipeId | None:
        """The pipe laid last that is still there."""
        there = self.session.state.current.project.pipes
        laid = [
            p.before.pipe for p in self.placed if p.before is not None and p.before.pipe in there
        ]
        return laid[-1] if laid else None

    @property
    def _before(self) -> Before | None:
        return self.placed[-1].before if self.placed else None

    def _show_run(self, structure: StructureId) -> None:
        """The long section shows what is laid: along the road that it was begun over, while all of
        it stands there; else from where it began; of a sole structure its road.
        """
        s = self.session.state
        key = self._run_of(s.current.project, structure)
        if key is not None and key != s.look.run_key:
            self.session.show_run(key)

    def _run_of(self, project: Project, structure: StructureId) -> RunKey | None:
        placed = [
            *(p.structure for p in self.placed if p.structure in project.structures),
            structure,
        ]
        roads = {getattr(project.structures[k].place, "road", None) for k in placed}
        if (
            self.began is not None
            and self.began.kind == "road"
            and roads == {self.began.id}
            and self.session.state.look.straight
        ):
            return self.began
        if placed[0] != structure and self.mode != "alone":
            return RunKey.path(placed[0], structure)
        road = next(iter(roads))
        return RunKey("road", road) if road is not None and self.placed else None

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        """Shows the next structure and its pipe with all that follows, before a click takes it."""
        place, self._snap = pointed_at(self.session.state.current, view, at, self.last, self.mode)
        if place is None:
            self._next = None
            self.session.preview(None)
            return
        self._look(place)

    def _look(self, place: LayTarget) -> None:
        state = self.session.state
        try:
            laid = lay_next(
                state.current.project,
                state.current.facts,
                self.last,
                place,
                self._way_to(place),
                self._before,
            )
        except EditError as e:
            self._next, self._why = None, str(e)
            self.session.preview(None)
            return
        self._next, self._why = (place, laid), ""
        fresh = {k for k in (laid.structure, laid.pipe) if k is not None}
        fresh -= state.current.project.structures.keys()
        key = self._run_of(laid.project, laid.structure) if laid.pipe is not None else None
        self.session.preview(laid.project, frozenset(fresh), key)

    def key(self, text: str) -> bool:
        """[ and ] change the pipe size, t the type, b makes the next a joint, e tells which edge of
        a structure stands at the place, a lays structures alone and back.
        """
        project, way = self.session.state.current.project, self.way
        if text in "[]":
            keys = sizes_like(project, way.size)
            i = keys.index(way.size) + (1 if text == "]" else -1)
            self.session.set(way=replace(way, size=keys[min(max(0, i), len(keys) - 1)]))
        elif text == "t":
            types = [t.key for t in project.types.values() if t.kind != "joint" and t.allowed]
            i = types.index(way.type) + 1 if way.type in types else 0
            self.session.set(way=replace(way, type=types[i % len(types)]))
        elif text == "b":
            joint = next((t.key for t in project.types.values() if t.kind == "joint"), None)
            back = self._chamber or way.type
            self._chamber = way.type if way.type != joint else None
            self.session.set(
                way=replace(way, type=back if way.type == joint or joint is None else joint)
            )
        elif text == "e":
            edges: tuple[Edge, ...] = get_args(Edge)
            self.session.set(way=replace(way, edge=edges[(edges.index(way.edge) + 1) % len(edges)]))
        elif text == "a":
            self.set_mode("run" if self.mode == "alone" else "alone")
        else:
            return False
        return True

    def set_mode(self, mode: Mode) -> None:
        """Lays runs, structures alone, or pipes between structures that are there."""
        self.cancel()
        self.mode = mode
        self.session.set(way=replace(self.way))

    def backspace(self) -> bool:
        """Takes back the last place."""
        if not self.placed:
            return False
        self.placed.pop()
        self._next = None
        self.session.preview(None)
        self.session.undo()
        if self.last is not None:
            self._show_run(self.last)
        return True

    def cancel(self) -> bool:
        self._next = None
        self.session.preview(None)
        if self.placed:
            self._repair_run()
            self.placed = []
            return True
        return False

    def _repair_run(self) -> None:
        """The long section shows a run that is there; over a straightened plan the one of
        before, so that nothing moves.
        """
        s = self.session.state
        there = self.began is not None and run(s.current.facts, self.began) is not None
        if self.began is not None and there and s.look.straight:
            self.session.show_run(self.began)
        elif s.look.run is None or s.look.run_key not in s.look.keys:
            key = (
                run_with(s.current.project, s.current.facts, list(s.look.keys), self._last_pipe)
                if self._last_pipe
                else None
            )
            if key is not None or (s.look.run is None and s.look.keys):
                self.session.show_run(key or s.look.keys[0])

    def ends(self) -> None:
        self.cancel()
        self._repair_run()

    def takes_entry(self) -> bool:
        return True

    def _road(self) -> RoadId | None:
        """The road that a typed chainage is on: the one pointed at, else the last structure's,
        else the one shown.
        """
        s = self.session.state
        last = None if self.last is None else s.current.project.structures[self.last].place
        return road_pointed_at(self.session) or (
            last.road if isinstance(last, Anchored) else road_shown(self.session)
        )

    def _typed_place(self, text: str) -> Anchored | Free:
        current = self.session.state.current
        return place_after(text, current.project, current.facts, self._road(), self.last)

    def _with_level(self, text: str) -> None:
        """A level typed after the place ("412.5 -3.6 z42.1") is the invert there."""
        level = without_level(text)[1]
        if level is not None:
            self.session.set(way=replace(self.way, level=self.session.units.typed(level)))

    def typed(self, text: str) -> None:
        self._snap = ""
        try:
            place = self._typed_place(text)
            self._with_level(text)
        except EditError:
            return
        self._look(place)

    @told(False)
    def entry(self, text: str) -> bool:
        before, self._snap = self.way, ""
        place = self._typed_place(text)
        self._with_level(text)
        if not self._take(place):
            self.session.set(way=before)
            return False
        return True

    def begins(self) -> None:
        if self._start is not None:
            self._take(self._start)

    def words(self) -> Words | None:
        u = self.session.units
        if self._next is None:
            return None
        place, laid = self._next
        shown = laid.facts.places[laid.structure]
        label = laid.project.structures[laid.structure].label
        value = "" if isinstance(place, (str, OnPipe)) else place_text(place, u)
        lines: list[str] = []
        if laid.pipe is not None:
            f = laid.facts.pipes[laid.pipe]
            against = f.pipe.up == laid.structure
            start = laid.project.structures[f.pipe.down if against else f.pipe.up].label
            bearing = (np.degrees(f.span.bearing) + (180 if against else 0)) % 360
            lines.append(
                f"<b>{u.long(f.span.length)}</b> from {escape(start)}, bearing {bearing:.1f}°"
            )
            cover = (
                "no ground known"
                if f.cover is None
                else f"cover {u.length(f.cover.least)} to {u.length(f.cover.greatest)}"
            )
            lines.append(f"<b>Slope {u.slope(f.slope)}</b>, {cover}")
            if self._flow is not None:
                ends = (laid.project.structures[k].label for k in (self._flow.up, self._flow.down))
                lines[1:1] = [
                    f"<b>Flows from {' to '.join(map(escape, ends))}</b>: {escape(self._flow.why)}"
                ]
            v = self.session.state.shown
            found = [n for n in v.findings.by_pipe.get(laid.pipe, ()) if rule_of(n.rule).at_once]
            lines += [f"<b>{escape(mark(v.facts, n))}</b>" for n in found]
        else:
            name = laid.facts.surfaces.name("existing")
            lines.append(f"{name} {u.level(shown.ground)}, rim {u.level(shown.rim)}")
        what = "joins" if isinstance(place, (str, OnPipe)) else "x,y"
        if isinstance(place, Anchored):
            what = (
                f"on {laid.project.roads[place.road].name}"
                if len(laid.project.roads) > 1
                else "chainage offset"
            )
        return Words(f"{label} at", value, self._snap or what, tuple(lines))
