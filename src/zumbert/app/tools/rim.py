"""Dragging the rim of a structure that stands at a fixed level, by its ring in the long section."""

from typing import TYPE_CHECKING

from zumbert.app.tools.drag import Drag
from zumbert.app.tools.near import LEVEL
from zumbert.app.tools.tool import MousePlace, Section, Words
from zumbert.drawing.marks import Target
from zumbert.edits.change import set_rim
from zumbert.edits.snaps import Snap, snapped_rim
from zumbert.edits.typed import changed_by
from zumbert.model.ids import StructureId
from zumbert.model.project import Project
from zumbert.model.structure import FixedRim

if TYPE_CHECKING:
    from zumbert.app.session import Session


class RimDrag(Drag):
    """A fixed rim in hand, by its ring or (without a place) for the keyboard."""

    hint = "Release to set the rim. Alt: no snaps. Type a level or +0.05. Esc: as it was."
    takes_text = True

    def __init__(
        self,
        session: "Session",
        structure: StructureId,
        at: MousePlace | None = None,
        grab: float = 0.0,
    ) -> None:
        super().__init__(session, at)
        # grab: m between the cursor and the ring
        self.structure, self.snap, self._grab = structure, "", grab
        self.name = f"Set the rim of {session.state.current.project.structures[structure].label}"

    @classmethod
    def press(cls, session: "Session", view: Section, target: Target, at: MousePlace) -> "RimDrag":
        """Takes a rim in hand by its ring, and selects its structure."""
        session.select(structures=frozenset({target.id}), follow=False)
        rim = session.state.current.facts.places[StructureId(target.id)].rim or 0.0
        return cls(session, StructureId(target.id), at, view.sight.z_at(at.y) - rim)

    def _rim(self, current: bool = False) -> float:
        s = self.session.state
        return (s.current if current else s.shown).facts.places[self.structure].rim or 0.0

    def section_move(self, view: Section, at: MousePlace) -> None:
        current = self.session.state.current
        z = view.sight.z_at(at.y) - self._grab
        snap = (
            Snap(z, "")
            if at.alt
            else snapped_rim(current.facts, self.structure, z, LEVEL / view.sight.sz)
        )
        self.snap = snap.name
        self.show(set_rim(current.project, self.structure, FixedRim(snap.level)))

    def meant(self, text: str) -> Project:
        current = self.session.state.current
        level = changed_by(text, self._rim(current=True), current.project.units)
        return set_rim(current.project, self.structure, FixedRim(level))

    def words(self) -> Words | None:
        shown, u = self.session.state.shown, self.session.units
        if self.structure not in shown.facts.structures:
            return None
        f = shown.facts.structures[self.structure]
        now, before = self._rim(), self._rim(current=True)
        on = f.place.design if f.place.design is not None else f.place.ground
        off = (
            ""
            if on is None
            else (
                f"{u.step(now - on)} {u.m} from "
                f"{'design' if f.place.design is not None else 'ground'}"
            )
        )
        depth = "" if f.depth is None else f"depth {u.deep(f.depth)}"
        first = f"<b>{self.snap}</b>" if self.snap else off
        return Words(
            f"Rim of {f.structure.label}",
            u.level(now),
            f"{u.step(now - before)} {u.m}",
            (first, depth),
        )
