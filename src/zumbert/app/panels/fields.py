"""The fields of panels: values that are typed, lists that are chosen from, and the keyboard that
goes back to the drawing.
"""

from collections.abc import Callable, Iterable
from time import monotonic
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QFocusEvent, QKeyEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLabel, QLineEdit, QWidget

from zumbert.app.guard import guarded
from zumbert.app.icons import painted
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.theme import restyle


def to_drawing(widget: QWidget) -> None:
    """Gives the keyboard back to the drawing, where the window of a widget has one."""
    back = getattr(widget.window(), "to_drawing", None)
    if back is not None:
        back()


def at_home(root: QWidget) -> None:
    """A widget of a panel that is used with the mouse leaves the keyboard to the tool in hand; one
    reached by Tab keeps it.

    A text that is typed into a plain field gives the keyboard back with Enter.
    """
    for combo in root.findChildren(QComboBox):
        if combo.focusPolicy() == Qt.FocusPolicy.StrongFocus:
            combo.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            combo.activated.connect(
                lambda _, w=combo: (
                    None if w.view().isVisible() else _home(w, QApplication.focusWidget())
                )
            )  # while the list is open the choice is only tried out
    for button in root.findChildren(QAbstractButton):
        if button.focusPolicy() == Qt.FocusPolicy.StrongFocus:
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.pressed.connect(
                lambda w=button: w.setProperty("keyboard", QApplication.focusWidget())
            )
            button.clicked.connect(lambda *_, w=button: _home(w, w.property("keyboard")))
    for field in root.findChildren(QLineEdit):
        if not isinstance(field, ValueField) and not field.property("home"):
            field.setProperty("home", True)
            field.returnPressed.connect(
                lambda w=field: QTimer.singleShot(0, w, lambda: to_drawing(w))
            )


def _home(chosen: QWidget, before: QWidget | None) -> None:
    """Returns the keyboard after a choice by mouse, unless the choice itself gave it to
    something else.
    """
    if not chosen.hasFocus() and QApplication.focusWidget() is before:
        to_drawing(chosen)


@guarded
class ValueField(QLineEdit):
    """A value that can be typed over: Enter or leaving takes it, Esc gives it up."""

    def __init__(self, name: str, take: Callable[[str], bool] | None) -> None:
        super().__init__()
        self.setProperty("role", "value")
        self.setProperty("bad", False)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setAccessibleName(name)
        self.setObjectName(f"value {name}")
        self.setReadOnly(take is None)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus if take is None else Qt.FocusPolicy.StrongFocus)
        self._take = take
        self._value = ""
        self._session: Session | None = None
        self.textEdited.connect(self._try)
        self.watched: Callable[[bool], None] | None = None  # told when the keyboard comes and goes

    def show_value(self, text: str, bad: bool) -> None:
        """Shows the value, unless one is typing over it."""
        if not self.isModified():  # else what is shown may be what the typed text would make
            self._value = text
            if self.text() != text:
                self.setText(text)
        if self.property("bad") != bad:
            self.setProperty("bad", bad)
            restyle(self)

    def try_out(self, session: Session) -> None:
        """Previews what is typed until it is taken."""
        self._session = session

    def _try(self, text: str) -> None:
        take = self._take
        if self._session is not None and take is not None:
            self._session.trial(lambda: take(text))

    def _finish(self) -> bool:
        """Takes what was typed; False where it was refused."""
        taken = True
        if self._take is not None and self.isModified() and self.text() != self._value:
            self.setModified(False)
            taken = self._take(self.text())
        self.setModified(False)
        self.setText(self._value)
        return taken

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            typed = self.text()
            if self._finish():
                to_drawing(self)
            else:  # refused: the text is there to be mended
                self.setText(typed)
                self.setModified(True)
            self.selectAll()
        elif event.key() == Qt.Key.Key_Escape:
            if self._session is not None:
                self._session.preview(None)
            self.setModified(False)
            self.setText(self._value)
            self.selectAll()
            to_drawing(self)
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            if event.key() == Qt.Key.Key_Escape and not self.isReadOnly():
                event.accept()
                return True
        return super().event(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.selectAll()
        if self.watched is not None:
            self.watched(True)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._finish()
        if self.watched is not None:
            self.watched(False)


TOGETHER = 1.0  # s between keys that are one word


def _writes(event: QKeyEvent) -> bool:
    """Whether a key writes a sign."""
    held = event.modifiers() & ~(
        Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier
    )
    return not held and bool(event.text().strip()) and event.text().isprintable()


@guarded
class Combo(QComboBox):
    """A choice, with a chevron of our own; the wheel goes to the panel unless it is open."""

    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self.pen = pen
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._session: Session | None = None  # where a choice is tried out while the list is open
        self._pointed: int | None = None  # the choice that is being tried out
        self._typed = ("", 0.0)  # what was typed to find a choice, and when the last of it
        self.highlighted.connect(self._try)

    def try_out(self, session: Session) -> None:
        """Previews what the list points at until it is chosen."""
        self._session = session
        self.view().window().installEventFilter(_Closed(self, session))

    def _try(self, i: int) -> None:
        session = self._session
        if session is None or self._pointed is not None or not self.view().isVisible():
            return  # what is tried out is shown in this field too, which points at it once more
        self._pointed = i
        try:
            session.trial(lambda: self.activated.emit(i))
        finally:
            self._pointed = None

    def currentData(self, role: int = Qt.ItemDataRole.UserRole) -> Any:
        """The current choice, or the one being previewed. The list itself stays untouched, since
        it would lose its place.
        """
        return (
            super().currentData(role)
            if self._pointed is None
            else self.itemData(self._pointed, role)
        )

    def as_wide_as_its_column(self) -> "Combo":
        """Takes the width of its column; a long choice is cut rather than widening the panel."""
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(4)
        return self

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        p = QPainter(self)
        try:
            painted(
                p, "chevron", "ink-2", self.pen.theme, self.width() - 19, self.height() / 2 - 6, 12
            )
        finally:
            p.end()

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()

    def showPopup(self) -> None:
        """Opens the list, in which keys look for a choice."""
        super().showPopup()
        self._typed = ("", 0.0)
        self.view().installEventFilter(self)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Typing looks for a choice in the open list: a key of it takes none."""
        if self.isEditable() or not _writes(event):
            super().keyPressEvent(event)
            return
        self.showPopup()
        self._seek(event.text())

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and _writes(event):
            self._seek(event.text())
            return True
        return super().eventFilter(watched, event)

    def _seek(self, text: str) -> None:
        """Points at the first choice of which a word begins with what was typed: 225 finds DN
        225.
        """
        now = monotonic()
        self._typed = (
            (self._typed[0] if now - self._typed[1] < TOGETHER else "") + text.lower(),
            now,
        )
        for i in range(self.count()):
            words = self.itemText(i).lower().split()
            if any(" ".join(words[n:]).startswith(self._typed[0]) for n in range(len(words))):
                self.view().setCurrentIndex(self.model().index(i, self.modelColumn()))
                return


@guarded
class _Closed(QObject):
    """Ends the preview when the list closes; a choice that was made follows."""

    def __init__(self, parent: QObject, session: Session) -> None:
        super().__init__(parent)
        self.session = session

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Hide and self.session.state.previewing:
            QTimer.singleShot(
                0, self, lambda: self.session.preview(None)
            )  # the list still has to say what was chosen
        return False


def choice(pen: Pen, name: str, choices: Iterable[tuple[Any, str]], now: Any = None) -> Combo:
    """A choice of keys with their words, one of them chosen."""
    out = Combo(pen)
    out.setObjectName(name)
    out.setAccessibleName(name)
    for key, text in choices:
        out.addItem(text, key)
    if now is not None:
        out.setCurrentIndex(out.findData(now))
    return out


WHY = Qt.ItemDataRole.UserRole + 1  # why a choice does not fit


def offer(box: Combo, choices: Iterable[tuple[Any, str, str]], now: Any) -> None:
    """Offers choices (key, words, why it does not fit): those that fit come first, the others
    after them with the reason.
    """
    order = sorted(choices, key=lambda c: bool(c[2]))
    order = [(key, text + (", does not fit" if why else ""), why) for key, text, why in order]
    if [
        (box.itemData(i), box.itemText(i), box.itemData(i, WHY)) for i in range(box.count())
    ] != order:
        box.clear()
        for i, (key, text, why) in enumerate(order):
            box.addItem(text, key)
            box.setItemData(i, why, WHY)
            box.setItemData(i, why or None, Qt.ItemDataRole.ToolTipRole)
    box.setCurrentIndex(next((i for i, c in enumerate(order) if c[0] == now), -1))


@guarded
class Aside(QLabel):
    """Shows beside a field how the text being typed is understood; hidden when the field is
    left.
    """

    def __init__(self, field: QLineEdit, say: Callable[[str], str]) -> None:
        super().__init__(field.window())
        self.field, self._say = field, say
        self.setObjectName("aside")
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        field.textEdited.connect(self._show)
        field.installEventFilter(self)
        self.hide()

    def _show(self, text: str) -> None:
        said = self._say(text)
        self.setVisible(bool(said))
        if not said:
            return
        window = self.field.window()
        if self.parentWidget() is not window:
            self.setParent(window)
            self.show()
        self.setText(said)
        self.adjustSize()
        at = self.field.mapTo(window, self.field.rect().bottomLeft())
        x = min(at.x(), window.width() - self.width() - 4)
        below = at.y() + 3 + self.height() <= window.height()
        self.move(
            max(4, x), at.y() + 3 if below else at.y() - self.field.height() - self.height() - 3
        )
        self.raise_()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        ends = (
            event.type() == QEvent.Type.KeyPress
            and isinstance(event, QKeyEvent)
            and event.key() in DONE
        )
        if ends or event.type() in (QEvent.Type.FocusOut, QEvent.Type.Hide):
            self.hide()
        return False


DONE = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape, Qt.Key.Key_Tab)


def previewed(root: QWidget, session: Session) -> None:
    """The choice that a list points at, and a value being typed, are shown in the drawings before
    they are taken.
    """
    for box in root.findChildren(Combo):
        box.try_out(session)
    for field in root.findChildren(ValueField):
        field.try_out(session)
