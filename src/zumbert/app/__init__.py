"""The window.

PySide6 puts an import of its own in place, which reads the source of every module that is imported
after it to learn how that one spells the names of Qt. All here spell them the usual way, and the
usual import starts the window 25 ms sooner.

What the imports make lasts and is never looked through for circles; `application` starts that for
what comes after them.
"""

import builtins
import gc

gc.set_threshold(1_000_000)

import PySide6.QtCore  # noqa: F401 - puts its import in place

builtins.__import__ = getattr(builtins, "__orig_import__", builtins.__import__)
