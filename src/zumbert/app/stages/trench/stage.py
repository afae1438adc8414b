"""The stage Trench: what is dug, bedded and filled."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from zumbert.app.frame import Frame
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.stage import FREE_HINT, OVERLAYS, Action, Chip, TableOffer, WorkStage
from zumbert.app.state import State

if TYPE_CHECKING:
    from zumbert.app.centre import Centre
    from zumbert.app.stages.trench.crossview import CrossView
    from zumbert.app.stages.trench.takeoff import TakeoffTable


def _panel(w: Frame) -> QWidget:
    from zumbert.app.stages.trench.copying import copy_takeoff
    from zumbert.app.stages.trench.trenchpanel import TrenchPanel

    return TrenchPanel(w.session, w.pen, w.exchange.export, lambda: copy_takeoff(w.session))


def _view(centre: "Centre") -> "CrossView":
    from zumbert.app.stages.trench.crossview import CrossView

    made = CrossView(centre.session, centre.pen)
    made.to_plan.connect(centre.toggle_own)
    return made


def _cross(w: Frame) -> "CrossView":
    made: CrossView = w.centre.of("trench")
    return made


def _in_force(w: Frame) -> bool:
    return w.session.state.look.stage is TRENCH


def _takeoff(session: Session, pen: Pen) -> "TakeoffTable":
    from zumbert.app.stages.trench.takeoff import TakeoffTable

    return TakeoffTable(session, pen)


def _hint(s: State) -> str:
    if not s.look.own:
        return FREE_HINT
    return (
        "Move along the long section to see its trench, Shift+P pins it. Click a pipe to drag its "
        "levels."
    )


TRENCH: WorkStage[Frame] = WorkStage(
    id="trench",
    text="Trench",
    icon="M2 5.5h4.2L8.6 14v6.5h6.8V14l2.4-8.5H22 M15 16.9a3 3 0 1 1-6 0a3 3 0 0 1 6 0",
    panel=_panel,
    chips=(Chip("cross", "Cross-section", lambda w: w.centre.toggle_own()),),
    tables={"quantities": TableOffer("Quantities", _takeoff)},
    overlays=(OVERLAYS | {"trench", "bands"}) - {"services", "holds"},
    adds=frozenset({"trench", "bands"}),
    rings=True,
    digs=True,
    view=_view,
    needs_trenches=lambda project: True,
    hint=_hint,
    actions=(
        Action(id="cross", text="Cross-section or plan", keys=("X",), menu="View",
               run=lambda w: w.centre.toggle_own(), enabled=_in_force),
        Action(id="next-section", text="Next cross-section", keys=("Ctrl+Right",), menu="View",
               run=lambda w: _cross(w).step(True), enabled=_in_force),
        Action(id="previous-section", text="Previous cross-section", keys=("Ctrl+Left",),
               menu="View", run=lambda w: _cross(w).step(False), enabled=_in_force),
        Action(id="pin-section", text="Pin the cross-section", keys=("Shift+P",), menu="View",
               run=lambda w: _cross(w).pin(), enabled=_in_force),
    ),
)  # fmt: skip
