"""A tool: a small state machine that asks the session to preview or apply edits."""

from typing import TYPE_CHECKING, NamedTuple, Protocol

import numpy as np

from zumbert.analysis.roads import nearest
from zumbert.app.pen import Pen
from zumbert.drawing.marks import Composed, Target
from zumbert.drawing.sight import MapSight, SectionSight, StraightSight
from zumbert.model.ids import RoadId

if TYPE_CHECKING:
    from zumbert.app.session import Session


NOTHING = Composed([], [], [])


class MousePlace(NamedTuple):
    """Where the mouse is: in drawing units of its view, with the keys held."""

    x: float
    y: float
    shift: bool = False
    alt: bool = False
    ctrl: bool = False


class View(Protocol):
    """A drawing as a tool sees it, so that tools and views do not know each other."""

    @property
    def mouse(self) -> MousePlace | None:
        """Where the mouse is."""

    @property
    def hover(self) -> Target | None:
        """The target under the mouse."""

    @property
    def targets(self) -> list[Target]:
        """All that can be hit."""

    @property
    def pen(self) -> Pen:
        """Its pen."""

    @property
    def leads(self) -> bool:
        """Whether the long section follows what is picked in it."""

    def hit(self, x: float, y: float) -> Target | None:
        """The target at a drawing place."""

    def hit_current(self, x: float, y: float) -> Target | None:
        """The target at a place in the current project, whatever a preview shows there."""

    def world(self, x: float, y: float) -> tuple[float, float] | None:
        """X and y (m) under a drawing place; None where there is no such place."""


class Plan(View, Protocol):
    """The plan, as a map or straightened."""

    @property
    def sight(self) -> MapSight | StraightSight:
        """The sight of the plan."""

    def drawn(self, x: float, y: float) -> tuple[float, float] | None:
        """The drawing place of x and y (m)."""


class Section(View, Protocol):
    """The long section."""

    @property
    def sight(self) -> SectionSight:
        """The sight of the long section."""


class Words(NamedTuple):
    """The words of the entry line: its head, the value now, what changes, and up to three lines of
    what follows.
    """

    head: str
    value: str
    aside: str
    lines: tuple[str, ...] = ()


class Tool:
    """A tool in hand. Each event tells whether the tool took it; Esc (`cancel`) leaves
    everything as it was.
    """

    def __init__(self, session: "Session") -> None:
        self.session = session

    kind = ""  # which panel shows it, and which chip is lit
    places = False  # whether it puts things into the plan, which stays as it is meanwhile
    hint = ""
    letters: frozenset[str] = frozenset()  # letters that begin an entry
    keys: frozenset[str] = frozenset()  # letters that `key` takes

    @property
    def in_hand(self) -> bool:
        """Whether something is being dragged, so that what lies under the cursor does not
        matter.
        """
        return False

    # whether a click in plan is pressed when the button is let go: a drag then moves the drawing
    plan_clicks = False
    section_clicks = False  # the same of the long section

    def plan_press(self, view: Plan, at: MousePlace) -> bool:
        """The button went down over the plan; tells whether the tool took it."""
        return False

    def section_press(self, view: Section, at: MousePlace) -> bool:
        """The button went down over the long section; tells whether the tool took it."""
        return False

    def space_press(self, view: View, at: MousePlace) -> bool:
        """A click in space; tells whether the tool took it."""
        return False

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        """The mouse moved over the plan, with the button held or not."""

    def section_move(self, view: Section, at: MousePlace, pressed: bool) -> None:
        """The mouse moved over the long section, with the button held or not."""

    def plan_over(self, view: Plan) -> Composed:
        """The marks of the tool over the plan, and their targets."""
        return NOTHING

    def section_over(self, view: Section) -> Composed:
        """The marks of the tool over the long section, and their targets."""
        return NOTHING

    def release(self, view: View, at: MousePlace) -> None:
        """The button was let go."""

    def let_go(self) -> bool:
        """Gives up what is being dragged; tells whether anything was."""
        return False

    def cancel(self) -> bool:
        """Esc: gives up what is under way; tells whether there was anything."""
        return False

    def backspace(self) -> bool:
        return False

    def key(self, text: str) -> bool:
        """A letter that means something to the tool; tells whether it took it."""
        return False

    def done(self) -> bool:
        """Enter without a text, or a double click: what is under way is complete; tells whether
        it took that.
        """
        return False

    def words(self) -> Words | None:
        """The words of the entry line; None hides it."""
        return None

    def takes_entry(self) -> bool:
        """Whether typing makes sense now."""
        return False

    def typed(self, text: str) -> None:
        """The text in the entry line changed: preview what it would do."""

    def untyped(self) -> None:
        """The text was given up: what is under way goes on as it was before it."""

    def entry(self, text: str) -> bool:
        """Enter was pressed on a text; tells whether it was taken."""
        return False

    def begins(self) -> None:
        """The tool is in hand."""

    def ends(self) -> None:
        """The tool is put down."""


class ClickTool(Tool):
    """Base of the tools that take places of the plan by clicks."""

    plan_clicks = True

    def plan_press(self, view: Plan, at: MousePlace) -> bool:
        self.plan_move(view, at, False)
        return self.clicked()

    def clicked(self) -> bool:
        """A place was clicked that the tool has looked at; tells whether the tool took the
        click.
        """
        return True


class EitherClickTool(ClickTool):
    """Base of the tools that take places of the long section too."""

    section_clicks = True

    def section_press(self, view: Section, at: MousePlace) -> bool:
        self.section_move(view, at, False)
        return self.clicked()


POINTED = 25.0  # m: within this of a road the cursor points at it


def road_pointed_at(session: "Session") -> RoadId | None:
    """The road that the cursor is over or beside."""
    s = session.state
    roads = s.current.facts.roads
    if s.at.place is None or not roads:
        return None
    near = nearest(roads, np.array([s.at.place[0]]), np.array([s.at.place[1]]))
    off = float(near.offset[0])
    return list(roads)[int(near.road[0])] if off == off and abs(off) <= POINTED else None


def road_shown(session: "Session") -> RoadId | None:
    """The road that a typed chainage is on: the one pointed at, else the one shown in the long
    section, else the first.
    """
    s = session.state
    pointed = road_pointed_at(session)
    if pointed is not None:
        return pointed
    if s.look.run_key is not None and s.look.run_key.kind == "road":
        return RoadId(s.look.run_key.id)
    return next(iter(s.current.project.roads), None)
