"""Dragging structures: anchored ones slide along and across their road, free ones in x and y; many keep their pattern."""

from html import escape
from typing import TYPE_CHECKING

from msgspec.structs import replace

from zumbert.app.tools.lay import place_text
from zumbert.app.tools.tool import Place, Words
from zumbert.edits.several import moved_with
from zumbert.edits.typed import typed_place
from zumbert.errors import EditError
from zumbert.model.ids import StructureId
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.views.planview import PlanView

START = 4.0  # drawing units: a shorter way of the mouse is a click
CENTIMETRE = 100.0


class MoveDrag:
    """idle -press-> pressed -4 units-> dragging -release-> idle (done); pressed -release-> idle (a click);
    Esc -> idle (nothing done).
    """

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.structure: StructureId | None = None
        self.dragging = False
        self._from = Place(0, 0)
        self.others: frozenset[StructureId] = frozenset()  # selected with it: they move by as much
        self._project: Project | None = None

    def press(self, structure: StructureId, at: Place, others: frozenset[StructureId] = frozenset()) -> None:
        """Takes a structure under the cursor, and others that go with it."""
        self.structure, self._from, self.dragging, self._project = structure, at, False, None
        self.others = others - {structure}

    def drag(self, view: "PlanView", at: Place) -> None:
        """Follows the mouse once it has gone far enough."""
        if self.structure is None:
            return
        far = abs(at.x - self._from.x) + abs(at.y - self._from.y)
        if not self.dragging and far < START:
            return
        self.dragging = True
        place = view.world(at.x, at.y)
        if place is None:
            return
        try:
            self._project = self._moved(self._target(place))
        except EditError:
            return
        self.session.preview(self._project)

    def _moved(self, place: Anchored | Free) -> Project:
        """The project with the one at a place and the others as far from it as they were."""
        assert self.structure is not None  # noqa: S101 - only while one is in hand
        kept = self.session.state.kept
        return moved_with(kept.project, kept.facts, self.structure, place, self.others)

    def _target(self, place: tuple[float, float]) -> Anchored | Free:
        """The place under the cursor in the structure's own terms, to the centimetre."""
        assert self.structure is not None  # noqa: S101 - only while one is in hand
        kept = self.session.state.kept
        now = kept.project.structures[self.structure].place
        if isinstance(now, Free):
            return Free(*(round(v * CENTIMETRE) / CENTIMETRE for v in place))
        ch, off = kept.facts.roads[now.road].alignment.project(*place)
        if ch != ch:
            raise EditError("The road ends before this place.")
        return replace(
            now, chainage=round(float(ch) * CENTIMETRE) / CENTIMETRE, offset=round(float(off) * CENTIMETRE) / CENTIMETRE
        )

    def finish(self) -> bool:
        """Commits the move as one undo step; tells whether anything was dragged."""
        project, structure, dragged = self._project, self.structure, self.dragging
        self.structure, self._project, self.dragging = None, None, False
        if project is not None and structure is not None:
            more = f" and {len(self.others)} more" if self.others else ""
            self.session.apply(f"Move {project.structures[structure].label}{more}", project)
        return dragged

    def entry(self, text: str) -> bool:
        """A typed place, in place of the mouse."""
        assert self.structure is not None  # noqa: S101 - only while one is in hand
        kept = self.session.state.kept
        now = kept.project.structures[self.structure].place
        try:
            place = typed_place(text, now.road if isinstance(now, Anchored) else None, self.session.units)
            self._project = self._moved(place)
        except EditError as e:
            self.session.refused.emit(str(e))
            return False
        self.finish()
        return True

    def cancel(self) -> bool:
        """Leaves the structure where it was."""
        if self.structure is None:
            return False
        self.structure, self._project, self.dragging = None, None, False
        self.session.preview(None)
        return True

    def words(self) -> Words | None:
        """The entry line while a structure is dragged."""
        u = self.session.units
        if self.structure is None or not self.dragging:
            return None
        shown = self.session.state.shown
        s, p = shown.project.structures[self.structure], shown.facts.places[self.structure]
        if isinstance(s.place, Anchored):
            value = place_text(s.place, u)
            lines = (f"chainage <b>{u.chainage(s.place.chainage)}</b>&nbsp; offset <b>{u.offset(s.place.offset)}</b>",)
        else:
            value = place_text(s.place, u)
            lines = (f"x <b>{u.coordinate(s.place.x)}</b>&nbsp; y <b>{u.coordinate(s.place.y)}</b>",)
        what = "chainage offset" if isinstance(s.place, Anchored) else "x,y"
        return Words(
            f"{s.label} at",
            value,
            what,
            (*lines, f"{escape(shown.facts.surfaces.name('existing'))} {u.level(p.ground)}&nbsp; rim {u.level(p.rim)}"),
        )
