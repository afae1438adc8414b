"""Dragging levels by the rings of the pipe in hand."""

from html import escape
from typing import TYPE_CHECKING

from msgspec.structs import replace

from zumbert.analysis.crossings import Reach
from zumbert.app.tools.tool import Place, Words
from zumbert.checks.finding import Finding
from zumbert.checks.legal import end_range, shift_range
from zumbert.checks.sentences import brief
from zumbert.drawing.handles import Hand, ring_places
from zumbert.drawing.style import Theme, colour
from zumbert.edits.levels import set_invert, set_slope, shift_pipe, shift_side
from zumbert.edits.snaps import Snap, snapped, snapped_slope
from zumbert.edits.typed import Ring, typed_levels
from zumbert.errors import EditError
from zumbert.model.ids import PipeId
from zumbert.model.pipe import End
from zumbert.model.project import Project

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.views.sectionview import SectionView

SNAP_UNITS = 7.0  # drawing units within which a named snap holds


class LevelDrag:
    """idle -press on a ring-> dragging -release-> idle (done); typing -> typed -Enter-> idle (done);
    Esc -> idle (nothing done). Without a press, typing works on the ring of the moving end.
    """

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.ring: Ring | None = None
        self.pipe: PipeId | None = None
        self.typing = False
        self.theme: Theme = "light"
        self._grab = 0.0  # m between the cursor and the ring when it was taken
        self._project: Project | None = None
        self._name = ""

    @property
    def active(self) -> bool:
        """Whether a ring is in hand."""
        return self.ring is not None

    def begin(self, view: "SectionView", hand: Hand, ring: Ring, at: Place) -> None:
        """Takes a ring in hand; an end ring makes the other end the one that stays. What is held is refused."""
        run = self.session.state.run
        if run is None or all(r.pipe != hand.pipe for r in run.reaches):
            return  # the ring is of a run that was shown before
        why = self._held(hand.pipe, ring)
        if why:
            self.session.refused.emit(why)
            return
        self.ring, self.pipe, self.typing, self.theme = ring, hand.pipe, False, view.pen.theme
        self._grab = view.sight.z_at(at.y) - self._ring_level(view, ring)
        held = hand.held if ring == "mid" else "down" if ring.endswith("up") else "up"
        self.session.set(hand=replace(hand, held=held, ring=ring, dragging=True, snap=None))

    def _held(self, pipe: PipeId, ring: Ring) -> str:
        """Why a ring can not be moved; empty where it can."""
        kept = self.session.state.kept
        level = kept.project.pipes[pipe].invert_up
        try:
            if ring.startswith("beyond"):
                set_slope(kept.project, kept.facts, pipe, 1.0, "down" if ring == "beyond-up" else "up")
            elif ring == "mid":
                shift_pipe(kept.project, pipe, 1.0)
            else:
                set_invert(kept.project, pipe, "up" if ring == "up" else "down", level + 1.0)
        except EditError as e:
            return str(e)
        return ""

    def begin_typing(self, hand: Hand) -> None:
        """Takes the ring of the moving end in hand for the keyboard."""
        ring: Ring = hand.ring if hand.ring is not None else ("down" if hand.held == "up" else "up")  # type: ignore[assignment]
        self.ring, self.pipe, self.typing = ring, hand.pipe, True
        self.session.set(hand=replace(hand, ring=ring, dragging=True))

    def _ring_level(self, view: "SectionView", ring: Ring) -> float:
        p = self.session.state.kept.project.pipes[self._pipe]
        if ring == "mid":
            return (p.invert_up + p.invert_down) / 2
        if not ring.startswith("beyond"):
            return p.invert(ring)  # type: ignore[arg-type]
        reach = self._reach(view)
        f = self.session.state.kept.facts.pipes[p.id]
        return view.sight.z_at(ring_places(f, reach, view.sight)[ring][1])

    @property
    def _pipe(self) -> PipeId:
        assert self.pipe is not None  # noqa: S101 - only with a ring in hand
        return self.pipe

    def _reach(self, view: "SectionView") -> Reach:
        run = self.session.state.run
        assert run is not None  # noqa: S101 - rings are drawn on a run
        return next(r for r in run.reaches if r.pipe == self.pipe)

    @property
    def end(self) -> End | None:
        """The end that moves; None: the whole pipe."""
        if self.ring is None or self.ring == "mid":
            return None
        return "up" if self.ring.endswith("up") else "down"

    def drag(self, view: "SectionView", at: Place) -> None:
        """Follows the mouse: shows what the edit would make."""
        if self.ring is None or self.typing:
            return
        kept = self.session.state.kept
        f = kept.facts.pipes[self._pipe]
        snap = self._snapped(view, at)
        if self.end is None:
            self._name = f"Shift {f.pipe.label}"
            self._project = shift_pipe(kept.project, self._pipe, snap.level - f.pipe.invert_up)
        elif at.shift:
            now = f.pipe.invert(self.end)
            side = "upstream" if self.end == "up" else "downstream"
            self._name = f"Shift {f.pipe.label} and all {side}"
            self._project = shift_side(kept.project, kept.facts, self._pipe, self.end, snap.level - now)
        else:
            where = kept.project.structures[f.pipe.up if self.end == "up" else f.pipe.down].label
            word = "Set the slope at" if self.ring.startswith("beyond") else "Set the invert at"
            self._name = f"{word} {where}"
            self._project = set_invert(kept.project, self._pipe, self.end, snap.level)
        self.session.preview(self._project)
        hand = self.session.state.hand
        if hand is not None and hand.snap != (snap.name or None):
            self.session.set(hand=replace(hand, snap=snap.name or None))

    def _snapped(self, view: "SectionView", at: Place) -> Snap:
        """The level of the moving end (of the upper end for the whole pipe) under the cursor, snapped."""
        kept = self.session.state.kept
        f = kept.facts.pipes[self._pipe]
        z = view.sight.z_at(at.y) - self._grab
        if self.ring == "mid":
            z += (f.pipe.invert_up - f.pipe.invert_down) / 2
        if self.ring is not None and self.ring.startswith("beyond"):
            z = self._through(view, z)
        if at.alt:
            return Snap(z, "")
        if self.ring is not None and self.ring.startswith("beyond"):
            end: End = "up" if self.ring.endswith("up") else "down"
            return snapped_slope(self.session.state.kept.facts, f, end, z)
        return snapped(kept.facts, f, self.end, z, SNAP_UNITS / view.sight.sz)

    def _through(self, view: "SectionView", z: float) -> float:
        """The level of an end so that the pipe's line, about the other end, goes through the ring beyond it."""
        kept = self.session.state.kept
        f = kept.facts.pipes[self._pipe]
        places = ring_places(f, self._reach(view), view.sight)
        end: End = "up" if self.ring == "beyond-up" else "down"
        other: End = "down" if end == "up" else "up"
        far = places[f"beyond-{end}"][0] - places[other][0]
        near = places[end][0] - places[other][0]
        fixed = f.pipe.invert_down if end == "up" else f.pipe.invert_up
        return fixed + (z - fixed) * (near / far if abs(far) > 1e-9 else 1.0)

    def finish(self) -> None:
        """Commits what is shown as one undo step."""
        project, name = self._project, self._name
        self._clear()
        if project is not None:
            self.session.apply(name, project)
        else:
            self.session.preview(None)

    def typed(self, text: str) -> None:
        """Shows what a typed text would make; a text that means nothing yet shows the value as it was."""
        self.typing = True
        kept = self.session.state.kept
        try:
            project = typed_levels(kept.project, kept.facts, self._pipe, self.ring or "down", text)
        except EditError:
            self.session.preview(None)
            return
        self.session.preview(project)

    def entry(self, text: str) -> bool:
        """Takes a typed text; a refusal is told and the ring stays in hand."""
        kept = self.session.state.kept
        label = kept.project.pipes[self._pipe].label
        try:
            project = typed_levels(kept.project, kept.facts, self._pipe, self.ring or "down", text)
        except EditError as e:
            self.session.refused.emit(str(e))
            return False
        self._clear()
        self.session.apply(f"Set the levels of {label}", project)
        return True

    def cancel(self) -> bool:
        """Leaves all as it was."""
        if self.ring is None:
            return False
        self._clear()
        self.session.preview(None)
        return True

    def _clear(self) -> None:
        self.ring, self._project, self.typing = None, None, False
        hand = self.session.state.hand
        if hand is not None:
            self.session.set(hand=replace(hand, ring=None, dragging=False, snap=None))

    def words(self) -> Words | None:
        """The entry line while a ring is in hand."""
        u = self.session.units
        if self.ring is None or self.pipe is None or self.pipe not in self.session.state.shown.facts.pipes:
            return None
        shown, kept = self.session.state.shown, self.session.state.kept
        f, was = shown.facts.pipes[self.pipe], kept.facts.pipes[self.pipe]
        ends = kept.project.structures[f.pipe.up].label, kept.project.structures[f.pipe.down].label
        if self.end is None:
            head, now, before = "Whole pipe, upper invert", f.pipe.invert_up, was.pipe.invert_up
        else:
            now, before = (
                (f.pipe.invert_up, was.pipe.invert_up)
                if self.end == "up"
                else (f.pipe.invert_down, was.pipe.invert_down)
            )
            head = f"Invert at {ends[0] if self.end == 'up' else ends[1]}"
        return Words(
            head, u.level(now), f"{u.step(now - before)} {u.m}",
            (f"<b>{u.slope(f.slope)}</b>&nbsp; {u.other_slope(f.slope)}&nbsp;&nbsp; {self._legal_words()}", self._rule_words()),
        )  # fmt: skip

    def _legal_words(self) -> str:
        u = self.session.units
        shown = self.session.state.shown
        f = shown.facts.pipes[self._pipe]
        if self.end is None:
            r = shift_range(shown.facts, f)
            if r.empty or r.low is None or r.high is None:
                return "no legal level"
            return f"legal {u.level(f.pipe.invert_up + r.low)} to {u.level(f.pipe.invert_up + r.high)}"
        r = end_range(shown.facts, f, self.end)
        if r.empty or r.low is None or r.high is None:
            return "no legal level here"
        return f"legal {u.level(r.low)} to {u.level(r.high)}"

    def _rule_words(self) -> str:
        s = self.session.state
        if s.hand is not None and s.hand.snap:
            return f"<b>{s.hand.snap}</b>"
        found = self._findings()
        if not found:
            return "every rule kept"
        before = {f.key for f in self._findings(kept=True)}
        made = [f for f in found if f.key not in before]
        first = min(made or found, key=lambda f: f.severity != "breach")
        tone, sign = colour(first.severity, self.theme), "\u25bc" if first.severity == "breach" else "\u25ca"
        return f'<span style="color:{tone}"><b>{sign}</b> {escape(brief(s.shown.facts, first))}</span>'

    def _findings(self, kept: bool = False) -> list[Finding]:
        state = self.session.state
        found = (state.kept if kept else state.shown).findings
        f = state.shown.facts.pipes[self._pipe]
        out = list(found.by_pipe.get(self._pipe, ()))
        for end in (f.pipe.up, f.pipe.down):
            out += [x for x in found.by_structure.get(end, ()) if x.partner is not None]
        return out
