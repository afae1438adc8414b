"""The tool that is in hand when no other is: picking, and dragging what is picked."""

from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.selecting import inside
from zumbert.app.tools.bend import BendDrag, bend_ring
from zumbert.app.tools.drag import Drag
from zumbert.app.tools.labeldrag import LabelDrag
from zumbert.app.tools.level import LevelDrag
from zumbert.app.tools.move import MoveDrag
from zumbert.app.tools.rim import RimDrag
from zumbert.app.tools.roads import (
    EDIT_LETTERS,
    WORDS,
    RoadDrag,
    plan_handles,
    road_in_hand,
    section_handles,
)
from zumbert.app.tools.tool import MousePlace, Plan, Section, Tool, View, Words
from zumbert.drawing.handles import rim_rings
from zumbert.drawing.marks import Composed, Mark, Stroke, Target
from zumbert.edits.grounditems import KINDS, GroundItem
from zumbert.geometry.elements import Array
from zumbert.model.ids import StructureId

if TYPE_CHECKING:
    from zumbert.app.session import Session


NOWHERE = np.zeros((1, 2))
STRAIGHT = 0.12  # of its length: a way of the mouse that leaves its chord by less is straight
SHAKY = 5.0  # drawing units that a hand strays from a straight way


def caught_by(way: list[tuple[float, float]]) -> Array:
    """The outline of a drag (n, 2): a straight drag is the diagonal of a rectangle, a curved one
    is the outline itself.
    """
    xy = np.array(way, float)
    (x0, y0), (x1, y1) = xy[0], xy[-1]
    long = float(np.hypot(x1 - x0, y1 - y0))
    off = np.abs((xy[:, 0] - x0) * (y1 - y0) - (xy[:, 1] - y0) * (x1 - x0)).max() / max(long, 1e-9)
    far = np.hypot(xy[:, 0] - x0, xy[:, 1] - y0).max()
    if off > max(STRAIGHT * long, SHAKY) or far > 1.15 * long + SHAKY:
        return xy
    return np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])


class Lasso(Drag):
    """A ring drawn round what is to be selected."""

    def __init__(self, session: "Session", view: Plan, at: MousePlace) -> None:
        super().__init__(session, at)
        self.view, self.way = view, [(at.x, at.y)]  # drawing places of the ring

    def plan_move(self, view: Plan, at: MousePlace) -> None:
        self.way.append((at.x, at.y))

    def plan_over(self) -> list[Mark]:
        return [Stroke("draft", caught_by(self.way), closed=True)] if len(self.way) > 1 else []

    def commit(self, ctrl: bool = False) -> None:
        """Selects what stands in the ring; with Ctrl it adds to what is selected."""
        s = self.session.state
        found = inside(s.current.facts, caught_by(self.way), self.view.sight.to_drawing)
        more = (s.chosen.pipes, s.chosen.structures) if ctrl else (frozenset(), frozenset())
        self.session.select(found.pipes | more[0], found.structures | more[1], follow=False)


# what a press takes in hand
PLAN_DRAGS: dict[str, "Callable[[Session, Plan, Target, MousePlace], Drag | None]"] = {
    "bend": BendDrag, "label": LabelDrag, "ip": RoadDrag.press, "radius": RoadDrag.press,
}  # fmt: skip
SECTION_DRAGS: dict[str, "Callable[[Session, Section, Target, MousePlace], Drag | None]"] = {
    "ring": LevelDrag.press, "rim": RimDrag.press, "pvi": RoadDrag.press, "curve": RoadDrag.press,
}  # fmt: skip


class PickTool(Tool):
    """idle -press on a handle-> a drag in hand; -press on a structure in plan-> structure in hand
    (a click picks it); -press on a pipe-> picked. Esc gives up what is in hand, then the selection.
    """

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.drag: Drag | None = None

    @property
    def hint(self) -> str:  # type: ignore[override]
        s = self.session.state
        if self.drag is not None and self.drag.started and self.drag.hint:
            return self.drag.hint
        if s.chosen.hand is not None and s.levelling:
            return (
                "Drag a ring, or type a level, +0.15, 1:80, 1.25% or c0.9. Click a ring's end to "
                "hold it."
            )
        if road_in_hand(s) is not None:
            return (
                "Drag a ring: points and radii in plan, vertical points and curves in the long "
                "section. Del: take one out."
            )
        return s.look.stage.hint(s)

    @property
    def in_hand(self) -> bool:
        return self.drag is not None and self.drag.started and not self.drag.typing

    # -- press, move, release ----------------------------------------------------------------------

    def plan_press(self, view: Plan, at: MousePlace) -> bool:
        target = view.hit(at.x, at.y)
        if target is None and at.shift:
            self.drag = Lasso(self.session, view, at)
            return True
        if target is None or not self._there(target):
            return False
        if target.kind == "structure" and not at.ctrl:
            chosen, key = self.session.state.chosen.structures, StructureId(target.id)
            together = (
                len(chosen) > 1 and key in chosen
            )  # all that is selected is in hand; a mere click picks this one
            if not together:
                self._pick(view, target, at)
            self.drag = MoveDrag(self.session, key, at, chosen if together else frozenset())
            return True
        if target.kind == "label":
            self._pick(view, target, at)
        if target.kind in PLAN_DRAGS:
            self.drag = PLAN_DRAGS[target.kind](self.session, view, target, at)
        else:
            self._pick_any(view, target, at)
        return True

    def section_press(self, view: Section, at: MousePlace) -> bool:
        target = view.hit(at.x, at.y)
        if target is None or not self._there(target):
            return False
        if target.kind in SECTION_DRAGS:
            self.drag = SECTION_DRAGS[target.kind](self.session, view, target, at)
        else:
            self._pick_any(view, target, at)
        return True

    def space_press(self, view: View, at: MousePlace) -> bool:
        target = view.hit(at.x, at.y)
        if target is None or not self._there(target):
            return False
        self._pick_any(view, target, at)
        return True

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        if pressed and self.drag is not None and self.drag.follow(at):
            self.drag.plan_move(view, at)

    def section_move(self, view: Section, at: MousePlace, pressed: bool) -> None:
        if self.drag is None:
            self._swell(view)
        elif pressed and self.drag.follow(at):
            self.drag.section_move(view, at)

    def _swell(self, view: Section) -> None:
        """The ring under the cursor swells."""
        hand = self.session.state.chosen.hand
        ring = view.hover.id if view.hover is not None and view.hover.kind == "ring" else None
        if hand is not None and hand.ring != ring:
            self.session.set(hand=replace(hand, ring=ring))

    def release(self, view: View, at: MousePlace) -> None:
        drag = self.drag
        if drag is None or drag.typing:
            return
        self.drag = None
        drag.ends()
        if drag.started:
            drag.commit(at.ctrl)
        else:
            drag.clicked(view.leads)

    # -- picking -----------------------------------------------------------------------------------

    def _there(self, target: Target) -> bool:
        """Whether what was drawn can be picked: it is kept, no part of a preview that is over,
        and no pin in the stage Ground.
        """
        s = self.session.state
        project = s.current.project
        if target.kind in ("structure", "pipe"):
            return target.id in project.structures or target.id in project.pipes
        if target.kind == "area":
            return target.id in project.areas
        return target.kind != "pin" or (
            s.look.stage.picks != "ground" and target.id in project.pins
        )

    def _pick_any(self, view: View, target: Target, at: MousePlace) -> None:
        if target.kind in KINDS:
            self.session.pick(GroundItem(target.kind, target.id))
        else:
            self._pick(view, target, at)

    def _pick(self, view: View, target: Target, at: MousePlace) -> None:
        """Picks one thing; with Ctrl adds it to what is picked, or takes it out again."""
        s = self.session.state
        pipes, structures = (
            (s.chosen.pipes, s.chosen.structures) if at.ctrl else (frozenset(), frozenset())
        )
        if target.id in s.current.project.pipes:
            pipes = pipes ^ {target.id}
        else:
            structures = structures ^ {target.id}
        self.session.select(pipes, structures, follow=view.leads)

    def let_go(self) -> bool:
        drag, self.drag = self.drag, None
        if drag is None:
            return False
        drag.ends()
        self.session.preview(None)
        return True

    def untyped(self) -> None:
        self.let_go()

    def cancel(self) -> bool:
        if self.let_go():
            return True
        s = self.session.state
        if s.chosen.pipes or s.chosen.structures:
            self.session.select()
            return True
        if s.chosen.item is not None:
            self.session.pick(None)
            return True
        return False

    # -- typing ------------------------------------------------------------------------------------

    def words(self) -> Words | None:
        return None if self.drag is None else self.drag.words()

    def takes_entry(self) -> bool:
        if self.drag is None:
            self.drag = self._for_typing()
        return self.drag is not None and self.drag.takes_text

    def _for_typing(self) -> Drag | None:
        """The value that a typed text would change: the selected point of a road, the pipe in hand,
        or the rim that is selected.
        """
        s = self.session.state
        if s.chosen.part is not None and road_in_hand(s) is not None:
            return RoadDrag.press(
                self.session, None, Target(s.chosen.part[0], str(s.chosen.part[1]), NOWHERE, 0.0)
            )
        if not s.levelling:
            return None
        if s.chosen.hand is not None:
            return LevelDrag.for_typing(self.session, s.chosen.hand)
        key = next(iter(s.chosen.structures), None)
        if (
            key is None
            or len(s.chosen.structures) > 1
            or s.chosen.pipes
            or s.current.facts.places[key].rim_from != "fixed"
        ):
            return None
        return RimDrag(self.session, key)

    def typed(self, text: str) -> None:
        if self.drag is not None:
            self.drag.typed(text)

    def entry(self, text: str) -> bool:
        drag = self.drag
        if drag is None or not drag.takes_text or not drag.entry(text):
            return False
        self.drag = None
        drag.ends()
        drag.commit()
        return True

    @property
    def letters(self) -> frozenset[str]:  # type: ignore[override]
        """A selected point of a road takes r60 and l80."""
        s = self.session.state
        return (
            EDIT_LETTERS
            if s.chosen.part is not None and road_in_hand(s) is not None
            else frozenset()
        )

    # -- what it draws -----------------------------------------------------------------------------

    def _hot(self, view: View) -> str | None:
        """The ring of a road that is in hand or under the cursor."""
        if isinstance(self.drag, RoadDrag):
            return f"{self.drag.part[0]} {self.drag.part[1]}"
        hot = view.hover
        return f"{hot.kind} {hot.id}" if hot is not None and hot.kind in WORDS else None

    def plan_over(self, view: Plan) -> Composed:
        made = plan_handles(self.session.state, view, self._hot(view))
        bend = bend_ring(self.session, view, view.hover is not None and view.hover.kind == "bend")
        more = [] if self.drag is None else self.drag.plan_over()
        return Composed([*made.marks, *bend.marks, *more], [*made.targets, *bend.targets], [])

    def section_over(self, view: Section) -> Composed:
        """The points of a road; in the stage Levels the rings of fixed rims."""
        s, hot = self.session.state, view.hover
        made = section_handles(s, view, self._hot(view))
        if not s.levelling:
            return made
        drag = self.drag if isinstance(self.drag, RimDrag) else None
        key = (
            drag.structure
            if drag is not None
            else hot.id
            if hot is not None and hot.kind == "rim"
            else None
        )
        rings = rim_rings(
            s.section, key, drag is not None, drag.snap if drag is not None else "", view.sight
        )
        return Composed(made.marks + rings.marks, made.targets + rings.targets, [])
