"""Project files: open, save, look only, recover, and the questions that protect unsaved work."""

import time
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QStackedWidget, QWidget

from zumbert.app.pen import Pen
from zumbert.app.preferences import remember
from zumbert.app.questions import ask, file_to_read, file_to_write
from zumbert.app.session import Session
from zumbert.app.told import told
from zumbert.app.work import Tell, Work
from zumbert.errors import ZumbertError
from zumbert.model.project import Project

if TYPE_CHECKING:
    from zumbert.store.file import Stamp
    from zumbert.store.lock import FileLock
    from zumbert.store.recovery import Kept

FILTER = "Zumbert project (*.zumbert)"
LARGE = 4_000_000  # bytes: a file from here on is opened with its progress, and can be given up
LOOK = 2000  # ms between two looks at whether a file that is looked at has become free


def _loaded(path: Path, tell: Tell) -> Project:
    """Loads a project in the worker thread; the work can be cancelled between steps."""
    from zumbert.store import load

    tell(0.05, f"Opening {path.name}")
    project = load(path)
    tell(0.5, f"Opening {path.name}")
    return project


def lock_of(path: Path) -> "FileLock":
    """The lock of a file, not taken yet."""
    from zumbert.store.lock import FileLock

    return FileLock(path)


def stamp_of(path: Path) -> "Stamp | None":
    """Identifies a version of a file on disk."""
    from zumbert.store.file import stamp

    return stamp(path)


class Files(QObject):
    """The part of the window that knows project files. A file is this window's own while it holds
    its lock; without it the file is looked at only, and saved elsewhere.
    """

    opened = Signal()  # another project is shown

    def __init__(
        self, window: QWidget, session: Session, pen: Pen, work: Work, pages: QStackedWidget
    ) -> None:
        super().__init__(window)
        self.window, self.session, self.pen, self.work, self.pages = (
            window,
            session,
            pen,
            work,
            pages,
        )
        self.lock: FileLock | None = None
        self.holder = "somebody"  # who has the file that is only looked at, in words
        self._stamp: Stamp | None = None  # of the file as it was read or written last
        self.last = str(Path.home())  # the folder of the last file
        self.welcome: Any = None  # made when it is first asked for
        self._looking = QTimer(self)  # runs while a file is looked at only
        self._looking.setInterval(LOOK)
        self._looking.timeout.connect(self.look_whether_free)

    def folder(self) -> str:
        """Where file dialogs begin."""
        path = self.session.state.file.path
        return str(path.parent) if path is not None else self.last

    def go_to(self, path: Path) -> None:
        """File dialogs begin from now on where a file lies, in the next session too."""
        self.last = str(path.parent)
        remember(self.window, "folder")

    # -- beginning ---------------------------------------------------------------------------------

    def show_welcome(self) -> None:
        """The welcome page in the place of the drawings."""
        from zumbert.app.welcome import Welcome

        if self.welcome is None:
            self.welcome = Welcome(
                self.open_demo,
                self.new_project,
                self.open_dialog,
                self.open_file,
                self.recover,
                self.drop_kept,
            )
            self.pages.addWidget(self.welcome)
        self.welcome.refresh()
        self.pages.setCurrentWidget(self.welcome)

    def new_project(self) -> None:
        """Asks for name, units and standard, and opens an empty project."""
        from zumbert.app.projectdialog import ProjectDialog

        if not self.may_leave():
            return
        dialog = ProjectDialog(self.window, self.pen, None, self.folder)
        dialog.accepted.connect(lambda: self._begin(dialog.made))
        dialog.open()

    def _begin(self, project: Project | None) -> None:
        """Opens a project that is in no file yet."""
        if project is not None:
            self._unlock()
            self._stamp = None
            self.session.open(project, None)
            self._look_only(False)
            self.opened.emit()

    def open_demo(self) -> None:
        """Opens the demo."""
        if self.may_leave():
            from zumbert.demo.project import demo_project

            self._begin(demo_project())

    def project_settings(self) -> None:
        """Name, units, invert basis and standard of the project, as one undo step."""
        from zumbert.app.projectdialog import ProjectDialog

        dialog = ProjectDialog(
            self.window, self.pen, self.session.state.current.project, self.folder
        )
        dialog.accepted.connect(
            lambda: (
                self.session.apply("Change the project's settings", dialog.made)
                if dialog.made is not None
                else None
            )
        )
        dialog.open()

    # -- opening -----------------------------------------------------------------------------------

    def open_dialog(self) -> None:
        """Asks for a file and opens it."""
        path = file_to_read(self.window, "Open a project", self.folder(), FILTER)
        if path is not None:
            self.open_file(path)

    def open_file(self, path: Path, read: Project | None = None) -> bool:
        """Opens a file, or what was `read` of it just now, having asked about unsaved work, and
        about work on it that a crash left behind. A refusal is told, and the project stays as it
        was. Open elsewhere: told, and only to look.
        """
        if not self.may_leave():
            return False
        path = path.absolute()
        left = self._left_behind(path)
        if left is not None:
            text = f'Unsaved work on "{left.name}" was kept when the program ended: {path}'
            answer = ask(
                self.window,
                "recover",
                "Recover unsaved work",
                text,
                ("Recover", "Open the saved file", "Cancel"),
            )
            if answer != 1:
                return answer == 0 and self._recover(left)
        return self._open(path, read)

    def _open(self, path: Path, read: Project | None = None) -> bool:
        before = self.lock
        ours = before is not None and before.path == lock_of(path).path
        free = ours or self._take_lock(path)
        stamp = stamp_of(path)
        try:
            if read is not None:
                self.session.open(read, path)
            elif stamp is not None and stamp.size > LARGE:
                project = self.work.run(f"Opening {path.name}", lambda tell: _loaded(path, tell))
                if project is None:  # given up
                    if self.lock is not before:
                        self._unlock()
                    self.lock = before
                    return False
                self.session.open(project, path)
            else:
                self.session.open_file(path)
        except ZumbertError as e:
            if self.lock is not before:
                self._unlock()
            self.lock = before
            self.session.refused.emit(str(e))
            return False
        if before is not None and not ours:
            before.release()
            self.lock = self.lock if self.lock is not before else None
        self._stamp = stamp
        self._look_only(not free)
        self.opened.emit()
        self._remember(path)
        self.go_to(path)
        return True

    def _take_lock(self, path: Path) -> bool:
        """Takes a file for this window; False where another has it."""
        lock = lock_of(path)
        holder = lock.take()
        if holder is None:
            self.lock = lock
            return True
        self.holder = holder.words
        return False

    def _unlock(self) -> None:
        if self.lock is not None:
            self.lock.release()
            self.lock = None

    # -- looking only ------------------------------------------------------------------------------

    def _look_only(self, on: bool) -> None:
        self.session.set(look_only=on, free=False)
        (self._looking.start if on else self._looking.stop)()

    def look_whether_free(self) -> None:
        """The head offers to read a file anew once nobody else has it."""
        s = self.session.state
        if s.file.look_only and s.file.path is not None:
            from zumbert.store.lock import is_free

            free = is_free(s.file.path)
            if free != s.file.free:
                self.session.set(free=free)

    def read_anew(self) -> bool:
        """Opens the file that is only looked at once more, as its own where nobody else has it."""
        path = self.session.state.file.path
        return path is not None and self._open(path)

    # -- recovery ----------------------------------------------------------------------------------

    def _left_behind(self, path: Path) -> "Kept | None":
        from zumbert.store.recovery import left_behind

        real = path.resolve()
        return next(
            (k for k in left_behind() if k.path is not None and k.path.resolve() == real), None
        )

    def recover(self, kept: "Kept") -> bool:
        """Takes up work that a window left behind, having asked about unsaved work of this one."""
        return self.may_leave() and self._recover(kept)

    @told(False)
    def _recover(self, kept: "Kept") -> bool:
        """Opens recovered work as unsaved, under the file that it came from."""
        project = kept.load()
        self._unlock()
        path = kept.path
        free = path is None or self._take_lock(path)
        self._stamp = None if path is None else stamp_of(path)
        self.session.open(project, path if free else None, saved=False)
        self._look_only(False)
        self.opened.emit()
        if not free:
            self.session.refused.emit(
                f"{path} is open elsewhere by {self.holder}: save this work to another file."
            )
        kept.forget()
        return True

    def drop_kept(self, kept: "Kept") -> bool:
        """Deletes work that a window left behind, having asked."""
        text = f'Delete the unsaved work on "{kept.name}"? It cannot be brought back.'
        if (
            ask(self.window, "drop", "Delete unsaved work", text, ("Delete", "Cancel"), drops=0)
            != 0
        ):
            return False
        kept.forget()
        return True

    # -- saving ------------------------------------------------------------------------------------

    def save(self) -> bool:
        """Saves to its file, or asks for one; what is only looked at is saved elsewhere."""
        s = self.session.state
        return (
            self.save_as() if s.file.path is None or s.file.look_only else self.save_to(s.file.path)
        )

    def save_as(self) -> bool:
        """Asks for a file and saves to it."""
        path = self.session.state.file.path
        name = (
            path.name if path is not None else f"{self.session.state.current.project.name}.zumbert"
        )
        target = file_to_write(self.window, "Save the project", self.folder(), name, FILTER)
        return target is not None and self.save_to(target, asked=True)

    def save_to(self, path: Path, asked: bool = False) -> bool:
        """Saves to a path; a refusal is told. A file that another program wrote since it was read
        is asked about, unless that was `asked` when it was chosen.
        """
        path, s = path.absolute(), self.session.state
        own = s.file.path is not None and lock_of(path).path == lock_of(s.file.path).path
        if own and s.file.look_only:
            self.session.refused.emit(f"{path} is here to look only: save to another file.")
            return False
        if own and self._stamp != stamp_of(path) and path.exists():
            text = (
                f"{path.name} was changed on disk since it was opened here. Saving over it loses "
                "that change."
            )
            answer = ask(
                self.window,
                "changed",
                "Changed on disk",
                text,
                ("Save elsewhere …", "Save over it", "Cancel"),
                drops=1,
            )
            if answer != 1:
                return answer == 0 and self.save_as()
        return self._write(path)

    def _write(self, path: Path) -> bool:
        held = self.lock is not None and lock_of(path).path == self.lock.path
        before = self.lock
        if not held and not self._take_lock(path):
            self.session.refused.emit(
                f"{path} is open elsewhere by {self.holder}: save to another file."
            )
            return False
        try:
            self.session.save(path, datetime.now().strftime("%H:%M"))
        except ZumbertError as e:
            if not held:
                self._unlock()
                self.lock = before
            answer = ask(
                self.window, "not saved", "Not saved", str(e), ("Save elsewhere …", "Cancel")
            )
            return answer == 0 and self.save_as()
        if not held and before is not None:
            before.release()
        self._stamp = stamp_of(path)
        self._look_only(False)
        self._remember(path)
        self.go_to(path)
        return True

    def _remember(self, path: Path) -> None:
        """Puts a file on the list of recent ones, with a picture of the plan."""
        from zumbert.app.recent import Recent, remember
        from zumbert.app.thumbnail import thumbnail

        recent = Recent(path, self.session.state.current.project.name, time.time())
        remember(recent)
        picture = thumbnail(self.session.state, self.pen)
        if picture is not None:
            picture.save(str(recent.picture))

    def may_leave(self) -> bool:
        """Asks about unsaved work; False where the user stays."""
        if self.session.state.file.saved:
            return True
        text = f'"{self.session.state.current.project.name}" has changes that are not saved.'
        answer = ask(
            self.window,
            "unsaved",
            "Unsaved changes",
            text,
            ("Save", "Don't save", "Cancel"),
            drops=1,
        )
        return self.save() if answer == 0 else answer == 1

    def end(self) -> None:
        """The window closes."""
        self._looking.stop()
        self._unlock()
