"""The commands of the stage Ground beyond a single edit: tools and files."""

from pathlib import Path

import numpy as np
from PySide6.QtWidgets import QWidget

from zumbert.analysis.surfaces import levels
from zumbert.app.bars.foot import Foot
from zumbert.app.exchanging import Exchange
from zumbert.app.questions import file_to_read, file_to_write
from zumbert.app.told import told
from zumbert.app.toolbox import Toolbox
from zumbert.edits.ground import read_again as with_fresh
from zumbert.edits.notes import attach as with_file
from zumbert.edits.roads import add_profile
from zumbert.geometry.profile import Pvi
from zumbert.model.ids import AttachmentId, BackgroundId, RoadId


class GroundActs:
    """The actions of the panels of the stage Ground."""

    def __init__(self, window: QWidget, exchange: Exchange, toolbox: Toolbox, foot: Foot) -> None:
        self.window, self.exchange, self.files, self.foot = window, exchange, exchange.files, foot
        self.session, self.work, self.section = exchange.session, exchange.work, toolbox.section
        self.take = toolbox.take  # takes a tool in hand by its name
        self.import_files = exchange.import_dialog

    def new_profile(self) -> None:
        """A copy of the profile in force, to be changed and then chosen; the first lies over the
        existing ground at both ends.
        """
        item = self.session.state.chosen.item
        if item is None or item.kind != "road":
            return
        current = self.session.state.current
        r = current.facts.roads[RoadId(item.id)]
        if r.road.design is not None:
            now = r.road.profiles[r.road.design]
            name = next(
                n
                for i in range(2, 1000)
                if (n := f"{now.name} {i}") not in {p.name for p in r.road.profiles}
            )
            self.session.edit(
                f"Copy a profile of {r.road.name}",
                lambda p, f: add_profile(p, r.road.id, name, now.pvis),
            )
            return
        ends = np.array([r.alignment.start, r.alignment.end])
        z = levels(current.facts.surfaces.existing, *r.alignment.point(ends))
        known = z[~np.isnan(z)]
        z = np.where(np.isnan(z), known[0] if len(known) else 0.0, z)
        pvis = [Pvi(float(ch), round(float(v), 3)) for ch, v in zip(ends, z, strict=True)]
        name = f"Profile {len(r.road.profiles) + 1}"
        self.session.edit(
            f"Make a profile of {r.road.name}", lambda p, f: add_profile(p, r.road.id, name, pvis)
        )
        self.section.fit()

    def structures_from(self) -> None:
        """Structures of the circles, points and blocks of the selected drawing, else of the
        first that has any.
        """
        from zumbert.app.stages.ground.placesdialog import PlacesDialog

        project, item = self.session.state.current.project, self.session.state.chosen.item
        own = item.id if item is not None and item.kind == "background" else None
        found = [b for k, b in project.backgrounds.items() if b.places and own in (None, k)]
        if not found:
            self.session.refused.emit(
                "No drawing here has circles, points or blocks: import a DXF that has."
            )
            return
        PlacesDialog(self.window, self.session, self.exchange.pen, found[0]).open()

    # -- drawings ----------------------------------------------------------------------------------

    @told(None)
    def read_again(self) -> None:
        """Reads the selected drawing's file as it is now."""
        item = self.session.state.chosen.item
        if item is None or item.kind != "background":
            return
        from zumbert.exchange.taking.drawings import drawing_again

        old = self.session.state.current.project.backgrounds[BackgroundId(item.id)]
        fresh = self.work.run(f"Reading {old.name}", lambda tell: drawing_again(old, tell))
        if fresh is not None:
            self.session.edit(f"Read {old.name} again", lambda p, f: with_fresh(p, old.id, fresh))
            self.look_for_changes()

    def look_for_changes(self) -> None:
        """Checks which drawings' files have changed since they were read, and says so once."""
        from zumbert.exchange.taking.drawings import is_stale

        before = self.session.state.file.stale
        drawings = self.session.state.current.project.backgrounds
        stale = frozenset(k for k, b in drawings.items() if is_stale(b))
        if stale != before:
            self.session.set(stale=stale)
        fresh = [drawings[k].name for k in stale - before]
        if fresh:
            self.foot.say(
                f"The file of {', '.join(fresh)} has changed: read it again in the stage Ground."
            )

    # -- files -------------------------------------------------------------------------------------

    def attach(self) -> None:
        """Keeps a file inside the project."""
        self._ask_for_file(inside=True)

    def link(self) -> None:
        """Links a file."""
        self._ask_for_file(inside=False)

    def _ask_for_file(self, inside: bool) -> None:
        path = file_to_read(self.window, "Attach a file", self.files.folder())
        if path is not None:
            self.attach_file(path, inside)

    def attach_file(self, path: Path, inside: bool) -> bool:
        """Attaches a file: kept inside the project, or linked."""
        try:
            data = path.read_bytes() if inside else None
        except OSError as e:
            self.session.refused.emit(
                f"{path} could not be read: {e.strerror or e}. Check the name."
            )
            return False
        where = None if inside else str(path)
        return self.session.edit(
            f"Attach {path.name}", lambda p, f: with_file(p, path.name, data, where)
        )

    def file_copy(self) -> None:
        """Asks where a copy of the selected file goes, and writes it."""
        item = self.session.state.chosen.item
        if item is None or item.kind != "attachment":
            return
        a = self.session.state.current.project.attachments[AttachmentId(item.id)]
        path = file_to_write(self.window, "Save a copy", self.files.folder(), a.name)
        if path is not None:
            self.copy_file(AttachmentId(item.id), path)

    def copy_file(self, key: AttachmentId, to: Path) -> bool:
        """Writes an attached file to a path; a refusal is told."""
        a = self.session.state.current.project.attachments[key]
        try:
            data = a.data if a.data is not None else Path(a.path or "").read_bytes()
            to.write_bytes(data)
        except OSError as e:
            self.session.refused.emit(
                f"{a.name} could not be written: {e.strerror or e}. Choose another folder."
            )
            return False
        self.foot.say(f"Written: {to}")
        return True
