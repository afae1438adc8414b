"""Where settings and recovery files are: nothing of the user's is read or written."""

import os

from PySide6.QtCore import QSettings


def at_home(config, state):
    """From now on they are in these folders."""
    os.environ["XDG_CONFIG_HOME"], os.environ["XDG_STATE_HOME"] = config, state
    # Qt reads the variable once only
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, config)
