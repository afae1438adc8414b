"""Shared set-up: nothing of the user's is read or written; hypothesis is deterministic; no
worker grows for ever.
"""

import ctypes
import gc
import os
import sys
from functools import partial
from pathlib import Path
from tempfile import mkdtemp

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["QT_NO_GUI_THREADPOOL"] = "1"  # a process with threads is not to be copied

import pytest
from hypothesis import HealthCheck, settings

from tests.amount import times
from tests.apart import Apart
from tests.app.ready import STEPS, prepare
from tests.home import at_home
from zumbert.app.main import application
from zumbert.app.theme import apply_theme

settings.register_profile(
    "zumbert",
    deadline=None,
    derandomize=True,
    max_examples=times(30, 600),
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
settings.load_profile("zumbert")


@pytest.fixture(scope="session")
def qapp():
    """The application as users start it, whichever test of a worker needs it first: Qt makes
    only one.
    """
    app = application()
    if not app.styleSheet():
        apply_theme(app, "light")
    return app


@pytest.fixture(autouse=True)
def own_home(tmp_path_factory):
    at_home(*(mkdtemp(dir=tmp_path_factory.getbasetemp()) for _ in range(2)))


GROWN = 100  # MB: having grown by so much, the process forgets what functions of the core remember
forgot = [300.0]  # MB that were left when it was forgotten


def megabytes():
    """What this process holds in memory."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 2**20


def caches():
    """What functions of the core remember of the values that they were last asked about."""
    made = [
        m
        for name, m in sys.modules.items()
        if name.startswith("zumbert.") and not name.startswith("zumbert.app.")
    ]
    found = {id(f): f for m in made for f in vars(m).values() if hasattr(f, "cache_clear")}
    return [f for f in found.values() if f.cache_parameters()["maxsize"] is not None]


@pytest.fixture(autouse=True)
def forgets():
    """A worker that has grown gives back what it can."""
    yield
    if megabytes() < forgot[-1] + GROWN:
        return
    gc.collect()
    if megabytes() > forgot[-1] + GROWN / 2:
        for cached in caches():
            cached.cache_clear()
        gc.collect()
        ctypes.CDLL(None).malloc_trim(0)
        forgot.append(megabytes())


apart: list[Apart] = []


def pytest_collection_finish(session):
    """What is there before the first test stays: no collection looks through it again. Tests of the
    window run apart, but where one is looked at in the debugger or traced.
    """
    gc.collect()
    gc.freeze()
    here = session.config.getoption("usepdb") or session.config.getoption("testmon", False)
    if not here and any(_is_apart(item) for item in session.items):
        # made before the copies are: each would empty it
        folder = session.config._tmp_path_factory.getbasetemp()
        apart.append(Apart(session.items, partial(prepare, folder), STEPS))


def _is_apart(item):
    return Path(__file__).parent / "app" in item.path.parents


def pytest_runtest_protocol(item):
    if not apart or not _is_apart(item):
        return None
    apart[0].run(item)
    return True


def pytest_sessionfinish():
    if apart:
        apart.pop().close()


def pytest_addoption(parser):
    group = parser.getgroup("desk")
    group.addoption("--monkey-seconds", type=float, help="how long the monkey is at the desk")
    group.addoption(
        "--monkey-seed", type=int, default=20, help="what the monkey does; a failure names it"
    )
    group.addoption("--monkey-events", help="play the events of a failure again, from its file")
