"""The files that the stage Deliver sends: it asks where to, writes beside the window, and reports
what was written.
"""

from collections.abc import Callable
from datetime import date
from pathlib import Path

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QInputDialog, QWidget

from zumbert.app.bars.foot import Foot
from zumbert.app.files import Files
from zumbert.app.questions import ask, file_to_read, file_to_write, folder_to_write
from zumbert.app.stages.deliver.deliverview import DeliverView
from zumbert.app.stages.deliver.sheetview import SheetView
from zumbert.app.told import told
from zumbert.app.views.spaceview import SpaceView
from zumbert.app.work import Tell
from zumbert.delivery import outputs
from zumbert.delivery.job import Job
from zumbert.delivery.out import OUT
from zumbert.delivery.outputs import Output
from zumbert.delivery.revisions import issued, next_name
from zumbert.delivery.space import MOST
from zumbert.errors import ReadError

FINE = 2  # pixels of a picture for one of the screen


def fine(view: QWidget) -> QImage:
    """A view as it is now, drawn finer."""
    image = QImage(view.size() * FINE, QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(FINE)
    image.fill(Qt.GlobalColor.white)
    view.render(image)
    return image


class Delivering(QObject):
    """The part of the window that writes what leaves the desk."""

    def __init__(
        self,
        window: QWidget,
        files: Files,
        foot: Foot,
        pictured: Callable[[], QWidget],
        sheets: Callable[[], DeliverView],
    ) -> None:
        super().__init__(window)
        self.sheets = sheets  # the list of pages, with the one that is shown
        self._pictured = pictured  # the drawing that a picture is made of
        self.window, self.files, self.foot = window, files, foot
        self.session, self.work = files.session, files.work

    def job(self) -> Job:
        """The current value as a job."""
        v = self.session.state.current
        return Job(v.project, v.facts, v.findings, self.session.dug)

    def send(self, key: str, only_shown: bool = False, own: bool = False) -> None:
        """Asks where a kind of file goes, and writes it; `only_shown` leaves out the other
        sheets, `own` asks for a template.
        """
        out = OUT[key]
        template = None
        if own:
            template = file_to_read(
                self.window, "Template of the report", self.files.folder(), "DOCX (*.docx)"
            )
            if template is None:
                return
        name = self.session.state.current.project.name
        if out.kinds:
            path = file_to_write(
                self.window, out.title, self.files.folder(), f"{name}{out.name}", out.kinds
            )
        else:
            path = folder_to_write(
                self.window, f"{out.title}: choose a folder", self.files.folder()
            )
        if path is not None:
            self.write(key, path, only_shown, template)

    @told(False)
    def write(
        self, key: str, path: Path, only_shown: bool = False, template: Path | None = None
    ) -> bool:
        """Writes a kind of file; a refusal is told. False where it was cancelled too."""
        out, job = OUT[key], self.job()
        shown = self.session.state.look.leaf

        def make(tell: Tell) -> list[str]:
            picked = outputs.chosen(job)
            if only_shown:
                picked = [leaf for leaf in picked if leaf.place == min(shown, len(picked))]
            return outputs.write_all(
                [Output(path, not out.kinds, out.make(job, picked, template))], tell
            )

        notes = self.work.run(f"Writing {path.name}", make)
        if notes is None:
            return False
        self.foot.say(" ".join([f"Written: {path}.", *notes]))
        return True

    def picture(self) -> None:
        """Asks for a file and writes the drawing that had the keyboard last as PNG; in the stage
        Deliver the whole sheet.
        """
        view = self._pictured()
        name = f"{self.session.state.current.project.name} {view.accessibleName().lower()}.png"
        path = file_to_write(self.window, "Picture", self.files.folder(), name, "PNG (*.png)")
        if path is None:
            return
        wide = FINE * view.width()
        if isinstance(view, SpaceView):
            wide, taken = QInputDialog.getInt(
                self.window, "Picture", "Width in pixels", wide, 1, MOST
            )
            if not taken:
                return
        self.write_picture(view, path, wide)

    @told(False)
    def write_picture(self, view: QWidget, path: Path, wide: int = 0) -> bool:
        """Writes a view as PNG, twice as fine as on the screen, of space so many pixels wide; a
        refusal is told.
        """
        image = view.picture(wide) if isinstance(view, SpaceView | SheetView) else fine(view)
        spare = path.with_name(f".{path.stem}.part.png")
        if not image.save(str(spare)):
            raise ReadError(f"{path} could not be written. Choose another folder or make room.")
        spare.replace(path)
        self.foot.say(f"Written: {path}.")
        return True

    def issue(self) -> None:
        """Keeps what the project is today as an issue, once it is asked for."""
        project = self.session.state.current.project
        name, day = next_name(project), date.today().isoformat()
        question = (
            f"Issue drawings and schedules as revision {name}, {day}? Later sheets and schedules "
            "show what differs from it."
        )
        if ask(self.window, "issue", "Issue", question, ("Issue", "Cancel")) == 0:
            self.session.edit(f"Issue {name}", lambda p, f: issued(p, f, name, day, ""))
