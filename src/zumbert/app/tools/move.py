"""Dragging structures: anchored ones slide along and across their road, free ones in x and y;
many keep their pattern.
"""

from html import escape
from typing import TYPE_CHECKING

from msgspec.structs import replace

from zumbert.app.tools.drag import Drag
from zumbert.app.tools.layplace import place_text
from zumbert.app.tools.near import STRAY
from zumbert.app.tools.tool import MousePlace, Plan, Words
from zumbert.edits.several import moved_with
from zumbert.edits.typed import typed_place
from zumbert.errors import EditError
from zumbert.model.ids import StructureId
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

if TYPE_CHECKING:
    from zumbert.app.session import Session

CENTIMETRE = 100.0


class MoveDrag(Drag):
    """A structure in hand, and those that are selected with it: they move by as much."""

    hint = "Release to set it down. Esc: as it was."
    stray = STRAY

    def __init__(
        self,
        session: "Session",
        structure: StructureId,
        at: MousePlace,
        selected: frozenset[StructureId],
    ) -> None:
        super().__init__(session, at)
        self.structure, self.others = structure, selected - {structure}
        more = f" and {len(self.others)} more" if self.others else ""
        self.name = f"Move {session.state.current.project.structures[structure].label}{more}"

    @property
    def takes_text(self) -> bool:  # type: ignore[override]
        return self.started

    def plan_move(self, view: Plan, at: MousePlace) -> None:
        place = view.world(at.x, at.y)
        try:
            if place is not None:
                self.show(self._moved(self._target(place)))
        except EditError:
            return

    def _moved(self, place: Anchored | Free) -> Project:
        """The project with the one at a place and the others as far from it as they were."""
        current = self.session.state.current
        return moved_with(current.project, current.facts, self.structure, place, self.others)

    def _target(self, place: tuple[float, float]) -> Anchored | Free:
        """The place under the cursor in the structure's own terms, to the centimetre."""
        current = self.session.state.current
        now = current.project.structures[self.structure].place
        if isinstance(now, Free):
            return Free(*(round(v * CENTIMETRE) / CENTIMETRE for v in place))
        ch, off = current.facts.roads[now.road].alignment.project(*place)
        if ch != ch:
            raise EditError("The road ends before this place.")
        return replace(
            now,
            chainage=round(float(ch) * CENTIMETRE) / CENTIMETRE,
            offset=round(float(off) * CENTIMETRE) / CENTIMETRE,
        )

    def meant(self, text: str) -> Project:
        now = self.session.state.current.project.structures[self.structure].place
        return self._moved(
            typed_place(text, now.road if isinstance(now, Anchored) else None, self.session.units)
        )

    def clicked(self, follow: bool) -> None:
        """A click on one of several selected structures picks that one."""
        if self.others:
            self.session.select(structures=frozenset({self.structure}), follow=follow)

    def words(self) -> Words | None:
        u = self.session.units
        if self.made is None:
            return None
        shown = self.session.state.shown
        s, p = shown.project.structures[self.structure], shown.facts.places[self.structure]
        if isinstance(s.place, Anchored):
            value = place_text(s.place, u)
            lines = (
                (
                    f"chainage <b>{u.chainage(s.place.chainage)}</b>&nbsp; offset "
                    f"<b>{u.offset(s.place.offset)}</b>"
                ),
            )
        else:
            value = place_text(s.place, u)
            lines = (
                f"x <b>{u.coordinate(s.place.x)}</b>&nbsp; y <b>{u.coordinate(s.place.y)}</b>",
            )
        what = "chainage offset" if isinstance(s.place, Anchored) else "x,y"
        return Words(
            f"{s.label} at",
            value,
            what,
            (
                *lines,
                (
                    f"{escape(shown.facts.surfaces.name('existing'))} {u.level(p.ground)}&nbsp; "
                    "rim "
                    f"{u.level(p.rim)}"
                ),
            ),
        )
