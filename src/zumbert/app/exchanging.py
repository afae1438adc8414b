"""Imports, schedules read back, exports, and files dropped on the window."""

from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from zumbert.app.bars.foot import Foot
from zumbert.app.files import Files
from zumbert.app.questions import ask, file_to_read, file_to_write, files_to_read
from zumbert.app.told import told
from zumbert.app.work import Tell
from zumbert.edits.ground import own_origins
from zumbert.errors import ZumbertError


class Exchange(QObject):
    """The part of the window that knows files which are no projects."""

    imported = Signal()  # something new may be there

    def __init__(self, window: QWidget, files: Files, foot: Foot) -> None:
        super().__init__(window)
        self.window, self.files, self.foot = window, files, foot
        self.session, self.pen, self.work = files.session, files.pen, files.work

    def import_dialog(self) -> None:
        """Asks for open-format files and shows what they hold before it is taken."""
        from zumbert.exchange.formats import endings

        paths = files_to_read(
            self.window, "Import files", self.files.folder(), f"Files to import ({endings()})"
        )
        if paths:
            self.import_paths(paths)

    @told(False)
    def import_paths(self, paths: list[Path]) -> bool:
        """Reads files and opens their summary; a refusal is told, and the project stays as it
        was.
        """
        from zumbert.app.importdialog import ImportDialog
        from zumbert.exchange.found import Found, Tell, read_files, sorted_out
        from zumbert.exchange.importing import built, guessed_roles
        from zumbert.exchange.taking.choices import Choices

        project = self.session.state.current.project

        def read(tell: Tell) -> Found:
            found = read_files(sorted_out(paths), tell)
            tell(0.99, "Making surfaces")
            # what cannot be built is told in the summary; what can be is kept ready for it
            with suppress(ZumbertError):
                built(project, found, Choices(roles=guessed_roles(project, found)))
            return found

        found = self.work.run("Reading files", read)
        if found is None:
            return False
        self.files.go_to(paths[0])
        dialog = ImportDialog(self.window, self.session, self.pen, found)
        dialog.finished.connect(lambda _: self.imported.emit())
        dialog.open()
        self.imported.emit()
        return True

    def readback_dialog(self) -> None:
        """Asks for a schedule that was changed elsewhere, and shows what differs."""
        from zumbert.exchange.schedules import endings

        path = file_to_read(
            self.window, "Read a network back", self.files.folder(), f"Schedules ({endings()})"
        )
        if path is not None:
            self.read_back(path)

    @told(False)
    def read_back(self, path: Path) -> bool:
        """Opens the differences of a schedule; a refusal is told, and the project stays as it
        was.
        """
        from zumbert.app.readbackdialog import ReadbackDialog
        from zumbert.exchange.readback import read_back

        current = self.session.state.current
        found = self.work.run(
            f"Reading {path.name}", lambda tell: read_back(current.project, current.facts, path)
        )
        if found is None:
            return False
        ReadbackDialog(self.window, self.session, self.pen, path, found).open()
        return True

    def dropped(self, paths: list[Path]) -> None:
        """A project that is dropped opens; other files are imported."""
        projects = [p for p in paths if p.suffix.lower() == ".zumbert"]
        if projects:
            self.files.open_file(projects[0])
        elif paths:
            self.import_paths(paths)

    def export(self) -> None:
        """Asks for a file and writes schedules and quantities to it."""
        from zumbert.exchange.schedules import kinds

        name = f"{self.session.state.current.project.name} quantities.xlsx"
        path = file_to_write(self.window, "Export quantities", self.files.folder(), name, kinds())
        if path is None:
            return
        names = list(own_origins(self.session.state.current.project))
        choices = ("As in the project", *(f"As in {n}" for n in names), "Cancel")
        question = (
            "Some of what was read has an origin of its own. Which x and y does the schedule of "
            "structures tell?"
        )
        i = ask(self.window, "origin", "Coordinates", question, choices) if names else 0
        if i <= len(names):
            self.export_to(path, names[i - 1] if i else None)

    @told(False)
    def export_to(self, path: Path, source: str | None = None) -> bool:
        """Writes schedules and quantities, x and y at the origin of a source that was placed; a
        refusal is told.

        False where it was cancelled too.
        """
        from zumbert.analysis.quantities import full_quantities
        from zumbert.exchange.quantitytables import quantity_tables
        from zumbert.exchange.schedules import schedule_of, write_files
        from zumbert.exchange.tables import Table, finding_table, pipe_table, structure_table

        current = self.session.state.current
        words = "Counting quantities"

        def count(tell: Tell) -> tuple[Table, ...]:
            dug = self.session.dug(current.facts, lambda share: tell(share / 2, words))
            q = full_quantities(dug, tell=lambda share: tell((1 + share) / 2, words))
            return (
                structure_table(current.facts, source),
                pipe_table(current.facts),
                finding_table(current.facts, current.findings),
                *quantity_tables(current.facts, q),
            )

        tables = self.work.run(words, count)
        if tables is None:
            return False
        schedule = schedule_of(path)
        files = schedule.files(path, tables)
        # the dialog has asked for the path itself
        there = [f.name for f in files if f != path and f.exists()]
        if there and ask(
            self.window,
            "replace",
            "Replace files",
            f"{', '.join(there)} will be replaced.",
            ("Replace", "Cancel"),
            0,
        ):
            return False

        def write(tell: Tell) -> bool:
            write_files(schedule, files, tell)
            return True

        if not self.work.run(f"Writing {path.name}", write):
            return False
        self.foot.say(
            f"Written: {path}"
            if len(files) == 1
            else f"Written: {len(files)} files in {path.parent}"
        )
        return True
