"""Gestures and readings that these tests share."""

from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from zumbert.app.panels.figures import FigureRow
from zumbert.drawing.crosssection import crosssection_marks
from zumbert.drawing.marks import Text

# figures that go by the union
BY_NET = ("less shared space", "Backfill", "Reinstatement, carriageway")


def panel(user):
    return user.window.side.panel


def cross(user):
    return user.window.centre.of("trench")


def wait_for_net(user):
    for _ in range(1500):  # half a minute: a machine may be busy with other things
        s = user.session.state
        if s.dug.net is not None and s.dug.net[0] is s.dug.trenches:
            user.settle()
            return s.dug.net[1]
        QTest.qWait(20)
    raise AssertionError("the union was not worked out")


def figures(user):
    return {
        w.name: w
        for w in panel(user).totals.body.parentWidget().findChildren(FigureRow)
        if panel(user).totals.body.indexOf(w) >= 0
    }


def button(user, name):
    return next(w for w in user.window.findChildren(QPushButton, name) if w.isVisible())


def point_at(user, up, down, share=0.5):
    """The mouse over a pipe in the long section."""
    pipe = user.pipe(up, down)
    x, y = user.along(pipe.id, share)
    user.move(user.section, x, y)
    user.settle()
    return pipe


def drawn(user, i=0):
    shown = cross(user).shown()[i]
    return crosssection_marks(user.session.state.dug.trenches, shown.cut, shown.sight)


def texts(marks):
    return [m.text for m in marks if isinstance(m, Text)]


def total(user):
    return sum(t.excavation or 0.0 for t in user.session.state.dug.trenches.pipes.values())


def button_of(user, text):
    return next(b for b in panel(user).choice.buttons if b.text() == text)


def _cell_text(table, row, column):
    return table.cellAt(row, column).firstCursorPosition().block().text()
