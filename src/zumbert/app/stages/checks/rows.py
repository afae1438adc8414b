"""The rows of findings, and the bars that count them."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout

from zumbert.analysis import Facts
from zumbert.app.guard import guarded
from zumbert.app.panels.fields import to_drawing
from zumbert.app.panels.rows import Sign, label, wrapped
from zumbert.app.pen import Pen
from zumbert.app.theme import INSIDE, font, qcolor
from zumbert.checks.arrange import Bar
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label, remark

STEPS = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}


@guarded
class FindingRow(QPushButton):
    """One finding: sign, rule and sentence. Works by mouse and by keyboard; up and down go to
    its neighbours.
    """

    def __init__(
        self,
        pen: Pen,
        facts: Facts,
        finding: Finding,
        go: Callable[[Finding], None],
        step: Callable[[int], None],
        chosen: Callable[[Finding, bool], None],
    ) -> None:
        super().__init__()
        self.finding, self._step, self._chosen = finding, step, chosen
        self.setProperty("role", "finding")
        self.setProperty("decided", finding.decided)
        self.setCheckable(True)
        name, says = object_label(facts, finding), remark(facts, finding)
        self.setObjectName(f"finding {finding.rule} {name}")
        self.setAccessibleName(says)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(6, 5, 6, 5)
        whole.setSpacing(2)
        head = QHBoxLayout()
        head.addWidget(Sign(pen, finding.look))
        head.addWidget(
            label(rule_of(finding.rule).title, "second" if finding.decided else finding.severity)
        )
        head.addStretch(1)
        head.addWidget(label(name, "second"))
        whole.addLayout(head)
        self.sentence = wrapped(says, "second" if finding.decided else "")
        whole.addWidget(self.sentence)
        self.clicked.connect(lambda: go(finding))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._chosen(self.finding, True)
            event.accept()
            return
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = STEPS.get(Qt.Key(event.key()))
        if step is not None:
            self._step(step)
        elif event.key() == Qt.Key.Key_Escape:
            to_drawing(self)
        else:
            super().keyPressEvent(event)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return 36 + self.sentence.heightForWidth(width - 12)

    def sizeHint(self):  # type: ignore[no-untyped-def]
        hint = super().sizeHint()
        hint.setHeight(self.heightForWidth(INSIDE))
        return hint


@guarded
class BarRow(QPushButton):
    """How often a rule is broken, as a bar beside its name; a click leaves this rule alone in
    the list, another click all.
    """

    def __init__(self, pen: Pen, bar: Bar, most: int, pick: Callable[[str], None]) -> None:
        super().__init__()
        self.pen, self.bar, self.most = pen, bar, most
        self.setProperty("role", "bar")
        self.setObjectName(f"rule {bar.rule}")
        self.setCheckable(True)
        self.setFixedHeight(18)
        self.title = rule_of(bar.rule).title
        self.setAccessibleName(f"{self.title}: {bar.all}")
        self.clicked.connect(lambda: pick(bar.rule))

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        p = QPainter(self)
        try:
            theme = self.pen.theme
            p.setFont(font(11.5, 600 if self.isChecked() else 400))
            p.setPen(qcolor("ink", theme))
            p.drawText(QRectF(4, 0, 128, self.height()), Qt.AlignmentFlag.AlignVCenter, self.title)
            x, each = 136.0, (self.width() - 136.0 - 28.0) / max(1, self.most)
            for count, role in (
                (self.bar.breaches, "breach"),
                (self.bar.cautions, "caution"),
                (self.bar.decided, "soft"),
            ):
                if count:
                    p.fillRect(
                        QRectF(x, 5, max(3.0, count * each), self.height() - 10),
                        qcolor(role, theme),
                    )
                    x += max(3.0, count * each)
            p.drawText(
                QRectF(0, 0, self.width() - 4, self.height()),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                str(self.bar.all),
            )
        finally:
            p.end()
