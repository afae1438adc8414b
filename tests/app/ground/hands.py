"""Gestures and readings that these tests share."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLineEdit, QPushButton

from zumbert.app.panels.numbertable import NumberTable


def panel(user):
    user.window.rail.buttons["ground"].click()
    user.settle()
    return user.window.side.panel


def pick(user, kind, name):
    panel(user).findChild(QPushButton, f"{kind} {name}").click()
    user.settle()
    return user.window.side.panel


def find(user, kind, name):
    return user.window.side.panel.findChild(kind, name)


def choose(user, name, data):
    box = find(user, QComboBox, name)
    box.setCurrentIndex(box.findData(data))
    box.activated.emit(box.currentIndex())
    user.settle()


def write(user, name, text):
    field = find(user, QLineEdit, name)
    field.setFocus()
    field.selectAll()
    user.type(field, text) if text else user.key(field, Qt.Key.Key_Delete)
    user.key(field, Qt.Key.Key_Return)


def cell(user, table, row, column, text):
    t = find(user, NumberTable, f"table {table}")
    t.item(row, column).setText(text)
    user.settle()


def road(user, name="Quillerby Rise"):
    return next(r for r in user.project.roads.values() if r.name == name)


def map_of(user, *places):
    """Plan places of world places, the plan not straightened and fitted to them."""
    user.window.session.set(straight=False)
    user.window.plan.fit_map()
    user.settle()
    return [user.window.plan.drawn(*p) for p in places]


def before_key(user):
    return next(k for k, s in user.project.structures.items() if s.label == "S14")


def ring_of(user, view, kind, i):
    user.settle()
    return next(t for t in view.targets if t.kind == kind and t.id == i).xy[0]
