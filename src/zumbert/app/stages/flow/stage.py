"""The stage Flow: areas, rain, flows and sizes."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from zumbert.app.frame import Frame
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.stage import FREE_HINT, Offer, TableOffer, WorkStage
from zumbert.app.state import State
from zumbert.app.tools.tool import Tool

if TYPE_CHECKING:
    from zumbert.app.stages.flow.areatable import AreaTable
    from zumbert.app.stages.flow.flowacts import FlowActs

AREA_TOOL_NAMES = ("area", "area-line", "assign", "drop-path", "catchment")


def _panel(w: Frame) -> QWidget:
    from zumbert.app.stages.flow.flowpanel import FlowPanel

    return FlowPanel(w.session, w.pen, w.acts("flow"))


def _acts(w: Frame) -> "FlowActs":
    from zumbert.app.stages.flow.flowacts import FlowActs

    return FlowActs(w, w.exchange, w.toolbox, w.foot)


def _tool(name: str) -> Callable[[Session], Tool]:
    def make(session: Session) -> Tool:
        from zumbert.app.stages.flow.areas import AREA_TOOLS

        tool: Tool = AREA_TOOLS[name](session)
        return tool

    return make


def _areas(session: Session, pen: Pen) -> "AreaTable":
    from zumbert.app.stages.flow.areatable import AreaTable

    return AreaTable(session, pen)


def _hint(s: State) -> str:
    if s.chosen.hand is not None:
        return FREE_HINT
    return "Click a pipe, a structure, or an area. Drag to move the drawing, wheel to zoom."


FLOW: WorkStage[Frame] = WorkStage(
    id="flow",
    text="Flow",
    icon=(
        "M12 3c3.4 4.4 5.2 7.4 5.2 10a5.2 5.2 0 0 1-10.4 0C6.8 10.4 8.6 7.4 12 3 "
        "M3 21.2c1.5-1 3-1 4.5 0s3 1 4.5 0 3-1 4.5 0 3 1 4.5 0"
    ),
    panel=_panel,
    acts=_acts,
    tools={name: Offer(_tool(name), again=True) for name in AREA_TOOL_NAMES},
    tables={"areas": TableOffer("Areas", _areas)},
    adds=frozenset({"flow"}),
    rings=True,
    picks="areas",
    hint=_hint,
)
