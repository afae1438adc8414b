import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QPushButton

from zumbert.edits.setup import add_background


def panel(user):
    user.window.rail.buttons["ground"].click()
    user.settle()
    return user.window.side.panel


def test_roles_profiles_and_widths_are_set(user):
    p = panel(user)
    box = p.findChild(QComboBox, "role Road design")
    box.setCurrentIndex(box.findData("none"))
    box.activated.emit(box.currentIndex())
    user.settle()
    assert [s.role for s in user.project.surfaces.values()] == ["existing", "none"]
    assert user.facts.pipes[user.pipe("S5", "S4").id].span.sources == ("existing",)
    field = user.window.side.panel.findChild(QLineEdit, "left of Tansymoor Lane")
    field.setFocus()
    field.selectAll()
    user.type(field, "2.75")
    user.key(field, Qt.Key.Key_Return)
    lane = next(r for r in user.project.roads.values() if r.name == "Tansymoor Lane")
    assert (lane.carriageway.left, lane.carriageway.right) == (2.75, 3.0)
    assert user.session.undo_names == ["Set the width of Tansymoor Lane", "Change the role of Road design"]
    box = user.window.side.panel.findChild(QComboBox, "profile Quillerby Rise")
    box.setCurrentIndex(0)
    box.activated.emit(0)
    assert next(iter(user.project.roads.values())).design is None
    field = user.window.side.panel.findChild(QLineEdit, "right of Tansymoor Lane")
    field.setFocus()
    field.selectAll()
    user.type(field, "wide")
    user.key(field, Qt.Key.Key_Return)
    assert "is no number" in user.refusals[-1]


def test_a_road_in_use_stays_and_a_surface_goes_and_comes_back(user):
    p = panel(user)
    p.findChild(QPushButton, "remove Quillerby Rise").click()
    assert "delete or move them first" in user.refusals[-1]
    p.findChild(QPushButton, "remove Road design").click()
    user.settle()
    assert [s.name for s in user.project.surfaces.values()] == ["Existing ground"]
    user.do("undo")
    assert len(user.project.surfaces) == 2


def test_layers_of_a_drawing_are_switched(user):
    lines = np.array([[1400.0, 880.0, 1500.0, 880.0], [1400.0, 870.0, 1500.0, 870.0]])
    user.session.edit("Add", lambda p, f: add_background(p, "survey", ("FENCE", "TREES"), lines, np.array([0, 1])))
    p = panel(user)
    p.findChild(QCheckBox, "layer TREES").click()
    assert next(iter(user.project.backgrounds.values())).off == {"TREES"}
    assert user.session.undo_name == "Hide layer TREES"
    user.settle()
    user.window.side.panel.findChild(QCheckBox, "layer TREES").click()
    assert next(iter(user.project.backgrounds.values())).off == set()


def test_a_selected_pipe_is_shown_in_this_stage_too(user):
    panel(user)
    pipe = user.look_at("S5", "S4")
    assert user.window.side.panel.pipe == pipe.id
    user.key(user.section, Qt.Key.Key_Escape)
    assert user.window.side.panel.findChild(QComboBox, "role Road design")
