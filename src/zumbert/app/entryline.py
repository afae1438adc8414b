"""The entry line beside the cursor: what one types for the tool in hand, and what follows from
it.
"""

import re
from html import unescape
from math import ceil
from typing import Protocol

from PySide6.QtCore import QEvent, QObject, QRect, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.guard import guarded
from zumbert.app.tools.tool import MousePlace, Tool, Words
from zumbert.drawing.style import text_width

WIDTH = 282
# keys that lead nowhere from here
STAYS = (Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Up, Qt.Key.Key_Down)
STEP = 24  # it widens by so much at a time: it does not tremble with each figure


class EntryHost(Protocol):
    """The drawing that it belongs to."""

    @property
    def tool(self) -> Tool:
        """The tool in hand."""

    @property
    def mouse(self) -> MousePlace | None:
        """Where the mouse is."""

    @property
    def drawing_bottom(self) -> float:
        """Where the drawing ends downwards."""

    def look_again(self) -> None:
        """The tool looks again at the place under the mouse."""


@guarded
class EntryLine(QFrame):
    """hidden -the tool has words-> following the mouse -typing-> typing -Enter-> taken; Esc -> the
    text given up.

    The mouse goes through it, and it keeps out of the pointer's way.
    """

    def __init__(self, parent: QWidget, view: EntryHost) -> None:
        super().__init__(parent)
        self.drawing, self.view = parent, view
        self.typing = False
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setObjectName("entry")
        self.setFixedWidth(WIDTH)
        self.head, self.aside, self.lines = QLabel(), QLabel(), [QLabel(), QLabel(), QLabel()]
        for plain in (self.head, self.aside):
            plain.setTextFormat(Qt.TextFormat.PlainText)
        self.head.setProperty("role", "section")
        self.aside.setProperty("role", "second")
        self.aside.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self._shape = (0, 0)  # width, and lines that are shown
        self.field = QLineEdit()
        self.field.setObjectName("entryfield")
        self.field.setAccessibleName("Entry line")
        self.field.setFixedWidth(92)
        self.field.installEventFilter(self)
        self.field.textEdited.connect(self._edited)
        self._build()
        self.hide()

    def _build(self) -> None:
        head, body = QFrame(), QFrame()
        self.body = body
        head.setObjectName("entryhead")
        body.setObjectName("entrybody")
        row = QHBoxLayout(head)
        row.setContentsMargins(9, 2, 9, 2)
        row.addWidget(self.head)
        row.addWidget(self.field)
        row.addStretch(1)
        row.addWidget(self.aside)
        lines = QVBoxLayout(body)
        lines.setContentsMargins(9, 3, 9, 4)
        lines.setSpacing(1)
        for label in self.lines:
            label.setTextFormat(Qt.TextFormat.RichText)
            lines.addWidget(label)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(1, 1, 1, 1)
        whole.setSpacing(0)
        whole.addWidget(head)
        whole.addWidget(body)

    def follow(self) -> None:
        """Shows the tool's words beside the mouse, or hides."""
        words = self.view.tool.words()
        if words is None and not self.typing:
            self.hide()
            return
        self._say(words or Words("MousePlace at", "", "chainage offset"))
        if not (self.typing and self.isVisible() and self._clear_of(self.geometry())):
            self._put()
        self.show()

    def _say(self, words: Words) -> None:
        self.head.setText(words.head)
        self.aside.setText(words.aside)
        if not self.typing:
            self.field.setText(words.value)
        self.field.setFixedWidth(max(92, STEP * ceil((_width(self.field.text()) + 20) / STEP)))
        texts = (*words.lines, "", "", "")[:3]
        for label, text in zip(self.lines, texts, strict=True):
            if label.text() != text:
                label.setText(text)
            if label.isVisibleTo(self) != bool(text):
                label.setVisible(bool(text))
        self.aside.setFixedSize(STEP * ceil((_width(words.aside) + 4) / STEP), 17)
        wide = _width(words.head) + _width(words.aside) + self.field.width() + 50
        longest = max(WIDTH, wide, max(map(_width, texts)) + 26)
        shape = (WIDTH + STEP * ceil((longest - WIDTH) / STEP), sum(map(bool, texts)))
        if shape == self._shape:
            return
        self._shape = shape
        self.setFixedWidth(shape[0])
        for label in self.lines:  # of a fixed size: another text lays nothing out anew
            label.setFixedSize(shape[0] - 24, 17)
        # at once: a line more or less changes its height
        for layout in (self.body.layout(), self.layout()):
            if layout is not None:
                layout.invalidate()
                layout.activate()
        self.adjustSize()

    def _put(self) -> None:
        """Beside the cursor, inside the drawing; without a mouse in its middle."""
        at, drawing = self.view.mouse, self.drawing
        x, y = (at.x, at.y) if at is not None else (drawing.width() / 2, drawing.height() / 3)
        wide, tall = self.width(), self.height()
        tops = [*(y + d for d in (28, 20, 14)), y - 28 - tall, y - 14 - tall]
        boxes = [
            QRect(round(left), round(top), wide, tall)
            for left in (x + 30, x - 30 - wide)
            for top in tops
        ]
        room = self._room()
        best = next((b for b in boxes if room.contains(b)), None) or next(
            (b for b in (_inside(b, room) for b in boxes) if self._clear_of(b)),
            _inside(boxes[0], room),
        )
        self.move(best.topLeft())
        self.raise_()

    def _room(self) -> QRect:
        """The area where it may lie: inside the drawing, clear of the level rows."""
        tall = max(self.view.drawing_bottom, self.height() + 8.0)
        return QRect(4, 4, self.drawing.width() - 8, round(tall) - 8)

    def _clear_of(self, box: QRect) -> bool:
        """Whether a box lies in the drawing and not under the pointer."""
        at = self.view.mouse
        return self._room().contains(box) and (
            at is None or not box.adjusted(-8, -8, 8, 8).contains(round(at.x), round(at.y))
        )

    def begin(self, text: str) -> None:
        """The first character typed opens the field."""
        self.typing = True
        self.follow()
        self.field.setText(text)
        self.field.setFocus()
        self.field.deselect()
        self.field.end(False)
        self._edited(text)

    def _edited(self, text: str) -> None:
        self.typing = True
        self.view.tool.typed(text)
        words = self.view.tool.words()
        if words is not None:
            self._say(words)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            if event.key() == Qt.Key.Key_Escape:
                event.accept()
                return True
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.give_up()
                return True
            if event.key() in STAYS:
                return True
        return super().eventFilter(watched, event)

    def take_key(self, event: QKeyEvent) -> None:
        """Passes a key that reached the drawing on to the field, which takes the keyboard."""
        self.field.setFocus()
        QApplication.sendEvent(self.field, event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A key that the field had no use for ends here: sent on, it would come back from the
        drawing for ever.
        """
        event.accept()

    def give_up(self) -> None:
        """Drops the text; the tool shows what lies under the mouse again."""
        self._end()
        self.view.tool.untyped()
        self.view.look_again()
        self.follow()

    def _take(self) -> None:
        if self.view.tool.entry(self.field.text()):
            self._end()
            self.view.look_again()
            self.follow()
        else:
            self.field.selectAll()

    def stop(self) -> None:
        """Hides, with nothing taken."""
        self.typing = False
        self.hide()

    def _end(self) -> None:
        self.stop()
        self.drawing.setFocus()


def _inside(box: QRect, room: QRect) -> QRect:
    """A box moved into a room."""
    out = QRect(box)
    out.moveLeft(max(room.left(), min(box.left(), room.right() - box.width() + 1)))
    out.moveTop(max(room.top(), min(box.top(), room.bottom() - box.height() + 1)))
    return out


def _width(text: str) -> int:
    """Width of a text that may hold tags, from the face's own advances: asking the labels lays
    each of them out.
    """
    return ceil(text_width(unescape(_TAG.sub("", text)), "strong")) if text else 0


_TAG = re.compile(r"<[^>]*>")
