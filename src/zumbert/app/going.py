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
        if finding.pipe is not None:
            self._pipe(finding.pipe)
        elif finding.structure is not None:
            self._structure(finding.structure, finding.partner)
        if finding.x is not None and finding.y is not None:
            self._place(finding.x, finding.y)
        self.session.set(visited=finding)
        self.also()

    def to_place(self, pipe: PipeId, x: float, y: float) -> None:
        """Shows a place on a pipe (m), with the pipe selected."""
        self._pipe(pipe)
        self._place(x, y)
        self.also()

    def _place(self, x: float, y: float) -> None:
        self.plan.show_place(x, y)
        shown = self.session.state.look.run
        if shown is not None and shown.line is not None:
            ch = float(shown.line.project(x, y)[0])
            self.session.set(cursor=ch if ch == ch else None)

    def to_thing(self, key: str) -> None:
        """Shows a pipe or structure at a working scale."""
        if key in self.session.state.current.project.pipes:
            self._pipe(PipeId(key))
        elif key in self.session.state.current.project.structures:
            self._structure(StructureId(key))
        self.also()

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
        ch = (
            float(s.look.run.line.project(x, y)[0])
            if s.look.run is not None and s.look.run.line is not None
            else None
        )
        self.session.point_at((float(x), float(y)), ch)

    def _pipe(self, pipe: PipeId) -> None:
        self.session.select(pipes=frozenset({pipe}))
        self.section.fit_pipe(pipe)
        span = self.session.state.current.facts.spans[pipe]
        self._in_plan((span.up.x, span.up.y), (span.down.x, span.down.y))

    def _structure(self, structure: StructureId, partner: PipeId | None = None) -> None:
        facts = self.session.state.current.facts
        if partner is not None:
            self.session.select(pipes=frozenset({partner}))
        near = partner or next(iter(facts.links.at(structure)), None)
        self.session.select(structures=frozenset({structure}))
        shown = self.session.state.look.run
        if near is not None and (shown is None or all(k != structure for k, _ in shown.structures)):
            self.session.select(pipes=frozenset({near}))
            self.session.select(structures=frozenset({structure}))
        if near is not None:
            self.section.fit_pipe(near)
        p = facts.places[structure]
        self._in_plan((p.x, p.y))

    def _in_plan(self, *places: tuple[float | None, float | None]) -> None:
        """A thing with some ground about it."""
        known = [(x, y) for x, y in places if x is not None and y is not None]
        if known:
            xs, ys = zip(*known, strict=True)
            self.plan.show_box(
                (min(xs) - AROUND, min(ys) - AROUND), (max(xs) + AROUND, max(ys) + AROUND)
            )
