"""The window. The core is imported before Qt: once loaded, PySide6 reads the source of every module that comes after."""

import zumbert.analysis.quantities
import zumbert.checks
import zumbert.drawing.groundplan
import zumbert.drawing.longsection
import zumbert.drawing.plan
import zumbert.drawing.roadhandles
import zumbert.edits.change
import zumbert.edits.lay
import zumbert.edits.placesnaps
import zumbert.edits.roads
import zumbert.edits.snaps
import zumbert.edits.things
import zumbert.edits.typed  # noqa: F401
