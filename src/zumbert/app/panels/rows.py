"""The pieces that panels are made of: titles, rules, value rows, fix buttons."""

from collections.abc import Callable, Iterable

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.guard import guarded
from zumbert.app.panels.fields import ValueField
from zumbert.app.panels.rangebar import RangeBar, Scale
from zumbert.app.pen import Pen
from zumbert.app.theme import BAR, INSIDE, NAMES, VALUE, font, qcolor
from zumbert.drawing.marks import lozenge, notch


def label(text: str = "", role: str = "") -> QLabel:
    """A text of a role of the style sheet."""
    out = QLabel(text)
    out.setTextFormat(Qt.TextFormat.PlainText)  # a name with tags is a name
    if role:
        out.setProperty("role", role)
    return out


def wrapped(text: str = "", role: str = "") -> QLabel:
    """A text that runs over several lines."""
    out = label(text, role)
    out.setWordWrap(True)
    return out


def rule() -> QFrame:
    """A thin line across the panel."""
    out = QFrame()
    out.setProperty("role", "rule")
    return out


def pair(left: QWidget, right: QWidget) -> QHBoxLayout:
    """One at the left edge, one at the right."""
    out = QHBoxLayout()
    out.setContentsMargins(0, 0, 0, 0)
    out.addWidget(left)
    out.addStretch(1)
    out.addWidget(right)
    return out


def clear(layout: QLayout) -> None:
    """Takes everything out of a layout."""
    while layout.count():
        item = layout.takeAt(0)
        if item is None:
            return
        widget, inner = item.widget(), item.layout()
        if widget is not None:
            widget.hide()
            widget.setParent(None)
            widget.deleteLater()
        elif inner is not None:
            clear(inner)


def chip(text: str, name: str, run: Callable[[], object]) -> QPushButton:
    """A small button."""
    out = QPushButton(text)
    out.setProperty("role", "chip")
    out.setObjectName(name)
    out.clicked.connect(lambda _=False: run())
    return out


def toggle_chip(text: str, name: str, checkable: bool = True) -> QPushButton:
    """A small round switch."""
    out = QPushButton(text)
    out.setProperty("role", "chip")
    out.setCheckable(checkable)
    out.setObjectName(f"chip {name}")
    return out


def fields(rows: Iterable[tuple[str, QWidget]], wide: int = NAMES + 12) -> QGridLayout:
    """Named fields under one another: names in a column of their own, so wide (drawing units)."""
    grid = QGridLayout()
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setVerticalSpacing(4)
    grid.setColumnMinimumWidth(0, wide)
    grid.setColumnStretch(1, 1)
    for i, (text, w) in enumerate(rows):
        grid.addWidget(label(text, "second"), i, 0)
        grid.addWidget(w, i, 1)
    return grid


def abreast(items: Iterable[tuple[str, QWidget]]) -> QGridLayout:
    """Fields side by side, the name of each over it."""
    grid = QGridLayout()
    for i, (text, w) in enumerate(items):
        grid.addWidget(label(text, "small"), 0, i)
        grid.addWidget(w, 1, i)
    return grid


class ValueRow(QWidget):
    """A name with a second line, a value, and its range bar."""

    def __init__(self, pen: Pen, name: str, take: Callable[[str], bool] | None = None) -> None:
        super().__init__()
        self.setFixedHeight(39)
        self.name, self.under = label(name), label("", "small")
        self.field, self.bar, self.aside = (
            ValueField(name, take),
            RangeBar(pen),
            label("", "second"),
        )
        for w in (self.name, self.under, self.field, self.bar, self.aside):
            w.setParent(self)
        self.name.setGeometry(QRect(0, 5, 106, 17))
        self.under.setGeometry(QRect(0, 21, 174, 15))
        self.field.setGeometry(QRect(86, 2, VALUE, 23))
        self.bar.move(INSIDE - BAR, 2)
        self.aside.setGeometry(QRect(INSIDE - BAR, 5, BAR, 17))

    def sizeHint(self) -> QSize:
        return QSize(INSIDE, 39)

    def show_row(
        self, name: str, value: str, scale: Scale | None = None, under: str = "", aside: str = ""
    ) -> None:
        """Shows a value with its range."""
        self.name.setText(name)
        self.under.setText(under)
        self.under.setVisible(bool(under))
        # coordinates of seven digits, whole
        wide = max(VALUE, self.field.fontMetrics().horizontalAdvance(value) + 16)
        if wide != self.field.width():
            self.field.setGeometry(QRect(86 + VALUE - wide, 2, wide, 23))
            self.field.raise_()
        self.field.show_value(value, scale is not None and not scale.in_range)
        self.bar.setVisible(scale is not None)
        self.aside.setVisible(scale is None)
        self.aside.setText(aside)
        if scale is not None:
            self.bar.show_scale(scale)


@guarded
class Sign(QWidget):
    """The breach notch, the caution lozenge, or the faint notch of what is decided."""

    def __init__(self, pen: Pen, severity: str) -> None:
        super().__init__()
        self.pen, self.severity = pen, severity
        self.setFixedSize(14, 14)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        try:
            draw_sign(painter, self.pen, self.severity, 7, 7)
        finally:
            painter.end()


def draw_sign(painter: QPainter, pen: Pen, severity: str, x: float, y: float) -> None:
    """A sign about a place."""
    from zumbert.drawing.marks import Fill, Stroke

    if severity == "breach":
        pen.ink(painter, [Fill("breach", notch(x, y + 6))])
    elif severity == "decided":
        pen.ink(painter, [Stroke("decided", notch(x, y + 6), closed=True)])
    else:
        pen.ink(painter, [Stroke("caution", lozenge(x, y), closed=True)])


@guarded
class FixButton(QPushButton):
    """A wide button with a figure at its right edge."""

    def __init__(self, pen: Pen, text: str, figure: str, run: Callable[[], object]) -> None:
        super().__init__(text)
        self.pen, self.figure = pen, figure
        self.setProperty("role", "fix")
        self.setFixedHeight(26)
        self.clicked.connect(lambda: run())

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        p = QPainter(self)
        try:
            p.setFont(font(11.5))
            p.setPen(qcolor("ink-2", self.pen.theme))
            p.drawText(
                self.rect().adjusted(0, 0, -9, 0),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                self.figure,
            )
        finally:
            p.end()


class SegmentedButton(QWidget):
    """A few choices side by side; one holds."""

    def __init__(self, choices: tuple[str, ...], chosen: Callable[[int], None]) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.buttons = []
        for i, text in enumerate(choices):
            b = QPushButton(text)
            b.setProperty("role", "segment")
            b.setCheckable(True)
            b.setAutoExclusive(True)
            # the one that holds is bold
            b.setMinimumWidth(QFontMetrics(font(13, 600)).horizontalAdvance(text) + 20)
            b.clicked.connect(lambda _=False, i=i: chosen(i))
            row.addWidget(b)
            self.buttons.append(b)
        row.addStretch(1)

    def show_choice(self, i: int) -> None:
        """Shows which holds."""
        self.buttons[i].setChecked(True)


class Stack(QVBoxLayout):
    """Panel pieces under one another."""

    def __init__(self, parent: QWidget | None = None, gap: int = 4) -> None:
        super().__init__()
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(gap)
        if parent is not None:
            parent.setLayout(self)
