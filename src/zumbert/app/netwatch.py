"""Works out the union of trenches and pits while the window lives on: as soon as nothing is
dragged any more.
"""

import threading
from contextlib import suppress
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QTimer, Signal, Slot

from zumbert.analysis.crosssection import section_volumes
from zumbert.analysis.trench import Trenches
from zumbert.analysis.union import Net, union
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.errors import Cancelled
from zumbert.model.ids import PipeId

if TYPE_CHECKING:
    from zumbert.app.bars.foot import Foot

STILL = 120  # ms without a change, until it is begun
BY_SECTIONS = 1000  # trenches: of more, average end areas are worked out for the spreadsheet alone
LATE = 400  # ms after which its progress shows


class NetWatch(QObject):
    """idle -trenches change-> waiting -still-> working -done-> idle (the session has the net). A
    change begins anew; cancelled, it waits for the next change.
    """

    _told = Signal(object, float)
    _done = Signal(object, object)
    _sections = Signal(object, object)
    _failed = Signal(object)

    def __init__(self, session: Session, foot: "Foot") -> None:
        super().__init__()
        self.session, self.foot = session, foot
        self._of: Trenches | None = None  # what is being worked out
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self._given_up: Trenches | None = None
        self._shows = False
        self._still = QTimer(self)
        self._still.setSingleShot(True)
        self._still.setInterval(STILL)
        self._still.timeout.connect(self._begin)
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(LATE)
        self._told.connect(self._tell, Qt.ConnectionType.QueuedConnection)
        self._done.connect(self._take, Qt.ConnectionType.QueuedConnection)
        self._sections.connect(self._take_sections, Qt.ConnectionType.QueuedConnection)
        self._failed.connect(self._fail, Qt.ConnectionType.QueuedConnection)
        session.changed.connect(self._changed)
        foot.give_up.clicked.connect(self._give_up)

    def _changed(self, old: State, new: State) -> None:
        if new.dug.trenches is old.dug.trenches:
            return
        self._end()
        if new.dug.trenches is not None:
            self._still.start()

    def _begin(self) -> None:
        s = self.session.state
        dug = s.dug.trenches
        if dug is None or dug is self._given_up or (s.dug.net is not None and s.dug.net[0] is dug):
            return
        if s.previewing:
            self._still.start()
            return
        stop = threading.Event()
        self._of, self._stop = dug, stop
        self._late.start()
        self._thread = threading.Thread(
            target=self._work, args=(dug, stop), name="net volumes", daemon=True
        )
        self._thread.start()

    def _work(self, dug: Trenches, stop: threading.Event) -> None:
        def tell(share: float) -> None:
            if stop.is_set():
                raise Cancelled("net volumes")
            with suppress(RuntimeError):
                self._told.emit(dug, share)

        try:
            found = union(dug, tell)
            with suppress(RuntimeError):  # the window is gone
                self._done.emit(dug, found)
            if len(dug.pipes) <= BY_SECTIONS:
                sections = section_volumes(dug, None, tell)
                with suppress(RuntimeError):
                    self._sections.emit(dug, sections)
        except Cancelled:
            pass
        except Exception:
            with suppress(RuntimeError):
                self._failed.emit(dug)
            raise

    @Slot(object, float)
    def _tell(self, dug: Trenches, share: float) -> None:
        if dug is self._of and not self._late.isActive():
            self._shows = True
            self.foot.progress(share, f"Net volumes {share:.0%}")

    @Slot(object, object)
    def _take(self, dug: Trenches, found: Net) -> None:
        if dug is self._of and self.session.state.dug.trenches is dug:
            self.session.set(net=(dug, found))
            if len(dug.pipes) > BY_SECTIONS:
                self._end()

    @Slot(object, object)
    def _take_sections(self, dug: Trenches, found: dict[PipeId, float]) -> None:
        if dug is self._of:
            self._end()
            if self.session.state.dug.trenches is dug:
                self.session.set(sectioned=(dug, found))

    @Slot(object)
    def _fail(self, dug: Trenches) -> None:
        """A fault ended it: it is not tried again before the next change."""
        if dug is self._of:
            self._given_up = dug
            self._end()

    def _end(self) -> None:
        self._stop.set()
        self._still.stop()
        self._late.stop()
        self._of = None
        if self._shows:
            self._shows = False
            self.foot.progress(None, "")

    def _give_up(self) -> None:
        if self._of is not None:
            self._given_up = self._of
            self._end()
            self.foot.say(
                "Net volumes: cancelled. They are worked out again after the next change."
            )

    def end(self) -> None:
        """Ends what is under way, before the window goes."""
        self._end()
        if self._thread is not None:
            self._thread.join(5)
