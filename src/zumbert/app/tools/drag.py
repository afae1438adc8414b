"""A drag: made by the press on a handle, gone with the release. Esc leaves everything as
it was.
"""

from math import hypot
from typing import TYPE_CHECKING

from zumbert.app.told import told
from zumbert.app.tools.tool import MousePlace, Plan, Section, Words
from zumbert.drawing.marks import Mark
from zumbert.errors import EditError
from zumbert.model.project import Project

if TYPE_CHECKING:
    from zumbert.app.session import Session


class Drag:
    """pressed -moved far enough-> dragging -release-> committed; -a text-> typing -Enter->
    committed; Esc: given up.
    """

    hint = ""
    stray = 0.0  # drawing units: a shorter way of the mouse is a click
    takes_text = False  # whether values can be typed

    def __init__(self, session: "Session", at: MousePlace | None = None) -> None:
        self.session = session
        self.start = at  # where it was pressed; None: taken in hand by the keyboard
        self.started = self.stray == 0.0
        self.typing = at is None
        self.made: Project | None = None  # what is shown, and what the release commits
        self.shown = False  # whether it is just as it was shown, and not as a text means it
        self.name = ""  # of the undo step

    def follow(self, at: MousePlace) -> bool:
        """Whether the mouse has gone far enough to drag."""
        if self.start is not None and not self.started:
            self.started = hypot(at.x - self.start.x, at.y - self.start.y) >= self.stray
        return self.started and not self.typing

    def plan_move(self, view: Plan, at: MousePlace) -> None:
        """The mouse moved over the plan."""

    def section_move(self, view: Section, at: MousePlace) -> None:
        """The mouse moved over the long section."""

    def plan_over(self) -> list[Mark]:
        """The marks that it draws over the plan."""
        return []

    def show(self, project: Project) -> None:
        """Shows what the release would commit."""
        self.session.preview(project)
        self.made, self.shown = self.session.state.shown.project, True

    def typed(self, text: str) -> None:
        """Shows what a typed text would make; a text that means nothing yet shows everything as
        it was.
        """
        self.typing, self.shown = True, False
        try:
            self.made = self.meant(text)
        except EditError:
            self.made = None
        self.session.preview(self.made)

    @told(False)
    def entry(self, text: str) -> bool:
        """Takes a typed text; a refusal is told, and the drag goes on."""
        self.made, self.shown = self.meant(text), False
        return True

    def meant(self, text: str) -> Project:
        """The project that a typed text means. Raises EditError with a sentence."""
        raise EditError("Nothing can be typed here.")

    def ends(self) -> None:
        """It is no longer in hand, committed or given up."""

    def commit(self, ctrl: bool = False) -> None:
        """Makes what is shown one undo step."""
        if self.made is None:
            self.session.preview(None)
        else:
            self.session.apply(self.name, self.made, shown=self.shown)

    def clicked(self, follow: bool) -> None:
        """The button was released before the drag began; `follow`: the long section may show
        what is picked.
        """
        self.session.preview(None)

    def words(self) -> Words | None:
        """The words of the entry line; None hides it."""
        return None
