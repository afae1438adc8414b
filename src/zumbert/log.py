"""The log: faults of the program itself, each with its version and the last actions, in a file of
the state folder.

Everything is written through the logger "zumbert" of the standard library: an action as INFO, a
fault as ERROR. Actions are kept in memory, and written in front of the fault that follows them.
"""

import logging
import platform
import sys
import traceback
from collections import deque
from contextlib import closing, suppress
from logging.handlers import RotatingFileHandler
from pathlib import Path

from platformdirs import user_state_path

from zumbert import __version__

ACTIONS = 50  # that are kept
LARGEST = 1_000_000  # bytes of the file; then it is put aside and a new one begun
ASIDE = 3  # files that are put aside

logger = logging.getLogger("zumbert")


def log_file() -> Path:
    """Where the log is; there may be none yet."""
    return user_state_path("zumbert") / "zumbert.log"


class FaultLog(logging.Handler):
    """Keeps the last actions, and writes each fault with them to the log file."""

    def __init__(self) -> None:
        super().__init__(logging.INFO)
        self.actions: deque[str] = deque(maxlen=ACTIONS)
        self.last = ""  # the fault that was written last, as it stands in the file

    def emit(self, record: logging.LogRecord) -> None:
        """Keeps an action, or writes a fault. A file that cannot be written is reported on
        standard error.
        """
        if record.levelno < logging.ERROR:
            self.actions.append(f"{self._time(record)}  {record.getMessage()}")
            return
        self.last = record.msg = self._entry(record)
        record.args, record.exc_info = None, None
        try:
            file = log_file()
            file.parent.mkdir(parents=True, exist_ok=True)
            with closing(
                RotatingFileHandler(file, maxBytes=LARGEST, backupCount=ASIDE, encoding="utf-8")
            ) as out:
                out.emit(record)
        except OSError as e:
            with suppress(Exception):  # a window without a terminal has nowhere to report to
                print(f"The log cannot be written: {e}", file=sys.stderr)

    def _entry(self, record: logging.LogRecord) -> str:
        system = f"Zumbert {__version__}, Python {platform.python_version()}, {platform.platform()}"
        error = record.exc_info[1] if record.exc_info else None
        trace = "".join(traceback.format_exception(error)) if error is not None else ""
        actions = "\n".join(f"  {a}" for a in self.actions) or "  none"
        day = logging.Formatter().formatTime(record, "%Y-%m-%d")
        return (
            f"{day} {self._time(record)}  {record.getMessage()}\n{system}\n{trace}Last "
            f"actions:\n{actions}\n"
        )

    @staticmethod
    def _time(record: logging.LogRecord) -> str:
        return logging.Formatter().formatTime(record, "%H:%M:%S")


def begin_log() -> FaultLog:
    """The handler that writes the log, set up when it is first asked for."""
    found = next((h for h in logger.handlers if isinstance(h, FaultLog)), None)
    if found is None:
        found = FaultLog()
        logger.addHandler(found)
        logger.setLevel(logging.INFO)
        logger.propagate = False
    return found


def log_text() -> str:
    """The text of the log; empty where there is none."""
    try:
        return log_file().read_text(encoding="utf-8", errors="replace")
    except OSError:
        return ""
