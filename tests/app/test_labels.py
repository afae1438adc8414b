"""Labels of the plan through the window: what they say, moved by hand and put back."""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QPushButton
from pytest import approx


@pytest.fixture
def looking(user):
    """A map at 1:500 about S4, nothing selected, in the stage Layout."""
    user.session.set(stage=user.session.stages["layout"], straight=False)
    at = user.facts.places[user.structure("S4").id]
    user.plan.map = replace(user.plan.map, scale=7.56, x=at.x, y=at.y)
    user.plan.update()
    user.settle()
    return user


def label_of(user, key):
    return next(t for t in user.plan.targets if t.kind == "label" and t.id == key).xy.mean(axis=0)


def texts(user):
    return {t.text for t in user.plan._still.marks if hasattr(t, "text")}


def test_fields_are_ticked_and_always_current(looking):
    user = looking
    panel = user.window.side.panel
    for name in ("structures say rim", "pipes say slope", "pipes say length"):
        panel.findChild(QCheckBox, name).click()
        user.settle()
    assert user.project.settings.structure_label == ("label", "rim")
    assert user.project.settings.pipe_label == ("label", "size", "length", "slope")
    assert user.session.history.undo_names[0] == "Choose what labels of pipes say"
    s4 = user.structure("S4")
    assert f"rim {user.facts.places[s4.id].rim:.3f}" in texts(user)
    p5 = user.pipe("S5", "S4")
    assert "P5  DN 300  35.20 m  1.51 %" in texts(user)
    user.session.edit(
        "x",
        lambda p, f: replace(
            p, pipes={**p.pipes, p5.id: replace(p.pipes[p5.id], invert_up=p5.invert_up + 0.352)}
        ),
    )
    user.settle()
    assert "P5  DN 300  35.20 m  2.51 %" in texts(user)
    for _ in range(4):
        user.do("undo")
    assert user.project.settings.structure_label == ("label",)


def test_a_label_is_dragged_kept_where_it_was_put_and_put_back(looking):
    user = looking
    s4 = user.structure("S4")
    x, y = label_of(user, s4.id)
    user.drag(user.plan, (x, y), (x + 60, y + 40))
    moved = user.structure("S4").label_at
    assert moved is not None
    assert label_of(user, s4.id).tolist() == approx([x + 60, y + 40], abs=1.5)
    assert user.session.history.undo_names == ["Move a label"]
    assert user.session.state.chosen.structures == {s4.id}  # and a press picks what it names
    base = user.in_plan(user.facts.places[s4.id].x, user.facts.places[s4.id].y)
    away = label_of(user, s4.id) - base
    user.plan.panned(30, 20)
    user.settle()
    base = user.in_plan(user.facts.places[s4.id].x, user.facts.places[s4.id].y)
    assert (label_of(user, s4.id) - base).tolist() == approx(away.tolist(), abs=0.5)
    user.window.side.panel.findChild(QPushButton, "label back").click()
    assert user.structure("S4").label_at is None


def test_a_pipes_label_is_dragged_and_escape_leaves_it(looking):
    user = looking
    p5 = user.pipe("S5", "S4")
    x, y = label_of(user, p5.id)
    user.drag(user.plan, (x, y), (x + 10, y + 50), release=False)
    assert user.shown.pipes[p5.id].label_at is not None
    user.key(user.plan, Qt.Key.Key_Escape)
    assert user.shown is user.project
    user.release(user.plan, x + 10, y + 50)
    assert user.project.pipes[p5.id].label_at is None
    user.drag(user.plan, (x, y), (x + 10, y + 50))
    assert label_of(user, p5.id).tolist() == approx([x + 10, y + 50], abs=1.5)
    user.session.select()
    user.settle()
    user.window.side.panel.findChild(QPushButton, "labels back").click()
    assert user.project.pipes[p5.id].label_at is None


def test_a_click_on_a_label_picks_what_it_names(looking):
    user = looking
    p5 = user.pipe("S5", "S4")
    user.click(user.plan, *label_of(user, p5.id))
    assert user.session.state.chosen.pipes == {p5.id}
    assert user.session.history.undo_names == []


def test_a_cover_sits_off_the_middle_and_not_beside_its_chamber(looking):
    user = looking
    s4 = user.structure("S4")
    user.session.select(structures=frozenset({s4.id}))
    user.settle()
    field = user.window.side.panel.shared.cover
    for text in ("0.25 -0.1", "2 0", "half"):
        field.setFocus()
        field.selectAll()
        user.type(field, text)
        user.key(field, Qt.Key.Key_Return)
    assert user.structure("S4").cover == (0.25, -0.1)
    assert "would not lie over its chamber" in user.refusals[0]
    assert "is no place of a cover" in user.refusals[1]
    user.plan.map = replace(user.plan.map, scale=40.0)
    user.plan.update()
    user.settle()
    x, y = user.in_plan(user.facts.places[s4.id].x, user.facts.places[s4.id].y)
    x, y = x - user.plan.shift[0], y - user.plan.shift[1]
    covers = [
        m
        for m in user.plan._still.marks
        if getattr(m, "role", "") == "plate" and hasattr(m, "radius")
    ]
    near = min(covers, key=lambda m: (m.x - x) ** 2 + (m.y - y) ** 2)
    assert ((near.x - x) ** 2 + (near.y - y) ** 2) ** 0.5 == approx(
        40 * (0.25**2 + 0.1**2) ** 0.5, abs=0.5
    )
    assert near.radius == approx(40 * 0.6 / 2)
