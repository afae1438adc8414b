"""The demo in a window, ready for a test, and what follows from the demo: worked out once, since
values never change.
"""

import gc
import pkgutil
import threading
from functools import cache, partial
from importlib import import_module
from tempfile import mkdtemp

from PySide6.QtCore import QEvent

import zumbert.app
from tests.home import at_home
from zumbert.analysis.quantities import full_quantities
from zumbert.analysis.trench import trenches
from zumbert.app import session as sessions
from zumbert.app.main import application
from zumbert.app.theme import apply_theme
from zumbert.app.value import value
from zumbert.app.window import Window
from zumbert.delivery import job
from zumbert.demo.project import demo_project
from zumbert.edits.levels import shift_pipe

DEMO = demo_project()
DEMO_VALUE = value(DEMO)
kept: list[Window] = []  # one that nobody has touched, in the process that is copied for each test


@cache
def demo_dug():
    """The trenches of the demo."""
    return trenches(DEMO_VALUE.facts)


@cache
def demo_counted():
    """The quantities of the demo."""
    return full_quantities(demo_dug())


def known_value(project, *before):
    """As `value`; that of the demo is known."""
    return DEMO_VALUE if project is DEMO and not before else value(project, *before)


def known_trenches(facts, *more):
    """As `trenches`; those of the demo are known."""
    return demo_dug() if facts is DEMO_VALUE.facts else trenches(facts, *more)


def known_quantities(dug, *more, **named):
    """As `full_quantities`; those of the demo are known."""
    return (
        demo_counted()
        if dug is demo_dug() and not more and named.keys() <= {"tell"}
        else full_quantities(dug, *more, **named)
    )


def prepare(folder):
    """Makes the application, every module that a window may need, and a window; its settings are
    in a folder.
    """
    apply_theme(application(), "light")
    for module in pkgutil.walk_packages(zumbert.app.__path__, "zumbert.app."):
        import_module(module.name)
    at_home(mkdtemp(dir=folder), mkdtemp(dir=folder))
    demo_counted()
    sessions.value, sessions.trenches, job.full_quantities = (
        known_value,
        known_trenches,
        known_quantities,
    )
    warm()
    kept.append(shown())
    look_through(kept[0])
    settled()


def look_through(window):
    """Selects a pipe, a structure and nothing again: the panels that a window keeps are there.
    It has the keyboard as before.
    """
    for pipes, structures in (
        ({list(DEMO.pipes)[4]}, ()),
        ((), {list(DEMO.structures)[4]}),
        ((), ()),
    ):
        window.session.select(frozenset(pipes), frozenset(structures))
        paint(window)
    window.activateWindow()
    window.section.setFocus()
    paint(window)


def warm():
    """Does in a window of its own what most tests do, so that no copy does it for the first
    time; the window goes.
    """
    window, session = shown(), None
    session = window.session
    window.files.may_leave = lambda: True
    pipe, structure = list(DEMO.pipes)[4], list(DEMO.structures)[4]
    for _ in range(2):
        for pipes, structures in (({pipe}, ()), ((), {structure}), ({pipe}, {structure})):
            session.select(frozenset(pipes), frozenset(structures))
            window.section.fit_pipe(pipe)
            paint(window)
            session.preview(shift_pipe(DEMO, pipe, 0.1))
            paint(window)
            session.apply("Shift", shift_pipe(DEMO, pipe, 0.1))
            paint(window)
            session.undo()
            paint(window)
    window.close()
    window.deleteLater()
    application().sendPostedEvents(None, QEvent.Type.DeferredDelete)


def go_stage(stage):
    """The window that is kept, in a stage."""
    if kept[0].session.state.look.stage.id != stage:
        kept[0].rail.buttons[stage].click()
        paint(kept[0])
        if stage == "trench":
            while kept[0].session.state.dug.sectioned is None or threading.active_count() > 1:
                application().processEvents()  # net volumes are worked out on a thread
            paint(kept[0])
        settled()


def settled():
    """All that is there stays, and nothing is under way: a thread would be missing in the
    copies.
    """
    gc.collect()
    gc.freeze()
    assert threading.active_count() == 1


# the fixture of each has its name
STEPS = {stage: partial(go_stage, stage) for stage in ("deliver", "flow", "checks", "trench")}


def shown():
    """A window with the demo, painted."""
    window = Window(DEMO)
    window.show()
    paint(window)
    return window


def paint(window):
    """What is to be painted is, and what that asks for is done."""
    application().processEvents()
    application().processEvents()
