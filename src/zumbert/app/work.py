"""Long work off the GUI thread, with its progress in the foot strip or a dialog and a button
that gives it up.
"""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import TYPE_CHECKING, Any, TypeVar

from PySide6.QtCore import QEventLoop, QObject, Qt, QTimer, Signal, Slot
from PySide6.QtWidgets import QApplication

from zumbert.errors import Cancelled

if TYPE_CHECKING:
    from zumbert.app.bars.foot import Foot
    from zumbert.app.panels.waiting import Waiting

T = TypeVar("T")
Tell = Callable[[float, str], None]
LATE = 300  # ms after which progress is shown


class Work(QObject):
    """idle -run-> working (the window lives on, but takes no edits) -done, failed or given up->
    idle.

    Used only for reading and computing: a cancelled thread runs on to its next step, and its result
    is dropped.
    """

    _told = Signal(int, float, str)  # the number of the run
    _ended = Signal(int)

    def __init__(self, foot: "Foot | Waiting") -> None:
        super().__init__()
        self.foot = foot
        self._given_up = threading.Event()
        self._runs = 0
        self._loop = QEventLoop()
        self.busy = False
        self._told.connect(self._show, Qt.ConnectionType.QueuedConnection)
        self._ended.connect(self._end, Qt.ConnectionType.QueuedConnection)
        self._late = False
        self._heard: tuple[float, str] | None = None
        foot.give_up.clicked.connect(self.stop)

    def run(self, words: str, work: Callable[[Tell], T]) -> T | None:
        """The result of work(tell); None where it was given up. What it raises is raised here.

        `tell(share, words)` tells how far it is, 0 to 1, and is where it ends when it is given up.
        """
        if self.busy:
            return None
        self._runs += 1
        number, given_up = self._runs, threading.Event()
        self._given_up = given_up
        out: dict[str, Any] = {}

        def tell(share: float, words: str) -> None:
            if given_up.is_set():
                raise Cancelled(words)
            self._told.emit(number, share, words)

        def body() -> None:
            try:
                out["result"] = work(tell)
            except BaseException as e:
                out["error"] = e
            finally:
                with suppress(RuntimeError):  # the dialog that it was for is gone
                    self._ended.emit(number)

        late = QTimer()
        late.setSingleShot(True)
        late.timeout.connect(lambda: self._begin(words))
        late.start(LATE)
        self.busy, self._late, self._heard = True, False, None
        threading.Thread(target=body, name="work", daemon=True).start()
        self._loop.exec()
        late.stop()
        self.busy = False
        self.foot.progress(None, "")
        if given_up.is_set() or isinstance(out.get("error"), Cancelled):
            self.foot.say(f"{words}: cancelled, nothing was changed.")
            return None
        if "error" in out:
            raise out["error"]
        result: T = out["result"]
        return result

    def give_up(self) -> None:
        """Ends what is under way at its next step."""
        self._given_up.set()

    def stop(self) -> None:
        """Ends what is under way at once."""
        self._given_up.set()
        self._loop.quit()

    def _begin(self, words: str) -> None:
        """The work takes long: shows its progress from now on."""
        self._late = True
        self.foot.progress(*(self._heard or (0.0, words)))

    @Slot(int, float, str)
    def _show(self, number: int, share: float, words: str) -> None:
        if number != self._runs or not self.busy:
            return
        self._heard = share, words
        if self._late:
            self.foot.progress(share, words)

    @Slot(int)
    def _end(self, number: int) -> None:
        if number == self._runs:
            self._loop.quit()


@contextmanager
def waiting() -> Iterator[None]:
    """While it lasts the pointer says that something short is worked out."""
    QApplication.setOverrideCursor(Qt.CursorShape.WaitCursor)
    try:
        yield
    finally:
        QApplication.restoreOverrideCursor()
