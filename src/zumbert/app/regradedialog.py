"""Regrading between two structures: level at one end, slope and drop, previewed in the long section."""

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.panels.rows import label, rule, wrapped
from zumbert.app.session import Session
from zumbert.edits.regrade import Regrade, Regraded, path, regraded
from zumbert.errors import ZumbertError
from zumbert.model.ids import StructureId
from zumbert.model.slope import parsed_slope


class RegradeDialog(QDialog):
    """Opens with the levels as they are; each change is previewed at once, Enter takes it as one undo step."""

    def __init__(self, parent: QWidget, session: Session, a: StructureId, b: StructureId) -> None:
        super().__init__(parent)
        self.session, self.a, self.b = session, a, b
        project = session.state.kept.project
        self.setWindowTitle("Regrade a run")
        self.setObjectName("regrade")
        self.setMinimumWidth(400)
        self.turn = QCheckBox(f"from {project.structures[b].label} to {project.structures[a].label}")
        self.by = QComboBox()
        self.by.addItems(["invert", "centre", "crown"])
        self.start, self.slope, self.drop = QLineEdit(), QLineEdit(), QLineEdit("0.000")
        self.start.setObjectName("regrade start")
        self.slope.setObjectName("regrade slope")
        self.drop.setObjectName("regrade drop")
        self.sum, self.says = label("", "section"), wrapped("", "second")
        self.title = label("", "title")
        self._made: Regraded | None = None
        self._touched = False
        self._build()
        self._begin()
        for field in (self.start, self.slope, self.drop):
            field.textEdited.connect(lambda _: self._look())
        self.by.activated.connect(lambda _: self._begin())
        self.turn.toggled.connect(lambda _: self._turned())

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        whole.addWidget(self.title)
        whole.addWidget(rule())
        grid = QGridLayout()
        rows = (("Carried line", self.by), ("Level at the first", self.start), ("Slope, falling positive", self.slope),
                ("Drop at each between", self.drop), ("Walk", self.turn))  # fmt: skip
        for i, (text, w) in enumerate(rows):
            grid.addWidget(label(text, "second"), i, 0)
            grid.addWidget(w, i, 1)
        whole.addLayout(grid)
        whole.addWidget(rule())
        whole.addWidget(self.sum)
        whole.addWidget(self.says)
        buttons = QDialogButtonBox()
        self.ok = buttons.addButton("Regrade", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Leave as it is", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        whole.addWidget(buttons)

    def _turned(self) -> None:
        self.a, self.b = self.b, self.a
        self._begin()

    def _begin(self) -> None:
        """The fields with the levels as they are: the mean slope from the first end to the other."""
        kept = self.session.state.kept
        names = kept.project.structures[self.a].label, kept.project.structures[self.b].label
        self.title.setText(f"Regrade {names[0]} to {names[1]}")
        try:
            steps = path(kept.project, kept.facts, self.a, self.b)
        except ZumbertError as e:
            self.says.setText(str(e))
            self.ok.setEnabled(False)
            return
        part = {"invert": 0.0, "centre": 0.5, "crown": 1.0}[self.by.currentText()]
        first, last = kept.facts.pipes[steps[0].pipe], kept.facts.pipes[steps[-1].pipe]
        start = (first.pipe.invert_up if steps[0].forward else first.pipe.invert_down) + part * first.inside
        end = (last.pipe.invert_down if steps[-1].forward else last.pipe.invert_up) + part * last.inside
        total = sum(kept.facts.pipes[s.pipe].basis for s in steps)
        self.start.setText(f"{self.session.units.shown(start):.{self.session.units.decimals}f}")
        self.slope.setText(f"{(start - end) / total * 100:.3f}%" if total else "0%")
        self._touched = False
        self._made = None
        self.session.preview(None)
        self.sum.setText("")
        self.says.setText("Levels stay as they are until a field is changed.")

    def _look(self) -> None:
        """Shows what the fields would make."""
        u = self.session.units
        kept = self.session.state.kept
        try:
            ask = Regrade(
                a=self.a, b=self.b, start=u.typed(self.start.text()), slope=parsed_slope(self.slope.text()),
                by=self.by.currentText(), drop=u.typed(self.drop.text()),  # type: ignore[arg-type]
            )  # fmt: skip
            self._made = regraded(kept.project, kept.facts, ask)
        except (ZumbertError, ValueError) as e:
            self._made = None
            self.session.preview(None)
            self.sum.setText("")
            self.says.setText(str(e))
            return
        self.session.preview(self._made.project)
        shown = self.session.state.shown
        self.sum.setText(self._made.sum)
        before, now = kept.findings.breaches, shown.findings.breaches
        last = self._made.lines[-1]
        against = [kept.project.pipes[k].label for k in self._made.against]
        rising = f" Rises in its flow direction: {', '.join(against)}." if against else ""
        self.says.setText(
            f"Ends at {u.level(last.end)}, {u.slope(self._made.slope)}. {now} breaches, {before} before.{rising}"
        )

    def accept(self) -> None:
        made = self._made
        if made is not None:
            names = self.session.state.kept.project.structures
            self.session.apply(f"Regrade {names[self.a].label} to {names[self.b].label}", made.project)
        super().accept()

    def reject(self) -> None:
        self.session.preview(None)
        super().reject()
