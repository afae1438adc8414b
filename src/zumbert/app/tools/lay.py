"""Laying a run: click after click, or typed place after typed place."""

import re
from html import escape
from typing import TYPE_CHECKING, Literal, NamedTuple, get_args

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.roads import nearest
from zumbert.analysis.runs import RunKey, run, run_with
from zumbert.app.tools.tool import ClickTool, Place, Words, road_pointed_at, road_shown
from zumbert.checks.check import rule_of
from zumbert.checks.sentences import mark
from zumbert.edits.change import sizes_like
from zumbert.edits.flow import Flow, sensible
from zumbert.edits.join import nearest_distance
from zumbert.edits.lay import ALONG, Before, Edge, Laid, OnPipe, Target, Way, first_way, lay_next
from zumbert.edits.placesnaps import limit_snap, place_snap
from zumbert.edits.typed import named_road, number, typed_place, typed_point
from zumbert.errors import EditError, known
from zumbert.geometry.strip import at_chainages
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, RoadId, StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.views.view import DrawingView

NEAR = 4.0  # drawing units: within this a click is on a line beside it
SNAP = 9.0  # drawing units: within this a click is at an end, crossing, centre or middle of a drawing
STEP = 0.05  # m that clicked places are rounded to


Mode = Literal["run", "alone", "join"]


class Placed(NamedTuple):
    """One structure of the run in hand."""

    structure: StructureId
    before: Before | None  # the pipe to it


class LayTool(ClickTool):
    """ready -place-> laying -place-> laying …; Backspace takes back the last place; Esc ends the run (it stays),
    Esc again puts the tool down. A place on a structure joins it, one on a pipe splits that. Alone, structures get no
    pipes; joining, only structures that are there are taken.
    """

    kind = "lay"
    places = True
    letters = frozenset("dz")
    keys = frozenset("[]tbae")

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.placed: list[Placed] = []
        self._next: tuple[Target, Laid] | None = None
        self._why = ""
        self._snap = ""
        self.mode: Mode = "run"
        self._chamber: TypeKey | None = None  # the type before a joint was asked for
        self.began = session.state.run_key  # what the long section showed
        self._flow: Flow | None = None  # while joining: which way the water runs, and why

    @property
    def way(self) -> Way:
        """How the next place is laid."""
        return self.session.state.way or first_way(self.session.state.kept.project)

    @property
    def last(self) -> StructureId | None:
        """The structure that the run goes on from; None where there is none, or where an undo took it away."""
        there = self.session.state.kept.project.structures
        while self.placed and self.placed[-1].structure not in there:
            self.placed.pop()
        return self.placed[-1].structure if self.placed and self.mode != "alone" else None

    @property
    def hint(self) -> str:  # type: ignore[override]
        project = self.session.state.kept.project
        if self.mode == "join":
            to = "" if self.last is None else f" from {project.structures[self.last].label}"
            return f"Click one structure after another to join them{to}. Esc: put down."
        if self.mode == "alone":
            return "Click to place structures without pipes, or type chainage and offset. A: with pipes again. Esc: put down."
        if self.last is None:
            return "Click where the run begins, on a structure to go on from it, or type chainage and offset. Esc: put down."
        label = project.structures[self.last].label
        return (
            f"Click to place the next, or type chainage and offset. Backspace: take back. Esc: end the run at {label}."
        )

    def clicked(self) -> None:
        if self._next is not None:
            self._take(self._next[0])
        elif self._why:
            self.session.refused.emit(self._why)

    def _take(self, place: Target) -> bool:
        """Lays the next place as one undo step."""
        state = self.session.state
        last = self.last
        try:
            laid = lay_next(state.kept.project, state.kept.facts, last, place, self._way_to(place), self._before)
        except EditError as e:
            self.session.refused.emit(str(e))
            return False
        structure = laid.project.structures[laid.structure]
        name = f"Place {structure.label}" if laid.pipe is None else f"Lay a pipe to {structure.label}"
        self._next = None
        given = self.way.start is not None
        before = None if laid.pipe is None else Before(laid.pipe, given)
        self.placed.append(Placed(laid.structure, before))
        if not self.session.apply(name, laid.project):
            self.placed.pop()
            return False
        if laid.pipe is not None or len(self.placed) == 1:
            self._show_run(laid.structure)
        if laid.pipe is not None:  # a start level is for the first pipe alone
            self.session.set(way=replace(self.way, start=None, level=None))
        return True

    def _way_to(self, place: Target) -> Way:
        """How the pipe to a place is laid: while joining, as the water would run."""
        self._flow = None
        if self.mode != "join" or self.last is None or not isinstance(place, str) or place == self.last:
            return self.way
        self._flow = sensible(self.session.state.kept.facts, self.last, StructureId(place))
        return replace(self.way, up=self._flow.down == self.last)

    @property
    def _last_pipe(self) -> PipeId | None:
        """The pipe laid last that is still there."""
        there = self.session.state.kept.project.pipes
        laid = [p.before.pipe for p in self.placed if p.before is not None and p.before.pipe in there]
        return laid[-1] if laid else None

    @property
    def _before(self) -> Before | None:
        return self.placed[-1].before if self.placed else None

    def _show_run(self, structure: StructureId) -> None:
        """The long section shows what is laid: along the road that it was begun over, while all of it stands there; else
        from where it began; of a sole structure its road.
        """
        s = self.session.state
        key = self._run_of(s.kept.project, structure)
        if key is not None and key != s.run_key:
            self.session.show_run(key)

    def _run_of(self, project: Project, structure: StructureId) -> RunKey | None:
        placed = [*(p.structure for p in self.placed if p.structure in project.structures), structure]
        roads = {getattr(project.structures[k].place, "road", None) for k in placed}
        if (
            self.began is not None
            and self.began.kind == "road"
            and roads == {self.began.id}
            and self.session.state.straight
        ):
            return self.began
        if placed[0] != structure and self.mode != "alone":
            return RunKey.path(placed[0], structure)
        road = next(iter(roads))
        return RunKey("road", road) if road is not None and self.placed else None

    def move(self, view: "DrawingView", at: Place, held: bool) -> None:
        """Shows the next structure and its pipe with all that follows, before a click takes it."""
        if view.kind != "plan":
            return
        world = view.world(at.x, at.y)
        place = None if world is None else self._place(view, world, at)
        if place is None:
            self._next = None
            self.session.preview(None)
            return
        self._look(place)

    def _look(self, place: Target) -> None:
        state = self.session.state
        try:
            laid = lay_next(state.kept.project, state.kept.facts, self.last, place, self._way_to(place), self._before)
        except EditError as e:
            self._next, self._why = None, str(e)
            self.session.preview(None)
            return
        self._next, self._why = (place, laid), ""
        fresh = {k for k in (laid.structure, laid.pipe) if k is not None}
        fresh -= state.kept.project.structures.keys()
        key = self._run_of(laid.project, laid.structure) if laid.pipe is not None else None
        self.session.preview(laid.project, frozenset(fresh), key)

    def _place(self, view: "DrawingView", world: tuple[float, float], at: Place) -> Target | None:
        """A structure under the cursor, else chainage and offset on the nearest road, else x and y."""
        self._snap = ""
        hit = view.hit_kept(at.x, at.y)
        if hit is not None and hit.kind == "structure":
            if hit.id == self.last:
                return None
            self._snap = f"Join {self.session.state.kept.project.structures[hit.id].label}"
            return StructureId(hit.id)
        if hit is not None and self.mode != "join":
            return self._on_pipe(PipeId(hit.id), world, at, _scale(view))
        if self.mode == "join":
            return None
        kept = self.session.state.kept
        caught = None if at.alt else place_snap(kept.project, *world, SNAP / _scale(view), own=False)
        if caught is not None:  # exactly there: on a road its chainage and offset are not rounded
            self._snap = caught.what.capitalize()
            road, ch, off = self._nearest((caught.x, caught.y))
            return Free(caught.x, caught.y) if road is None else Anchored(road, ch, off)
        road, ch, off = self._nearest(world)
        if road is None:
            limit = None if at.alt else limit_snap(kept.project, *world, NEAR / _scale(view))
            self._snap = limit.what.capitalize() if limit is not None else ""
            x, y = world if limit is None else (limit.x, limit.y)
            return Free(round(x, 2), round(y, 2)) if limit is None else Free(x, y)
        step = 0.0 if at.alt else STEP
        off = self._same_offset(road, off, view, at)
        if not self._snap and not at.alt:
            off = self._beside(road, ch, off, _scale(view))
        limit = None if at.alt or self._snap else limit_snap(kept.project, *world, NEAR / _scale(view))
        if limit is not None:
            self._snap = limit.what.capitalize()
            on, ch, off = self._nearest((limit.x, limit.y))
            return Free(limit.x, limit.y) if on is None else Anchored(on, ch, off)
        if not at.alt:
            before = self._snap
            ch = self._low_point(road, ch, _scale(view))
            ch = ch if self._snap != before else self._across(road, ch, _scale(view))
        exact = "across" in self._snap.lower() or "low point" in self._snap.lower()
        return Anchored(road, ch if exact else _rounded(ch, step * 10), off if self._snap else _rounded(off, step))

    def _on_pipe(self, pipe: PipeId, world: tuple[float, float], at: Place, scale: float) -> OnPipe:
        """The place on a pipe under the cursor; square from the last structure where that is near."""
        facts = self.session.state.kept.facts
        f, last = facts.pipes[pipe], None if self.last is None else facts.places[self.last]
        self._snap, on = f"Into {f.pipe.label}", nearest_distance(f.span, *world)
        if last is not None and last.x is not None and last.y is not None and not at.alt:
            square = nearest_distance(f.span, last.x, last.y)
            if abs(square - on) * scale < SNAP:
                self._snap = f"Square onto {f.pipe.label}"
                return OnPipe(pipe, square)
        return OnPipe(pipe, round(on, 2))

    def _across(self, road: RoadId, ch: float, scale: float) -> float:
        """Near the last structure's chainage a place is square across the road from it."""
        last = None if self.last is None else self.session.state.kept.project.structures[self.last]
        if last is None or not isinstance(last.place, Anchored) or last.place.road != road:
            return ch
        if abs(last.place.chainage - ch) * scale >= NEAR:
            return ch
        word = f"Square across from {last.label}"
        self._snap = word if not self._snap else f"{self._snap}, {word.lower()}"
        return last.place.chainage

    def _nearest(self, world: tuple[float, float]) -> tuple[RoadId | None, float, float]:
        roads = self.session.state.kept.facts.roads
        near = nearest(roads, np.array([world[0]]), np.array([world[1]]))
        ch, off = float(near.chainage[0]), float(near.offset[0])
        if ch != ch or abs(off) > ALONG:
            return None, 0.0, 0.0
        return list(roads)[int(near.road[0])], ch, off

    def _same_offset(self, road: RoadId, off: float, view: "DrawingView", at: Place) -> float:
        """Within a few units of the last structure's offset the run keeps it."""
        last = None if self.last is None else self.session.state.kept.project.structures[self.last]
        scale = _scale(view)
        if at.alt or last is None or not isinstance(last.place, Anchored) or last.place.road != road:
            return off
        if abs(last.place.offset - off) * scale < 9:
            self._snap = f"Same offset as {last.label}"
            return last.place.offset
        return off

    def _beside(self, road: RoadId, ch: float, off: float, scale: float) -> float:
        """Near the centre line or a kerb a place is exactly there."""
        strip = self.session.state.kept.project.roads[road].strip
        lines = {"Centre line": 0.0}
        if strip is not None:
            at = at_chainages(strip.sections, np.array([ch]))
            lines |= {"Left kerb": -float(at["left"][0]), "Right kerb": float(at["right"][0])}
        name = min(lines, key=lambda n: abs(lines[n] - off))
        if abs(lines[name] - off) * scale >= NEAR:
            return off
        self._snap = name
        return lines[name]

    def _low_point(self, road: RoadId, ch: float, scale: float) -> float:
        """Near a low point of the road a place stands exactly at it."""
        profile = self.session.state.kept.facts.roads[road].profile
        low = [c for c, kind in profile.turning_points() if kind == "low"] if profile is not None else []
        near = min(low, key=lambda c: abs(c - ch), default=None)
        if near is None or abs(near - ch) * scale >= 9:
            return ch
        self._snap = "Low point" if not self._snap else f"Low point, {self._snap.lower()}"
        return near

    def key(self, text: str) -> bool:
        """[ and ] change the pipe size, t the type, b makes the next a joint, e tells which edge of a structure stands at the
        place, a lays structures alone and back.
        """
        project, way = self.session.state.kept.project, self.way
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
            self.session.set(way=replace(way, type=back if way.type == joint or joint is None else joint))
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
        """The long section shows a run that is there; over a straightened plan the one of before, so that nothing moves."""
        s = self.session.state
        there = self.began is not None and run(s.kept.facts, self.began) is not None
        if self.began is not None and there and s.straight:
            self.session.show_run(self.began)
        elif s.run is None or s.run_key not in s.keys:
            key = run_with(s.kept.project, s.kept.facts, list(s.keys), self._last_pipe) if self._last_pipe else None
            if key is not None or (s.run is None and s.keys):
                self.session.show_run(key or s.keys[0])

    def ends(self) -> None:
        self.cancel()
        self._repair_run()

    def takes_entry(self, view: "DrawingView") -> bool:
        return True

    def _road(self) -> RoadId | None:
        """The road that a typed chainage is on: the one pointed at, else the last structure's, else the one shown."""
        s = self.session.state
        last = None if self.last is None else s.kept.project.structures[self.last].place
        return road_pointed_at(self.session) or (last.road if isinstance(last, Anchored) else road_shown(self.session))

    def _typed_place(self, text: str) -> Anchored | Free:
        """A typed place; "412.5 =" keeps the last offset, "= -3.6" the last chainage, "d12 b35" goes from the last.
        "=S4 2.8" is at the chainage of S4, "412.5 =S4" at its offset.
        """
        state = self.session.state
        last = None if self.last is None else state.kept.project.structures[self.last].place
        t, road = named_road(_without_level(text)[0].lower(), state.kept.project, self._road())
        if t.startswith("d") and self.last is not None:
            at = state.kept.facts.places[self.last]
            return Free(*typed_point(t, state.kept.facts, road, (at.x or 0.0, at.y or 0.0)))
        parts = t.split()
        if len(parts) == 2 and any(p.startswith("=") for p in parts):
            if isinstance(last, Anchored) and t == _without_level(text)[0].lower():
                road = last.road  # "=" is of the last one's road, unless another is named
            like = [self._like(p, road, last, i) if p.startswith("=") else p for i, p in enumerate(parts)]
            return typed_place(" ".join(like), road, self.session.units)
        return typed_place(t, road, self.session.units)

    def _like(self, text: str, road: RoadId | None, last: Anchored | Free | None, which: int) -> str:
        """The chainage (which 0) or offset (1) on a road of the last structure, or of the one named: "=", "=S4"."""
        kept, u = self.session.state.kept, self.session.units
        if text == "=":
            if not isinstance(last, Anchored):
                raise EditError('"=" is the last chainage or offset: place one on a road first.')
            return f"{u.shown((last.chainage, last.offset)[which]):.6f}"
        found = next((k for k, s in kept.project.structures.items() if s.label.lower() == text[1:]), None)
        if found is None or road is None:
            labels = [s.label for s in kept.project.structures.values()]
            raise EditError(f'There is no structure "{text[1:]}" here: {known(text[1:].upper(), labels)}')
        p = kept.facts.places[found]
        at = [float(v) for v in kept.facts.roads[road].alignment.project(p.x or 0.0, p.y or 0.0)]
        if p.x is None or at[which] != at[which]:
            raise EditError(f"{kept.project.structures[found].label} stands beyond the end of this road.")
        return f"{u.shown(at[which]):.6f}"

    def _with_level(self, text: str) -> None:
        """A level typed after the place ("412.5 -3.6 z42.1") is the invert there."""
        level = _without_level(text)[1]
        if level is not None:
            self.session.set(way=replace(self.way, level=number(level, self.session.units)))

    def typed(self, text: str) -> None:
        self._snap = ""
        try:
            place = self._typed_place(text)
            self._with_level(text)
        except EditError:
            return
        self._look(place)

    def entry(self, text: str) -> bool:
        before, self._snap = self.way, ""
        try:
            place = self._typed_place(text)
            self._with_level(text)
        except EditError as e:
            self.session.refused.emit(str(e))
            return False
        if not self._take(place):
            self.session.set(way=before)
            return False
        return True

    def begin_at(self, structure: StructureId) -> None:
        """Goes on from a structure that is there."""
        self._take(structure)

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
            lines.append(f"<b>{u.long(f.span.length)}</b> from {escape(start)}, bearing {bearing:.1f}°")
            cover = (
                "no ground known"
                if f.cover is None
                else f"cover {u.length(f.cover.least)} to {u.length(f.cover.greatest)}"
            )
            lines.append(f"<b>Slope {u.slope(f.slope)}</b>, {cover}")
            if self._flow is not None:
                ends = (laid.project.structures[k].label for k in (self._flow.up, self._flow.down))
                lines[1:1] = [f"<b>Flows from {' to '.join(map(escape, ends))}</b>: {escape(self._flow.why)}"]
            v = self.session.state.shown
            found = [n for n in v.findings.by_pipe.get(laid.pipe, ()) if rule_of(n.rule).at_once]
            lines += [f"<b>{escape(mark(v.facts, n))}</b>" for n in found]
        else:
            name = laid.facts.surfaces.name("existing")
            lines.append(f"{name} {u.level(shown.ground)}, rim {u.level(shown.rim)}")
        what = "joins" if isinstance(place, (str, OnPipe)) else "x,y"
        if isinstance(place, Anchored):
            what = f"on {laid.project.roads[place.road].name}" if len(laid.project.roads) > 1 else "chainage offset"
        return Words(f"{label} at", value, self._snap or what, tuple(lines))


def _without_level(text: str) -> tuple[str, str | None]:
    """A typed place, and the level that follows it after a z; None where none does."""
    t = text.strip()
    found = _LEVEL.search(t)
    return (t, None) if found is None else (t[: found.start()].strip(), found.group(1).strip())


_LEVEL = re.compile(r"(?:^|\s)[zZ]\s*([-+\u2212.\d].*)$")


def _scale(view: "DrawingView") -> float:
    return float(getattr(getattr(view, "sight", None), "scale", 4.0))


def _rounded(v: float, step: float) -> float:
    return round(round(v / step) * step, 6) if step else round(v, 3)


def place_text(place: Anchored | Free, u: Units) -> str:
    """A place as one would type it."""
    if isinstance(place, Anchored):
        return f"{u.coordinate(place.chainage)} {u.coordinate(place.offset)}"
    return f"{u.coordinate(place.x)},{u.coordinate(place.y)}"
