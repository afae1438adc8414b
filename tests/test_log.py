"""The log of faults: what stands in it, how much of it is kept, and what happens where it cannot
be written.
"""

import logging

import pytest

import zumbert
from zumbert import log
from zumbert.log import ACTIONS, ASIDE, FaultLog, begin_log, log_file, log_text


@pytest.fixture
def logger():
    made, handler = logging.Logger("test"), FaultLog()
    made.addHandler(handler)
    return made


def fail(logger, words="A drawing failed"):
    try:
        raise KeyError("area")
    except KeyError:
        logger.exception(words)


def test_a_fault_is_written_with_version_traceback_and_last_actions(logger):
    assert log_text() == ""
    for i in range(ACTIONS + 5):
        logger.info("action %d", i)
    assert not log_file().exists()  # an action alone writes nothing
    fail(logger)
    text = log_text()
    assert "A drawing failed" in text
    assert f"Zumbert {zumbert.__version__}, Python 3.11" in text
    assert 'raise KeyError("area")' in text
    assert text.count("action ") == ACTIONS
    assert "action 5\n" in text
    assert "action 4\n" not in text
    assert text.index("Traceback") < text.index("action 5\n")
    assert logger.handlers[0].last in text


def test_the_file_is_put_aside_when_it_is_large(logger, monkeypatch):
    monkeypatch.setattr(log, "LARGEST", 2000)
    for i in range(40):
        fail(logger, f"fault {i}")
    files = sorted(f.name for f in log_file().parent.iterdir())
    assert files == ["zumbert.log", *(f"zumbert.log.{i}" for i in range(1, ASIDE + 1))]
    assert all(f.stat().st_size <= 2000 for f in log_file().parent.iterdir())
    assert "fault 39" in log_text()


def test_a_log_that_cannot_be_written_is_reported_and_stops_nothing(logger, capsys):
    log_file().parent.parent.mkdir(parents=True, exist_ok=True)
    log_file().parent.write_text("a file in the place of the folder")
    fail(logger)
    assert "The log cannot be written" in capsys.readouterr().err
    assert "KeyError" in logger.handlers[0].last  # the details can be copied all the same


def test_it_begins_once():
    assert begin_log() is begin_log()
    assert begin_log().level == logging.INFO
