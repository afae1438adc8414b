"""The window. The core is imported before Qt: once loaded, PySide6 reads the source of every module that comes after.

The window makes tens of thousands of objects that last. Looked through after every 700, as is usual, they cost a sixth of
its start, and now and then a frame of a drag; the values that an edit makes hold no circles.
"""

import gc

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

gc.set_threshold(50_000, 20, 20)
