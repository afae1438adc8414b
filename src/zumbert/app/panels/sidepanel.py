"""The side panel: what is selected, or what the stage is about."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from zumbert.app.panels.checkspanel import ChecksPanel
from zumbert.app.panels.laypanel import LayPanel
from zumbert.app.panels.pipepanel import PipePanel
from zumbert.app.panels.structurepanel import NothingPanel, SeveralPanel, StructurePanel
from zumbert.app.panels.trenchpanel import TrenchPanel
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.app.tools.lay import LayTool
from zumbert.app.tools.tool import Tool
from zumbert.checks.finding import Finding


class SidePanel(QScrollArea):
    """Holds one panel at a time; another is made only when something else is looked at."""

    def __init__(
        self,
        session: Session,
        pen: Pen,
        tool: Callable[[], Tool],
        go: Callable[[Finding], None],
        export: Callable[[], None],
    ) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self._tool, self._go, self._export = tool, go, export
        self._key: Any = None
        self.panel: Any = None
        self.setObjectName("panelscroll")
        self.setFixedWidth(320)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        session.changed.connect(self._changed)
        self.refresh()

    def _changed(self, old: State, new: State) -> None:
        moved_only = (
            old.shown is new.shown and old.pipes is new.pipes and old.structures is new.structures and old.stage == new.stage
            and old.way is new.way and old.visited is new.visited and old.hand is new.hand and old.trenches is new.trenches
        )  # fmt: skip
        if not moved_only:
            self.refresh()

    def refresh(self) -> None:
        """Shows the state, in the panel that it asks for."""
        s = self.session.state
        key, make = self._wanted(s)
        if key != self._key:
            self._key = key
            self._show(make())
        self.panel.refresh(s)

    def _wanted(self, s: State) -> tuple[Any, Callable[[], QWidget]]:
        tool = self._tool()
        if isinstance(tool, LayTool):
            return ("lay", tool), lambda: LayPanel(self.session, self.pen, tool)
        if s.stage == "checks":
            return ("checks",), lambda: ChecksPanel(self.session, self.pen, self._go)
        if s.stage == "trench":
            return ("trench",), lambda: TrenchPanel(self.session, self.pen, self._export)
        project = s.shown.project
        pipes = [p for p in s.pipes if p in project.pipes]
        structures = [k for k in s.structures if k in project.structures]
        if len(pipes) == 1 and not structures:
            return ("pipe", pipes[0], id(project.sizes)), lambda: PipePanel(self.session, self.pen, pipes[0])
        if len(structures) == 1 and not pipes:
            kind = type(project.structures[structures[0]].place)
            return ("structure", structures[0], kind), lambda: StructurePanel(self.session, self.pen, structures[0])
        if pipes or structures:
            return ("several",), lambda: SeveralPanel(self.session, self.pen)
        return ("nothing",), lambda: NothingPanel(self.session, self.pen)

    def _show(self, panel: QWidget) -> None:
        body = QWidget()
        body.setObjectName("panelbody")
        layout = QVBoxLayout(body)
        layout.setContentsMargins(16, 10, 15, 12)
        layout.addWidget(panel)
        self.panel = panel
        self.setWidget(body)
