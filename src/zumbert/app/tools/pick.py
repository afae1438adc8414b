"""The tool that is in hand when no other is: picking, and dragging what is picked."""

from typing import TYPE_CHECKING, cast

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.selecting import inside
from zumbert.app.tools.bend import BendDrag, bend_ring
from zumbert.app.tools.labeldrag import LabelDrag
from zumbert.app.tools.level import LevelDrag
from zumbert.app.tools.move import MoveDrag
from zumbert.app.tools.rim import RimDrag
from zumbert.app.tools.roads import EDIT_LETTERS, PARTS, RoadDrag, road_handles, road_in_hand
from zumbert.app.tools.tool import Place, Tool, Words
from zumbert.drawing.handles import Hand, rim_rings
from zumbert.drawing.marks import Composed, Stroke, Target
from zumbert.edits.things import KINDS, Thing
from zumbert.edits.typed import Ring
from zumbert.geometry.elements import Array

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.views.planview import PlanView
    from zumbert.app.views.sectionview import SectionView
    from zumbert.app.views.view import DrawingView


NOWHERE = np.zeros((1, 2))
STRAIGHT = 0.12  # of its length: a way of the mouse that leaves its chord by less is straight
SHAKY = 5.0  # drawing units that a hand strays from a straight way


def caught_by(way: list[tuple[float, float]]) -> Array:
    """What a drag encloses (n, 2): of a straight one the rectangle that it is the diagonal of, of a curved one itself."""
    xy = np.array(way, float)
    (x0, y0), (x1, y1) = xy[0], xy[-1]
    long = float(np.hypot(x1 - x0, y1 - y0))
    off = np.abs((xy[:, 0] - x0) * (y1 - y0) - (xy[:, 1] - y0) * (x1 - x0)).max() / max(long, 1e-9)
    far = np.hypot(xy[:, 0] - x0, xy[:, 1] - y0).max()
    if off > max(STRAIGHT * long, SHAKY) or far > 1.15 * long + SHAKY:
        return xy
    return np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])


class PickTool(Tool):
    """idle -press on a ring-> levels in hand; -press on a structure in plan-> structure in hand (a click picks it);
    -press on a pipe-> picked. Esc gives up what is in hand, then the selection.
    """

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.levels = LevelDrag(session)
        self.rim = RimDrag(session)
        self.moving = MoveDrag(session)
        self.roads = RoadDrag(session)
        self.bending = BendDrag(session)
        self.label = LabelDrag(session)
        self.lasso: list[tuple[float, float]] = []  # drawing places of the ring that is drawn

    @property
    def hint(self) -> str:  # type: ignore[override]
        s = self.session.state
        if self.levels.active:
            return "Release to set it. Shift: all beyond. Alt: no snaps. Type a level, +0.15, 1:80, 1.25% or c0.9. Esc: as it was."
        if self.roads.active:
            return "Release to set it. Alt: no snaps. Type a place, r60 20 20, a level, +0.15 or l80. Esc: as it was."
        if self.moving.dragging:
            return "Release to set it down. Esc: as it was."
        if self.rim.active:
            return "Release to set the rim. Alt: no snaps. Type a level or +0.05. Esc: as it was."
        if s.hand is not None and s.stage == "levels":
            return "Drag a ring, or type a level, +0.15, 1:80, 1.25% or c0.9. Click a ring's end to hold it."
        if road_in_hand(s) is not None:
            return "Drag a ring: points and radii in plan, vertical points and curves in the long section. Del: take one out."
        if s.stage == "ground":
            return "Click a road, an area, a service or a spot level. Drag to move the drawing, wheel to zoom."
        return "Click a structure or a pipe, Shift and drag to catch many. Drag to move the drawing, wheel to zoom."

    @property
    def in_hand(self) -> bool:
        return (self.levels.active and not self.levels.typing) or (self.rim.active and not self.rim.typing)

    def press(self, view: "DrawingView", at: Place) -> bool:
        target = view.hit(at.x, at.y)
        if target is None and at.shift and view.kind == "plan":
            self.lasso = [(at.x, at.y)]
            return True
        if target is None or not self._there(target):
            return False
        if target.kind == "ring":
            self._press_ring(cast("SectionView", view), target, at)
        elif target.kind == "rim":
            self.session.select(structures=frozenset({target.id}), follow=False)
            self.rim.press(cast("SectionView", view), target.id, at)
        elif target.kind == "bend":
            self.bending.begin(target.id)
        elif target.kind == "label":
            self._pick(view, target, at)
            self.label.press(cast("PlanView", view), target, at)
        elif target.kind in PARTS:
            self.roads.begin(target, at)
        elif target.kind in KINDS:
            self.session.pick(Thing(target.kind, target.id))
        elif target.kind == "structure":
            chosen = self.session.state.structures
            together = view.kind == "plan" and not at.ctrl and len(chosen) > 1 and target.id in chosen
            if not together:  # else all that is selected is in hand; a mere click picks this one when it is released
                self._pick(view, target, at)
            if view.kind == "plan" and not at.ctrl:
                self.moving.press(target.id, at, chosen if together else frozenset())
        else:
            self._pick(view, target, at)
        return True

    def _there(self, target: Target) -> bool:
        """Whether what was drawn can be picked: it is kept, no part of a preview that is over, and no pin in the stage Ground."""
        s = self.session.state
        project = s.kept.project
        if target.kind in ("structure", "pipe"):
            return target.id in project.structures or target.id in project.pipes
        return target.kind != "pin" or (s.stage != "ground" and target.id in project.pins)

    def _press_ring(self, view: "SectionView", target: Target, at: Place) -> None:
        hand = self.session.state.hand
        if hand is not None:
            self.levels.begin(view, hand, cast("Ring", target.id), at)

    def _pick(self, view: "DrawingView", target: Target, at: Place) -> None:
        """Picks one thing; with Ctrl adds it to what is picked, or takes it out again."""
        s = self.session.state
        pipes, structures = (s.pipes, s.structures) if at.ctrl else (frozenset(), frozenset())
        if target.id in s.kept.project.pipes:
            pipes = pipes ^ {target.id}
        else:
            structures = structures ^ {target.id}
        self.session.select(pipes, structures, follow=view.kind == "plan")

    def move(self, view: "DrawingView", at: Place, held: bool) -> None:
        if self.levels.active and view.kind == "section":
            self.levels.drag(cast("SectionView", view), at)
        elif self.rim.active and held:
            self.rim.drag(cast("SectionView", view), at)
        elif self.roads.active and held:
            self.roads.drag(view, at)
        elif self.bending.pipe is not None and held:
            self.bending.drag(cast("PlanView", view), at)
        elif self.label.key is not None and held:
            self.label.drag(at)
        elif self.lasso and held:
            self.lasso.append((at.x, at.y))
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
        elif self.rim.active and not self.rim.typing:
            self.rim.finish()
        elif self.roads.active and not self.roads.typing:
            if not self.roads.finish():
                self.session.preview(None)
        elif self.bending.pipe is not None:
            self.bending.finish()
        elif self.label.key is not None:
            self.label.finish()
        elif self.lasso:
            self._caught(cast("PlanView", view), at)
        elif self.moving.structure is not None:
            one, many = self.moving.structure, bool(self.moving.others)
            if not self.moving.finish() and many:
                self.session.select(structures=frozenset({one}), follow=view.kind == "plan")

    def let_go(self) -> bool:
        if any(d.cancel() for d in (self.levels, self.rim, self.moving, self.roads, self.bending, self.label)):
            return True
        had, self.lasso = bool(self.lasso), []
        return had

    def untyped(self) -> None:
        self.let_go()

    def cancel(self) -> bool:
        if self.let_go():
            return True
        s = self.session.state
        if s.pipes or s.structures:
            self.session.select()
            return True
        if s.thing is not None:
            self.session.pick(None)
            return True
        return False

    def words(self) -> Words | None:
        return (
            self.levels.words() or self.rim.words() or self.moving.words() or self.roads.words() or self.bending.words()
        )

    def takes_entry(self, view: "DrawingView") -> bool:
        if self.levels.active or self.rim.active or self.moving.dragging or self.roads.active:
            return True
        part = self.session.state.part
        if part is not None and road_in_hand(self.session.state) is not None:
            self.roads.begin(Target(part[0], part[1], NOWHERE, 0.0))
            self.roads.typing = True
            return True
        hand: Hand | None = self.session.state.hand
        if self.session.state.stage != "levels":
            return False
        if hand is None:
            return self._rim_for_typing()
        self.levels.begin_typing(hand)
        return True

    def _rim_for_typing(self) -> bool:
        """Takes the rim of the sole structure that is selected in hand, where that is a fixed level."""
        s = self.session.state
        key = next(iter(s.structures), None)
        if key is None or len(s.structures) > 1 or s.pipes or s.kept.facts.places[key].rim_from != "fixed":
            return False
        self.rim.begin(key)
        return True

    def typed(self, text: str) -> None:
        if self.rim.active:
            self.rim.typed(text)
            return
        if self.levels.active:
            self.levels.typed(text)

    def entry(self, text: str) -> bool:
        if self.moving.structure is not None and self.moving.dragging:
            return self.moving.entry(text)
        if self.roads.active:
            return self.roads.entry(text)
        if self.rim.active:
            return self.rim.entry(text)
        return self.levels.entry(text) if self.levels.active else False

    def over(self, view: "DrawingView") -> Composed:
        hot = view.hover
        ring = f"{hot.kind} {hot.id}" if hot is not None and hot.kind in PARTS else None
        if self.roads.part is not None:
            ring = f"{self.roads.part[0]} {self.roads.part[1]}"
        made = road_handles(self.session.state, view, ring)
        if view.kind != "plan":
            return self._rims(cast("SectionView", view), made)
        bend = bend_ring(self.session, cast("PlanView", view), hot is not None and hot.kind == "bend")
        marks = [*made.marks, *bend.marks]
        if len(self.lasso) > 1:
            marks.append(Stroke("draft", caught_by(self.lasso), closed=True))
        return Composed(marks, [*made.targets, *bend.targets], [])

    def _rims(self, view: "SectionView", made: Composed) -> Composed:
        """The rings of fixed rims, in the stage Levels."""
        s, hot = self.session.state, view.hover
        if s.stage != "levels":
            return made
        key = self.rim.structure if self.rim.active else hot.id if hot is not None and hot.kind == "rim" else None
        rings = rim_rings(s.picture, key, self.rim.active, self.rim.snap if self.rim.active else "", view.sight)
        return Composed(made.marks + rings.marks, made.targets + rings.targets, [])

    def _caught(self, view: "PlanView", at: Place) -> None:
        """Selects what stands in the ring; with Ctrl it adds to what is selected."""
        drawn, self.lasso = caught_by([*self.lasso, (at.x, at.y)]), []
        found = inside(self.session.state.kept.facts, drawn, view.sight.to_drawing)
        s = self.session.state
        more = (s.pipes, s.structures) if at.ctrl else (frozenset(), frozenset())
        self.session.select(found.pipes | more[0], found.structures | more[1], follow=False)

    @property
    def letters(self) -> frozenset[str]:  # type: ignore[override]
        """A selected point of a road takes r60 and l80."""
        s = self.session.state
        return EDIT_LETTERS if s.part is not None and road_in_hand(s) is not None else frozenset()
