"""Projects opened lately, each with a small picture of its plan."""

import json
import os
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import NamedTuple

from platformdirs import user_state_path

MOST = 9


class Recent(NamedTuple):
    """One project file that was open lately."""

    path: Path
    name: str
    at: float  # seconds since 1970: when it was saved or opened

    @property
    def picture(self) -> Path:
        """Where its picture is, if there is one."""
        return _folder() / f"{sha256(str(self.path).encode()).hexdigest()[:24]}.png"


def _folder() -> Path:
    out = user_state_path("zumbert") / "recent"
    out.mkdir(parents=True, exist_ok=True)
    return out


def recents() -> list[Recent]:
    """The newest first; files that are gone are left out."""
    try:
        rows = json.loads((_folder() / "recent.json").read_text(encoding="utf-8"))
        found = [Recent(Path(r["path"]), str(r["name"]), float(r["at"])) for r in rows]
    except (OSError, ValueError, KeyError, TypeError):
        return []
    return [r for r in found if r.path.exists()]


def remember(recent: Recent) -> None:
    """Puts a project first in the list; where that cannot be written nothing is lost."""
    rest = [r for r in recents() if r.path != recent.path]
    rows = [{"path": str(r.path), "name": r.name, "at": r.at} for r in [recent, *rest][:MOST]]
    with suppress(OSError):
        temporary = _folder() / f"recent-{os.getpid()}.tmp"
        temporary.write_text(json.dumps(rows, indent=1), encoding="utf-8")
        os.replace(temporary, _folder() / "recent.json")
