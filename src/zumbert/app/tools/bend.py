"""Drawing a bend out of a straight pipe by its middle ring: a joint, with Ctrl a chamber, with Shift an arc."""

from typing import TYPE_CHECKING

from zumbert.app.tools.tool import Place, Words
from zumbert.drawing.marks import Composed, Target, points
from zumbert.drawing.roadhandles import ring
from zumbert.edits.join import bent, beside, curved
from zumbert.edits.lay import first_way
from zumbert.errors import EditError
from zumbert.model.ids import PipeId, TypeKey
from zumbert.model.project import Project

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.views.planview import PlanView


def bend_ring(session: "Session", view: "PlanView", hot: bool) -> Composed:
    """The ring in the middle of the one pipe that is selected."""
    s = session.state
    if len(s.pipes) != 1 or s.structures or s.stage not in ("layout", "levels"):
        return Composed([], [], [])
    f = s.shown.facts.pipes.get(next(iter(s.pipes)))
    place = None if f is None else view.drawn(*f.span.point(f.span.length / 2))
    if f is None or place is None or f.span.length * view.sight.scale < 60:
        return Composed([], [], [])
    return Composed(list(ring(*place, hot, False)), [Target("bend", f.pipe.id, points(place), 10.0)], [])


class BendDrag:
    """idle -press on the ring-> dragging -release-> idle (done); Esc -> idle (nothing done)."""

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.pipe: PipeId | None = None
        self._project: Project | None = None
        self._what = ""

    def begin(self, pipe: PipeId) -> None:
        """Takes the ring of a pipe."""
        self.pipe, self._project, self._what = pipe, None, ""

    def drag(self, view: "PlanView", at: Place) -> None:
        """Follows the mouse."""
        world = view.world(at.x, at.y)
        if self.pipe is None or world is None:
            return
        kept = self.session.state.kept
        p = kept.project.pipes[self.pipe]
        place = beside(kept.facts, p, round(world[0], 2), round(world[1], 2))
        try:
            if at.shift:
                self._what = f"Curve {p.label}"
                self._project = curved(kept.project, kept.facts, self.pipe, place)
            else:
                kind = first_way(kept.project).type if at.ctrl else self._joint(kept.project)
                made = bent(kept.project, kept.facts, self.pipe, place, kind)
                self._what = f"Bend {p.label} at {made.project.structures[made.structure].label}"
                self._project = made.project
        except EditError as e:
            self.session.refused.emit(str(e))
            return
        self.session.preview(self._project)

    def _joint(self, project: Project) -> TypeKey:
        return next((t.key for t in project.types.values() if t.kind == "joint"), first_way(project).type)

    def finish(self) -> bool:
        """Commits as one undo step."""
        project, what = self._project, self._what
        self.pipe, self._project = None, None
        if project is None:
            self.session.preview(None)
            return False
        self.session.apply(what, project)
        return True

    def cancel(self) -> bool:
        """Leaves the pipe as it was."""
        if self.pipe is None:
            return False
        self.pipe, self._project = None, None
        self.session.preview(None)
        return True

    def words(self) -> Words | None:
        """The entry line while the ring is dragged."""
        if self.pipe is None or self._project is None:
            return None
        u, facts = self.session.units, self.session.state.shown.facts
        f = facts.pipes.get(self.pipe)
        if f is None:
            return None
        return Words(
            self._what, u.length(f.span.length), u.m, ("Ctrl: a chamber in the place of a joint", "Shift: an arc")
        )
