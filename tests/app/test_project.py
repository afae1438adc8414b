"""New projects, settings and US units in the window; long work and its end; drawings whose file
changes.
"""

import threading
import time

import ezdxf
import pytest
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QComboBox, QDialog, QLabel, QLineEdit, QPushButton
from pytest import approx

from zumbert.app.bars.foot import place_words
from zumbert.app.importdialog import ImportDialog
from zumbert.demo.make import FILES
from zumbert.edits.grounditems import GroundItem
from zumbert.errors import ReadError

FT = 0.3048


def choose(box, data):
    box.setCurrentIndex(box.findData(data))
    box.activated.emit(box.currentIndex())


def dialog(user):
    user.settle()
    return [d for d in user.window.findChildren(QDialog, "project") if d.isVisible()][-1]


def to_feet(user):
    user.do("settings")
    d = dialog(user)
    choose(d.findChild(QComboBox, "units"), "us")
    d.accept()
    user.settle()


def test_a_new_project_in_us_units_with_a_standard(user, tmp_path):
    user.do("new")
    d = dialog(user)
    d.findChild(QLineEdit, "project name").setText('Access "B"')
    choose(d.findChild(QComboBox, "units"), "us")
    choose(d.findChild(QComboBox, "invert basis"), "walls")
    d.use_standard(FILES / "standard.toml")
    d.accept()
    user.settle()
    p = user.project
    assert (p.name, p.units.system, p.settings.invert_basis) == ('Access "B"', "us", "walls")
    assert "12in" in p.sizes
    assert list(p.standards.values())[-1].name == "Estate roads"
    assert user.window.windowTitle().startswith('Access "B"')


def test_a_bad_standard_is_told_and_nothing_is_made(user, tmp_path):
    (tmp_path / "bad.toml").write_text("[pipes]\ncover = 1\n")
    before = user.project
    user.do("new")
    d = dialog(user)
    d.use_standard(tmp_path / "bad.toml")
    d.accept()
    assert "means nothing here" in d.says.text()
    d.reject()
    assert user.project is before


def test_a_project_shown_in_feet_is_the_same_project(user):
    before = user.project
    to_feet(user)
    assert user.project.pipes == before.pipes
    assert user.session.history.undo_names == ["Change the project's settings"]
    x, y = 1500.0, 900.0
    words = place_words(user.session.state, x, y)
    assert words["x"] == f"{x / FT:.2f}"
    ground = float(user.facts.surfaces.existing.level(x, y))
    assert words["ground"] == f"{ground / FT:.2f}"
    pipe = user.look_at("S5", "S4")
    user.type(user.section, "135")
    from PySide6.QtCore import Qt

    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert user.project.pipes[pipe.id].invert_down == approx(135 * FT)
    texts = " ".join(w.text() for w in user.window.side.findChildren(QLabel))
    assert " ft" in texts
    user.do("undo")
    user.do("undo")
    assert user.project is before


def test_the_invert_basis_moves_no_pipe(user):
    user.do("settings")
    d = dialog(user)
    before = user.facts
    choose(d.findChild(QComboBox, "invert basis"), "walls")
    d.accept()
    assert user.project.settings.invert_basis == "walls"
    for key, f in user.facts.pipes.items():
        old = before.pipes[key]
        assert f.invert(f.span.length / 2) == approx(old.invert(old.span.length / 2), abs=1e-9)
        assert f.slope == approx(old.slope, abs=1e-12)
    assert any(
        f.pipe.invert_up != before.pipes[k].pipe.invert_up for k, f in user.facts.pipes.items()
    )


def test_a_pipe_and_a_network_quote_their_inverts_their_own_way(user):
    pipe = user.look_at("S5", "S4")
    before, basis = user.facts, user.window.side.panel.shared.basis
    assert basis.currentText() == "as the network, at centres"
    choose(basis, "walls")
    user.settle()
    now = user.project.pipes[pipe.id]
    reach = user.facts.spans[pipe.id].reach_up
    assert now.invert_up == approx(before.pipes[pipe.id].invert(reach), abs=1e-12)
    assert "at inner walls" in user.session.history.undo_name
    user.session.select()
    user.session.to_stage("layout")
    user.settle()
    network = user.project.networks[pipe.network]
    choose(user.window.findChild(QComboBox, f"basis {network.name}"), "walls")
    for key, f in user.facts.pipes.items():
        old = before.pipes[key]
        assert f.invert(f.span.length / 2) == approx(old.invert(old.span.length / 2), abs=1e-9)
    assert user.project.networks[pipe.network].invert_basis == "walls"


# -- long work -------------------------------------------------------------------------------------


def test_long_work_shows_how_far_it_is_and_gives_its_result(user):
    seen = []

    def told():
        return any(bar and text.startswith("step") for bar, text in seen)

    def work(tell):
        for i in range(200):
            tell(i / 200, f"step {i}")
            time.sleep(0.05)
            if told():
                break
        return threading.current_thread().name

    timer = QTimer()
    timer.timeout.connect(
        lambda: seen.append((user.window.foot.bar.isVisible(), user.window.foot.hint.text()))
    )
    timer.start(50)
    assert user.window.work.run("Counting", work) == "work"
    timer.stop()
    assert told()
    assert not user.window.foot.bar.isVisible()


def test_long_work_is_given_up(user):
    def work(tell):
        for i in range(1000):
            tell(i / 1000, "on and on")
            time.sleep(0.01)

    QTimer.singleShot(350, user.window.foot.give_up.click)
    assert user.window.work.run("Reading files", work) is None
    assert "cancelled, nothing was changed" in user.window.foot.hint.text()


def test_a_step_that_takes_long_is_not_waited_for(user):
    on, done = threading.Event(), []

    def work(tell):  # one long step, that tells nothing meanwhile
        on.wait(30)
        done.append("the step")
        tell(0.9, "a next step")
        done.append("never reached")

    QTimer.singleShot(350, user.window.foot.give_up.click)
    assert user.window.work.run("Reading files", work) is None
    assert not done and "cancelled, nothing was changed" in user.window.foot.hint.text()
    # other work is not mixed up with it
    assert user.window.work.run("Counting", lambda tell: 7) == 7
    on.set()
    [thread.join() for thread in threading.enumerate() if thread.name == "work"]
    user.settle()
    assert done == ["the step"] and not user.window.foot.bar.isVisible()


def test_what_long_work_refuses_is_told(user):
    def work(tell):
        raise ReadError("no such thing")

    with pytest.raises(ReadError, match="no such thing"):
        user.window.work.run("Reading", work)


# -- drawings --------------------------------------------------------------------------------------


def drawing(path, lines):
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 6
    for x0, y0, x1, y1, layer in lines:
        doc.modelspace().add_line((x0, y0), (x1, y1), dxfattribs={"layer": layer})
    doc.saveas(path)


def test_layers_are_put_to_use_and_a_changed_file_is_read_again(user, tmp_path):
    path = tmp_path / "survey.dxf"
    drawing(path, [(1400, 900, 1500, 900, "FENCE"), (1400, 880, 1500, 890, "WATER")])
    assert user.window.exchange.import_paths([path])
    user.settle()
    d = [d for d in user.window.findChildren(ImportDialog) if d.isVisible()][-1]
    choose(d.layers[path, "WATER"], "service water")
    assert 'Layer "WATER": 1 service (water)' in d.says.text()
    assert len(user.shown.services) == len(user.project.services) + 1
    d.accept()
    user.settle()
    [key] = user.project.backgrounds
    drawing(path, [(1400, 900, 1500, 900, "FENCE"), (1400, 910, 1500, 910, "FENCE")])
    user.window.acts("ground").look_for_changes()
    assert user.session.state.file.stale == {key}
    assert "has changed: read it again" in user.window.foot.hint.text()
    user.window.go_stage("ground")
    user.session.pick(GroundItem("background", key))
    user.settle()
    user.window.side.panel.findChild(QPushButton, "read again").click()
    user.settle()
    b = user.project.backgrounds[key]
    assert (b.layers, len(b.segments), user.session.state.file.stale) == (
        ("FENCE",),
        2,
        frozenset(),
    )
    assert user.session.history.undo_name == "Read survey again"


def test_the_columns_of_points_are_picked_in_the_summary(user, tmp_path):
    path = tmp_path / "pegs.xyz"
    path.write_text("900 1400 40\n900 1500 41\n950 1400 42\n")
    assert user.window.exchange.import_paths([path])
    user.settle()
    d = [d for d in user.window.findChildren(ImportDialog) if d.isVisible()][-1]
    assert "does not meet" in d.says.text()  # northing and easting are the other way round
    for box, what in zip(d.columns[path], ("northing", "easting", "level"), strict=True):
        box.setCurrentIndex(box.findData(what))
    d.columns[path][0].activated.emit(0)
    assert "does not meet" not in d.says.text()
    choose(d.roles["pegs"], "rock")
    d.accept()
    assert [s.role for s in user.project.surfaces.values()] == ["existing", "design", "rock"]
    assert user.facts.surfaces.rock is not None
