"""Long work off the GUI thread, with its progress in the foot strip or a dialog and a button that gives it up."""

import threading
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeVar

from PySide6.QtCore import QEventLoop, QObject, Qt, QTimer, Signal, Slot

from zumbert.errors import Cancelled

if TYPE_CHECKING:
    from zumbert.app.panels.strips import Foot
    from zumbert.app.panels.waiting import Waiting

T = TypeVar("T")
Tell = Callable[[float, str], None]
LATE = 300  # ms after which progress is shown


class Work(QObject):
    """idle -run-> working (the window lives on, but takes no edits) -done, failed or given up-> idle."""

    _told = Signal(float, str)
    _ended = Signal()

    def __init__(self, foot: "Foot | Waiting") -> None:
        super().__init__()
        self.foot = foot
        self._given_up = threading.Event()
        self.busy = False
        self._told.connect(self._show, Qt.ConnectionType.QueuedConnection)
        self._late = False
        self._heard: tuple[float, str] | None = None
        foot.give_up.clicked.connect(self._given_up.set)

    def run(self, words: str, work: Callable[[Tell], T]) -> T | None:
        """The result of work(tell); None where it was given up. What it raises is raised here.

        `tell(share, words)` tells how far it is, 0 to 1, and is where it stops when it is given up.
        """
        if self.busy:
            return None
        self._given_up.clear()
        out: dict[str, Any] = {}

        def body() -> None:
            try:
                out["result"] = work(self._tell)
            except BaseException as e:
                out["error"] = e
            finally:
                self._ended.emit()

        loop = QEventLoop()
        self._ended.connect(loop.quit, Qt.ConnectionType.QueuedConnection)
        late = QTimer()
        late.setSingleShot(True)
        late.timeout.connect(lambda: self._begin(words))
        late.start(LATE)
        self.busy, self._late, self._heard = True, False, None
        thread = threading.Thread(target=body, name="work", daemon=True)
        thread.start()
        loop.exec()
        thread.join()
        late.stop()
        self.busy = False
        self._ended.disconnect(loop.quit)
        self.foot.progress(None, "")
        if isinstance(out.get("error"), Cancelled):
            self.foot.say(f"{words}: cancelled, nothing was changed.")
            return None
        if "error" in out:
            raise out["error"]
        result: T = out["result"]
        return result

    def give_up(self) -> None:
        """Ends what is under way at its next step."""
        self._given_up.set()

    def _begin(self, words: str) -> None:
        """It takes long: from now on it is shown how far it is."""
        self._late = True
        self.foot.progress(*(self._heard or (0.0, words)))

    @Slot(float, str)
    def _show(self, share: float, words: str) -> None:
        self._heard = share, words
        if self.busy and self._late:
            self.foot.progress(share, words)

    def _tell(self, share: float, words: str) -> None:
        if self._given_up.is_set():
            raise Cancelled(words)
        self._told.emit(share, words)
