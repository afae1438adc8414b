"""All crossings with their room, the tightest first; the one that is picked drawn across, with
what moving either end would do.
"""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from zumbert.analysis.facts import Facts
from zumbert.app.guard import guarded
from zumbert.app.panels.rows import Sign, Stack, clear, label, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.checks.across import Across, RoomGraph
from zumbert.app.stages.checks.rows import STEPS
from zumbert.app.state import State
from zumbert.checks.clearance import other_name
from zumbert.checks.crossings import Room, room, rooms
from zumbert.checks.finding import TOLERANCE, Look
from zumbert.model.display import counted
from zumbert.model.ids import PipeId

MOST = 150  # rows


def room_look(r: Room) -> Look | None:
    """How a crossing is marked: touching, too near, or neither."""
    return "breach" if r.clear <= TOLERANCE else "caution" if r.clear < r.need - TOLERANCE else None


def room_words(facts: Facts, r: Room) -> str:
    """The room in words: "0.56 clear, needs 0.30; it lies above"."""
    u = facts.units
    state = "touching" if r.clear <= TOLERANCE else f"{u.long(r.clear)} clear"
    need = f", needs {u.length(r.need)}" if r.need else ""
    upright = "beside it" if r.upright is None else f"upright {u.length(r.upright)}"
    return f"{state}{need}; {upright}, {'above' if r.above else 'below'}"


@guarded
class RoomRow(QPushButton):
    """One crossing."""

    def __init__(
        self,
        pen: Pen,
        facts: Facts,
        r: Room,
        go: Callable[[Room], None],
        step: Callable[[int], None],
    ) -> None:
        super().__init__()
        self.room, self._step = r, step
        self.setProperty("role", "finding")
        self.setCheckable(True)
        self.setFixedHeight(42)
        name = f"{facts.pipes[r.pipe].pipe.label} and {other_name(facts, r.other)}"
        self.setObjectName(f"crossing {name}")
        self.setAccessibleName(f"{name}: {room_words(facts, r)}")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(6, 3, 6, 3)
        whole.setSpacing(0)
        head = QHBoxLayout()
        look = room_look(r)
        if look is not None:
            head.addWidget(Sign(pen, look))
        head.addWidget(label(name, look or "section"))
        head.addStretch(1)
        whole.addLayout(head)
        whole.addWidget(label(room_words(facts, r), "second"))
        self.clicked.connect(lambda: go(r))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = STEPS.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self._step(step)


class RoomsPage(QWidget):
    """The list, and the crossing that is picked."""

    def __init__(
        self, session: Session, pen: Pen, go: Callable[[PipeId, float, float], None]
    ) -> None:
        super().__init__()
        self.session, self.pen, self._go = session, pen, go
        self._facts: Facts | None = None
        self.rows: list[RoomRow] = []
        self.picked: tuple[PipeId, str, bool] | None = None
        self.says = wrapped("", "second")
        self.across, self.graph = Across(pen), RoomGraph(pen)
        self.list = QVBoxLayout()
        self.list.setSpacing(2)
        whole = Stack(self)
        for w in (self.says, self.across, self.graph):
            whole.addWidget(w)
        whole.addLayout(self.list)

    def refresh(self, s: State) -> None:
        """Shows the state: the picked crossing live, the list of what is taken."""
        facts = s.shown.facts
        if self._facts is not s.current.facts:
            self._facts = s.current.facts
            self._list(s.current.facts)
        now = None
        if self.picked is not None and self.picked[0] in facts.pipes:
            now = (
                room(facts, facts.pipes[self.picked[0]], *self.picked[1:])
                if self._there(facts)
                else None
            )
        for w in (self.across, self.graph):
            w.setVisible(now is not None)
            w.show_room(facts, now)
        for row in self.rows:
            row.setChecked((row.room.pipe, row.room.other, row.room.service) == self.picked)

    def _there(self, facts: Facts) -> bool:
        if self.picked is None:
            return False
        return self.picked[1] in (facts.project.services if self.picked[2] else facts.pipes)

    def _list(self, facts: Facts) -> None:
        clear(self.list)
        self.rows = []
        found = rooms(facts)
        tight = sum(room_look(r) is not None for r in found)
        self.says.setText(
            f"{counted(len(found), 'crossing')}, {tight} with too little room"
            if found
            else "Nothing crosses a pipe."
        )
        for r in found[:MOST]:
            row = RoomRow(self.pen, facts, r, self._pick, self._step)
            self.rows.append(row)
            self.list.addWidget(row)
        if len(found) > MOST:
            self.list.addWidget(wrapped(f"and {len(found) - MOST} more with more room.", "second"))

    def _pick(self, r: Room) -> None:
        self.picked = r.pipe, r.other, r.service
        self._go(r.pipe, r.x, r.y)
        self.refresh(self.session.state)
        for row in self.rows:
            if row.room == r:
                row.setFocus()

    def _step(self, by: int) -> None:
        at = next((i for i, r in enumerate(self.rows) if r.hasFocus()), None)
        if at is not None and 0 <= at + by < len(self.rows):
            self._pick(self.rows[at + by].room)
