"""The lock of a project file: tells others who has it open. The system releases it when its
holder ends, even by a kill.
"""

import fcntl
import getpass
import json
import os
import socket
import time
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple


class Holder(NamedTuple):
    """Who has a file open, and since when (seconds since 1970)."""

    user: str
    host: str
    since: float

    @property
    def words(self) -> str:
        """In words: anna on desk3 since 14:32."""
        return (
            f"{self.user} on {self.host} since {time.strftime('%H:%M', time.localtime(self.since))}"
        )


class FileLock:
    """The lock beside a project file; held while this object lives and `release` was not called."""

    def __init__(self, path: str | os.PathLike[str]) -> None:
        real = Path(os.path.realpath(path))
        self.path = real.with_name(f".{real.name}.lock")
        self._fd: int | None = None

    def take(self) -> Holder | None:
        """Takes the lock; gives its holder where another has it. A folder that takes no lock file
        locks nothing.

        The lock file of another user may not let itself be written, or read: it is a lock all the
        same.
        """
        while True:
            try:
                fd = self._opened()
            except OSError:
                return _stranger(self.path) if self.path.exists() else None
            try:
                fcntl.flock(fd, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                holder = _read(fd)
                os.close(fd)
                return holder
            if self._still_there(fd):
                break
            # its holder let go of it between our two calls: the name is another file now
            os.close(fd)
        own = json.dumps({"user": _user(), "host": socket.gethostname(), "since": time.time()})
        # one that another user left: it is locked, and names its former holder
        with suppress(OSError):
            os.ftruncate(fd, 0)
            os.pwrite(fd, own.encode(), 0)
        self._fd = fd
        return None

    def _opened(self) -> int:
        try:
            fd = os.open(self.path, os.O_RDWR | os.O_CREAT, 0o666)
        except PermissionError:
            return os.open(self.path, os.O_RDONLY)
        with suppress(OSError):
            # whatever the mask says: others must be able to lock it when it is left
            os.fchmod(fd, 0o666)
        return fd

    def _still_there(self, fd: int) -> bool:
        try:
            return os.fstat(fd).st_ino == os.stat(self.path).st_ino
        except OSError:
            return False

    def release(self) -> None:
        """Lets the file go."""
        if self._fd is None:
            return
        with suppress(OSError):
            os.unlink(self.path)
        os.close(self._fd)
        self._fd = None


def is_free(path: str | os.PathLike[str]) -> bool:
    """Whether nobody has a file open now."""
    lock = FileLock(path)
    if lock.take() is not None:
        return False
    lock.release()
    return True


def _stranger(path: Path) -> Holder:
    """The holder of a lock that cannot be read: the owner of the file, where the system names
    one.
    """
    try:
        return Holder(path.owner(), socket.gethostname(), path.stat().st_mtime)
    except (OSError, KeyError):
        return Holder("another user", socket.gethostname(), time.time())


def _user() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return "somebody"


def _read(fd: int) -> Holder:
    try:
        data = json.loads(os.pread(fd, 4096, 0))
        return Holder(str(data["user"]), str(data["host"]), float(data["since"]))
    except (ValueError, KeyError, TypeError):
        return Holder("somebody", "this machine", time.time())
