"""The window: the frame with its menus, keys and commands, all from the table of actions."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from zumbert.app.actions import MENUS, all_actions
from zumbert.app.frame import Frame
from zumbert.app.icons import icon
from zumbert.app.panels.finder import Commands
from zumbert.app.stages.stage import Action, WorkStage, stage_for
from zumbert.app.stages.table import STAGES
from zumbert.app.views.view import DrawingView
from zumbert.drawing.style import Theme
from zumbert.log import logger
from zumbert.model.project import Project

STEPS = 15  # that the menu offers to take back


class Window(Frame):
    """The whole window."""

    def __init__(
        self,
        project: Project,
        path: Path | None = None,
        theme: Theme = "light",
        stages: tuple[WorkStage[Frame], ...] = STAGES,
    ) -> None:
        super().__init__(project, path, theme, stages)
        self.table = all_actions(stages)
        self.actions_ = {a.id: self._made(a) for a in self.table}
        self.actions_["menu"].triggered.connect(self.open_menu)
        self.head.logo.clicked.connect(self.open_menu)
        for view in self.centre.views:
            view.asked.connect(partial(self._context, view))
        self.centre.made_view.connect(lambda view: view.asked.connect(partial(self._context, view)))

    def _made(self, a: Action[Frame]) -> QAction:
        made = QAction(a.text, self)
        made.setShortcuts([QKeySequence(k) for k in a.keys])
        made.triggered.connect(lambda _=False: self._do(a))
        self.addAction(made)
        return made

    def _do(self, a: Action[Frame]) -> None:
        if not a.enabled(self):
            return
        if self.centre.covering is not None and (a.drawings or a.menu == "Draw"):
            self.go_stage(stage_for(self.stages, lambda s: s.panel is None).id)
        logger.info(a.text)
        a.run(self)

    def commands(self) -> Commands:
        return {a.text: partial(self._do, a) for a in self.table if a.menu and a.enabled(self)}

    def open_menu(self) -> None:
        """The main menu, under the mark."""
        self.menu_of_actions().popup(self.head.logo.mapToGlobal(QPoint(8, self.head.logo.height())))

    def menu_of_actions(self) -> QMenu:
        """All actions by menu, with what undo and redo would do in words."""
        menu = QMenu(self)
        for name in MENUS:
            inner = menu.addMenu(name)
            for a in (a for a in self.table if a.menu == name):
                made = self.actions_[a.id]
                made.setText(a.words(self) if a.words is not None else a.text)
                entry = inner.addAction(f"{made.text()}\t{a.keys[0] if a.keys else ''}")
                if a.icon:
                    entry.setIcon(icon(a.icon, "ink", self.pen.theme))
                entry.setEnabled(a.enabled(self))
                entry.triggered.connect(made.trigger)
            if name == "Edit":
                self._undo_list(inner)
        return menu

    def _undo_list(self, menu: QMenu) -> None:
        names = self.session.history.undo_names[:STEPS]
        inner = menu.addMenu("Undo back to before")
        inner.setEnabled(bool(names))
        for i, name in enumerate(names):
            inner.addAction(name).triggered.connect(lambda _=False, n=i + 1: self._undo_times(n))

    def _undo_times(self, n: int) -> None:
        for _ in range(n):
            self.undo()

    def menu_at(self, view: DrawingView, x: float, y: float) -> QMenu:
        """The menu for the thing at a place of a drawing."""
        from zumbert.app.contextmenu import menu_of

        return menu_of(self, self.actions_, view, x, y)

    def _context(self, view: DrawingView, x: float, y: float) -> None:
        """A right click: the menu of what lies there."""
        self.menu_at(view, x, y).popup(view.mapToGlobal(QPoint(round(x), round(y))))
