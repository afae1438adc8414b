"""Tests that run apart are reported as they went, whatever becomes of their process."""

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
CASES = """
import os, pytest

def test_passes(tmp_path):
    assert tmp_path.is_dir()

def test_fails():
    assert 1 == 2, "one is not two"

@pytest.fixture
def torn():
    yield
    assert False, "torn down badly"

def test_its_end_fails(torn):
    pass

def test_dies():
    os.kill(os.getpid(), 9)

@pytest.fixture
def further():
    pass

def test_begins_further(further):
    assert os.environ["STEP"] == "taken"

def test_nothing_is_left_of_others():
    assert "STEP" not in os.environ
"""
PLUGIN = """
import os
from tests.apart import Apart

apart = []

def pytest_collection_finish(session):
    session.config._tmp_path_factory.getbasetemp()
    further = {"further": lambda: os.environ.update(STEP="taken")}
    apart.append(Apart(session.items, lambda: None, further))

def pytest_runtest_protocol(item):
    apart[0].run(item)
    return True
"""


def test_what_became_of_each_is_told(tmp_path):
    (tmp_path / "test_cases.py").write_text(CASES)
    (tmp_path / "conftest.py").write_text(PLUGIN)
    command = [
        sys.executable,
        "-m",
        "pytest",
        "-p",
        "no:cacheprovider",
        "-n",
        "0",
        "-rA",
        "-c",
        os.devnull,
    ]
    command += ["--rootdir", str(tmp_path)]
    run = subprocess.run([*command, str(tmp_path)], cwd=ROOT, capture_output=True, text=True)
    told = [line.split(" - ")[0] for line in run.stdout.splitlines() if "::test_" in line]
    assert run.returncode == 1, run.stdout
    for word, name in (
        ("PASSED", "passes"),
        ("FAILED", "fails"),
        ("ERROR", "its_end_fails"),
        ("FAILED", "dies"),
        ("PASSED", "begins_further"),
        ("PASSED", "nothing_is_left_of_others"),
    ):
        assert any(line.startswith(word) and line.endswith(f"::test_{name}") for line in told), (
            name,
            run.stdout,
        )
    assert (
        "one is not two" in run.stdout
        and "torn down badly" in run.stdout
        and "SIGKILL" in run.stdout
    )
