"""The entry line beside the cursor: what the tool in hand takes when one types, and what follows from it."""

import re
from html import unescape
from math import ceil
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout

from zumbert.app.tools.tool import Words
from zumbert.drawing.style import text_width

if TYPE_CHECKING:
    from zumbert.app.views.view import DrawingView

WIDTH = 282
STEP = 24  # it widens by so much at a time: it does not tremble with each figure


class EntryLine(QFrame):
    """hidden -the tool has words-> following the mouse -typing-> typing -Enter-> taken; Esc -> nothing done."""

    def __init__(self, view: "DrawingView") -> None:
        super().__init__(view)
        self.view = view
        self.typing = False
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

    def follow(self, view: "DrawingView") -> None:
        """Shows the tool's words beside the mouse, or hides."""
        words = view.tool.words()
        if words is None and not self.typing:
            self.hide()
            return
        self._say(words or Words("Place at", "", "chainage offset"))
        if not self.isVisible():
            self._put()
            self.show()
        elif not self.typing:
            self._put()

    def _say(self, words: Words) -> None:
        self.head.setText(words.head)
        self.aside.setText(words.aside)
        if not self.typing:
            self.field.setText(words.value)
        self.field.setFixedWidth(92 if len(self.field.text()) < 12 else 140)
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
        for layout in (self.body.layout(), self.layout()):  # at once: a line more or less changes its height
            if layout is not None:
                layout.invalidate()
                layout.activate()
        self.adjustSize()

    def _put(self) -> None:
        """Beside the cursor, inside the drawing; without a mouse in its middle."""
        at, view = self.view.mouse, self.view
        x, y = (at.x, at.y) if at is not None else (view.width() / 2, view.height() / 3)
        left = x + 30 if x + 30 + self.width() < view.width() else x - 30 - self.width()
        bottom = view.drawing_bottom  # it hides no level rows
        under = next((d for d in (28, 20, 14) if y + d + self.height() <= bottom), None)
        top = y + under if under is not None else y - 28 - self.height()
        left = min(max(4, left), max(4, view.width() - self.width() - 4))
        top = min(max(4, top), max(4, bottom - self.height() - 4))
        self.move(round(left), round(top))
        self.raise_()

    def begin(self, view: "DrawingView", text: str) -> None:
        """The first character typed opens the field."""
        self.typing = True
        self.follow(view)
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
                self._end()
                self.view.tool.cancel()
                self.follow(self.view)
                return True
        return super().eventFilter(watched, event)

    def _take(self) -> None:
        if self.view.tool.entry(self.field.text()):
            self._end()
            self.follow(self.view)
        else:
            self.field.selectAll()

    def stop(self) -> None:
        """Hides, with nothing taken."""
        self.typing = False
        self.hide()

    def _end(self) -> None:
        self.stop()
        self.view.setFocus()


def _width(text: str) -> int:
    """Width of a text that may hold tags, from the face's own advances: asking the labels lays each of them out."""
    return ceil(text_width(unescape(_TAG.sub("", text)), "strong")) if text else 0


_TAG = re.compile(r"<[^>]*>")
