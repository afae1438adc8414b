"""The side panel: what is selected, or what the stage is about."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from zumbert.app.panels.fields import at_home
from zumbert.app.panels.nothingpanel import NothingPanel
from zumbert.app.pen import Pen
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.stages.stage import WorkStage
from zumbert.app.state import State
from zumbert.app.theme import PANEL
from zumbert.app.tools.tool import Tool
from zumbert.model.ids import PipeId, StructureId

BAR = 8  # width of the scroll bar, as the theme has it
KEPT = ("pipe", "structure", "nothing")  # kinds of panels that stay


class SidePanel(QScrollArea, Reader):
    """Shows one panel at a time. Those of pipes, structures and nothing stay, and are turned to
    what is selected.
    """

    def __init__(
        self,
        session: Session,
        pen: Pen,
        tool: Callable[[], Tool],
        stage_panel: Callable[[WorkStage[Any]], QWidget],
    ) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self._tool, self._stage_panel = tool, stage_panel
        self._key: Any = None
        self.panel: Any = None
        # by kind, each with the key that it was made for
        self._panels: dict[str, tuple[Any, QWidget]] = {}
        self.setObjectName("panelscroll")
        self.setFixedWidth(PANEL)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        body = QWidget()
        body.setObjectName("panelbody")
        self._body = QVBoxLayout(body)
        self.setWidget(body)
        session.changed.connect(self.follow)
        self.verticalScrollBar().rangeChanged.connect(lambda *_: self._margins())

    def _margins(self) -> None:
        """Gives the scroll bar room in the margin, so that the panel keeps its width."""
        bar = self.verticalScrollBar()
        self._body.setContentsMargins(16, 10, 15 - (BAR if bar.maximum() > 0 else 0), 12)

    def show_state(self) -> None:
        """Shows the state, in the panel that it asks for."""
        s = self.session.state
        key, make, thing = self._wanted(s)
        if key != self._key:
            self._key = key
            self._show(self._made(key, make))
        if thing is not None and self.panel.thing != thing:
            self.panel.turn_to(thing)
            self.verticalScrollBar().setValue(0)
        self.panel.refresh(s)
        if not s.previewing:
            at_home(self.panel)

    def _made(self, key: Any, make: Callable[[], QWidget]) -> QWidget:
        """The panel for a key: the one that is kept, or a new one."""
        kind = key[0]
        if kind not in KEPT:
            return make()
        found = self._panels.get(kind)
        if found is None or found[0] != key:
            if found is not None and found[1] is not self.panel:
                found[1].deleteLater()
            found = self._panels[kind] = key, make()
        return found[1]

    def _wanted(self, s: State) -> tuple[Any, Callable[[], QWidget], PipeId | StructureId | None]:
        """The key of the panel, how to make it, and the one thing that it is turned to. Panels
        are imported when they are first asked for.
        """
        tool = self._tool()
        by_tool = {"lay": self._lay, "gullies": self._gullies, "line": self._line}
        if tool.kind in by_tool:
            return (tool.kind, tool), lambda: by_tool[tool.kind](tool), None
        stage, chosen = s.look.stage, s.chosen
        if stage.panel is not None and not (stage.yields and (chosen.pipes or chosen.structures)):
            return (stage.id,), lambda: self._stage_panel(stage), None
        if s.chosen.item is not None and s.chosen.item.kind == "pin":
            return ("pin",), self._pins, None
        project, u = s.shown.project, s.units
        pipes = [p for p in s.chosen.pipes if p in project.pipes]
        structures = [k for k in s.chosen.structures if k in project.structures]
        if len(pipes) + len(structures) > 1:
            return (
                ("several", bool(structures), bool(pipes)),
                lambda: self._several(bool(structures), bool(pipes)),
                None,
            )
        if pipes:
            return ("pipe", u), lambda: self._pipe(pipes[0]), pipes[0]
        if structures:
            kind = type(project.structures[structures[0]].place)
            return ("structure", u, kind), lambda: self._structure(structures[0]), structures[0]
        return ("nothing", u), lambda: NothingPanel(self.session, self.pen), None

    def _lay(self, tool: Any) -> QWidget:
        from zumbert.app.stages.layout.laypanel import LayPanel

        return LayPanel(self.session, self.pen, tool)

    def _gullies(self, tool: Any) -> QWidget:
        from zumbert.app.stages.layout.gullypanel import GullyPanel

        return GullyPanel(self.session, self.pen, tool)

    def _line(self, tool: Any) -> QWidget:
        from zumbert.app.stages.layout.linepanel import LinePanel

        return LinePanel(self.session, self.pen, tool)

    def _pins(self) -> QWidget:
        from zumbert.app.panels.pinspanel import PinPanel

        return PinPanel(self.session, self.pen)

    def _several(self, structures: bool, pipes: bool) -> QWidget:
        from zumbert.app.panels.severalpanel import SeveralPanel

        return SeveralPanel(self.session, self.pen, structures, pipes)

    def _pipe(self, pipe: PipeId) -> QWidget:
        from zumbert.app.panels.pipepanel import PipePanel

        return PipePanel(self.session, self.pen, pipe)

    def _structure(self, structure: StructureId) -> QWidget:
        from zumbert.app.panels.structurepanel import StructurePanel

        return StructurePanel(self.session, self.pen, structure)

    def _show(self, panel: QWidget) -> None:
        """Another panel in the same place. The one before stays where it is until it is deleted,
        later: one of its own fields may be the one that is asking. Taken out, all of it would be
        styled anew.
        """
        # before the old one hides: that ends what its buttons show, which refreshes this
        before, self.panel = self.panel, panel
        if before is not None:
            before.hide()
            if all(before is not kept for _, kept in self._panels.values()):
                self._body.removeWidget(before)
                before.deleteLater()
        self._body.addWidget(panel)
        panel.show()
        self.verticalScrollBar().setValue(0)
        self._margins()
