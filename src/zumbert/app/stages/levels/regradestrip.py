"""Regrading between two structures: a strip over the long section with the arithmetic as one
would check it.
"""

from collections.abc import Callable
from itertools import pairwise

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from zumbert.analysis import analyse
from zumbert.analysis.paths import PathStep
from zumbert.analysis.runline import RunKey
from zumbert.app.guard import guarded
from zumbert.app.panels.fields import Aside, Combo, choice
from zumbert.app.panels.rows import chip, clear, label
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.levels.regradewords import regrade_words
from zumbert.app.state import State
from zumbert.app.theme import restyle
from zumbert.app.told import told
from zumbert.edits.join import turned
from zumbert.edits.regrade import (
    Carried,
    Regrade,
    Regraded,
    as_it_is,
    drop_at,
    drop_meant,
    meant_level,
    path,
    regraded,
)
from zumbert.errors import ZumbertError
from zumbert.model.display import counted
from zumbert.model.ids import StructureId

LINES: tuple[Carried, ...] = ("invert", "centre", "crown")


@guarded
class RegradeStrip(QFrame):
    """shut -open-> as it is -a field changed-> shown in the section -Enter-> taken as one undo
    step, shut; Esc -> shut, all as it was. Of slope and end level the one typed last holds, the
    other follows.
    """

    def __init__(self, session: Session, pen: Pen, closed: Callable[[], None]) -> None:
        super().__init__()
        self.session, self._closed = session, closed
        self.setObjectName("regrade")
        self.a = self.b = StructureId("")
        self.steps: list[PathStep] = []
        self.made: Regraded | None = None
        self._by_end = False  # the end level holds, the slope follows
        self._kept: object = None  # the value that it was opened on
        # what a field shows of a value, and that value
        self._exact: dict[QLineEdit, tuple[str, float]] = {}
        self._by: Carried = "invert"  # the line that is carried
        self._turning = False  # pipes that would rise against their flow are turned
        self.title = label("", "section")
        self.by: Combo = choice(pen, "regrade line", [(k, k) for k in LINES])
        self.start, self.slope, self.end, self.drop = (
            self._field(n, w) for n, w in (("start", 84), ("slope", 76), ("end", 84), ("drop", 62))
        )
        self.joints, self.holds = QCheckBox("joints too"), QCheckBox("held ones too")
        Aside(self.slope, lambda text: session.units.understood(text))
        self.sum, self.says = label("", "section"), label("", "second")
        self.drops: dict[StructureId, QLineEdit] = {}
        self._own: set[StructureId] = set()  # where a drop was typed
        self.each = QHBoxLayout()
        self.take = QPushButton("Regrade")
        self._build()

    def _field(self, name: str, wide: int) -> QLineEdit:
        out = QLineEdit()
        out.setObjectName(f"regrade {name}")
        out.setAccessibleName(f"Regrade, {name}")
        out.setFixedWidth(wide)
        out.textEdited.connect(lambda _: self._edited(name))
        return out

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(14, 3, 14, 3)
        whole.setSpacing(1)
        first = QHBoxLayout()
        first.setSpacing(7)
        self.start.setToolTip(
            'A level, "0.90 under 42.35", crown (in line with what is joined) or drop (the least)'
        )
        self.end.setToolTip(self.start.toolTip())
        turn = chip("Turn", "regrade turn", self._turn)
        turn.setToolTip("Walk from the other end")
        self.from_, self.to = label("", "second"), label("", "second")
        parts: tuple[QWidget, ...] = (self.title, turn, self.by, self.from_, self.start)
        for w in (*parts, label("slope", "second"), self.slope, self.to, self.end):
            first.addWidget(w)
        first.addStretch(1)
        self.take.setObjectName("regrade take")
        self.take.clicked.connect(lambda: self.accept())
        for b in (self.take, chip("Cancel", "regrade leave", self.shut)):
            first.addWidget(b)
        second = QHBoxLayout()
        second.setSpacing(7)
        more: tuple[QWidget, ...] = (label("drop", "second"), self.drop, self.joints, self.holds)
        for piece in more:
            second.addWidget(piece)
        second.addWidget(self._between(), 1)
        third = QHBoxLayout()
        self.turned = chip("Turn", "regrade turn pipes", self._turn_pipes)
        self.turned.hide()
        # a long sentence widens no window
        self.says.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        third.setSpacing(12)
        third.addWidget(self.sum)
        third.addWidget(self.says, 1)
        third.addWidget(self.turned)
        for row in (first, second, third):
            whole.addLayout(row)
        self.joints.setObjectName("regrade joints")
        self.holds.setObjectName("regrade holds")
        for box in (self.joints, self.holds):
            box.clicked.connect(lambda _=False: self._look())
        self.by.activated.connect(lambda _: self._other_line())
        self.take.setAutoDefault(False)

    def _between(self) -> QScrollArea:
        """The structures between, each with a field for a drop of its own."""
        inner, area = QWidget(), QScrollArea()
        self.each.setContentsMargins(0, 0, 0, 0)
        self.each.setSpacing(5)
        inner.setLayout(self.each)
        inner.setObjectName("panelbody")
        area.setWidget(inner)
        area.setWidgetResizable(True)
        area.setObjectName("striparea")
        area.setFixedHeight(30)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return area

    # -- opening and shutting ----------------------------------------------------------------------

    @told(False)
    def open(self, a: StructureId, b: StructureId) -> bool:
        """Opens on the way between two structures, with the levels as they are; told, and False,
        where there is none.
        """
        current = self.session.state.current
        self.steps = path(current.project, current.facts, a, b)
        self.a, self.b = a, b
        self.session.show_run(RunKey.path(a, b))
        self.joints.setChecked(False)
        self.holds.setChecked(False)
        self.drop.clear()
        self._rows()
        self._begin()
        self.show()
        self.start.setFocus()
        self.start.selectAll()
        return True

    def _rows(self) -> None:
        """A field for each structure between."""
        clear(self.each)
        project = self.session.state.current.project
        self.drops, self._own = {}, set()
        for step in self.steps[:-1]:
            name = project.structures[step.to].label
            field = self._field(f"drop at {name}", 52)
            field.setToolTip(f"Drop at {name} in place of that for all; - leaves it out")
            self.drops[step.to] = field
            self.each.addWidget(label(name, "small"))
            self.each.addWidget(field)
        self.each.addStretch(1)
        chain = [self.start, self.slope, self.end, self.drop, *self.drops.values(), self.take]
        for first, then in pairwise(chain):
            QWidget.setTabOrder(first, then)
        held = [project.pipes[s.pipe].label for s in self.steps if project.pipes[s.pipe].holds]
        self.holds.setVisible(bool(held))
        more = " \u2026" if len(held) > 3 else ""
        self.holds.setText(f"held ones too: {', '.join(held[:3])}{more}")

    def shut(self) -> None:
        """Leaves all as it is."""
        self.made = None
        self.hide()
        self.session.preview(None)
        self._closed()

    def accept(self) -> None:
        """Takes what is shown as one undo step; untouched it changes nothing."""
        made = self.made
        self.hide()
        if made is not None:
            names = self.session.state.current.project.structures
            name = f"Regrade {names[self.a].label} to {names[self.b].label}"
            self.session.apply(name, made.project)
        else:
            self.session.preview(None)
        self.made = None
        self._closed()

    def follow(self, s: State) -> None:
        """Shuts where the value that it was opened on is gone: an undo, another file."""
        if self.isVisible() and s.current is not self._kept:
            self.made = None
            self.hide()
            self._closed()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.accept()
        elif event.key() == Qt.Key.Key_Escape:
            self.shut()
        else:
            super().keyPressEvent(event)

    # -- what the fields say -----------------------------------------------------------------------

    def _turn(self) -> None:
        self.a, self.b = self.b, self.a
        current = self.session.state.current
        self.steps = path(current.project, current.facts, self.a, self.b)
        self._rows()
        self._begin()

    def _begin(self) -> None:
        """Levels and drops as they are; nothing is shown until a field changes."""
        current, u = self.session.state.current, self.session.units
        self._kept, self.made, self._turning = current, None, False
        self._by = self.by.currentData()
        names = current.project.structures[self.a].label, current.project.structures[self.b].label
        self.title.setText(f"Regrade {names[0]} to {names[1]}")
        self.from_.setText(f"at {names[0]}")
        self.to.setText(f"at {names[1]}")
        now = as_it_is(current.facts, self.steps, self.by.currentData())
        self._exact = {}
        self._put(self.start, u.level(now.start), now.start)
        self._put(self.end, u.level(now.end), now.end)
        self._by_end = now.slope is None
        self.slope.setPlaceholderText("varies" if now.slope is None else "")
        self._put(
            self.slope, "" if now.slope is None else f"{now.slope * 100:.4f}%", now.slope or 0.0
        )
        for key, drop in now.drops.items():
            self._put(self.drops[key], u.level(drop), drop)
        self.session.preview(None)
        total = sum(current.facts.pipes[s.pipe].basis for s in self.steps)
        self.sum.setText(f"{u.long(total)}, falls {u.deep(now.start - now.end)} as it is")
        self._say("Enter changes nothing until a field does.", False)
        self.turned.hide()
        self.take.setEnabled(True)

    def _put(self, field: QLineEdit, text: str, value: float) -> None:
        """Shows a value; until another text is typed the field means exactly that."""
        field.setText(text)
        self._exact[field] = (text, value)

    def _other_line(self) -> None:
        """Another line is carried: what was typed stays, levels that were not go over to it."""
        current, u = self.session.state.current, self.session.units
        lines = self._by, self.by.currentData()
        old, new = (as_it_is(current.facts, self.steps, by) for by in lines)
        if self.made is None:
            self._begin()
            return
        self._by = lines[1]
        for field, by in ((self.start, new.start - old.start), (self.end, new.end - old.end)):
            value = self._value(field)
            if value is not None:
                self._put(field, u.level(value + by), value + by)
        for key, field in self.drops.items():
            if key not in self._own:
                self._put(field, u.level(new.drops[key]), new.drops[key])
        self._look()

    def _value(self, field: QLineEdit) -> float | None:
        """The level that a field means: exactly the one that it shows, or the one that is typed;
        None for words.
        """
        text, value = self._exact.get(field, ("", 0.0))
        if field.text() == text:
            return value
        try:
            return self.session.units.typed(field.text())
        except ValueError:
            return None

    def _say(self, text: str, bad: bool) -> None:
        self.says.setText(text)
        self.says.setToolTip(text)
        self.says.setProperty("role", "breach" if bad else "second")
        restyle(self.says)

    def _edited(self, name: str) -> None:
        if name in ("slope", "end"):
            self._by_end = name == "end"
        self._own |= {k for k, f in self.drops.items() if f.objectName() == f"regrade {name}"}
        self._look()

    def ask(self) -> Regrade:
        """The regrade of the fields. Raises EditError for a text that means nothing there."""
        u = self.session.units
        by: Carried = self.by.currentData()
        every = self.drop.text().strip()
        own, without = dict[StructureId, float](), set[StructureId]()
        for k, f in self.drops.items():
            text, now = self._exact.get(f, ("", 0.0))
            typed = f.text().strip() if k in self._own else ""
            if typed in ("-", "\u2212"):
                without.add(k)
            elif typed and typed != text:
                own[k] = drop_meant(self.session.state.current.project, k, u.typed(typed))
            elif typed or not every:
                own[k] = now  # as it is, a step up too
        made = Regrade(
            a=self.a,
            b=self.b,
            start=self._level(self.start, False, by),
            by=by,
            drop=u.typed(every) if every else 0.0,
            drops=own,
            without=frozenset(without),
            joints_too=self.joints.isChecked(),
            ignore_holds=self.holds.isChecked(),
        )
        if self._by_end:
            return replace(made, end=self._level(self.end, True, by))
        text, slope = self._exact.get(self.slope, ("", 0.0))
        typed = self.slope.text()
        return replace(made, slope=slope if typed == text else u.typed_slope(typed))

    def _show_drops(self, ask: Regrade) -> None:
        """Where none is typed a field says which drop it will be: as it is, or the one for all."""
        current, every = self.session.state.current, bool(self.drop.text().strip())
        for key, field in self.drops.items():
            field.setPlaceholderText(self.session.units.level(drop_at(current.project, ask, key)))
            if key not in self._own:
                field.setText("" if every else self._exact.get(field, ("", 0.0))[0])

    def _level(self, field: QLineEdit, at_b: bool, by: Carried) -> float:
        text, value = self._exact.get(field, ("", 0.0))
        if field.text() == text:
            return value
        return meant_level(self.session.state.current.facts, self.steps, at_b, field.text(), by)

    def _look(self) -> None:
        """Shows what the fields would make, and which rules it would break."""
        u, current = self.session.units, self.session.state.current
        try:
            ask = self.ask()
            made = regraded(current.project, current.facts, ask)
            if self._turning and made.against:
                facts = analyse(made.project, current.facts)
                made = replace(made, project=turned(made.project, facts, made.against), against=())
            self.made = made
        except ZumbertError as e:
            self.made = None
            self.session.preview(None)
            self.sum.setText("")
            self._say(str(e), True)
            self.take.setEnabled(False)
            return
        self.take.setEnabled(True)
        self._show_drops(ask)
        self.session.preview(made.project)
        if self._by_end:
            self._put(self.slope, f"{made.slope * 100:.4f}%", made.slope)
        else:
            self._put(self.end, u.level(made.lines[-1].end), made.lines[-1].end)
        self.sum.setText(made.sum)
        labels = [current.project.pipes[k].label for k in made.against]
        self.turned.setVisible(bool(labels))
        self.turned.setText(f"Turn {counted(len(labels), 'pipe')}")
        self.turned.setToolTip(f"{', '.join(labels)} would rise in their flow direction")
        s = self.session.state
        typed = f"{self.start.text()} {self.end.text()}"
        words = any(w in typed for w in ("crown", "drop", "under", "over"))
        worse = s.shown.findings.breaches > current.findings.breaches
        self._say(regrade_words(current, s.shown, ask, made, words, s.held.stopped), worse)

    def _turn_pipes(self) -> None:
        """Pipes that would rise are turned with the regrade."""
        self._turning = True
        self._look()
