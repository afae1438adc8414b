"""Drawing a bend out of a straight pipe by its middle ring: a joint, with Ctrl a chamber, with
Shift an arc.
"""

from typing import TYPE_CHECKING

from zumbert.app.told import told
from zumbert.app.tools.drag import Drag
from zumbert.app.tools.tool import MousePlace, Plan, Words
from zumbert.drawing.marks import Composed, Target, points
from zumbert.drawing.roadhandles import ring
from zumbert.edits.join import bent, beside, curved
from zumbert.edits.layoptions import first_way
from zumbert.model.ids import PipeId, TypeKey
from zumbert.model.project import Project

if TYPE_CHECKING:
    from zumbert.app.session import Session


def bend_ring(session: "Session", view: Plan, hot: bool) -> Composed:
    """The ring in the middle of the one pipe that is selected."""
    s = session.state
    if len(s.chosen.pipes) != 1 or s.chosen.structures or not s.look.stage.bends:
        return Composed([], [], [])
    f = s.plan.facts.pipes.get(next(iter(s.chosen.pipes)))
    place = None if f is None else view.drawn(*f.span.point(f.span.length / 2))
    if f is None or place is None or f.span.length * view.sight.scale < 60:
        return Composed([], [], [])
    return Composed(
        list(ring(*place, hot, False)), [Target("bend", f.pipe.id, points(place), 10.0)], []
    )


class BendDrag(Drag):
    """The middle ring of a pipe in hand."""

    hint = "Release to set the bend. Ctrl: a chamber. Shift: an arc. Esc: as it was."

    def __init__(self, session: "Session", view: Plan, target: Target, at: MousePlace) -> None:
        super().__init__(session, at)
        self.pipe = PipeId(target.id)

    @told(None)
    def plan_move(self, view: Plan, at: MousePlace) -> None:
        world = view.world(at.x, at.y)
        if world is None:
            return
        current = self.session.state.current
        p = current.project.pipes[self.pipe]
        place = beside(current.facts, p, round(world[0], 2), round(world[1], 2))
        if at.shift:
            project, self.name = (
                curved(current.project, current.facts, self.pipe, place),
                f"Curve {p.label}",
            )
        else:
            kind = first_way(current.project).type if at.ctrl else self._joint(current.project)
            made = bent(current.project, current.facts, self.pipe, place, kind)
            project, self.name = (
                made.project,
                f"Bend {p.label} at {made.project.structures[made.structure].label}",
            )
        self.show(project)

    def _joint(self, project: Project) -> TypeKey:
        return next(
            (t.key for t in project.types.values() if t.kind == "joint"), first_way(project).type
        )

    def words(self) -> Words | None:
        u, f = self.session.units, self.session.state.shown.facts.pipes.get(self.pipe)
        if self.made is None or f is None:
            return None
        return Words(
            self.name,
            u.length(f.span.length),
            u.m,
            ("Ctrl: a chamber in the place of a joint", "Shift: an arc"),
        )
