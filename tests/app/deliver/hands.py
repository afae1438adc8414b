"""Gestures and readings that these tests share."""

from PySide6.QtCore import QPointF
from PySide6.QtWidgets import QPushButton

from zumbert.drawing.marks import texts_in


def view(user):
    return user.window.centre.of("deliver")


def panel(user):
    return user.window.side.panel


def button(user, name):
    return next(w for w in user.window.findChildren(QPushButton, name) if w.isVisible())


def words(user):
    return [t.text for t in texts_in(view(user).sheet.page.marks)]


def to_page(user, kind):
    made = view(user)._leaves(user.session.state).leaves
    leaf = next(x for x in made if x.sheet.kind == kind)
    user.session.set(leaf=leaf.place)
    user.settle()
    return leaf


def pixel(user, x, y):
    """The pixel at which a place of the page is shown."""
    sheet = view(user).sheet
    p = sheet.origin + QPointF(x, y) * sheet.zoom
    return p.x(), p.y()
