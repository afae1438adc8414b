"""Gestures and readings that these tests share."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from zumbert.app.main import application
from zumbert.app.panels.fixbuttons import TriedButton

CTRL = Qt.KeyboardModifier.ControlModifier


def page(user):
    return user.window.side.panel.findings


def row(user, rule):
    return next(r for r in page(user).rows if r.finding.rule == rule)


def visible(user, kind, name):
    return next(w for w in user.window.side.panel.findChildren(kind, name) if w.isVisible())


def go(user, rule):
    """A click on a finding."""
    user.window.side.ensureWidgetVisible(row(user, rule))
    user.click(row(user, rule), 30, 20)
    user.settle()


def rules(user):
    return [r.finding.rule for r in page(user).rows]


def buttons(user):
    return [b for b in page(user).mending.findChildren(TriedButton) if b.isVisible()]


def hover(user, button):
    QTest.mouseMove(button, QPoint(5, 5))
    application().sendEvent(button, enter_event(button))
    user.settle()


def enter_event(button):
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QEnterEvent

    at = QPointF(5, 5)
    return QEnterEvent(at, at, QPointF(button.mapToGlobal(at)))


def leave(user, button):
    from PySide6.QtCore import QEvent

    application().sendEvent(button, QEvent(QEvent.Type.Leave))
    user.settle()


def accept(user, rule, reason="agreed with the school", by="QT"):
    go(user, rule)
    mending = page(user).mending
    mending.reason.setFocus()
    user.type(mending.reason, reason)
    user.type(mending.by, by)
    user.click(visible(user, QPushButton, "accept"), 10, 10)
    user.settle()


def standards(user):
    return user.window.side.panel.standards


def standards_of(user):
    return {s.name: s for s in user.project.standards.values()}


def pick(user, box, data):
    box.setCurrentIndex(box.findData(data))
    box.activated.emit(box.currentIndex())
    user.settle()


def hold(user):
    # no key is held, whatever the test before held
    QTest.mouseClick(user.window.centre.head.holds, Qt.MouseButton.LeftButton)
    user.settle()
    assert user.session.state.held.holds
