"""Redraws in slices between events, so that no wheel notch, key or move has to wait."""

from collections.abc import Callable, Generator, Sequence
from time import perf_counter
from typing import Generic, TypeVar

from PySide6.QtCore import QObject, QTimer
from PySide6.QtGui import QPainter, QPixmap

from zumbert.app.pen import Pen
from zumbert.drawing.marks import Mark

T = TypeVar("T")
Steps = Generator[None, None, T]  # stops after each step, and ends with what is made

SLICE = 0.006  # s of each turn
CHUNK = 60  # marks inked in a step


class Making(Generic[T]):
    """idle -begin-> making -all steps done-> idle (handed over); drop -> idle, with nothing
    made.
    """

    def __init__(self, parent: QObject, made: Callable[[T], None]) -> None:
        self._made = made
        self._steps: Steps[T] | None = None
        self._turn = QTimer(parent)
        self._turn.setInterval(0)
        self._turn.timeout.connect(self._go_on)

    @property
    def active(self) -> bool:
        """Whether something is being made."""
        return self._steps is not None

    def begin(self, steps: Steps[T]) -> None:
        """Starts; what was being made is dropped."""
        self.drop()
        self._steps = steps
        self._turn.start()

    def drop(self) -> None:
        """Gives up what is being made."""
        self._turn.stop()
        if self._steps is not None:
            self._steps.close()
            self._steps = None

    def _go_on(self) -> None:
        end = perf_counter() + SLICE
        try:
            while self._steps is not None and perf_counter() < end:
                next(self._steps)
        except StopIteration as done:
            self.drop()
            self._made(done.value)
        except BaseException:
            self.drop()
            raise


def inked(pen: Pen, pixmap: QPixmap, marks: Sequence[Mark]) -> Steps[None]:
    """Inks marks on a pixmap, some in each step."""
    painter = QPainter(pixmap)
    try:
        for i in range(0, len(marks), CHUNK):
            pen.ink(painter, marks[i : i + CHUNK])
            yield
    finally:
        painter.end()
