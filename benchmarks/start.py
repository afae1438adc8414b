"""The first window against a bare PySide6 and NumPy window: from the start of a process until it
is painted.
"""

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from statistics import median

from benchmarks.measure import Figure

BARE = """
import numpy
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
w = QMainWindow(); w.resize(1280, 800); w.show(); app.processEvents(); w.grab()
import time; print(time.time())
"""
OURS = """
from zumbert.app.main import application
from zumbert.app.theme import apply_theme
from zumbert.app.window import Window
from zumbert.model.project import new_project
app = application(); apply_theme(app, "light")
w = Window(new_project("bench")); w.show(); app.processEvents(); w.grab()
import time; print(time.time())
"""
DEMO = OURS.replace(
    "from zumbert.model.project import new_project", "from zumbert.demo.project import demo_project"
).replace('new_project("bench")', "demo_project()")


def _seconds(code: str, home: str) -> float:
    env = {
        **os.environ,
        "QT_QPA_PLATFORM": "offscreen",
        "XDG_CONFIG_HOME": home,
        "XDG_STATE_HOME": home,
    }
    env.pop("PYTHONDONTWRITEBYTECODE", None)  # an installed program has its bytecode
    begun = time.time()
    done = subprocess.run(
        [sys.executable, "-c", code],
        env=env,
        check=True,
        stderr=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
    )
    return float(done.stdout) - begun


def start() -> Iterator[Figure]:
    with tempfile.TemporaryDirectory() as home:
        spent = {name: [] for name in ("bare", "ours", "demo")}
        for _ in range(8):
            for name, code in (("bare", BARE), ("ours", OURS), ("demo", DEMO)):
                spent[name].append(_seconds(code, home) * 1000)
    for name, title, goal in (
        ("ours", "first window against a bare one", 2.0),
        ("demo", "  with the demo project in it (to know)", 9.0),
    ):
        # the ratio of neighbours in time, so that a busy moment of the machine counts on both sides
        ratio = median(a / b for a, b in zip(spent[name][1:], spent["bare"][1:], strict=True))
        yield Figure(title, median(spent[name][1:]), median(spent["bare"][1:]), ratio, goal)
