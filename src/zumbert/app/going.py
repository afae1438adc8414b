"""Going to things: a pipe, a structure, the place of a finding, a chainage."""

from collections.abc import Callable

from zumbert.analysis.runline import RunKey
from zumbert.analysis.runs import run
from zumbert.app.session import Session
from zumbert.app.views.planview import PlanView
from zumbert.app.views.sectionview import SectionView
from zumbert.checks.finding import Finding
from zumbert.errors import TypedError
from zumbert.model.ids import PipeId, RoadId, StructureId

AROUND = 12  # m of ground about a thing that is gone to


class Going:
    """Shows things in all drawings, selected."""

    def __init__(self, session: Session, plan: PlanView, section: SectionView) -> None:
        self.session, self.plan, self.section = session, plan, section
        # shows what is selected where else it is seen
        self.also: Callable[[], object] = lambda: None

    def to_finding(self, finding: Finding) -> None:
        """Shows the place of a finding, with its thing selected."""
        x, y = finding.x, finding.y
        place = (x, y) if x is not None and y is not None else None
        structure = finding.structure if finding.pipe is None else None
        self._go(finding.pipe, structure, finding.partner, place, visited=finding)

    def to_place(self, pipe: PipeId, x: float, y: float) -> None:
        """Shows a place on a pipe (m), with the pipe selected."""
        self._go(pipe, place=(x, y))

    def to_thing(self, key: str) -> None:
        """Shows a pipe or structure at a working scale."""
        project = self.session.state.current.project
        if key in project.pipes:
            self._go(PipeId(key))
        elif key in project.structures:
            self._go(structure=StructureId(key))

    def _go(
        self,
        pipe: PipeId | None = None,
        structure: StructureId | None = None,
        partner: PipeId | None = None,
        place: tuple[float, float] | None = None,
        **values: Finding,
    ) -> None:
        """Selects a pipe or structure, as one change, and brings it, or a place on it (m), into
        sight.
        """
        facts = self.session.state.current.facts
        with self.session.as_one():
            if pipe is not None:
                self.session.select(pipes=frozenset({pipe}))
            elif structure is not None:
                pipe = self._pick_structure(structure, partner)
            self.session.set(**values, **({} if place is None else {"cursor": self._along(*place)}))
        if pipe is not None:
            self.section.fit_pipe(pipe)
        if structure is not None:
            p = facts.places[structure]
            self._in_plan((p.x, p.y))
        elif pipe is not None:
            span = facts.spans[pipe]
            self._in_plan((span.up.x, span.up.y), (span.down.x, span.down.y))
        if place is not None:
            self.plan.show_place(*place)
        self.also()

    def _pick_structure(self, structure: StructureId, partner: PipeId | None) -> PipeId | None:
        """Selects a structure, in a run that shows it; gives a pipe at it."""
        facts = self.session.state.current.facts
        if partner is not None:
            self.session.select(pipes=frozenset({partner}))
        near = partner or next(iter(facts.links.at(structure)), None)
        shown = self.session.state.look.run
        if near is not None and (shown is None or all(k != structure for k, _ in shown.structures)):
            self.session.select(pipes=frozenset({near}))
        self.session.select(structures=frozenset({structure}))
        return near

    def _along(self, x: float, y: float) -> float | None:
        """The distance along the run that is shown (m) at a place; None where it is not by it."""
        line = self.session.state.line
        ch = float(line.project(x, y)[0]) if line is not None else float("nan")
        return ch if ch == ch else None

    def to_found(self, kind: str, key: str) -> None:
        """Shows what the finder found: a thing, or a text that may be a chainage."""
        if kind in ("pipe", "structure"):
            self.to_thing(key)
        else:
            self.to_chainage(key)

    def along_path(self) -> None:
        """Shows the way between the two selected structures in the long section."""
        a, b = self.session.state.chosen.structures
        key = RunKey.path(a, b)
        if run(self.session.state.current.facts, key) is None:
            names = [self.session.state.current.project.structures[k].label for k in (a, b)]
            self.session.refused.emit(
                f"No pipes lead from {names[0]} to {names[1]}: join them first."
            )
            return
        self.session.show_run(key)

    def to_chainage(self, text: str) -> None:
        """Shows a typed chainage of the road that is shown, else of the first."""
        s = self.session.state
        shown = (
            RoadId(s.look.run_key.id)
            if s.look.run_key is not None and s.look.run_key.kind == "road"
            else None
        )
        road = shown or next(iter(s.current.project.roads), None)
        try:
            chainage = s.units.typed_chainage(text)
        except TypedError:
            road = None
        if road is None:
            self.session.refused.emit(f'Nothing here is called "{text}", nor is it a chainage.')
            return
        x, y = s.current.facts.roads[road].alignment.point(chainage, 0.0)
        if x != x:
            self.session.refused.emit(f"Chainage {text} is outside the road.")
            return
        self.plan.show_place(float(x), float(y))
        self.session.point_at((float(x), float(y)), self._along(float(x), float(y)))

    def _in_plan(self, *places: tuple[float | None, float | None]) -> None:
        """A thing with some ground about it."""
        known = [(x, y) for x, y in places if x is not None and y is not None]
        if known:
            xs, ys = zip(*known, strict=True)
            self.plan.show_box(
                (min(xs) - AROUND, min(ys) - AROUND), (max(xs) + AROUND, max(ys) + AROUND)
            )
