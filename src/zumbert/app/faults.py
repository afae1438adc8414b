"""Faults of the program in the window: each is logged and reported in one sentence, and the work
is kept.
"""

import sys
import threading
from collections import Counter
from types import TracebackType
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QTimer, Signal, Slot
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QDialog, QDialogButtonBox, QLabel, QVBoxLayout, QWidget

from zumbert.app.state import State
from zumbert.app.value import Value
from zumbert.log import begin_log, logger

if TYPE_CHECKING:
    from zumbert.app.frame import Frame

# ms without a fault after which a value counts as whole: by then every drawing has shown it
WHOLE = 250
LOGGED = 5  # times that the same fault is logged
WIDE = 420  # px of the sentence


class Faults(QObject):
    """idle -an exception that nothing caught-> seen (logged at once, by its own thread) -its event
    is over-> reported (what is tried is given up, the last whole value is back and kept for
    recovery) -Go on-> idle.

    A fault that comes again while the same value is shown is reported in the foot and touches
    nothing more, so that a drawing that cannot be painted neither locks the window nor fills the
    log.
    """

    _seen = Signal(
        str, str, object
    )  # where it was raised; how it stands in the log; the value that was shown

    def __init__(self, window: "Frame") -> None:
        super().__init__(window)
        self.window, self.session = window, window.session
        self.log = begin_log()
        self._whole = self.session.state.current
        # the value that was shown when a fault was reported, by where it was raised
        self._reported: dict[str, Value] = {}
        self._counts = Counter[str]()  # how often a fault came since a value was last whole
        self._hooks = sys.excepthook, threading.excepthook
        self._still = QTimer(self)
        self._still.setSingleShot(True)
        self._still.setInterval(WHOLE)
        self._still.timeout.connect(self._keep_whole)
        self._seen.connect(self._report, Qt.ConnectionType.QueuedConnection)
        self.session.changed.connect(self._changed)

    def begin(self) -> None:
        """From now on every exception that nothing catches comes here."""
        sys.excepthook = self.caught
        threading.excepthook = self._caught_in_thread

    def end(self) -> None:
        """Exceptions go where they went before."""
        sys.excepthook, threading.excepthook = self._hooks

    def caught(
        self, kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        """An exception that nothing caught, in whichever thread; it also goes where such
        exceptions went before.
        """
        self._hooks[0](kind, error, trace)
        if not isinstance(error, Exception):
            return
        last = trace
        while last is not None and last.tb_next is not None:
            last = last.tb_next
        place = (
            f"{kind.__name__} {last.tb_frame.f_code.co_filename}:{last.tb_lineno}"
            if last is not None
            else kind.__name__
        )
        self._counts[place] += 1
        if self._counts[place] <= LOGGED:
            logger.error(
                "A fault in the window (%s)",
                threading.current_thread().name,
                exc_info=(kind, error, trace),
            )
        self._seen.emit(place, self.log.last, self.session.state.current)

    def _caught_in_thread(self, args: threading.ExceptHookArgs) -> None:
        if args.exc_value is not None:
            self.caught(args.exc_type, args.exc_value, args.exc_traceback)

    # -- the last whole value ----------------------------------------------------------------------

    def _changed(self, old: State, new: State) -> None:
        if old.current is not new.current:
            self._still.start()

    def _keep_whole(self) -> None:
        self._whole = self.session.state.current
        self._reported.clear()
        self._counts.clear()

    @Slot(str, str, object)
    def _report(self, place: str, entry: str, shown: Value) -> None:
        action = self.log.actions[-1].partition("  ")[2] if self.log.actions else "start"
        if self._reported.get(place) is shown or shown is not self.session.state.current:
            self.session.refused.emit(
                f'Zumbert failed again at "{action}". The log has the details: Help, Show the log.'
            )
            return
        self._still.stop()
        try:
            self.window.toolbox.put_down()
            back = self.session.back_to(self._whole)
            kept = "is saved" if self.session.state.file.saved else self.window.autosave.keep_now()
        except Exception:
            logger.exception("A fault while another was reported")
            back, kept = False, ""
        self._reported[place] = self.session.state.current
        FaultDialog(
            QApplication.activeModalWidget() or self.window, sentence(action, back, kept), entry
        ).open()


def sentence(action: str, back: bool, kept: str) -> str:
    """The text for the user: at which action, whether a step was taken back, and in which words
    the work is safe, if it is.
    """
    step = (
        "that step was taken back, and Redo makes it again"
        if back
        else "the project is as it was before"
    )
    work = kept or "could not be kept for recovery: save it now"
    return f'Zumbert failed at "{action}": {step}; your work {work}.'


class FaultDialog(QDialog):
    """One sentence about a fault, with its details to copy."""

    def __init__(self, parent: QWidget, text: str, details: str) -> None:
        super().__init__(parent)
        self.setObjectName("fault")
        self.setWindowTitle("A fault of Zumbert")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.text = QLabel(text)
        self.text.setWordWrap(True)
        self.text.setFixedWidth(WIDE)
        buttons = QDialogButtonBox()
        self.copy = buttons.addButton("Copy details", QDialogButtonBox.ButtonRole.ActionRole)
        self.go_on = buttons.addButton("Go on", QDialogButtonBox.ButtonRole.AcceptRole)
        self.go_on.setDefault(True)
        self.copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(details))
        buttons.accepted.connect(self.accept)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(20, 18, 20, 16)
        whole.setSpacing(16)
        whole.addWidget(self.text)
        whole.addWidget(buttons)
        self.adjustSize()
        self.move(parent.mapToGlobal(parent.rect().center()) - self.rect().center())
