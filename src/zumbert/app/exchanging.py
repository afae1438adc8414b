"""What the window does with files of other kinds: imports, schedules read back, exports, and files dropped on it."""

from contextlib import suppress
from pathlib import Path

from PySide6.QtGui import QDragEnterEvent, QDropEvent

from zumbert.app.bars.foot import Foot
from zumbert.app.files import Files
from zumbert.app.questions import ask, file_to_read, file_to_write, files_to_read
from zumbert.app.work import Work
from zumbert.edits.ground import own_origins
from zumbert.errors import ZumbertError


class Exchanging(Files):
    """The part of the window that knows files which are no projects."""

    foot: Foot
    work: Work

    def import_dialog(self) -> None:
        """Asks for open-format files and shows what they hold before it is taken."""
        kinds = "Files to import (*.xml *.landxml *.dxf *.csv *.txt *.xyz *.pts *.asc *.grd *.toml)"
        paths = files_to_read(self, "Import files", self.folder(), kinds)
        if paths:
            self.import_paths(paths)

    def import_paths(self, paths: list[Path]) -> bool:
        """Reads files and opens their summary; a refusal is told, and the project stays as it was."""
        from zumbert.app.importdialog import ImportDialog
        from zumbert.exchange.found import Found, Tell, read_files, sorted_out
        from zumbert.exchange.importing import Choices, built, guessed_roles

        project = self.session.state.kept.project

        def read(tell: Tell) -> Found:
            found = read_files(sorted_out(paths), tell)
            tell(0.99, "Making surfaces")
            with suppress(
                ZumbertError
            ):  # what cannot be built is told in the summary; what can be is kept ready for it
                built(project, found, Choices(roles=guessed_roles(project, found)))
            return found

        try:
            found = self.work.run("Reading files", read)
        except ZumbertError as e:
            self.session.refused.emit(str(e))
            return False
        if found is None:
            return False
        self.pages.setCurrentIndex(0)
        self.settings().setValue("folder", str(paths[0].parent))
        dialog = ImportDialog(self, self.session, self.pen, found)
        dialog.finished.connect(lambda _: self._imported())
        dialog.open()
        self._imported()
        return True

    def readback_dialog(self) -> None:
        """Asks for a schedule that was changed elsewhere, and shows what differs."""
        path = file_to_read(self, "Read a network back", self.folder(), "Schedules (*.csv *.xlsx)")
        if path is not None:
            self.read_back(path)

    def read_back(self, path: Path) -> bool:
        """Opens the differences of a schedule; a refusal is told, and the project stays as it was."""
        from zumbert.app.readbackdialog import ReadbackDialog
        from zumbert.exchange.readback import read_back

        kept = self.session.state.kept
        try:
            found = self.work.run(f"Reading {path.name}", lambda tell: read_back(kept.project, kept.facts, path))
        except ZumbertError as e:
            self.session.refused.emit(str(e))
            return False
        if found is None:
            return False
        ReadbackDialog(self, self.session, self.pen, path, found).open()
        return True

    def _imported(self) -> None:
        """Something new is there."""

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A project that is dropped opens; other files are imported."""
        paths = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        projects = [p for p in paths if p.suffix.lower() == ".zumbert"]
        if projects:
            self.open_file(projects[0])
        elif paths:
            self.import_paths(paths)
        event.acceptProposedAction()

    def export(self) -> None:
        """Asks for a file and writes schedules and quantities to it."""
        start = Path(self.folder()) / f"{self.session.state.kept.project.name} quantities.xlsx"
        path = file_to_write(self, "Export quantities", start, "Spreadsheet (*.xlsx)", ".xlsx")
        if path is None:
            return
        names = list(own_origins(self.session.state.kept.project))
        choices = ("As in the project", *(f"As in {n}" for n in names), "Cancel")
        question = "Some of what was read has an origin of its own. Which x and y does the schedule of structures tell?"
        i = ask(self, "origin", "Coordinates", question, choices) if names else 0
        if i <= len(names):
            self.export_to(path, names[i - 1] if i else None)

    def export_to(self, path: Path, source: str | None = None) -> bool:
        """Writes schedules and quantities, x and y at the origin of a source that was placed; a refusal is told."""
        from zumbert.analysis.quantities import quantities
        from zumbert.analysis.trench import trenches
        from zumbert.exchange.tables import finding_table, pipe_table, quantity_tables, structure_table
        from zumbert.exchange.xlsx import write_xlsx

        kept = self.session.state.kept
        q = quantities(trenches(kept.facts))
        try:
            tables = (
                structure_table(kept.facts, source),
                pipe_table(kept.facts),
                finding_table(kept.facts, kept.findings),
                *quantity_tables(q, kept.project.units),
            )
            write_xlsx(path, tables)
        except ZumbertError as e:
            self.session.refused.emit(str(e))
            return False
        self.foot.say(f"Written: {path}")
        return True
