"""A button or tick that is pointed at shows in the drawings what it would do."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QAbstractButton

from zumbert.app.guard import guarded
from zumbert.app.session import Session

REST = 200  # ms that the pointer rests on it before


@guarded
class Pointed(QObject):
    """away -the pointer rests on it-> its edit is shown -it leaves, or a click does it-> away."""

    def __init__(
        self, button: QAbstractButton, session: Session, run: Callable[[], object]
    ) -> None:
        super().__init__(button)
        self.session = session
        self._shown = False
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST)
        self._rest.timeout.connect(lambda: self._show(run))
        button.installEventFilter(self)

    def _show(self, run: Callable[[], object]) -> None:
        if not self.session.state.previewing:  # something else is tried: it goes before
            self._shown = True
            self.session.trial(run)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if (
            kind == QEvent.Type.Enter
            and isinstance(watched, QAbstractButton)
            and watched.isEnabled()
        ):
            self._rest.start()
        elif kind in (
            QEvent.Type.Leave,
            QEvent.Type.MouseButtonPress,
            QEvent.Type.KeyPress,
            QEvent.Type.Hide,
        ):
            self._rest.stop()
            if self._shown:
                self._shown = False
                self.session.preview(None)
        return False
