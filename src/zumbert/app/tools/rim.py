"""Dragging the rim of a structure that stands at a fixed level, by its ring in the long section."""

from typing import TYPE_CHECKING

from zumbert.app.tools.level import SNAP_UNITS
from zumbert.app.tools.tool import Place, Words
from zumbert.edits.change import set_rim
from zumbert.edits.snaps import Snap, snapped_rim
from zumbert.edits.typed import changed_by
from zumbert.errors import EditError
from zumbert.model.ids import StructureId
from zumbert.model.project import Project
from zumbert.model.structure import FixedRim

if TYPE_CHECKING:
    from zumbert.app.session import Session
    from zumbert.app.views.sectionview import SectionView


class RimDrag:
    """idle -press on a rim's ring-> dragging -release-> idle (done); typing -> typed -Enter-> idle (done);
    Esc -> idle (nothing done).
    """

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.structure: StructureId | None = None
        self.typing = False
        self.snap = ""
        self._grab = 0.0  # m between the cursor and the ring when it was taken
        self._made: Project | None = None

    @property
    def active(self) -> bool:
        """Whether a rim is in hand."""
        return self.structure is not None

    def begin(self, structure: StructureId) -> None:
        """Takes a rim in hand, for the keyboard."""
        self.structure, self.typing, self.snap, self._made = structure, True, "", None

    def press(self, view: "SectionView", structure: StructureId, at: Place) -> None:
        """Takes a rim in hand by its ring."""
        self.begin(structure)
        self.typing = False
        self._grab = view.sight.z_at(at.y) - self._rim(kept=True)

    def _rim(self, kept: bool = False) -> float:
        s = self.session.state
        facts = (s.kept if kept else s.shown).facts
        return facts.places[self._structure].rim or 0.0

    @property
    def _structure(self) -> StructureId:
        assert self.structure is not None  # noqa: S101 - only with a rim in hand
        return self.structure

    def drag(self, view: "SectionView", at: Place) -> None:
        """Follows the mouse: shows what the edit would make."""
        if self.typing:
            return
        kept = self.session.state.kept
        z = view.sight.z_at(at.y) - self._grab
        snap = Snap(z, "") if at.alt else snapped_rim(kept.facts, self._structure, z, SNAP_UNITS / view.sight.sz)
        self.snap = snap.name
        self._made = set_rim(kept.project, self._structure, FixedRim(snap.level))
        self.session.preview(self._made)

    def finish(self) -> None:
        """Commits what is shown as one undo step."""
        made = self._made
        name = f"Set the rim of {self.session.state.kept.project.structures[self._structure].label}"
        self.structure = None
        if made is None:
            self.session.preview(None)
        else:
            self.session.apply(name, made)

    def _typed(self, text: str) -> Project:
        kept = self.session.state.kept
        level = changed_by(text, self._rim(kept=True), kept.project.units)
        return set_rim(kept.project, self._structure, FixedRim(level))

    def typed(self, text: str) -> None:
        """Shows what a typed text would make; a text that means nothing yet shows the rim as it was."""
        self.typing = True
        try:
            self._made = self._typed(text)
        except EditError:
            self._made = None
        self.session.preview(self._made)

    def entry(self, text: str) -> bool:
        """Takes a typed level, or a step such as +0.05; a refusal is told and the rim stays in hand."""
        try:
            self._made = self._typed(text)
        except EditError as e:
            self.session.refused.emit(str(e))
            return False
        self.finish()
        return True

    def cancel(self) -> bool:
        """Leaves all as it was."""
        if self.structure is None:
            return False
        self.structure, self._made = None, None
        self.session.preview(None)
        return True

    def words(self) -> Words | None:
        """The entry line while a rim is in hand."""
        shown, u = self.session.state.shown, self.session.units
        if self.structure is None or self.structure not in shown.facts.structures:
            return None
        f = shown.facts.structures[self.structure]
        now, before = self._rim(), self._rim(kept=True)
        on = f.place.design if f.place.design is not None else f.place.ground
        off = (
            ""
            if on is None
            else f"{u.step(now - on)} {u.m} from {'design' if f.place.design is not None else 'ground'}"
        )
        depth = "" if f.depth is None else f"depth {u.deep(f.depth)}"
        first = f"<b>{self.snap}</b>" if self.snap else off
        return Words(f"Rim of {f.structure.label}", u.level(now), f"{u.step(now - before)} {u.m}", (first, depth))
