"""Picking two structures, in plan or in the long section, in either order."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from zumbert.app.tools.tool import MousePlace, Plan, Section, Tool, View
from zumbert.drawing.marks import Target
from zumbert.model.ids import StructureId

if TYPE_CHECKING:
    from zumbert.app.session import Session


class TwoPick(Tool):
    """ready -a structure-> one picked -another-> done (both are handed on). Esc lets go of the
    one, then the tool.
    """

    kind = "two"

    def __init__(
        self, session: "Session", what: str, done: Callable[[StructureId, StructureId], None]
    ) -> None:
        super().__init__(session)
        self.what, self._done = what, done
        chosen = session.state.chosen.structures
        self._first: StructureId | None = next(iter(chosen)) if len(chosen) == 1 else None

    @property
    def first(self) -> StructureId | None:
        """The structure that was picked first; None too where it is gone meanwhile."""
        return self._first if self._first in self.session.state.current.project.structures else None

    @property
    def hint(self) -> str:  # type: ignore[override]
        if self.first is None:
            return (
                f"Click the structure to {self.what} from, in plan or long section. Esc: put down."
            )
        label = self.session.state.current.project.structures[self.first].label
        return f"Click the structure to {self.what} to, from {label}. Esc: another one."

    plan_clicks = section_clicks = True

    def plan_press(self, view: Plan, at: MousePlace) -> bool:
        return self._clicked(view, at)

    def section_press(self, view: Section, at: MousePlace) -> bool:
        return self._clicked(view, at)

    def _clicked(self, view: View, at: MousePlace) -> bool:
        hit: Target | None = view.hit(at.x, at.y)
        if hit is None or hit.kind != "structure":
            return False
        if self.first is None or self.first == hit.id:
            self._first = hit.id
            self.session.select(structures=frozenset({hit.id}), follow=False)
            return True
        self._done(self.first, hit.id)
        return True

    def cancel(self) -> bool:
        if self.first is None:
            return False
        self._first = None
        self.session.select()
        return True
