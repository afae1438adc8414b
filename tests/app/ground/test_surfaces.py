"""Surfaces, roads and drawings in the list of the stage."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QPushButton, QSlider
from pytest import approx

from tests.app.ground.hands import before_key, choose, find, panel, pick, road, write
from tests.build import drawn
from zumbert.edits.setup import add_background


def test_the_role_of_a_surface_is_chosen(user):
    pick(user, "surface", "Road design")
    choose(user, "role Road design", "none")
    assert [s.role for s in user.project.surfaces.values()] == ["existing", "none"]
    assert user.facts.pipes[user.pipe("S5", "S4").id].span.sources == ("existing",)
    assert user.session.history.undo_name == "Change the role of Road design"


def test_name_start_and_profile_of_a_road(user):
    pick(user, "road", "Tansymoor Lane")
    write(user, "road name", 'Lane "North"')
    assert road(user, 'Lane "North"').name == 'Lane "North"'
    before = user.facts.places[
        next(k for k, s in user.project.structures.items() if s.label == "S14")
    ]
    write(user, "road start", "0+100")
    after = user.facts.places[before_key(user)]
    assert (after.chainage, after.x) == (approx(before.chainage + 100), approx(before.x))
    choose(user, "profile Tansymoor Lane", None)
    assert road(user, 'Lane "North"').design is None
    write(user, "road start", "far")
    assert "is no number" in user.refusals[-1]


def test_a_road_in_use_stays_and_a_surface_goes_and_comes_back(user):
    pick(user, "road", "Quillerby Rise")
    find(user, QPushButton, "remove").click()
    assert "delete or move them first" in user.refusals[-1]
    pick(user, "surface", "Road design")
    user.key(user.plan, Qt.Key.Key_Delete)
    assert [s.name for s in user.project.surfaces.values()] == ["Existing ground"]
    user.do("undo")
    assert len(user.project.surfaces) == 2


def test_eye_strength_and_order(user):
    pick(user, "surface", "Existing ground")
    find(user, QPushButton, "eye Existing ground").click()
    user.settle()
    assert not next(iter(user.project.surfaces.values())).shown
    assert user.session.history.undo_name == "Hide Existing ground"
    find(user, QSlider, "strength").setValue(40)
    assert next(iter(user.project.surfaces.values())).strength == 0.4
    user.settle()
    find(user, QPushButton, "order 1").click()
    assert [s.name for s in user.project.surfaces.values()] == ["Road design", "Existing ground"]


def test_layers_of_a_drawing_are_switched(user):
    lines = np.array([[1400.0, 880.0, 1500.0, 880.0], [1400.0, 870.0, 1500.0, 870.0]])
    user.session.edit(
        "Add", lambda p, f: add_background(p, drawn("survey", ("FENCE", "TREES"), lines, [0, 1]))
    )
    pick(user, "background", "survey")
    find(user, QCheckBox, "layer TREES").click()
    assert next(iter(user.project.backgrounds.values())).off == {"TREES"}
    assert user.session.history.undo_name == "Hide layer TREES"
    user.settle()
    find(user, QCheckBox, "layer TREES").click()
    assert next(iter(user.project.backgrounds.values())).off == set()
    choose(user, "unit", 0.001)
    assert next(iter(user.project.backgrounds.values())).segments[0].tolist() == approx(
        [1.4, 0.88, 1.5, 0.88]
    )


def test_a_selected_pipe_is_shown_in_this_stage_too(user):
    panel(user)
    pipe = user.look_at("S5", "S4")
    assert user.window.side.panel.pipe == pipe.id
    user.key(user.section, Qt.Key.Key_Escape)
    assert find(user, QPushButton, "surface Road design")


def test_contours_and_shading(user):
    panel(user)
    write(user, "contours", "0.5")
    assert user.project.settings.contours == 0.5
    find(user, QCheckBox, "shading").click()
    assert user.project.settings.shading
    write(user, "contours", "")
    assert user.project.settings.contours is None
