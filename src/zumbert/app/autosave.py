"""Autosave: the current value kept against a crash within two seconds of an edit, off the GUI
thread.
"""

import threading
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.value import Value
from zumbert.errors import StoreError

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

    from zumbert.store.recovery import Recovery

WAIT = 1000  # ms after an edit; the writing has the second second
SOON = 10.0  # s that the window waits for a value that is kept at once


def _raised(writing: "Future[None]") -> None:
    """Errors that the thread did not foresee go where those of all threads go."""
    error = None if writing.cancelled() else writing.exception()
    if error is not None:
        threading.excepthook(
            threading.ExceptHookArgs(
                (type(error), error, error.__traceback__, threading.current_thread())
            )
        )


class Autosave(QObject):
    """Idle -an edit-> waiting -1 s-> writing -> idle. Saved or unchanged work is not written."""

    failed = Signal(str)  # work cannot be kept against a crash: why

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.recovery: Recovery | None = None
        self._pool: ThreadPoolExecutor | None = None  # made at the first edit
        self._writing: Future[None] | None = None
        self._kept: Value | None = None
        self._why = ""  # it failed last
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(WAIT)
        self._timer.timeout.connect(self._write)
        session.changed.connect(self._changed)

    def _changed(self, old: State, new: State) -> None:
        if new.file.saved:
            self._timer.stop()
            if old.current is not new.current or not old.file.saved:
                self._clear()
        elif old.current is not new.current and not self._timer.isActive():
            self._timer.start()

    def _write(self) -> None:
        """Hands the value to the thread; a value is immutable, so nothing is copied."""
        state = self.session.state
        if state.file.saved or state.current is self._kept:
            return
        if self._writing is not None and not self._writing.done():
            self._timer.start()
            return
        self._begin(state)

    def _begin(self, state: State) -> "Future[None]":
        from concurrent.futures import ThreadPoolExecutor

        from zumbert.store.recovery import Recovery

        if self.recovery is None or self._pool is None:
            self.recovery, self._pool = Recovery(), ThreadPoolExecutor(1, "autosave")
        self._kept = state.current
        self._writing = self._pool.submit(self._keep, self.recovery, state)
        self._writing.add_done_callback(_raised)
        return self._writing

    def keep_now(self) -> str:
        """Keeps the current value at once; in words what it is then, nothing where it could not
        be kept.
        """
        self._timer.stop()
        self._begin(self.session.state).result(SOON)
        return "" if self._why else "is kept for recovery"

    def _keep(self, recovery: "Recovery", state: State) -> None:
        """Runs in the thread. A failure is reported once and does not stop the work; the next
        edit tries again.
        """
        why = ""
        try:
            recovery.keep(state.current.project, state.file.path)
        except (StoreError, OSError) as e:
            why = str(e)
        if why and why != self._why:
            self.failed.emit(f"This work cannot be kept against a crash: {why}")
        self._why = why

    def _clear(self) -> None:
        if self.recovery is not None and self._pool is not None:
            self._kept = None
            self._writing = self._pool.submit(self.recovery.clear)
            self._writing.add_done_callback(_raised)

    def end(self) -> None:
        """The window closed normally: removes the recovery copy."""
        self._timer.stop()
        if self._pool is not None:
            self._pool.shutdown(wait=True)
            self._pool = None
        if self.recovery is not None:
            self.recovery.end()
            self.recovery = None
