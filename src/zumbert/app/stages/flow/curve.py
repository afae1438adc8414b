"""Small drawings of a panel: marks inked in a box of a fixed height."""

from collections.abc import Callable, Iterable

from PySide6.QtCore import Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.theme import qcolor
from zumbert.drawing.marks import Mark

Drawn = Callable[[float, float], Iterable[Mark]]  # width and height: marks


@guarded
class MarksView(QWidget):
    """Shows what a function draws for its size; nothing where there is none."""

    def __init__(
        self,
        pen: Pen,
        name: str,
        tall: int,
        clicked: Callable[[float, float], object] | None = None,
    ) -> None:
        super().__init__()
        self.pen, self._clicked = pen, clicked
        self.drawn: Drawn | None = None
        self.setFixedHeight(tall)
        self.setObjectName(name)
        self.setAccessibleName(name)
        if clicked is not None:
            self.setCursor(Qt.CursorShape.CrossCursor)

    def show_drawn(self, drawn: Drawn | None) -> None:
        """Shows another drawing."""
        self.drawn = drawn
        self.setVisible(drawn is not None)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._clicked is not None:
            self._clicked(*event.position().toTuple())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        try:
            painter.fillRect(self.rect(), qcolor("paper", self.pen.theme))
            if self.drawn is not None:
                self.pen.ink(painter, list(self.drawn(float(self.width()), float(self.height()))))
        finally:
            painter.end()
