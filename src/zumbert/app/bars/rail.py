"""The stages at the left edge."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from zumbert.app.guard import guarded
from zumbert.app.icons import painted
from zumbert.app.pen import Pen
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.stages.stage import WorkStage
from zumbert.app.theme import RAIL, font, qcolor


@guarded
class StageButton(QPushButton):
    """One stage of the rail: icon over name; the one in force stands on paper with an ink edge."""

    def __init__(self, pen: Pen, stage: WorkStage[Any]) -> None:
        super().__init__()
        self.pen, self.stage = pen, stage
        self.setFixedSize(71, 62)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setProperty("role", "rail")
        self.setObjectName(f"stage {stage.id}")
        self.setAccessibleName(f"Stage {stage.text}")

    def paintEvent(self, event: QPaintEvent) -> None:
        p, theme = QPainter(self), self.pen.theme
        try:
            if self.isChecked():
                p.fillRect(self.rect(), qcolor("paper", theme))
                p.fillRect(QRect(0, 0, 3, self.height()), qcolor("ink", theme))
            elif self.underMouse() or self.hasFocus():
                p.fillRect(self.rect(), qcolor("chrome-2", theme))
            painted(
                p,
                self.stage.icon,
                "ink" if self.isChecked() else "ink-2",
                theme,
                self.width() / 2 - 12,
                9,
                24,
            )
            p.setFont(font(11.5, 600 if self.isChecked() else 400))
            p.setPen(qcolor("ink" if self.isChecked() else "ink-2", theme))
            p.drawText(
                QRect(0, 38, self.width(), 18), Qt.AlignmentFlag.AlignCenter, self.stage.text
            )
        finally:
            p.end()


class Rail(QWidget, Reader):
    """The stages; each chooses tools, overlays and side panel, and locks nothing."""

    def __init__(
        self,
        session: Session,
        pen: Pen,
        stages: tuple[WorkStage[Any], ...],
        go: Callable[[str], None],
    ) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(RAIL)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 1, 8)
        column.setSpacing(4)
        self.buttons: dict[str, StageButton] = {}
        for stage in stages:
            b = StageButton(pen, stage)
            b.clicked.connect(lambda _=False, s=stage: go(s.id))
            self.buttons[stage.id] = b
            column.addWidget(b)
        column.addStretch(1)
        session.changed.connect(self.follow)
        self.refresh()

    def show_state(self) -> None:
        """Shows which stage is in force."""
        self.buttons[self.session.state.look.stage.id].setChecked(True)
