"""The first window against a bare PySide6 and NumPy window, each in a process of its own."""

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
"""
OURS = """
from zumbert.app.main import application
from zumbert.app.theme import apply_theme
from zumbert.app.window import Window
from zumbert.model.project import new_project
app = application(); apply_theme(app, "light")
w = Window(new_project("bench")); w.show(); app.processEvents(); w.grab()
"""
DEMO = OURS.replace(
    "from zumbert.model.project import new_project", "from zumbert.demo.project import demo_project"
).replace('new_project("bench")', "demo_project()")


def _seconds(code: str, home: str) -> float:
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": home}
    env.pop("PYTHONDONTWRITEBYTECODE", None)  # an installed program has its bytecode
    t = time.perf_counter()
    subprocess.run([sys.executable, "-c", code], env=env, check=True, stderr=subprocess.DEVNULL)
    return time.perf_counter() - t


def start() -> Iterator[Figure]:
    with tempfile.TemporaryDirectory() as home:
        spent = {name: [] for name in ("bare", "ours", "demo")}
        for _ in range(6):
            for name, code in (("bare", BARE), ("ours", OURS), ("demo", DEMO)):
                spent[name].append(_seconds(code, home) * 1000)
    bare, ours, demo = (median(spent[n][1:]) for n in ("bare", "ours", "demo"))
    yield Figure("first window against a bare one", ours, bare, ours / bare, 2.0)
    yield Figure("  with the demo project in it (to know)", demo, bare, demo / bare, 9.0)
