"""Every panel holds what it shows, at 100 and 200 per cent; the themes differ in their colours
alone.
"""

import os
import re
import subprocess
import sys
from pathlib import Path

from tests.app.fit import cut, faults
from zumbert.app.theme import apply_theme


def test_no_panel_cuts_what_it_shows(user):
    assert faults(user.window) == []


def test_the_themes_take_the_same_room(qapp):
    told = []
    for theme in ("dark", "light"):
        apply_theme(qapp, theme)
        told.append((re.sub(r"#[0-9a-fA-F]+\b|rgba?\([^)]*\)", "", qapp.styleSheet()), qapp.font()))
    assert told[0] == told[1]


def test_nor_at_twice_the_scale():
    env = os.environ | {"QT_SCALE_FACTOR": "2", "QT_QPA_PLATFORM": "offscreen"}
    run = subprocess.run(
        [sys.executable, "-m", "tests.app.fit"],
        env=env,
        capture_output=True,
        text=True,
        cwd=Path(__file__).parents[2],
    )
    assert (run.returncode, run.stdout.strip()) == (0, "")


def test_the_measure_finds_what_is_cut(user):
    user.session.to_stage("levels")
    user.session.select(pipes=frozenset(list(user.project.pipes)[:1]))
    user.settle()
    row = user.window.side.panel.rows["invert_up"]
    row.name.setText("a name that is far too long for the room that there is")
    assert any("far too long" in c for c in cut(user.window.side.widget()))
