"""The centre of the window: plan over long section, and the tables that can lie over the
section.
"""

from collections.abc import Callable
from functools import cached_property, partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QSplitter, QStackedWidget, QVBoxLayout, QWidget

from zumbert.app.bars.sectionhead import SectionHead
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.stage import WorkStage
from zumbert.app.state import State
from zumbert.app.views.covering import Covering
from zumbert.app.views.planview import PlanView
from zumbert.app.views.sectionview import SectionView
from zumbert.app.views.view import DrawingView

if TYPE_CHECKING:
    from zumbert.app.tables.drawer import TablesDrawer
    from zumbert.app.views.spaceview import SpaceView
    from zumbert.app.work import Work


class Centre(QSplitter):
    """Plan and long section, with space in the plan's place or beside it, and which of them had
    the keyboard last.
    """

    made_view = Signal(object)  # the view in space, once it is made

    def __init__(self, session: Session, pen: Pen, changed: Callable[[], None]) -> None:
        super().__init__(Qt.Orientation.Vertical)
        self.work: Work | None = None  # for what takes long
        self.dig: Callable[[], bool] = lambda: (
            True
        )  # works out the trenches; False where that was given up
        self._own: dict[str, Any] = {}  # the views of stages, by their stage
        self.covering: Covering | None = None  # the one in the place of both drawings
        self._hidden = (False, False)  # which half was hidden when it came
        self.session, self.pen, self._changed = session, pen, changed
        self.section = SectionView(session, pen)
        self.plan = PlanView(session, pen, self.section)
        self.views: tuple[DrawingView, ...] = (self.plan, self.section)
        self.drawing: DrawingView = self.section  # that had the keyboard last
        for view in self.views:
            self._heard(view)
        self.head = SectionHead(session, self.section.scales, self._switch, self.section.set_scale)
        self.top = QSplitter(
            Qt.Orientation.Horizontal
        )  # the plan, or what is in its place, and space
        self.upper, self.lower_half = QStackedWidget(), QWidget()
        self.column = QVBoxLayout(self.lower_half)

    def _heard(self, view: DrawingView) -> None:
        view.focused.connect(partial(setattr, self, "drawing", view))

    def fill(self) -> None:
        """Adds the drawings, once the splitter itself is in the window."""
        self.addWidget(self.top)
        self.top.addWidget(self.upper)
        self.top.setChildrenCollapsible(False)
        self.upper.addWidget(self.plan)
        self.addWidget(self.lower_half)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(0)
        self.column.addWidget(self.head)
        self.column.addWidget(self.section, 1)
        self.setChildrenCollapsible(False)
        self.setSizes([253, 480])
        self.session.changed.connect(self._follow)

    def _switch(self, show: str) -> None:
        """Switches one of the overlays that the section head offers."""
        s = self.session.state
        if show in s.look.stage.adds:
            self.session.set(hides=frozenset(s.look.hides ^ {show}))
        else:
            self.session.set(shows=frozenset(s.look.shows ^ {show}))

    # -- what is in sight --------------------------------------------------------------------------

    def show_all(self) -> None:
        """Fits both drawings, and the map too, for when the plan is no longer straightened."""
        self.section.fit()
        self.plan.fit_map()
        self.plan.fit()
        self._changed()

    def fit(self) -> None:
        """Shows what is selected in the drawing under the pointer; once more, or with nothing
        selected, all of it.
        """
        if self.covering is not None:
            self.covering.fit()
            return
        view = next((v for v in self.views if v.underMouse()), self.drawing)
        if not view.fit_selected():
            view.fit()
        self._changed()

    def straighten(self) -> None:
        """The plan as a map, or along the run over the long section."""
        self.session.set(straight=not self.session.state.look.straight)
        self._changed()

    def toggle_whole(self) -> None:
        """Gives the whole centre to the zone with the keyboard; called again, restores both."""
        if self.covering is not None:
            return
        if self.top.isHidden() or self.lower_half.isHidden():
            self.top.show()
            self.lower_half.show()
            self._place_space()
        elif self.section.hasFocus() or self.section.underMouse():
            self.top.hide()
        else:
            self.lower_half.hide()
            if self.session.state.look.space_at == "beside":
                whole = self.space.underMouse() or (
                    self.space.hasFocus() and not self.upper_view.underMouse()
                )
                (self.upper if whole else self.space).hide()

    def to_drawing(self) -> None:
        """Returns the keyboard to the drawing that had it last."""
        if self.covering is not None or not self.drawing.isVisible():
            shown = (
                self.tables.table if self.tables_open and self.covering is None else self.upper_view
            )
        else:
            shown = self.drawing
        shown.setFocus()

    # -- space -------------------------------------------------------------------------------------

    @cached_property
    def space(self) -> "SpaceView":
        """The view in space; made when it is first shown."""
        from zumbert.app.bars.spacechips import SpaceChips
        from zumbert.app.views.spaceview import SpaceView

        made = SpaceView(self.session, self.pen)
        made.tool = self.plan.tool
        self.chips = SpaceChips(self.session, made, self.plan_only, self.beside, lambda: self.dig())
        self._heard(made)
        made.travelled.connect(self.section.show_distance)
        self.views = (*self.views, made)
        self.top.addWidget(made)
        self.made_view.emit(made)
        return made

    @property
    def space_seen(self) -> bool:
        """Whether the view in space is in sight."""
        return "space" in self.__dict__ and self.space.isVisibleTo(self) and self.covering is None

    @property
    def in_space(self) -> bool:
        """Whether the keyboard was in the view in space last, and that is in sight."""
        return self.space_seen and self.drawing is self.space

    def plan_only(self) -> None:
        """The plan in the place of space."""
        self.session.set(space_at="")
        self.plan.setFocus()

    def next_space(self) -> None:
        """Space in the plan's place, then beside the plan, then no more."""
        now = self.session.state.look.space_at
        self.session.set(space_at={"": "place", "place": "beside", "beside": ""}[now])
        (self.space if self.session.state.look.space_at else self.plan).setFocus()

    def beside(self) -> None:
        """Space beside the plan, or in its place."""
        self.session.set(
            space_at="place" if self.session.state.look.space_at == "beside" else "beside"
        )

    def _place_space(self) -> None:
        """Plan and space, as the state has them."""
        at = self.session.state.look.space_at
        if at or "space" in self.__dict__:
            beside = at == "beside"
            self.space.setVisible(bool(at))
            self.upper.setVisible(at != "place")
            if beside and min(self.top.sizes()) < 60:
                half = max(2, self.top.width()) // 2
                self.top.setSizes([half, half])
        self._changed()

    # -- in the plan's place -----------------------------------------------------------------------

    def of(self, stage: str) -> Any:
        """The view of a stage's own, in the place of the plan or of both drawings; made when it is
        first asked for.
        """
        if stage not in self._own:
            entry = self.session.stages[stage]
            if entry.view is None:
                raise LookupError(f"The stage {stage} has no view of its own.")
            made = self._own[stage] = entry.view(self)
            if entry.covers:
                made.hide()  # the panel may ask for it before its stage shows it
                self.addWidget(made)
            else:
                self.upper.addWidget(made)
        return self._own[stage]

    @property
    def pictured(self) -> QWidget:
        """The widget that a picture is made of: the drawing that had the keyboard last, where it
        is in sight; the main part of what covers both.
        """
        if self.covering is not None:
            return self.covering.main
        return (
            self.drawing
            if self.drawing is not self.plan and self.drawing.isVisible()
            else self.upper_view
        )

    def _follow_stage(self, stage: WorkStage[Any]) -> None:
        """The view that covers both drawings comes and goes with its stage."""
        wanted: Covering | None = self.of(stage.id) if stage.covers else None
        had = self.covering
        if wanted is had:
            return
        if had is None:
            self._hidden = (self.top.isHidden(), self.lower_half.isHidden())
        else:
            had.hide()
        self.covering = wanted
        if wanted is not None:
            wanted.show()
        for w, hidden in zip((self.top, self.lower_half), self._hidden, strict=True):
            w.setVisible(wanted is None and not hidden)
        (self.drawing if wanted is None else wanted.main).setFocus()

    @property
    def upper_view(self) -> QWidget:
        """The view in the upper half: the plan, that of a stage, or space in their place; the main
        part of what covers both drawings.
        """
        if self.covering is not None:
            return self.covering.main
        if self.session.state.look.space_at == "place":
            return self.space
        return self.upper.currentWidget() or self.plan

    def toggle_own(self) -> None:
        """The plan in the place of the stage's own view, or that again."""
        self.session.set(own=not self.session.state.look.own)

    def _follow(self, old: State, new: State) -> None:
        if old.look.space_at != new.look.space_at:
            self._place_space()
        if old.look.stage is new.look.stage and old.look.own == new.look.own:
            return
        self._follow_stage(new.look.stage)
        stage = new.look.stage
        own = stage.view is not None and not stage.covers and new.look.own
        wanted = self.of(stage.id) if own else self.plan
        if self.upper.currentWidget() is not wanted:
            had = self.upper_view.hasFocus()
            self.upper.setCurrentWidget(wanted)
            if had:
                wanted.setFocus()
            self._changed()

    # -- over the long section ---------------------------------------------------------------------

    @cached_property
    def tables(self) -> "TablesDrawer":
        """The drawer of tables; made when it is first opened."""
        from zumbert.app.tables.drawer import TablesDrawer

        made = TablesDrawer(self.session, self.pen, self.toggle_tables)
        self.column.addWidget(made)
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
        for w in (self.head, self.section):
            w.setVisible(not opened)
        self.tables.setVisible(opened)
        if opened:
            self.tables.refresh()
            self.tables.table.setFocus()
        else:
            self.upper_view.setFocus()
        self._changed()

    def add_strip(self, strip: QWidget) -> None:
        """Adds a strip over the long section, hidden until it is opened."""
        self.column.insertWidget(1, strip)
        strip.hide()
