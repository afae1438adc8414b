"""The frame of the window: its parts and what joins them."""

from pathlib import Path
from typing import Any

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.autosave import Autosave
from zumbert.app.bars.foot import Foot
from zumbert.app.bars.head import Head
from zumbert.app.bars.planchips import PlanChips
from zumbert.app.bars.rail import Rail
from zumbert.app.centre import Centre
from zumbert.app.exchanging import Exchange
from zumbert.app.files import Files
from zumbert.app.going import Going
from zumbert.app.guard import guarded
from zumbert.app.netwatch import NetWatch
from zumbert.app.panels.fields import at_home
from zumbert.app.panels.finder import Commands, Finder
from zumbert.app.panels.sidepanel import SidePanel
from zumbert.app.pen import Pen
from zumbert.app.preferences import recall, remember
from zumbert.app.questions import ask
from zumbert.app.session import Session
from zumbert.app.stages.stage import Action, Chip, WorkStage, stage_for
from zumbert.app.state import State
from zumbert.app.theme import apply_theme
from zumbert.app.toolbox import Toolbox
from zumbert.app.values import delete_item, delete_selected
from zumbert.app.views.view import DrawingView
from zumbert.app.work import Work
from zumbert.drawing.style import Theme
from zumbert.edits.loose import all_attached
from zumbert.model.project import Project

AT_ONCE = 300  # pipes whose trenches are worked out at once
ATTACH = 1.0  # m: loose ends are pulled in no farther


@guarded
class Frame(QMainWindow):
    """Plan over long section, one session, one tool in hand."""

    def __init__(
        self, project: Project, path: Path | None, theme: Theme, stages: tuple[WorkStage[Any], ...]
    ) -> None:
        super().__init__()
        self.stages = stages
        self.table: tuple[Action[Any], ...] = ()  # of all that can be done
        self._acts: dict[str, Any] = {}
        self.session = Session(project, path, self, stages)
        self.session.sure = lambda question: (
            ask(self, "far off", "Far off", question, ("Do it", "Cancel"), drops=0) == 0
        )
        self.session.passes = lambda: bool(
            QApplication.keyboardModifiers() & Qt.KeyboardModifier.ControlModifier
        )
        self.pen = Pen(theme)
        self.pages = QStackedWidget()
        self.centre = Centre(self.session, self.pen, lambda: self.chips.refresh())
        self.plan, self.section = self.centre.plan, self.centre.section
        self.toolbox = Toolbox(self.session, self.plan, self.section, stages)
        self.going = Going(self.session, self.plan, self.section)
        for view in self.centre.views:
            view.wanted.connect(self.going.to_thing)
        self.centre.made_view.connect(self._new_view)
        self.foot = Foot(self.session, self._hint)
        self.work = Work(self.foot)
        self.centre.work = self.work
        self.centre.dig = self._dug
        self.net = NetWatch(self.session, self.foot)
        self.files = Files(self, self.session, self.pen, self.work, self.pages)
        self.exchange = Exchange(self, self.files, self.foot)
        self.finder = Finder(self.session, self.commands, self.going.to_found, self.to_drawing)
        self.head = Head(
            self.session,
            self.pen,
            self.finder,
            lambda: self.go_stage(stage_for(stages, lambda s: s.judges).id),
            self.files.read_anew,
        )
        self.rail = Rail(self.session, self.pen, stages, self.go_stage)
        self.side = SidePanel(self.session, self.pen, lambda: self.toolbox.tool, self.stage_panel)
        plan_chips: list[Chip[Any]] = [
            Chip(
                "scale",
                "",
                lambda w: w.plan.fit(),
                tip="Fit the plan",
                words=lambda w: f"Plan 1:{w.plan.scale_ratio():.0f}",
            ),
            Chip(
                "straight",
                "Straightened",
                lambda w: w.centre.straighten(),
                lambda w: w.session.state.look.straight,
            ),
            *(c for stage in stages for c in stage.chips),
            Chip(
                "space",
                "Space",
                lambda w: w.centre.next_space(),
                lambda w: w.session.state.look.space_at == "beside",
                tip="Shows the project in space: in the plan's place, then beside it (F3)",
                steps=True,
            ),
        ]
        self.chips = PlanChips(self.session, self.plan, plan_chips, self)
        self.autosave = Autosave(self.session)
        self.autosave.failed.connect(self.session.refused)
        self._layout()
        for strip in (self.head, self.rail, self.centre.head, self.plan):
            at_home(strip)
        self.files.opened.connect(self._opened)
        self.exchange.imported.connect(self._imported)
        self.toolbox.changed.connect(self._tool_changed)
        self.section.looked.connect(self._looked)
        self.plan.looked.connect(self.chips.refresh)
        self.session.changed.connect(self._changed)
        self.setWindowTitle(self._title())
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self._placed = False

    def _layout(self) -> None:
        """Builds from the outside inwards: a widget that moves into another has to restyle
        everything inside it.
        """
        self.setCentralWidget(self.pages)
        whole = QWidget()
        self.pages.addWidget(whole)
        rows = QVBoxLayout(whole)
        middle = QHBoxLayout()
        for layout in (rows, middle):
            layout.setContentsMargins(0, 0, 0, 0)
            layout.setSpacing(0)
        rows.addWidget(self.head)
        rows.addLayout(middle, 1)
        rows.addWidget(self.foot)
        for w, stretch in ((self.rail, 0), (self.centre, 1), (self.side, 0)):
            middle.addWidget(w, stretch)
        self.centre.fill()
        self.side.refresh()

    def _new_view(self, view: DrawingView) -> None:
        """The view in space has the tool in hand, and goes to things, as the others do."""
        view.tool = self.toolbox.tool
        view.looked.connect(self.foot.refresh)
        for drawing in self.centre.views:
            drawing.focused.connect(self.foot.refresh)
        self.toolbox.views = self.centre.views
        view.wanted.connect(self.going.to_thing)
        self.going.also = lambda: self.centre.space_seen and view.fit_selected()

    def _hint(self) -> str:
        """The hint: what a click will do."""
        if self.centre.covering is not None:
            return self.centre.covering.hint
        free = self.centre.in_space and self.toolbox.picking
        return self.centre.space.hint if free else self.toolbox.tool.hint

    def commands(self) -> Commands:
        """The commands that the finder offers."""
        return {}

    def acts(self, stage: str) -> Any:
        """The commands of a stage; made when they are first asked for."""
        if stage not in self._acts:
            make = self.session.stages[stage].acts
            self._acts[stage] = None if make is None else make(self)
        return self._acts[stage]

    def stage_panel(self, stage: WorkStage[Any]) -> QWidget:
        """A new side panel of a stage."""
        made: QWidget = stage.panel(self) if stage.panel is not None else QWidget()
        return made

    # -- what is shown -----------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if not self._placed:
            self._placed = True
            recall(self)
            QApplication.processEvents()
            self.section.fit()
            self.plan.fit()
            self.plan.fit_map()
            self._looked()
            self.section.setFocus()

    def _looked(self) -> None:
        self.centre.head.refresh()
        self.plan.update()
        self.chips.refresh()

    def _tool_changed(self) -> None:
        """Panel, chips and foot follow the tool in hand; one that takes places of the plan needs
        that in sight.
        """
        if self.toolbox.tool.plan_clicks and self.session.state.look.space_at == "place":
            self.session.set(space_at="beside")
        self.side.refresh()
        self.chips.refresh()
        self.foot.refresh()

    def _changed(self, old: State, new: State) -> None:
        if (
            old.current is not new.current
            or old.file.saved != new.file.saved
            or old.file.path is not new.file.path
        ):
            self.setWindowTitle(self._title())
            self.setWindowModified(not new.file.saved)
        if old.file.path is not new.file.path and old.current is not new.current:
            self.plan.fit()

    def _title(self) -> str:
        s = self.session.state
        path = s.file.path
        return f"{path.name if path is not None else s.current.project.name}[*] \u2013 Zumbert"

    def go_stage(self, stage: str) -> None:
        """Goes to a stage: it chooses overlays and side panel and locks nothing. What is typed
        into a cell is taken first.
        """
        if not self.section.take_cell():
            return
        self.toolbox.tool.let_go()
        to = self.session.stages[stage]
        if not self.toolbox.picking and self.toolbox.stage is not to:
            self.toolbox.put_down()
        if to.needs_trenches(self.session.state.shown.project) and not self._dug():
            return
        self.session.set(stage=to)
        self.side.refresh()
        self.foot.refresh()

    def _dug(self) -> bool:
        """Works out the trenches with progress, where there are many; False where that was
        cancelled.
        """
        facts = self.session.state.shown.facts
        if len(facts.pipes) <= AT_ONCE:
            return True
        words = "Trenches"
        return (
            self.work.run(
                words, lambda tell: self.session.dug(facts, lambda share: tell(share, words))
            )
            is not None
        )

    def to_drawing(self) -> None:
        """Returns the keyboard to the drawing that had it last."""
        self.centre.to_drawing()

    def toggle_theme(self) -> None:
        """Paper or slate."""
        self.wear("dark" if self.pen.theme == "light" else "light")
        remember(self, "theme")

    def wear(self, theme: Theme) -> None:
        """Puts on a theme."""
        if theme == self.pen.theme:
            return
        self.pen.turn(theme)
        apply_theme(QApplication.instance(), self.pen.theme)  # type: ignore[arg-type]
        for w in self.findChildren(QWidget):
            w.update()

    # -- edits -------------------------------------------------------------------------------------

    def attach_ends(self) -> None:
        """Pulls every loose end in to the structure that is nearest, where one stands near
        enough.
        """
        self.session.edit("Attach loose ends", lambda p, f: all_attached(p, f, ATTACH))

    def delete(self) -> None:
        """Deletes what is selected; a drag under way ends first."""
        if self.centre.covering is not None:
            self.centre.covering.delete()
            return
        self.toolbox.let_go()
        s = self.session.state
        if s.chosen.item is not None and not s.chosen.pipes and not s.chosen.structures:
            delete_item(self.session, s.chosen.item, s.chosen.part)
        else:
            delete_selected(self.session, self)

    def undo(self) -> None:
        """Takes back one step; what is in hand is given up first."""
        self.toolbox.let_go()
        self.session.undo()

    def redo(self) -> None:
        """Makes a step again."""
        self.toolbox.let_go()
        self.session.redo()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.escape()
        else:
            super().keyPressEvent(event)

    def escape(self) -> None:
        """Gives up what is under way, else puts the tool down; in the tables, shuts them."""
        centre = self.centre
        if centre.tables_open and centre.tables.isAncestorOf(self.focusWidget() or self):
            centre.toggle_tables()
        else:
            self.toolbox.cancel()

    # -- files -------------------------------------------------------------------------------------

    def _opened(self) -> None:
        self.pages.setCurrentIndex(0)
        if self.session.state.file.look_only:
            self.foot.refuse(
                f"Open elsewhere by {self.files.holder}: to look only. Save as another file "
                "to change it."
            )
        self.toolbox.put_down()
        self.centre.show_all()
        self.setWindowTitle(self._title())

    def _imported(self) -> None:
        self.pages.setCurrentIndex(0)
        if self.session.state.look.run is None and self.session.state.look.keys:
            self.session.show_run(self.session.state.look.keys[0])
        self.centre.show_all()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A project that is dropped opens; other files are imported."""
        paths = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        self.exchange.dropped(paths)
        event.acceptProposedAction()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow() and self._placed:
            for stage in self.stages:
                if stage.back is not None:
                    stage.back(self)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        remember(self)
        self.autosave.end()
        self.net.end()
        self.files.end()
        event.accept()
