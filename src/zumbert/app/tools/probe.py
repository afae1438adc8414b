"""All levels at a point of a pipe, in plan or long section; a click pins them as a note."""

from typing import TYPE_CHECKING

import numpy as np

from zumbert.analysis.probe import Levels, levels, stops, within
from zumbert.app.told import told
from zumbert.app.tools.near import LEVEL, PIPE
from zumbert.app.tools.tool import NOTHING, EitherClickTool, MousePlace, Plan, Section, Words
from zumbert.drawing.marks import Composed, Disc, Stroke, points
from zumbert.drawing.pins import surfaces_named, value_text
from zumbert.edits.loose import nearest_distance
from zumbert.edits.notes import add_pin
from zumbert.model.ids import PipeId
from zumbert.model.note import CoverFrom, PinField

if TYPE_CHECKING:
    from zumbert.app.session import Session


class ProbeTool(EitherClickTool):
    """ready -near a pipe-> its levels shown at the place -click-> pinned. A typed distance is one
    along that pipe; Esc puts the tool down.
    """

    kind = "probe"

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.pipe: PipeId | None = None
        self.at = 0.0
        self._snap = ""
        self.cover_from: CoverFrom = "reference"
        self._stops: tuple[object, PipeId | None, list[tuple[float, str]]] = (None, None, [])

    hint = (
        "Move along a pipe. Click pins its levels, or type a distance. U: cover from another "
        "surface. Alt: no snaps. Esc: end."
    )
    keys = frozenset("u")

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        self._look(self._in_plan(view, at), at)

    def section_move(self, view: Section, at: MousePlace, pressed: bool) -> None:
        self._look(self._in_section(view, at), at)

    def _look(self, found: tuple[PipeId, float, float] | None, at: MousePlace) -> None:
        """Looks at a place of a pipe: its distance, and drawing units of a metre there."""
        if found is None:
            self.pipe = None
            return
        self.pipe, s, scale = found
        f = self.session.state.shown.facts.pipes[self.pipe]
        self.at, self._snap = within(f, s), ""
        if not at.alt:
            near = min(self._crossed(self.pipe), key=lambda c: abs(c[0] - self.at), default=None)
            if near is not None and abs(near[0] - self.at) * scale <= LEVEL:
                self.at, self._snap = near
            else:
                self.at = within(f, round(self.at, 2))

    def _crossed(self, pipe: PipeId) -> list[tuple[float, str]]:
        """The ends of a pipe and what crosses it; kept while the facts are the same."""
        facts = self.session.state.shown.facts
        if self._stops[0] is not facts or self._stops[1] != pipe:
            self._stops = facts, pipe, stops(facts, pipe)
        return self._stops[2]

    def _in_plan(self, view: Plan, at: MousePlace) -> tuple[PipeId, float, float] | None:
        world, facts = view.world(at.x, at.y), self.session.state.shown.facts
        if world is None:
            return None
        hit = view.hit(at.x, at.y)
        key = (
            hit.id
            if hit is not None and hit.kind == "pipe"
            else self._nearest(world, PIPE / view.sight.scale)
        )
        if key is None or key not in facts.pipes:
            return None
        return key, nearest_distance(facts.pipes[key].span, *world), view.sight.scale

    def _nearest(self, world: tuple[float, float], reach: float) -> PipeId | None:
        facts = self.session.state.shown.facts
        keys = [k for k, s in facts.spans.items() if s.up.x is not None and s.down.x is not None]
        if not keys:
            return None
        e = np.array(
            [(s.up.x, s.up.y, s.down.x, s.down.y) for s in (facts.spans[k] for k in keys)], float
        )
        d = e[:, 2:] - e[:, :2]
        t = ((world - e[:, :2]) * d).sum(axis=1) / np.maximum((d**2).sum(axis=1), 1e-12)
        far = np.hypot(*(e[:, :2] + np.clip(t, 0, 1)[:, None] * d - world).T)
        i = int(far.argmin())
        return keys[i] if far[i] <= reach else None

    def _in_section(self, view: Section, at: MousePlace) -> tuple[PipeId, float, float] | None:
        run, facts = self.session.state.look.run, self.session.state.shown.facts
        if run is None or not view.sight.left <= at.x or at.y > view.sight.height:
            return None
        s = view.sight.s_at(at.x)
        over = [
            r
            for r in run.reaches
            if min(r.up, r.down) - 1e-6 <= s <= max(r.up, r.down) + 1e-6 and r.pipe in facts.pipes
        ]

        def off(r: object) -> float:
            f = facts.pipes[r.pipe]  # type: ignore[attr-defined]
            return abs(view.sight.y_of(f.invert(self._along(r, s, f.span.length))) - at.y)

        best = min(over, key=off, default=None)
        if best is None:
            return None
        return best.pipe, self._along(best, s, facts.pipes[best.pipe].span.length), view.sight.sx

    @staticmethod
    def _along(r: object, s: float, long: float) -> float:
        """The distance along a pipe of a distance along the run."""
        up, down = r.up, r.down  # type: ignore[attr-defined]
        return (s - up) / (down - up) * long if down != up else 0.0

    def levels(self) -> Levels | None:
        """The levels at the place that is looked at."""
        facts = self.session.state.shown.facts
        if self.pipe is None or self.pipe not in facts.pipes:
            return None
        return levels(facts.pipes[self.pipe], facts, self.at, self.cover_from)

    def key(self, text: str) -> bool:
        """The next of the surfaces that cover can be measured from."""
        there = [k for k, _ in surfaces_named(self.session.state.shown.facts)]
        self.cover_from = (
            there[(there.index(self.cover_from) + 1) % len(there)]
            if self.cover_from in there
            else there[0]
        )
        return True

    def clicked(self) -> bool:
        if self.pipe is None:
            return False
        self._pin(self.pipe, self.at)
        return True

    def _pin(self, pipe: PipeId, at: float) -> bool:
        pins = self.session.state.current.project.pins
        like = next(reversed(pins.values()), None) if pins else None
        label = self.session.state.current.project.pipes[pipe].label
        return self.session.edit(
            f"Pin a level on {label}", lambda p, f: add_pin(p, f, pipe, at, like, self.cover_from)
        )

    def takes_entry(self) -> bool:
        return self.pipe is not None

    @told(False)
    def entry(self, text: str) -> bool:
        if self.pipe is None:
            return False
        return self._pin(self.pipe, self.session.units.typed(text))

    def plan_over(self, view: Plan) -> Composed:
        found = self.levels()
        at = None if found is None else view.drawn(found.x, found.y)
        return NOTHING if at is None else Composed([Disc("field", *at, 4.5, "ring")], [], [])

    def section_over(self, view: Section) -> Composed:
        found, run, sight = self.levels(), self.session.state.look.run, view.sight
        if found is None or run is None:
            return NOTHING
        reach = next((r for r in run.reaches if r.pipe == found.pipe), None)
        if reach is None:
            return NOTHING
        x = sight.x_of(
            reach.at(found.distance, self.session.state.shown.facts.pipes[found.pipe].span.length)
        )
        rows = [
            found.underside,
            found.invert,
            found.centre,
            found.crown,
            found.top,
            found.ground,
            found.design,
        ]
        known = [sight.y_of(v) for v in rows if v is not None]
        line = Stroke("cursor", points((x, min(known)), (x, max(known))))
        return Composed([line, *(Disc("field", x, y, 2.6, "ring") for y in known)], [], [])

    def words(self) -> Words | None:
        found = self.levels()
        if found is None:
            return None
        u, facts = self.session.units, self.session.state.shown.facts

        def say(*names: PinField) -> str:
            return "&nbsp; ".join(
                f"{n.replace('top', 'outside top')} <b>{value_text(found, n, u)}</b>" for n in names
            )

        over = dict(surfaces_named(facts)).get(self.cover_from, "")
        aside = self._snap or (f"cover from {over}" if self.cover_from != "reference" else u.m)
        lines = (
            say("underside", "invert", "centre"),
            say("crown", "top", "cover"),
            say("ground", "design", "chainage"),
        )
        return Words(
            f"{facts.project.pipes[found.pipe].label} at", u.length(found.distance), aside, lines
        )
