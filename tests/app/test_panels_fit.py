"""Every panel holds what it shows: measured in both themes, and at 100 and 200 per cent."""

import os
import subprocess
import sys
from pathlib import Path

from tests.app.fit import cut, faults
from zumbert.app.theme import apply_theme


def test_no_panel_cuts_what_it_shows(user, qapp):
    assert faults(user.window) == []
    user.do("theme")
    try:
        assert faults(user.window) == []
    finally:
        apply_theme(qapp, "light")


def test_nor_at_twice_the_scale():
    env = os.environ | {"QT_SCALE_FACTOR": "2", "QT_QPA_PLATFORM": "offscreen"}
    run = subprocess.run(
        [sys.executable, "-m", "tests.app.fit"], env=env, capture_output=True, text=True, cwd=Path(__file__).parents[2]
    )
    assert (run.returncode, run.stdout.strip()) == (0, "")


def test_the_measure_finds_what_is_cut(user):
    user.session.set(stage="levels")
    user.session.select(pipes=frozenset(list(user.project.pipes)[:1]))
    user.settle()
    row = user.window.side.panel.rows["invert_up"]
    row.name.setText("a name that is far too long for the room that there is")
    assert any("far too long" in c for c in cut(user.window.side.widget()))
