"""Fixed rims are dragged by their rings; the end whose field has the keyboard lights up in both
drawings.
"""

from PySide6.QtCore import Qt
from pytest import approx

from zumbert.app.panels.rows import FixButton
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import Disc, Fill
from zumbert.edits.change import rim_on, set_rim
from zumbert.model.structure import FixedRim, OnSurface

ALT = Qt.KeyboardModifier.AltModifier


def fixed(user, label="S5"):
    """The pipe below a structure in sight, and its rim fixed where it is."""
    user.look_at("S5", "S4")
    key = user.structure(label).id
    user.session.edit("Fix a rim", lambda p, f: rim_on(p, f, key, "fixed"))
    user.settle()
    return key


def ring(user, key):
    target = next(t for t in user.section.live if t.kind == "rim" and t.id == key)
    return tuple(target.xy[0])


def test_only_fixed_rims_have_a_ring(user):
    user.look_at("S5", "S4")
    assert not any(t.kind == "rim" and t.id == user.structure("S5").id for t in user.section.live)
    key = fixed(user)
    assert ring(user, key)
    user.session.to_stage("layout")
    user.settle()
    assert not any(t.kind == "rim" for t in user.section.live)


def test_a_rim_is_dragged_by_its_ring(user):
    key = fixed(user)
    before, rim = user.project, user.facts.places[key].rim
    x, y = ring(user, key)
    up = 0.3 * user.section.sight.sz
    user.drag(user.section, (x, y), (x, y - up), keys=ALT, release=False)
    assert user.project is before  # nothing is committed while the mouse is down
    assert user.shown.structures[key].rim.level == approx(rim + 0.3, abs=0.02)
    assert user.section.entry.isVisible() and "Rim of S5" in user.section.entry.head.text()
    user.release(user.section, x, y - up, ALT)
    assert user.project.structures[key].rim.level == approx(rim + 0.3, abs=0.02)
    assert user.session.history.undo_name == "Set the rim of S5"
    user.do("undo")
    assert user.project is before


def test_a_rim_taken_beside_the_middle_of_its_ring_does_not_jump(user):
    key = fixed(user)
    rim, sz = user.facts.places[key].rim, user.section.sight.sz
    x, y = ring(user, key)
    user.drag(user.section, (x, y + 4), (x, y + 4 - 30), keys=ALT)  # 4 px under it, 30 px up
    assert user.project.structures[key].rim.level == approx(rim + 30 / sz, abs=0.6 / sz)


def test_a_rim_snaps_to_design_and_ground_and_else_to_5_mm(user):
    key = fixed(user)
    place, sz = user.facts.places[key], user.section.sight.sz
    x, y = ring(user, key)
    low = (x, y + (place.rim - place.ground) * sz + 3)
    user.drag(user.section, (x, y), low, release=False)
    assert "On the ground" in user.section.entry.lines[0].text()
    user.release(user.section, *low)
    assert user.project.structures[key].rim.level == approx(place.ground, abs=1e-9)
    x, y = ring(user, key)
    user.drag(user.section, (x, y), (x, y - 0.5 * sz))
    level = user.project.structures[key].rim.level
    assert level / 0.005 == approx(round(level / 0.005), abs=1e-6) and level > place.ground + 0.4
    back = (x, y + (place.ground - place.design) * sz + 2)
    user.settle()
    user.drag(user.section, ring(user, key), back)
    assert user.project.structures[key].rim.level == approx(place.design, abs=1e-9)


def test_a_rim_is_typed_and_given_up(user):
    key = fixed(user)
    rim = user.facts.places[key].rim
    user.session.select(structures=frozenset({key}))
    user.settle()
    before = user.project
    user.section.setFocus()
    user.type(user.section, "+0.25")
    assert user.shown.structures[key].rim.level == approx(rim + 0.25)
    user.key(user.section.entry.field, Qt.Key.Key_Escape)
    assert user.project is before and user.shown is before
    user.type(user.section, "43")
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert user.project.structures[key].rim.level == approx(43.0)
    now = user.project
    user.type(user.section, "4-x")
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert user.project is now and "is no number" in user.refusals[-1]


def swollen(marks, x, y):
    return any(
        isinstance(m, Disc) and m.edge == "ring-hand" and abs(m.x - x) < 1 and abs(m.y - y) < 1
        for m in marks
    )


def test_the_end_whose_field_has_the_keyboard_lights_up_in_both_drawings(user):
    pipe = user.look_at("S5", "S4")
    user.session.set(straight=False)
    user.settle()
    at = user.ring("down")
    span = user.facts.spans[pipe.id]
    place = user.in_plan(*span.point(span.length - span.reach_down))
    assert not swollen(user.plan.overlay(), *place)
    user.window.activateWindow()
    user.settle()
    user.window.side.panel.rows["invert_down"].field.setFocus()
    assert user.session.state.at.lit == (pipe.id, "down")
    assert swollen(user.section.overlay(), *at) and swollen(user.plan.overlay(), *place)
    user.window.side.panel.rows["slope"].field.setFocus()
    assert user.session.state.at.lit is None
    assert not swollen(user.section.overlay(), *at)
    cell = next(c for c in user.section.cells if c.row == "Invert out" and c.id == pipe.id)
    user.click(user.section, cell.box[0] + 20, cell.box[1] + 8)
    assert user.session.state.at.lit == (pipe.id, "up")
    user.key(user.section.cell_edit, Qt.Key.Key_Escape)
    assert user.session.state.at.lit is None


def test_a_rim_that_is_off_is_seen_at_once_and_mended_by_its_fix(user):
    key = fixed(user)
    user.session.edit("Off", lambda p, f: set_rim(p, key, FixedRim(f.places[key].rim + 2.0)))
    user.session.select(structures=frozenset({key}))
    user.settle()
    assert any(
        f.rule == "rim_on_surface" for f in user.session.state.shown.findings.by_structure[key]
    )
    x, y = ring(user, key)
    marks = section_marks(user.session.state.picture, user.section.sight).drawing
    notches = [
        m
        for m in marks
        if isinstance(m, Fill) and m.role == "breach" and abs(m.xy[:, 0].mean() - x) < 25
    ]
    assert any(abs(m.xy[:, 1].mean() - y) < 15 for m in notches)  # beside the rim
    user.click(
        next(
            b for b in user.window.side.panel.findChildren(FixButton) if "Put the rim" in b.text()
        ),
        5,
        5,
    )
    assert user.project.structures[key].rim == OnSurface(surface="design")
