"""Gestures and readings that these tests share."""

from PySide6.QtWidgets import QPushButton

from zumbert.app.panels.figures import FigureRow


def panel(user):
    return user.window.side.panel


def page(user, i):
    panel(user).show_page(i)
    user.settle()
    return panel(user).pages[i]


def button(user, name):
    return next(w for w in user.window.findChildren(QPushButton, name) if w.isVisible())


def figures(user):
    return {w.name: w.value for w in panel(user).pages[0].findChildren(FigureRow)}


def select(user, up, down):
    pipe = user.pipe(up, down)
    user.session.select(pipes=frozenset({pipe.id}))
    user.settle()
    return pipe
