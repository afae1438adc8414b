"""A screen for all desk tests, a program for each; a failure leaves a picture and what the hands
did.
"""

import json
import tempfile
from pathlib import Path

import pytest

from tests.desk.desk import Desk
from tests.desk.screen import Screen

LEFT = Path("desk-failures")


@pytest.fixture(scope="session")
def screen():
    made = Screen()
    yield made
    made.end()


@pytest.fixture
def desks(screen, request):
    """Starts programs that share one home: `desks("demo")`."""
    made = []
    # short: so must be the path of a socket
    with tempfile.TemporaryDirectory(prefix="desk") as home:

        def start(*arguments):
            desk = Desk(screen, Path(home), *arguments)
            made.append(desk)
            return desk

        yield start
        failed = getattr(request.node, "failed", False)
        if failed and made:
            LEFT.mkdir(exist_ok=True)
            name = LEFT / request.node.name.replace("/", "-")
            screen.picture(name.with_suffix(".png"))
            rows = "\n".join(json.dumps(e) for d in made for e in d.events)
            name.with_suffix(".events").write_text(rows + "\n")
        screen.hands_off()
        errors = [d.end() for d in made]
    if not failed:
        bad = [
            e
            for d, e in zip(made, errors, strict=True)
            if ("Traceback" in e and not d.faulty) or "Fatal" in e
        ]
        assert not bad, "\n".join(bad)


@pytest.fixture
def desk(desks):
    """The program with the demo."""
    return desks("demo")


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item, call):
    report = (yield).get_result()
    if report.when == "call":
        item.failed = report.failed
