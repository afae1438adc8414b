"""Dragging levels by the rings of the pipe in hand."""

from html import escape
from typing import TYPE_CHECKING, cast

from msgspec.structs import replace

from zumbert.analysis.crossings import Reach
from zumbert.app.tools.drag import Drag
from zumbert.app.tools.near import LEVEL
from zumbert.app.tools.tool import MousePlace, Section, Words
from zumbert.checks.finding import Finding
from zumbert.checks.legal import end_range, shift_range
from zumbert.checks.sentences import brief
from zumbert.drawing.handles import PipeHandle, ring_places
from zumbert.drawing.marks import Target
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


class LevelDrag(Drag):
    """A ring of a pipe in hand: by the mouse, or (without a place) for the keyboard."""

    hint = (
        "Release to set it. Shift: all beyond. Alt: no snaps. Type a level, +0.15, 1:80, 1.25% "
        "or c0.9. Esc: as it was."
    )
    takes_text = True

    def __init__(
        self,
        session: "Session",
        hand: PipeHandle,
        ring: Ring,
        reach: Reach,
        at: MousePlace | None = None,
    ) -> None:
        super().__init__(session, at)
        self.ring, self.pipe, self.reach = ring, hand.pipe, reach
        self.theme: Theme = "light"
        self._grab = 0.0  # m between the cursor and the ring when it was taken
        self.name = f"Set the levels of {session.state.current.project.pipes[hand.pipe].label}"

    @classmethod
    def press(
        cls, session: "Session", view: Section, target: Target, at: MousePlace
    ) -> "LevelDrag | None":
        """Takes a ring in hand; an end ring makes the other end the one that stays. What is held
        is refused.
        """
        hand, ring = session.state.chosen.hand, cast("Ring", target.id)
        reach = None if hand is None else _reach(session, hand)
        if hand is None or reach is None:
            return None  # the ring is of a run that was shown before
        why = _locked(session, hand.pipe, ring)
        if why:
            session.refused.emit(why)
            return None
        made = cls(session, hand, ring, reach, at)
        made.theme = view.pen.theme
        made._grab = view.sight.z_at(at.y) - made._ring_level(view)
        pivot = hand.pivot if ring == "mid" else "down" if ring.endswith("up") else "up"
        session.set(hand=replace(hand, pivot=pivot, ring=ring, dragging=True, snap=None))
        return made

    @classmethod
    def for_typing(cls, session: "Session", hand: PipeHandle) -> "LevelDrag | None":
        """Takes the ring of the moving end in hand for the keyboard."""
        ring: Ring = (
            hand.ring if hand.ring is not None else ("down" if hand.pivot == "up" else "up")  # type: ignore[assignment]
        )
        # typed levels need no place in the section
        reach = _reach(session, hand) or Reach(hand.pipe, 0.0, 0.0)
        session.set(hand=replace(hand, ring=ring, dragging=True))
        return cls(session, hand, ring, reach)

    def _ring_level(self, view: Section) -> float:
        """The level at which the ring stands."""
        ring = self.ring
        p = self.session.state.current.project.pipes[self.pipe]
        if ring == "mid":
            return (p.invert_up + p.invert_down) / 2
        if not ring.startswith("beyond"):
            return p.invert(ring)  # type: ignore[arg-type]
        f = self.session.state.current.facts.pipes[p.id]
        return view.sight.z_at(ring_places(f, self.reach, view.sight)[ring][1])

    @property
    def end(self) -> End | None:
        """The end that moves; None: the whole pipe."""
        if self.ring == "mid":
            return None
        return "up" if self.ring.endswith("up") else "down"

    def section_move(self, view: Section, at: MousePlace) -> None:
        current = self.session.state.current
        f = current.facts.pipes[self.pipe]
        snap = self._snapped(view, at)
        if self.end is None:
            self.name = f"Shift {f.pipe.label}"
            project = shift_pipe(current.project, self.pipe, snap.level - f.pipe.invert_up)
        elif at.shift:
            side = "upstream" if self.end == "up" else "downstream"
            self.name = f"Shift {f.pipe.label} and all {side}"
            project = shift_side(
                current.project,
                current.facts,
                self.pipe,
                self.end,
                snap.level - f.pipe.invert(self.end),
            )
        else:
            where = current.project.structures[f.pipe.at(self.end)].label
            word = "Set the slope at" if self.ring.startswith("beyond") else "Set the invert at"
            self.name = f"{word} {where}"
            project = set_invert(current.project, self.pipe, self.end, snap.level)
        self.show(project)
        hand = self.session.state.chosen.hand
        if hand is not None and hand.snap != (snap.name or None):
            self.session.set(hand=replace(hand, snap=snap.name or None))

    def _snapped(self, view: Section, at: MousePlace) -> Snap:
        """The level of the moving end (of the upper end for the whole pipe) under the cursor,
        snapped.
        """
        current = self.session.state.current
        f = current.facts.pipes[self.pipe]
        z = view.sight.z_at(at.y) - self._grab
        if self.ring == "mid":
            z += (f.pipe.invert_up - f.pipe.invert_down) / 2
        if self.ring.startswith("beyond"):
            z = self._through(view, z)
        if at.alt:
            return Snap(z, "")
        if self.end is not None and self.ring.startswith("beyond"):
            return snapped_slope(self.session.state.current.facts, f, self.end, z)
        return snapped(current.facts, f, self.end, z, LEVEL / view.sight.sz)

    def _through(self, view: Section, z: float) -> float:
        """The level of an end so that the pipe's line, about the other end, goes through the
        ring beyond it.
        """
        current = self.session.state.current
        f = current.facts.pipes[self.pipe]
        places = ring_places(f, self.reach, view.sight)
        end: End = "up" if self.ring == "beyond-up" else "down"
        other: End = "down" if end == "up" else "up"
        far = places[f"beyond-{end}"][0] - places[other][0]
        near = places[end][0] - places[other][0]
        fixed = f.pipe.invert_down if end == "up" else f.pipe.invert_up
        return fixed + (z - fixed) * (near / far if abs(far) > 1e-9 else 1.0)

    def meant(self, text: str) -> Project:
        current = self.session.state.current
        self.name = f"Set the levels of {current.project.pipes[self.pipe].label}"
        return typed_levels(current.project, current.facts, self.pipe, self.ring, text)

    def ends(self) -> None:
        hand = self.session.state.chosen.hand
        if hand is not None:
            self.session.set(hand=replace(hand, ring=None, dragging=False, snap=None))

    def words(self) -> Words | None:
        u = self.session.units
        if self.pipe not in self.session.state.shown.facts.pipes:
            return None
        shown, current = self.session.state.shown, self.session.state.current
        f, was = shown.facts.pipes[self.pipe], current.facts.pipes[self.pipe]
        ends = (
            current.project.structures[f.pipe.up].label,
            current.project.structures[f.pipe.down].label,
        )
        if self.end is None:
            head, now, before = "Whole pipe, upper invert", f.pipe.invert_up, was.pipe.invert_up
        else:
            now, before = f.pipe.invert(self.end), was.pipe.invert(self.end)
            head = f"Invert at {ends[0] if self.end == 'up' else ends[1]}"
        return Words(
            head,
            u.level(now),
            f"{u.step(now - before)} {u.m}",
            (
                (
                    f"<b>{u.slope(f.slope)}</b>&nbsp; {u.other_slope(f.slope)}&nbsp;&nbsp; "
                    f"{self._legal_words()}"
                ),
                self._rule_words(),
            ),
        )

    def _legal_words(self) -> str:
        u = self.session.units
        shown = self.session.state.shown
        f = shown.facts.pipes[self.pipe]
        if self.end is None:
            r = shift_range(shown.facts, f)
            if r.empty or r.low is None or r.high is None:
                return "no legal level"
            return (
                f"legal {u.level(f.pipe.invert_up + r.low)} to {u.level(f.pipe.invert_up + r.high)}"
            )
        r = end_range(shown.facts, f, self.end)
        if r.empty or r.low is None or r.high is None:
            return "no legal level here"
        return f"legal {u.level(r.low)} to {u.level(r.high)}"

    def _rule_words(self) -> str:
        s = self.session.state
        if s.held.stopped:
            return f"<b>{s.held.stopped}</b>, Ctrl passes"
        if s.chosen.hand is not None and s.chosen.hand.snap:
            return f"<b>{s.chosen.hand.snap}</b>"
        found = self._findings()
        if not found:
            return "every rule kept"
        before = {f.key for f in self._findings(current=True)}
        made = [f for f in found if f.key not in before]
        first = min(made or found, key=lambda f: f.severity != "breach")
        tone, sign = (
            colour(first.severity, self.theme),
            "\u25bc" if first.severity == "breach" else "\u25ca",
        )
        return (
            f'<span style="color:{tone}"><b>{sign}</b> {escape(brief(s.shown.facts, first))}</span>'
        )

    def _findings(self, current: bool = False) -> list[Finding]:
        state = self.session.state
        found = (state.current if current else state.shown).findings
        f = state.shown.facts.pipes[self.pipe]
        out = list(found.by_pipe.get(self.pipe, ()))
        for end in (f.pipe.up, f.pipe.down):
            out += [x for x in found.by_structure.get(end, ()) if x.partner is not None]
        return [x for x in out if not x.decided]


def _reach(session: "Session", hand: PipeHandle) -> Reach | None:
    """Where the pipe in hand lies in the run that is shown."""
    run = session.state.look.run
    return None if run is None else next((r for r in run.reaches if r.pipe == hand.pipe), None)


def _locked(session: "Session", pipe: PipeId, ring: Ring) -> str:
    """Why a ring can not be moved; empty where it can."""
    current = session.state.current
    try:
        if ring.startswith("beyond"):
            set_slope(
                current.project, current.facts, pipe, 1.0, "down" if ring == "beyond-up" else "up"
            )
        elif ring == "mid":
            shift_pipe(current.project, pipe, 1.0)
        else:
            set_invert(
                current.project,
                pipe,
                "up" if ring == "up" else "down",
                current.project.pipes[pipe].invert_up + 1.0,
            )
    except EditError as e:
        return str(e)
    return ""
