"""Regrading between two structures: a strip over the long section with the arithmetic as one would check it."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from zumbert.analysis.paths import Step
from zumbert.analysis.runs import RunKey
from zumbert.app.panels.rows import Aside, Combo, chip, choice, clear, label
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.edits.regrade import Carried, Regrade, Regraded, ends_now, meant_level, path, regraded
from zumbert.errors import ZumbertError
from zumbert.model.display import counted
from zumbert.model.ids import StructureId

MOST = 40  # structures between that get a field of their own for their drop
LINES: tuple[Carried, ...] = ("invert", "centre", "crown")


class RegradeStrip(QFrame):
    """shut -open-> as it is -a field changed-> shown in the section -Enter-> taken as one undo step, shut; Esc -> shut,
    all as it was. Of slope and end level the one typed last holds, the other follows.
    """

    def __init__(self, session: Session, pen: Pen, closed: Callable[[], None]) -> None:
        super().__init__()
        self.session, self._closed = session, closed
        self.setObjectName("regrade")
        self.a = self.b = StructureId("")
        self.steps: list[Step] = []
        self.made: Regraded | None = None
        self._by_end = False  # the end level holds, the slope follows
        self._kept: object = None  # the value that it was opened on
        self.title = label("", "section")
        self.by: Combo = choice(pen, "regrade line", [(k, k) for k in LINES])
        self.start, self.slope, self.end, self.drop = (
            self._field(n, w) for n, w in (("start", 84), ("slope", 76), ("end", 84), ("drop", 62))
        )
        self.joints, self.holds = QCheckBox("joints too"), QCheckBox("held ones too")
        Aside(self.slope, lambda text: session.units.understood(text))
        self.sum, self.says = label("", "section"), label("", "second")
        self.drops: dict[StructureId, QLineEdit] = {}
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
        self.start.setToolTip('A level, "0.90 under 42.35", crown (in line with what is joined) or drop (the least)')
        self.end.setToolTip(self.start.toolTip())
        turn = chip("Turn", "regrade turn", self._turn)
        turn.setToolTip("Walk from the other end")
        self.from_, self.to = label("", "second"), label("", "second")
        for w in (
            self.title,
            turn,
            self.by,
            self.from_,
            self.start,
            label("slope", "second"),
            self.slope,
            self.to,
            self.end,
        ):
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
        third.addWidget(self.sum)
        third.addWidget(self.says, 1)
        for row in (first, second, third):
            whole.addLayout(row)
        self.joints.setObjectName("regrade joints")
        self.holds.setObjectName("regrade holds")
        for box in (self.joints, self.holds):
            box.clicked.connect(lambda _=False: self._look())
        self.by.activated.connect(lambda _: self._begin())
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

    # -- opening and shutting ------------------------------------------------------------------------------------------

    def open(self, a: StructureId, b: StructureId) -> bool:
        """Opens on the way between two structures, with the levels as they are; told, and False, where there is none."""
        kept = self.session.state.kept
        try:
            self.steps = path(kept.project, kept.facts, a, b)
        except ZumbertError as e:
            self.session.refused.emit(str(e))
            return False
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
        project = self.session.state.kept.project
        self.drops = {}
        for step in self.steps[:-1][:MOST]:
            name = project.structures[step.to].label
            field = self._field(f"drop at {name}", 52)
            field.setToolTip(f"Drop at {name} in place of that for all; - leaves it out")
            self.drops[step.to] = field
            self.each.addWidget(label(name, "small"))
            self.each.addWidget(field)
        self.each.addStretch(1)
        held = [project.pipes[s.pipe].label for s in self.steps if project.pipes[s.pipe].keeps]
        self.holds.setVisible(bool(held))
        self.holds.setText(f"held ones too: {', '.join(held[:3])}" + (" \u2026" if len(held) > 3 else ""))

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
            names = self.session.state.kept.project.structures
            self.session.apply(f"Regrade {names[self.a].label} to {names[self.b].label}", made.project)
        else:
            self.session.preview(None)
        self.made = None
        self._closed()

    def follow(self, s: State) -> None:
        """Shuts where the value that it was opened on is gone: an undo, another file."""
        if self.isVisible() and s.kept is not self._kept:
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

    # -- what the fields say -------------------------------------------------------------------------------------------

    def _turn(self) -> None:
        self.a, self.b = self.b, self.a
        kept = self.session.state.kept
        self.steps = path(kept.project, kept.facts, self.a, self.b)
        self._rows()
        self._begin()

    def _begin(self) -> None:
        """The levels as they are, and the drops as they are; nothing is shown until a field changes."""
        kept, u = self.session.state.kept, self.session.units
        self._kept, self.made, self._by_end = kept, None, False
        names = kept.project.structures[self.a].label, kept.project.structures[self.b].label
        self.title.setText(f"Regrade {names[0]} to {names[1]}")
        self.from_.setText(f"at {names[0]}")
        self.to.setText(f"at {names[1]}")
        start, end = ends_now(kept.facts, self.steps, self.by.currentData())
        total = sum(kept.facts.pipes[s.pipe].basis for s in self.steps)
        self.start.setText(u.level(start))
        self.end.setText(u.level(end))
        self.slope.setText(f"{(start - end) / total * 100:.3f}%" if total else "0%")
        self.session.preview(None)
        self.sum.setText(f"{u.long(total)}, falls {u.deep(start - end)} as it is")
        self._say("Enter changes nothing until a field does.", False)
        self.take.setEnabled(True)

    def _say(self, text: str, bad: bool) -> None:
        self.says.setText(text)
        self.says.setProperty("role", "breach" if bad else "second")
        self.says.style().unpolish(self.says)
        self.says.style().polish(self.says)

    def _edited(self, name: str) -> None:
        if name in ("slope", "end"):
            self._by_end = name == "end"
        self._look()

    def ask(self) -> Regrade:
        """What the fields ask for. Raises EditError or ValueError for a text that means nothing there."""
        kept, u = self.session.state.kept, self.session.units
        by: Carried = self.by.currentData()
        texts = {k: f.text().strip() for k, f in self.drops.items()}
        start = meant_level(kept.facts, self.steps, False, self.start.text(), by)
        made = Regrade(
            a=self.a, b=self.b, start=start, by=by, drop=u.typed(self.drop.text()) if self.drop.text().strip() else 0.0,
            drops={k: u.typed(t) for k, t in texts.items() if t not in ("", "-", "\u2212")},
            without=frozenset(k for k, t in texts.items() if t in ("-", "\u2212")),
            joints_too=self.joints.isChecked(), ignore_holds=self.holds.isChecked(),
        )  # fmt: skip
        if self._by_end:
            return replace(made, end=meant_level(kept.facts, self.steps, True, self.end.text(), by))
        return replace(made, slope=self.session.units.typed_slope(self.slope.text()))

    def _look(self) -> None:
        """Shows what the fields would make, and which rules it would break."""
        u, kept = self.session.units, self.session.state.kept
        try:
            self.made = regraded(kept.project, kept.facts, self.ask())
        except (ZumbertError, ValueError) as e:
            self.made = None
            self.session.preview(None)
            self.sum.setText("")
            self._say(str(e), True)
            self.take.setEnabled(False)
            return
        made = self.made
        self.take.setEnabled(True)
        self.session.preview(made.project)
        if self._by_end:
            self.slope.setText(f"{made.slope * 100:.4f}%")
        else:
            self.end.setText(u.level(made.lines[-1].end))
        self.sum.setText(made.sum)
        shown = self.session.state.shown
        before, now = kept.findings.breaches, shown.findings.breaches
        against = [kept.project.pipes[k].label for k in made.against]
        rising = (
            f" {', '.join(against)} rise in their flow direction: turn them, or slope the other way." if against else ""
        )
        level = " It lies level." if abs(made.slope) < 1e-9 else ""
        self._say(f"{counted(now, 'breach', 'breaches')}, {before} before.{rising}{level}", now > before)
