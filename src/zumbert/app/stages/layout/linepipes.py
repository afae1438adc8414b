"""Pipes from a line of a drawing by others, or from a stretch of a road at an offset: shown with
their flow, then taken.
"""

from html import escape
from typing import TYPE_CHECKING

from msgspec.structs import replace

from zumbert.app.told import told
from zumbert.app.tools.fromline import LineTool
from zumbert.app.tools.tool import ClickTool, MousePlace, Plan, Words, road_shown
from zumbert.drawing.marks import Composed
from zumbert.edits.fromline import FromLine, LineWay, along, drawn
from zumbert.edits.layoptions import first_way
from zumbert.errors import EditError
from zumbert.model.display import counted
from zumbert.model.ids import RoadId

if TYPE_CHECKING:
    from zumbert.app.session import Session


class LinePipesTool(ClickTool, LineTool):
    """ready -a line under the cursor, or a typed stretch-> its pipes shown -click or Enter-> taken.
    T turns the flow. Esc gives up what is shown, then puts the tool down.
    """

    kind = "line"
    places = True
    keys = frozenset("t")

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        project = session.state.current.project
        way = replace(session.state.held.way or first_way(project), up=False, start=None)
        self.way = LineWay(
            way=way,
            corner=next((t.key for t in project.types.values() if t.kind == "joint"), way.type),
        )
        self.made: FromLine | None = None
        self.stretch: tuple[RoadId, float, float, float] | None = None  # road, from, to, offset

    @property
    def hint(self) -> str:  # type: ignore[override]
        return (
            "Click a line of a drawing, or type from, to and offset along the road: 20 120 -3.5. "
            "T: turn the flow."
        )

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        if self.stretch is not None:
            return
        before = self._on
        super().plan_move(view, at, pressed)
        if self._on != before:
            self.look()

    def look(self) -> None:
        """Shows the pipes of the line under the cursor, or of the stretch that is typed."""
        self.made, current = None, self.session.state.current
        try:
            if self.stretch is not None:
                self.made = along(current.project, current.facts, *self.stretch, self.way)
            elif self.line is not None:
                self.made = drawn(current.project, current.facts, self.line.tolist(), self.way)
        except EditError as e:
            self.session.refused.emit(str(e))
            self.stretch = None
        if self.made is None:
            self.session.preview(None)
        else:
            self.session.preview(
                self.made.project, frozenset([*self.made.structures, *self.made.pipes])
            )

    def clicked(self) -> bool:
        if not self.take():
            self.session.refused.emit(
                "There is no line of a drawing here: click on one, or type a stretch of the road."
            )
        return True

    def take(self) -> bool:
        """Takes the pipes that are shown, as one undo step."""
        made, self.made = self.made, None
        if made is None:
            return False
        self.stretch, self.line, self._on = None, None, None
        count = len(made.pipes)
        self.session.apply(f"Make {count} pipe{'s' if count > 1 else ''} from a line", made.project)
        self.session.select(frozenset(made.pipes), follow=False)
        return True

    def turn(self) -> None:
        """Turns the flow of what is shown."""
        if self.stretch is not None:
            road, begin, end, offset = self.stretch
            self.stretch = (road, end, begin, offset)
        elif self.line is not None:
            self.line = self.line[::-1]
        self.look()

    def done(self) -> bool:
        return self.take()

    def key(self, text: str) -> bool:
        if text != "t":
            return False
        self.turn()
        return True

    def road(self) -> RoadId | None:
        """The road of a typed stretch: the one shown, else the first."""
        return road_shown(self.session)

    def takes_entry(self) -> bool:
        return True

    @told(False)
    def entry(self, text: str) -> bool:
        u, road, parts = self.session.units, self.road(), text.split()
        if road is None or len(parts) not in (2, 3):
            raise EditError('Type from, to and offset along the road: "20 120 -3.5".')
        offset = u.typed(parts[2]) if len(parts) == 3 else 0.0
        self.stretch = (road, u.typed_chainage(parts[0]), u.typed_chainage(parts[1]), offset)
        self.look()
        return self.made is not None

    def set(self, **values: object) -> None:
        """Replaces how the line becomes pipes, and shows it."""
        self.way = replace(self.way, **values)
        self.look()

    def cancel(self) -> bool:
        had = self.made is not None
        self.made, self.stretch, self.line, self._on = None, None, None, None
        self.session.preview(None)
        return had

    def ends(self) -> None:
        self.cancel()

    def plan_over(self, view: Plan) -> Composed:
        return Composed([], [], []) if self.stretch is not None else super().plan_over(view)

    def words(self) -> Words | None:
        if self.made is None:
            return None
        u, facts = self.session.units, self.session.state.shown.facts
        pipes = [facts.pipes[p] for p in self.made.pipes if p in facts.pipes]
        if not pipes:
            return None
        long = sum(f.span.length for f in pipes)
        first, last = (
            facts.project.structures[k].label
            for k in (self.made.structures[0], self.made.structures[-1])
        )
        curved = sum(f.span.arc is not None for f in pipes)
        return Words(
            f"{first} to {last}",
            u.length(long),
            u.m,
            (
                (
                    f"{counted(len(pipes), 'pipe')}, {curved} curved; water runs to "
                    f"<b>{escape(last)}</b>"
                ),
                "Enter or a click draws them, T turns the flow",
            ),
        )
