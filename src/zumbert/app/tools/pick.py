"""The tool that is in hand when no other is: picking, and dragging what is picked."""

from typing import TYPE_CHECKING, cast

from msgspec.structs import replace

from zumbert.app.tools.level import LevelDrag
from zumbert.app.tools.move import MoveDrag
from zumbert.app.tools.tool import Place, Tool, Words
from zumbert.drawing.handles import Hand
from zumbert.drawing.marks import Target
from zumbert.edits.typed import Ring

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.views.planview import PlanView
    from zumbert.app.views.sectionview import SectionView
    from zumbert.app.views.view import DrawingView


class PickTool(Tool):
    """idle -press on a ring-> levels in hand; -press on a structure in plan-> structure in hand (a click picks it);
    -press on a pipe-> picked. Esc gives up what is in hand, then the selection.
    """

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.levels = LevelDrag(session)
        self.moving = MoveDrag(session)

    @property
    def hint(self) -> str:  # type: ignore[override]
        s = self.session.state
        if self.levels.active:
            return "Release to set it. Shift: all beyond. Alt: no snaps. Type a level, +0.15, 1:80, 1.25% or c0.9. Esc: as it was."
        if self.moving.dragging:
            return "Release to set it down. Esc: as it was."
        if s.hand is not None and s.stage == "levels":
            return "Drag a ring, or type a level, +0.15, 1:80, 1.25% or c0.9. Click a ring's end to hold it."
        return "Click a structure or a pipe. Drag to move the drawing, wheel to zoom."

    def press(self, view: "DrawingView", at: Place) -> bool:
        target = view.hit(at.x, at.y)
        if target is None:
            return False
        if target.kind == "ring":
            self._press_ring(cast("SectionView", view), target, at)
        elif target.kind == "structure":
            self._pick(view, target, at)
            if view.kind == "plan" and not at.ctrl:
                self.moving.press(target.id, at)
        else:
            self._pick(view, target, at)
        return True

    def _press_ring(self, view: "SectionView", target: Target, at: Place) -> None:
        hand = self.session.state.hand
        if hand is not None:
            self.levels.begin(view, hand, cast("Ring", target.id), at)

    def _pick(self, view: "DrawingView", target: Target, at: Place) -> None:
        """Picks one thing; with Ctrl adds it to what is picked, or takes it out again."""
        s = self.session.state
        pipes, structures = (s.pipes, s.structures) if at.ctrl else (frozenset(), frozenset())
        if target.kind == "pipe":
            pipes = pipes ^ {target.id}
        else:
            structures = structures ^ {target.id}
        self.session.select(pipes, structures, follow=view.kind == "plan")

    def move(self, view: "DrawingView", at: Place, held: bool) -> None:
        if self.levels.active and view.kind == "section":
            self.levels.drag(cast("SectionView", view), at)
        elif self.moving.structure is not None and held:
            self.moving.drag(cast("PlanView", view), at)
        elif view.kind == "section":
            self._hover(view)

    def _hover(self, view: "DrawingView") -> None:
        """The ring under the cursor swells."""
        hand = self.session.state.hand
        ring = view.hover.id if view.hover is not None and view.hover.kind == "ring" else None
        if hand is not None and hand.ring != ring:
            self.session.set(hand=replace(hand, ring=ring))

    def release(self, view: "DrawingView", at: Place) -> None:
        if self.levels.active and not self.levels.typing:
            self.levels.finish()
        elif self.moving.structure is not None:
            self.moving.finish()

    def cancel(self) -> bool:
        if self.levels.cancel() or self.moving.cancel():
            return True
        s = self.session.state
        if s.pipes or s.structures:
            self.session.select()
            return True
        return False

    def words(self) -> Words | None:
        return self.levels.words() or self.moving.words()

    def takes_entry(self, view: "DrawingView") -> bool:
        if self.levels.active or self.moving.dragging:
            return True
        hand: Hand | None = self.session.state.hand
        if hand is None or self.session.state.stage != "levels":
            return False
        self.levels.begin_typing(hand)
        return True

    def typed(self, text: str) -> None:
        if self.levels.active:
            self.levels.typed(text)

    def entry(self, text: str) -> bool:
        if self.moving.structure is not None and self.moving.dragging:
            return self.moving.entry(text)
        return self.levels.entry(text) if self.levels.active else False
