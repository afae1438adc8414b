"""The values that a window hands on to the next session: an entry each in `PREFERENCES`."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

from PySide6.QtCore import QByteArray, QSettings


class Preference(NamedTuple):
    """A value that is remembered: read off a window (None: it has none now), and put into one if
    it is sound.
    """

    of: Callable[[Any], Any]
    put: Callable[[Any, Any], None]
    sound: Callable[[Any], bool]


PREFERENCES: dict[str, Preference] = {
    "theme": Preference(
        lambda w: w.pen.theme,
        lambda w, theme: w.wear(theme),
        lambda theme: theme in ("light", "dark"),
    ),
    "splitter": Preference(
        lambda w: w.centre.saveState() if w.centre.covering is None else None,
        lambda w, state: w.centre.restoreState(state),
        lambda state: isinstance(state, QByteArray),
    ),
    "folder": Preference(
        lambda w: w.files.last,
        lambda w, folder: setattr(w.files, "last", folder),
        lambda folder: isinstance(folder, str) and Path(folder).is_dir(),
    ),
}


def remembered() -> QSettings:
    """Where it is kept: a file of the person who is logged in."""
    return QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, "zumbert", "window")


def remember(window: Any, *keys: str) -> None:
    """Keeps what a window has now: some of it, or all."""
    kept = remembered()
    for key in keys or PREFERENCES:
        value = PREFERENCES[key].of(window)
        if value is not None:
            kept.setValue(key, value)


def recall(window: Any) -> None:
    """Puts what is kept into a window; what is not sound stays as it is."""
    kept = remembered()
    for key, preference in PREFERENCES.items():
        value = kept.value(key)
        if preference.sound(value):
            preference.put(window, value)
