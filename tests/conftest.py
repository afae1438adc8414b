"""Shared set-up: nothing of the user's is read or written; hypothesis is deterministic."""

import pytest
from hypothesis import HealthCheck, settings
from PySide6.QtCore import QSettings

from tests.amount import times

settings.register_profile(
    "zumbert", deadline=None, derandomize=True, max_examples=times(60), suppress_health_check=[HealthCheck.function_scoped_fixture]
)
settings.load_profile("zumbert")


@pytest.fixture(autouse=True)
def own_home(tmp_path_factory, monkeypatch):
    home = str(tmp_path_factory.mktemp("config"))
    monkeypatch.setenv("XDG_CONFIG_HOME", home)
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, home)  # Qt reads the variable once only
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path_factory.mktemp("state")))


def pytest_addoption(parser):
    group = parser.getgroup("desk")
    group.addoption("--monkey-seconds", type=float, help="how long the monkey is at the desk")
    group.addoption("--monkey-seed", type=int, default=20, help="what the monkey does; a failure names it")
    group.addoption("--monkey-events", help="play the events of a failure again, from its file")
