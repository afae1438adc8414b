"""The start of the window."""

import pytest
from PySide6.QtWidgets import QApplication

from zumbert import store
from zumbert.app import main as start
from zumbert.app import value as values
from zumbert.demo.project import demo_project
from zumbert.store import save


class NoFaults:
    def __init__(self, window):
        windows.append(window)

    def begin(self):
        pass


windows = []


@pytest.fixture
def started(qtbot, monkeypatch):
    monkeypatch.setattr(start, "Faults", NoFaults)
    monkeypatch.setattr(QApplication, "exec", lambda *_: 0)
    windows.clear()
    yield windows
    for w in windows:
        w.files.lock and w.files.lock.release()
        w.close()


def test_a_named_file_is_read_and_analysed_once(started, tmp_path, monkeypatch):
    project, path = demo_project(), tmp_path / "job.zumbert"
    save(project, path)
    loaded, derived = [], []
    load, analyse = store.load, values.analyse
    monkeypatch.setattr(store, "load", lambda *a, **k: loaded.append(a[0]) or load(*a, **k))
    monkeypatch.setattr(
        values, "analyse", lambda p, old=None: derived.append(len(p.pipes)) or analyse(p, old)
    )
    assert start.main(path) == 0
    [window] = started
    assert loaded == [path] and derived == [0, len(project.pipes)]
    s = window.session.state
    assert s.file.path == path and s.file.saved and s.current.project.pipes == project.pipes


def test_a_file_that_is_none_is_refused_before_the_window(started, tmp_path, capsys):
    assert start.main(tmp_path / "none.zumbert") == 2
    assert "none.zumbert" in capsys.readouterr().err and not started
