"""The tool in hand: one at a time, in both drawings; picking where there is no other."""

from typing import Any

from PySide6.QtCore import QObject, Signal

from zumbert.app.session import Session
from zumbert.app.stages.stage import Offer, WorkStage
from zumbert.app.tools.pick import PickTool
from zumbert.app.tools.tool import Tool
from zumbert.app.views.planview import PlanView
from zumbert.app.views.sectionview import SectionView
from zumbert.app.views.view import DrawingView
from zumbert.drawing.sight import StraightSight
from zumbert.log import logger


def _probe(session: Session) -> Tool:
    from zumbert.app.tools.probe import ProbeTool

    return ProbeTool(session)


def _measure(session: Session) -> Tool:
    from zumbert.app.tools.measure import MeasureTool

    return MeasureTool(session)


# of no stage; those of a stage stand in its entry
TOOLS = {"probe": Offer(_probe, again=True), "measure": Offer(_measure)}


class Toolbox(QObject):
    """Takes tools in hand by their names in the table, and puts them down."""

    changed = Signal()  # another tool is in hand, or none is any more

    def __init__(
        self,
        session: Session,
        plan: PlanView,
        section: SectionView,
        stages: tuple[WorkStage[Any], ...],
    ) -> None:
        super().__init__()
        self.offers: dict[str, tuple[Offer, WorkStage[Any] | None]] = {
            **{name: (offer, None) for name, offer in TOOLS.items()},
            **{name: (offer, s) for s in stages for name, offer in s.tools.items()},
        }
        self.stage: WorkStage[Any] | None = None  # of the tool in hand
        self.session, self.plan, self.section = session, plan, section
        self.name = ""  # of the tool in hand in the table; none for picking
        self.tool: Tool = PickTool(session)
        self.views: tuple[DrawingView, ...] = (plan, section)
        plan.tool = section.tool = self.tool

    @property
    def picking(self) -> bool:
        """Whether no other tool is in hand."""
        return isinstance(self.tool, PickTool)

    def take(self, name: str) -> None:
        """Takes a tool in hand; one that is asked for again is put down."""
        offer, stage = self.offers[name]
        if offer.again and self.name == name:
            self.put_down()
            return
        tool = offer.make(self.session)
        if tool is None:
            return
        with self.session.as_one():
            if stage is not None:
                self.session.set(stage=stage)
            if offer.alone:
                self.session.select()
            self.hold(tool, name)
        tool.begins()
        self.changed.emit()
        if name != "probe":
            self.plan.setFocus()

    def put_down(self) -> None:
        """Picks again."""
        self.hold(PickTool(self.session))

    def hold(self, tool: Tool, name: str = "") -> None:
        """Takes a tool in hand and puts down the one before. The plan keeps what is in sight."""
        self.tool.ends()
        if name:
            logger.info("Tool: %s", name)
        self.tool, self.name = tool, name
        self.stage = self.offers[name][1] if name else None
        if tool.places and not isinstance(self.plan.sight, StraightSight):
            self.session.set(straight=False)  # there was no run to straighten it along
        self.plan.stay(tool.places)
        for view in self.views:
            view.tool = tool
        self._stop_typing()
        self.changed.emit()

    def cancel(self) -> None:
        """Esc: gives up what is under way, else puts the tool down."""
        if not self.tool.cancel() and not self.picking:
            self.put_down()
        self._stop_typing()
        self.changed.emit()

    def let_go(self) -> None:
        """Gives up what is in hand, and any text being typed."""
        for view in self.views:
            if view.typing:
                view.entry.give_up()
        self.tool.let_go()
        self.session.preview(None)

    def _stop_typing(self) -> None:
        for view in self.views:
            if view.entry_made:
                view.entry.stop()
            view.refresh_entry()
