"""The window. The core is imported before Qt: once loaded, PySide6 reads the source of every module that comes after."""

import zumbert.analysis.quantities
import zumbert.checks
import zumbert.drawing.longsection
import zumbert.drawing.plan
import zumbert.edits.lay
import zumbert.edits.snaps
import zumbert.edits.typed
import zumbert.store  # noqa: F401
