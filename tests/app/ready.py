"""The demo in a window, ready for a test, and what follows from the demo: worked out once, since values never change."""

import gc
import pkgutil
from functools import cache
from importlib import import_module

import zumbert.app
from zumbert.analysis.quantities import full_quantities
from zumbert.analysis.trench import trenches
from zumbert.app import session as sessions
from zumbert.app.main import application
from zumbert.app.theme import apply_theme
from zumbert.app.value import value
from zumbert.app.window import Window
from zumbert.demo.project import demo_project

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
    return demo_counted() if dug is demo_dug() and not more and named.keys() <= {"tell"} else full_quantities(dug, *more, **named)


def prepare():
    """Makes the application, every module that a window may need, and a window."""
    apply_theme(application(), "light")
    for module in pkgutil.walk_packages(zumbert.app.__path__, "zumbert.app."):
        import_module(module.name)
    demo_counted()
    sessions.value = known_value
    kept.append(shown())
    sessions.value = value
    gc.collect()
    gc.freeze()


def shown():
    """A window with the demo, painted."""
    window = Window(DEMO)
    window.show()
    paint(window)
    return window


def paint(window):
    """Both drawings are painted, and what they ask for in doing so is done."""
    application().processEvents()
    window.plan.grab()
    window.section.grab()
    application().processEvents()
