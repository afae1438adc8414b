"""Levels of all selected pipes, typed or by a button; says first how many will change."""

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QEvent
from PySide6.QtGui import QEnterEvent, QFocusEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QWidget

from zumbert.app.guard import guarded
from zumbert.app.panels.fields import Aside
from zumbert.app.panels.rows import Stack, fields, label
from zumbert.app.session import Session
from zumbert.app.told import told
from zumbert.edits.manylevels import all_shifted, at_slope, crowns_in_line, up_to_cover, with_drops
from zumbert.edits.several import Several
from zumbert.errors import ZumbertError
from zumbert.model.display import counted

Make = Callable[..., Several]


@guarded
class TellingButton(QPushButton):
    """A chip that says what it would do while the pointer rests on it or it has the keyboard."""

    def __init__(self, text: str, name: str, tell: Callable[[bool], None]) -> None:
        super().__init__(text)
        self._tell = tell
        self.setProperty("role", "chip")
        self.setObjectName(name)

    def enterEvent(self, event: QEnterEvent) -> None:
        self._tell(True)
        super().enterEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self._tell(False)
        super().leaveEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._tell(True)
        super().focusInEvent(event)


class LevelsOfMany(QWidget):
    """A typed value is shown in the drawings at once, Enter takes it as one undo step; Esc or
    leaving gives it up.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.says = label("", "small")
        self.values: dict[str, QLineEdit] = {}
        u = session.units
        rows = []
        for name, text, of in (
            ("slope", "Slope of all", lambda t: (at_slope, u.typed_slope(t))),
            ("shift", f"Shift all by, {u.m}", lambda t: (all_shifted, u.typed(t))),
            ("drop", f"Drop between, {u.m}", lambda t: (with_drops, u.typed(t))),
        ):
            field = QLineEdit()
            field.setObjectName(f"all {name}")
            field.setAccessibleName(text)
            if name == "slope":
                Aside(field, u.understood)
            field.textEdited.connect(lambda _, of=of, field=field: self._show(field, of))
            field.returnPressed.connect(
                lambda of=of, field=field, text=text: self._take(field, of, text)
            )
            field.editingFinished.connect(lambda field=field: self._left(field))
            self.values[name] = field
            rows.append((text, field))
        whole = Stack(self, 4)
        whole.addWidget(label("Levels", "section"))
        whole.addLayout(fields(rows, 118))
        line = QHBoxLayout()
        line.setContentsMargins(0, 0, 0, 0)
        for name, text, make, args in (
            ("crowns", "Crowns in line", crowns_in_line, ()),
            ("inverts", "Inverts in line", with_drops, (0.0,)),
            ("cover", "Up to cover", up_to_cover, ()),
        ):
            b = TellingButton(text, f"all {name}", partial(self._tell, make, args))
            b.clicked.connect(lambda _=False, m=make, a=args, t=text: self._do(t, m, a))
            line.addWidget(b)
        line.addStretch(1)
        whole.addLayout(line)
        whole.addWidget(self.says)

    def _made(self, make: Make, args: tuple[Any, ...]) -> Several:
        s = self.session.state
        return make(s.current.project, s.current.facts, s.chosen.pipes, *args)

    def _tell(self, make: Make, args: tuple[Any, ...], on: bool) -> None:
        try:
            made = self._made(make, args) if on else None
            self.says.setText("" if made is None else made.words)
            self.session.preview(None if made is None else made.project)
        except ZumbertError as e:
            self.says.setText(str(e))

    def _do(self, name: str, make: Make, args: tuple[Any, ...]) -> None:
        self.session.edit(
            f"{name}: {counted(len(self.session.state.chosen.pipes), 'pipe')}",
            lambda p, f: self._made(make, args).project,
        )

    def _show(self, field: QLineEdit, of: Callable[[str], tuple[Make, Any]]) -> None:
        """Previews the text; one that means nothing yet shows nothing."""
        try:
            make, value = of(field.text().strip())
            made = self._made(make, (value,))
        except ZumbertError:
            self.says.setText("")
            self.session.preview(None)
            return
        self.says.setText(made.words)
        self.session.preview(made.project)

    @told(None)
    def _take(self, field: QLineEdit, of: Callable[[str], tuple[Make, Any]], name: str) -> None:
        make, value = of(field.text().strip())
        made = self._made(make, (value,))
        field.clear()
        self.session.apply(
            f"{name.split(',')[0]}: {counted(len(self.session.state.chosen.pipes), 'pipe')}",
            made.project,
        )

    def _left(self, field: QLineEdit) -> None:
        if not field.hasFocus() and field.text():
            field.clear()
            self.session.preview(None)
