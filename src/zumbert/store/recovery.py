"""Recovery after a crash: the current value of each running window, offered again when the
window did not close normally.
"""

import json
import os
import time
import uuid
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple

from platformdirs import user_state_path

from zumbert.model.project import Project
from zumbert.store.file import load, save
from zumbert.store.lock import FileLock


def folder() -> Path:
    """Where recovery files live; made if it is not there."""
    out = user_state_path("zumbert") / "recovery"
    out.mkdir(parents=True, exist_ok=True)
    return out


class Kept(NamedTuple):
    """Work of a window that is no longer there."""

    file: Path  # the kept value, a project file
    name: str
    path: Path | None  # the file that it was opened from
    at: float  # seconds since 1970

    def load(self) -> Project:
        """The kept value. Raises StoreError where it is broken."""
        return load(self.file)

    def forget(self) -> None:
        """Deletes it for good."""
        _remove(self.file)


class Recovery:
    """The recovery file of one window. Its lock tells others that the window is alive."""

    def __init__(self) -> None:
        self.file = folder() / f"{uuid.uuid4().hex}.zumbert"
        self._lock = FileLock(self.file)
        self._lock.take()

    def keep(self, project: Project, path: Path | None) -> None:
        """Writes the current value. Raises StoreError where it cannot be written."""
        save(project, self.file, backup=False)
        about = {
            "name": project.name,
            "path": os.path.abspath(path) if path else None,
            "at": time.time(),
        }
        temporary = self.file.with_suffix(".tmp")
        temporary.write_text(json.dumps(about), encoding="utf-8")
        os.replace(temporary, self.file.with_suffix(".json"))

    def clear(self) -> None:
        """Removes the recovery copy: the work was saved or dropped."""
        _remove(self.file)

    def end(self) -> None:
        """The window closed normally: removes its recovery files."""
        self.clear()
        self._lock.release()


def _remove(file: Path) -> None:
    for name in (file, file.with_suffix(".json"), file.with_suffix(".tmp")):
        with suppress(OSError):
            name.unlink()


def left_behind() -> list[Kept]:
    """Work of windows that ended without closing, the newest first. Those of living windows are
    not told.
    """
    out = []
    for about in sorted(folder().glob("*.json")):
        file = about.with_suffix(".zumbert")
        lock = FileLock(file)
        if lock.take() is not None:
            continue
        lock.release()
        try:
            data = json.loads(about.read_text(encoding="utf-8"))
            path = Path(data["path"]) if data["path"] else None
            if file.exists():
                out.append(Kept(file, str(data["name"]), path, float(data["at"])))
        except (OSError, ValueError, KeyError, TypeError):
            continue
    return sorted(out, key=lambda k: -k.at)
