"""Starts the window."""

import gc
import os
import sys
from pathlib import Path

from PySide6.QtWidgets import QApplication

from zumbert.app.faults import Faults
from zumbert.app.theme import apply_theme, load_fonts
from zumbert.app.window import Window
from zumbert.errors import ZumbertError
from zumbert.model.project import Project, new_project


def application() -> QApplication:
    """The one application, with the shipped face loaded.

    The window makes tens of thousands of objects that last. Looked through after every 700, as is
    usual, they cost a sixth of its start, and now and then a frame of a drag; the values that an
    edit makes hold no circles.
    """
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication([*sys.argv[:1], "-style", "fusion"])
        app.setApplicationName("Zumbert")
        load_fonts()
        gc.freeze()
        gc.set_threshold(50_000, 20, 20)
    return app


def main(file: Path | None, demo: bool = False) -> int:
    """Opens the window with a file, the demo, or an empty project; gives the exit status."""
    named = os.environ.get("QT_QPA_PLATFORM")
    if not named and not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        print(
            "There is no display for a window: zumbert example does the whole job without one.",
            file=sys.stderr,
        )
        return 2
    try:
        project = _project(file, demo)
    except ZumbertError as e:
        print(e, file=sys.stderr)
        return 2
    app = application()
    apply_theme(app, "light")
    window = Window(project if file is None else new_project("New project"))
    Faults(window).begin()
    window.show()
    if file is not None:
        window.files.open_file(file, project)
    elif not demo:
        window.files.show_welcome()
    return app.exec()


def _project(file: Path | None, demo: bool) -> Project:
    if file is not None:
        from zumbert.store import load

        return load(file)
    if demo:
        from zumbert.demo.project import demo_project

        return demo_project()
    return new_project("New project")
