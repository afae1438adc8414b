"""The zones of the window, which F6 goes round."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from zumbert.app.frame import Frame


def next_zone(frame: Frame) -> None:
    """Gives the keyboard to the next zone of the window."""
    fields = [
        w
        for w in frame.side.findChildren(QWidget)
        if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isVisible()
    ]
    lower = frame.centre.tables.table if frame.centre.tables_open else frame.section
    beside = [frame.centre.space] if frame.session.state.look.space_at == "beside" else []
    zones = [
        frame.centre.upper_view,
        *beside,
        lower,
        *fields[:1],
        frame.head.picker,
        frame.rail.buttons[frame.session.state.look.stage.id],
    ]
    here = frame.focusWidget()
    at = next((i for i, z in enumerate(zones) if here is z), None)
    if at is None:
        at = 2 if here is not None and frame.side.isAncestorOf(here) else -1
    zones[(at + 1) % len(zones)].setFocus(Qt.FocusReason.TabFocusReason)
