"""The window: zones, stages, tools, files."""

from collections.abc import Callable
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QEvent, QPoint, Qt
from PySide6.QtGui import QAction, QCloseEvent, QKeyEvent, QKeySequence, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from zumbert.analysis.runs import RunKey, run
from zumbert.app.actions import ACTIONS, MENUS, Action, checked
from zumbert.app.autosave import Autosave
from zumbert.app.bars.foot import Foot
from zumbert.app.bars.head import Head
from zumbert.app.bars.rail import Rail
from zumbert.app.bars.sectionhead import SectionHead
from zumbert.app.exchanging import Exchanging
from zumbert.app.icons import icon
from zumbert.app.panels.fields import at_home
from zumbert.app.panels.finder import Finder
from zumbert.app.panels.rows import toggle_chip
from zumbert.app.panels.sidepanel import SidePanel
from zumbert.app.pen import Pen
from zumbert.app.questions import ask
from zumbert.app.session import Session, Stage, State
from zumbert.app.theme import apply_theme
from zumbert.app.tools.lay import LayTool
from zumbert.app.tools.pick import PickTool
from zumbert.app.tools.tool import Tool
from zumbert.app.values import delete_selected, delete_thing
from zumbert.app.views.planview import PlanView
from zumbert.app.views.sectionview import SectionView
from zumbert.app.views.view import DrawingView
from zumbert.app.work import Work
from zumbert.checks.finding import Finding
from zumbert.drawing.sight import StraightSight
from zumbert.drawing.style import Theme
from zumbert.edits.join import all_attached
from zumbert.edits.typed import typed_place
from zumbert.errors import ZumbertError
from zumbert.model.ids import PipeId, RoadId, StructureId
from zumbert.model.project import Project
from zumbert.model.structure import Anchored

if TYPE_CHECKING:
    from zumbert.app.groundacts import GroundActs
    from zumbert.app.regradestrip import RegradeStrip
    from zumbert.app.tables.drawer import TablesDrawer

ATTACH = 1.0  # m: loose ends are pulled in no farther


class Window(Exchanging):
    """Plan over long section, one session, one tool in hand."""

    def __init__(self, project: Project, path: Path | None = None, theme: Theme = "light") -> None:
        super().__init__()
        self.session: Session = Session(project, path)
        self.session.sure = lambda question: (
            ask(self, "far off", "Far off", question, ("Do it", "Cancel"), drops=0) == 0
        )
        self.pen = Pen(theme)
        self.tool: Tool = PickTool(self.session)
        self.section = SectionView(self.session, self.pen)
        self.plan = PlanView(self.session, self.pen, self.section)
        for view in (self.plan, self.section):
            view.tool = self.tool
        self._drawing: DrawingView = self.section  # that had the keyboard last
        for view in (self.plan, self.section):
            view.focused.connect(partial(setattr, self, "_drawing", view))
            view.wanted.connect(self.show_thing)
            view.asked.connect(self._context)
        self.finder: Finder = Finder(self.session, self._commands, self._found, self.to_drawing)
        self.head: Head = Head(self.session, self.pen, self.finder, lambda: self.go_stage("checks"), self.read_anew)
        self.rail = Rail(self.session, self.pen, self.go_stage)
        self.section_head = SectionHead(self.session, self.section.scales, self._switch, self.section.set_scale)
        self.side = SidePanel(self.session, self.pen, lambda: self.tool, self.go_to, self.export, self.act)
        self.foot = Foot(self.session, lambda: self.tool.hint)
        self.work = Work(self.foot)
        self.chips = self._plan_chips()
        self.splitter = QSplitter(Qt.Orientation.Vertical)
        self.autosave = Autosave(self.session)
        self.autosave.failed.connect(self.session.refused)
        self._layout()
        for strip in (self.head, self.rail, self.section_head, self.plan):
            at_home(strip)
        self.actions_ = {a.id: self._made(a) for a in checked(ACTIONS)}
        self.head.logo.clicked.connect(self.open_menu)
        self.section.looked.connect(self._looked)
        self.plan.looked.connect(self._place_chips)
        self.session.changed.connect(self._changed)
        self.setWindowTitle(self._title())
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self._placed = False

    # -- building ------------------------------------------------------------------------------------------------------

    def _layout(self) -> None:
        """From the outside inwards: a widget that is put in another takes its styles anew with all that it holds."""
        self.pages = QStackedWidget()
        self.setCentralWidget(self.pages)
        whole = QWidget()
        self.pages.addWidget(whole)
        rows = QVBoxLayout(whole)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        centre = QHBoxLayout()
        centre.setContentsMargins(0, 0, 0, 0)
        centre.setSpacing(0)
        rows.addWidget(self.head)
        rows.addLayout(centre, 1)
        rows.addWidget(self.foot)
        for w, stretch in ((self.rail, 0), (self.splitter, 1), (self.side, 0)):
            centre.addWidget(w, stretch)
        lower = QWidget()
        self.splitter.addWidget(self.plan)
        self.splitter.addWidget(lower)
        column = QVBoxLayout(lower)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.section_head)
        column.addWidget(self.section, 1)
        self.lower_half = lower
        self.splitter.setChildrenCollapsible(False)
        self.splitter.setSizes([253, 480])
        self.side.refresh()

    def _plan_chips(self) -> dict[str, QPushButton]:
        out = {}
        for name, text, checkable in (
            ("scale", "Plan 1:500", False),
            ("straight", "Straightened", True),
            ("lay", "Lay a run", True),
            ("gullies", "Place gullies", True),
            ("tables", "Tables", True),
        ):
            out[name] = toggle_chip(text, name, checkable)
            out[name].setParent(self.plan)
        out["scale"].clicked.connect(lambda: self.plan.fit())
        out["scale"].setToolTip("Fit the plan")
        out["straight"].clicked.connect(lambda: self.straighten())
        out["lay"].clicked.connect(lambda: self.lay())
        out["gullies"].clicked.connect(lambda: self.gullies())
        out["tables"].clicked.connect(lambda: self.toggle_tables())
        return out

    def _made(self, a: Action) -> QAction:
        made = QAction(a.text, self)
        made.setShortcuts([QKeySequence(k) for k in a.keys])
        made.triggered.connect(lambda _=False: self._do(a))
        self.addAction(made)
        return made

    def _do(self, a: Action) -> None:
        if a.enabled(self):
            a.run(self)

    def _commands(self) -> dict[str, Callable[[], None]]:
        return {a.text: partial(self._do, a) for a in ACTIONS if a.menu and a.enabled(self)}

    def open_menu(self) -> None:
        """The main menu, under the mark."""
        self.menu_of_actions().popup(self.head.logo.mapToGlobal(QPoint(8, self.head.logo.height())))

    def menu_of_actions(self) -> QMenu:
        """All actions by menu, with what undo and redo would do in words."""
        menu = QMenu(self)
        for name in MENUS:
            inner = menu.addMenu(name)
            for a in (a for a in ACTIONS if a.menu == name):
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

    def menu_at(self, view: DrawingView, x: float, y: float) -> QMenu:
        """What can be done with what lies at a place of a drawing."""
        from zumbert.app.contextmenu import menu_of

        return menu_of(self, view, x, y)

    def _context(self, x: float, y: float) -> None:
        """A right click: the menu of what lies there."""
        view = self.sender()
        if isinstance(view, DrawingView):
            self.menu_at(view, x, y).popup(view.mapToGlobal(QPoint(round(x), round(y))))

    def show_help(self) -> None:
        """How the stage works."""
        from zumbert.app.help import HelpDialog

        HelpDialog(self, self.session.state.stage).open()

    def show_keys(self) -> None:
        """All keys, from the table of actions."""
        from zumbert.app.help import HelpDialog

        HelpDialog(self, "keys").open()

    def show_about(self) -> None:
        """What this is, its version and licences."""
        from zumbert.app.help import HelpDialog

        HelpDialog(self, "about").open()

    def _undo_list(self, menu: QMenu) -> None:
        names = self.session.undo_names[:15]
        inner = menu.addMenu("Undo back to before")
        inner.setEnabled(bool(names))
        for i, name in enumerate(names):
            inner.addAction(name).triggered.connect(lambda _=False, n=i + 1: self._undo_times(n))

    def _undo_times(self, n: int) -> None:
        for _ in range(n):
            self.undo()

    # -- what is shown -------------------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if not self._placed:
            self._placed = True
            self._restore()
            QApplication.processEvents()
            self.section.fit()
            self.plan.fit()
            self._fit_map()
            self._looked()
            self.section.setFocus()

    def _fit_map(self) -> None:
        """The map fits as well, for when the straightened plan is left."""
        self.plan.fit_map()

    def _looked(self) -> None:
        self.section_head.refresh()
        self.plan.update()
        self._place_chips()

    def _changed(self, old: State, new: State) -> None:
        if old.kept is not new.kept or old.saved != new.saved or old.path is not new.path:
            self.setWindowTitle(self._title())
            self.setWindowModified(not new.saved)
        if old.stage != new.stage or old.straight != new.straight or old.kept is not new.kept:
            self._place_chips()
        if old.path is not new.path and old.kept is not new.kept:
            self.plan.fit()

    def _title(self) -> str:
        s = self.session.state
        return f"{s.path.name if s.path is not None else s.kept.project.name}[*] \u2013 Zumbert"

    def _place_chips(self) -> None:
        s = self.session.state
        self.chips["scale"].setText(f"Plan 1:{self.plan.scale_ratio():.0f}")
        self.chips["straight"].setText(("\u2713 " if s.straight else "") + "Straightened")
        self.chips["straight"].setChecked(s.straight)
        laying, gullies = self.tool.kind == "lay", self.tool.kind == "gullies"
        chips = (
            ("lay", "Lay a run", laying), ("gullies", "Place gullies", gullies), ("tables", "Tables", self.tables_open),
        )  # fmt: skip
        for name, text, on in chips:
            self.chips[name].setText(("\u2713 " if on else "") + text)
            self.chips[name].setChecked(on)
            self.chips[name].setVisible(s.stage == "layout" or on)
        x = 14
        for button in self.chips.values():
            button.adjustSize()
            button.move(x, 11)
            button.raise_()
            if not button.isHidden():
                x += button.width() + 6

    def _switch(self, show: str) -> None:
        """A chip of the section head; the trench bottom belongs to its stage."""
        shows = self.session.state.shows
        self.session.set(shows=frozenset(shows ^ {show}))

    def go_stage(self, stage: Stage) -> None:
        """Goes to a stage: it chooses overlays and side panel and locks nothing. What is typed into a cell is taken first."""
        if not self.section.take_cell():
            return
        self.tool.let_go()
        if not isinstance(self.tool, PickTool) and (stage != "layout" or not isinstance(self.tool, LayTool)):
            self.hold(PickTool(self.session))
        self.session.set(stage=stage)
        self.side.refresh()

    def straighten(self) -> None:
        """The plan as a map, or along the run over the long section."""
        self.session.set(straight=not self.session.state.straight)
        self._place_chips()

    def fit(self) -> None:
        """Shows what is selected in the drawing under the pointer; once more, or with nothing selected, all of it."""
        over = [v for v in (self.plan, self.section) if v.underMouse()]
        view = over[0] if over else self._drawing
        if not view.fit_selected():
            view.fit()
        self._place_chips()

    def to_drawing(self) -> None:
        """The drawing that had the keyboard last has it again."""
        (
            self._drawing if self._drawing.isVisible() else self.tables.table if self.tables_open else self.plan
        ).setFocus()

    def toggle_theme(self) -> None:
        """Paper or slate."""
        self.pen.__init__("dark" if self.pen.theme == "light" else "light")  # type: ignore[misc]
        apply_theme(QApplication.instance(), self.pen.theme)  # type: ignore[arg-type]
        for w in self.findChildren(QWidget):
            w.update()
        self.settings().setValue("theme", self.pen.theme)

    def next_zone(self) -> None:
        """F6 goes round the zones."""
        fields = [
            w for w in self.side.findChildren(QWidget) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isVisible()
        ]
        lower = self.tables.table if self.tables_open else self.section
        zones = [self.plan, lower, *fields[:1], self.head.picker, self.rail.buttons[self.session.state.stage]]
        here = self.focusWidget()
        at = next((i for i, z in enumerate(zones) if here is z), None)
        if at is None:
            at = 2 if here is not None and self.side.isAncestorOf(here) else -1
        zones[(at + 1) % len(zones)].setFocus(Qt.FocusReason.TabFocusReason)

    def toggle_whole(self) -> None:
        """The zone with the keyboard gets the whole centre; again gives it back."""
        if self.plan.isHidden() or self.lower_half.isHidden():
            self.plan.show()
            self.lower_half.show()
        elif self.section.hasFocus() or self.section.underMouse():
            self.plan.hide()
        else:
            self.lower_half.hide()

    @cached_property
    def tables(self) -> "TablesDrawer":
        """The drawer of tables; made when it is first opened."""
        from zumbert.app.tables.drawer import TablesDrawer

        made = TablesDrawer(self.session, self.plan.pen, self.toggle_tables)
        layout = self.lower_half.layout()
        if layout is not None:
            layout.addWidget(made)
        made.hide()
        return made

    @property
    def tables_open(self) -> bool:
        """Whether the tables lie over the long section."""
        return "tables" in self.__dict__ and self.tables.isVisible()

    def toggle_tables(self) -> None:
        """Opens the tables over the long section, or shuts them."""
        opened = not self.tables.isVisible()
        self.lower_half.show()
        for w in (self.section_head, self.section):
            w.setVisible(not opened)
        self.tables.setVisible(opened)
        if opened:
            self.tables.refresh()
            self.tables.table.setFocus()
        else:
            self.plan.setFocus()
        self._place_chips()

    # -- tools ---------------------------------------------------------------------------------------------------------

    def hold(self, tool: Tool) -> None:
        """Takes a tool in hand; the one before is put down. Neither moves what is in sight in the plan."""
        self.tool.ends()
        self.tool = tool
        if tool.places and not isinstance(self.plan.sight, StraightSight):
            self.session.set(straight=False)  # there was no run to straighten it along
        self.plan.stay(tool.places)
        for view in (self.plan, self.section):
            view.tool = tool
            if view.entry_made:
                view.entry.stop()
            view.refresh_entry()
        self.side.refresh()
        self._place_chips()
        self.foot.refresh()

    def lay(self) -> None:
        """Takes the laying tool in hand, or puts it down."""
        if isinstance(self.tool, LayTool):
            self.hold(PickTool(self.session))
            return
        s = self.session.state
        start = next(iter(s.structures)) if len(s.structures) == 1 else None
        self.session.set(stage="layout")
        self.session.select()
        self.hold(LayTool(self.session))
        if start is not None and isinstance(self.tool, LayTool):
            self.tool.begin_at(start)
        self.side.refresh()
        self.plan.setFocus()

    def attach_ends(self) -> None:
        """Pulls every loose end in to the structure that is nearest, where one stands near enough."""
        self.session.edit("Attach loose ends", lambda p, f: all_attached(p, f, ATTACH))

    @cached_property
    def ground(self) -> "GroundActs":
        """What the buttons of the stage Ground do; made when it is first asked for."""
        from zumbert.app.groundacts import GroundActs

        return GroundActs(self)

    def act(self, name: str) -> None:
        """Does what a button of the stage Ground asks for."""
        self.ground.act(name)

    def take(self, tool: Tool) -> None:
        """Takes a layout tool in hand, or puts it down where it is the one in hand."""
        if type(self.tool) is type(tool):
            self.hold(PickTool(self.session))
            return
        self.session.set(stage="layout")
        self.session.select()
        self.hold(tool)
        self.plan.setFocus()

    def gullies(self) -> None:
        """Takes the tool that sets gullies in hand."""
        from zumbert.app.tools.gully import GullyTool

        self.take(GullyTool(self.session))

    def line_pipes(self) -> None:
        """Takes the tool that makes pipes from a line in hand."""
        from zumbert.app.tools.linepipes import LinePipesTool

        self.take(LinePipesTool(self.session))

    def regrade(self) -> None:
        """Opens the strip that regrades the run between two structures: the selected ones, else two that are picked."""
        s = self.session.state
        if len(s.structures) != 2:
            from zumbert.app.tools.twopick import TwoPick

            self.hold(TwoPick(self.session, "regrade", self._regrade))
            return
        a, b = sorted(s.structures, key=lambda k: s.kept.facts.structures[k].lowest or 0.0)
        self._regrade(a, b)

    def _regrade(self, a: StructureId, b: StructureId) -> None:
        if isinstance(self.tool, PickTool):
            self.regrading.open(a, b)
            return
        self.hold(PickTool(self.session))
        self.session.select(structures=frozenset({a, b}), follow=False)
        self.regrading.open(a, b)

    @cached_property
    def regrading(self) -> "RegradeStrip":
        """The strip over the long section; made when it is first asked for."""
        from zumbert.app.regradestrip import RegradeStrip

        made = RegradeStrip(self.session, self.pen, self.section.setFocus)
        layout = self.lower_half.layout()
        assert isinstance(layout, QVBoxLayout)  # noqa: S101 - made in _layout
        layout.insertWidget(1, made)
        made.hide()
        self.session.changed.connect(lambda old, new: made.follow(new))
        return made

    def probe(self) -> None:
        """Takes the tool in hand that tells the levels at any point of a pipe; it works in both drawings and every stage."""
        from zumbert.app.tools.probe import ProbeTool

        self.hold(PickTool(self.session) if self.tool.kind == "probe" else ProbeTool(self.session))

    def hold_other_end(self) -> None:
        """Where a slope is set, the other end of a pipe stays."""
        s = self.session.state
        now = s.hand.held if s.hand is not None else s.held
        self.session.hold("down" if now == "up" else "up")

    def show_path(self) -> None:
        """Shows the way between the two selected structures in the long section."""
        a, b = self.session.state.structures
        key = RunKey.path(a, b)
        if run(self.session.state.kept.facts, key) is None:
            names = [self.session.state.kept.project.structures[k].label for k in (a, b)]
            self.session.refused.emit(f"No pipes lead from {names[0]} to {names[1]}: join them first.")
            return
        self.session.show_run(key)

    def delete(self) -> None:
        """Deletes what is selected; a drag under way ends first."""
        self._let_go()
        s = self.session.state
        if s.thing is not None and not s.pipes and not s.structures:
            delete_thing(self.session, s.thing, s.part)
        else:
            delete_selected(self.session, self)

    def undo(self) -> None:
        """Takes back one step; what is in hand is given up first."""
        self._let_go()
        self.session.undo()

    def redo(self) -> None:
        """Makes a step again."""
        self._let_go()
        self.session.redo()

    def _let_go(self) -> None:
        """What is in hand is given up, and so is a text that is typed."""
        for view in (self.plan, self.section):
            if view.typing:
                view.entry.give_up()
        self.tool.let_go()
        self.session.preview(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.escape()
        else:
            super().keyPressEvent(event)

    def escape(self) -> None:
        """Gives up what is under way, else puts the tool down; in the tables, shuts them."""
        if self.tables_open and self.tables.isAncestorOf(self.focusWidget() or self):
            self.toggle_tables()
            return
        if not self.tool.cancel() and not isinstance(self.tool, PickTool):
            self.hold(PickTool(self.session))
        for view in (self.plan, self.section):
            if view.entry_made:
                view.entry.stop()
            view.refresh_entry()
        self.side.refresh()
        self.foot.refresh()

    # -- going to things -----------------------------------------------------------------------------------------------

    def go_to(self, finding: Finding) -> None:
        """Shows the place of a finding in both drawings, with its thing selected."""
        if finding.pipe is not None:
            self._show_pipe(finding.pipe)
        elif finding.structure is not None:
            self._show_structure(finding.structure, finding.partner)
        if finding.x is not None and finding.y is not None:
            self.plan.show_place(finding.x, finding.y)
            run = self.session.state.run
            if run is not None and run.line is not None:
                ch = float(run.line.project(finding.x, finding.y)[0])
                self.session.set(cursor=ch if ch == ch else None)
        self.session.set(visited=finding)

    def show_thing(self, key: str) -> None:
        """Selects a pipe or structure and shows it at a working scale in both drawings."""
        if key in self.session.state.kept.project.pipes:
            self._show_pipe(PipeId(key))
        elif key in self.session.state.kept.project.structures:
            self._show_structure(StructureId(key))

    def _show_pipe(self, pipe: PipeId) -> None:
        self.session.select(pipes=frozenset({pipe}))
        self.section.fit_pipe(pipe)
        span = self.session.state.kept.facts.spans[pipe]
        self._show_in_plan((span.up.x, span.up.y), (span.down.x, span.down.y))

    def _show_structure(self, structure: StructureId, partner: PipeId | None = None) -> None:
        facts = self.session.state.kept.facts
        if partner is not None:
            self.session.select(pipes=frozenset({partner}))
        near = partner or next(iter(facts.links.at(structure)), None)
        self.session.select(structures=frozenset({structure}))
        run = self.session.state.run
        if near is not None and (run is None or all(k != structure for k, _ in run.structures)):
            self.session.select(pipes=frozenset({near}))
            self.session.select(structures=frozenset({structure}))
        if near is not None:
            self.section.fit_pipe(near)
        p = facts.places[structure]
        self._show_in_plan((p.x, p.y))

    def _show_in_plan(self, *places: tuple[float | None, float | None]) -> None:
        """A thing with some ground about it."""
        known = [(x, y) for x, y in places if x is not None and y is not None]
        if known:
            xs, ys = zip(*known, strict=True)
            self.plan.show_box((min(xs) - 12, min(ys) - 12), (max(xs) + 12, max(ys) + 12))

    def _found(self, kind: str, key: str) -> None:
        """What the finder found: a thing, or a text that may be a chainage."""
        if kind == "pipe":
            self._show_pipe(PipeId(key))
        elif kind == "structure":
            self._show_structure(StructureId(key))
        else:
            self._go_chainage(key)

    def _go_chainage(self, text: str) -> None:
        s = self.session.state
        shown = RoadId(s.run_key.id) if s.run_key is not None and s.run_key.kind == "road" else None
        road = shown or next(iter(s.kept.project.roads), None)
        try:
            place = typed_place(f"{text} 0", road, s.units)
        except ZumbertError:
            self.session.refused.emit(f'Nothing here is called "{text}", nor is it a chainage.')
            return
        assert isinstance(place, Anchored)  # noqa: S101 - two words are chainage and offset
        x, y = s.kept.facts.roads[place.road].alignment.point(place.chainage, 0.0)
        if x != x:
            self.session.refused.emit(f"Chainage {text} is outside the road.")
            return
        self.plan.show_place(float(x), float(y))
        ch = float(s.run.line.project(x, y)[0]) if s.run is not None and s.run.line is not None else None
        self.session.point_at((float(x), float(y)), ch)

    # -- the end -------------------------------------------------------------------------------------------------------

    def _restore(self) -> None:
        state = self.settings().value("splitter")
        if isinstance(state, QByteArray):
            self.splitter.restoreState(state)

    def _show_all(self) -> None:
        self.section.fit()
        self._fit_map()
        self.plan.fit()
        self._place_chips()

    def _opened(self) -> None:
        self.pages.setCurrentIndex(0)
        if self.session.state.look_only:
            self.foot.refuse(f"Open elsewhere by {self._holder}: to look only. Save as another file to change it.")
        self.hold(PickTool(self.session))
        self._show_all()
        self.setWindowTitle(self._title())

    def _imported(self) -> None:
        if self.session.state.run is None and self.session.state.keys:
            self.session.show_run(self.session.state.keys[0])
        self._show_all()

    def quit(self) -> None:
        """Closes the window, having asked about unsaved work."""
        self.close()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow() and self._placed:
            if any(b.source for b in self.session.state.kept.project.backgrounds.values()):
                self.ground.look_for_changes()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.may_leave():
            event.ignore()
            return
        self.settings().setValue("splitter", self.splitter.saveState())
        self._looking.stop()
        self.autosave.end()
        self._unlock()
        event.accept()


__all__ = ["DrawingView", "Window"]
