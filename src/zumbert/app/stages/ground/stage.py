"""The stage Ground: surfaces, roads, drawings, land, services and spot levels."""

from collections.abc import Callable
from typing import TYPE_CHECKING, cast

from PySide6.QtWidgets import QWidget

from zumbert.app.frame import Frame
from zumbert.app.session import Session
from zumbert.app.stages.stage import Action, Offer, WorkStage
from zumbert.app.state import State
from zumbert.app.tools.tool import Tool
from zumbert.model.ids import RoadId
from zumbert.model.land import LAND_WORDS
from zumbert.model.service import SERVICE_KINDS

if TYPE_CHECKING:
    from zumbert.app.stages.ground.groundacts import GroundActs
    from zumbert.app.tools.fromline import Purpose


def _panel(w: Frame) -> QWidget:
    from zumbert.app.stages.ground.groundpanel import GroundPanel

    return GroundPanel(w.session, w.pen, acts(w))


def acts(w: Frame) -> "GroundActs":
    """The commands of the stage beyond a single edit."""
    made: GroundActs = w.acts("ground")
    return made


def _acts(w: Frame) -> "GroundActs":
    from zumbert.app.stages.ground.groundacts import GroundActs

    return GroundActs(w, w.exchange, w.toolbox, w.foot)


def _back(w: Frame) -> None:
    if any(b.source for b in w.session.state.current.project.backgrounds.values()):
        acts(w).look_for_changes()


def _spot(session: Session) -> Tool:
    from zumbert.app.stages.ground.places import SpotTool

    return SpotTool(session)


def _road(session: Session) -> Tool:
    from zumbert.app.stages.ground.places import RoadTool

    return RoadTool(session)


def _road_points(session: Session) -> Tool | None:
    from zumbert.app.tools.roads import AddPointTool

    item = session.state.chosen.item
    if item is None or item.kind != "road":
        return None
    return AddPointTool(session, RoadId(item.id))


def _place(session: Session) -> Tool | None:
    from zumbert.app.stages.ground.places import PlacingTool

    item = session.state.chosen.item
    if item is not None and item.kind in ("background", "surface"):
        return PlacingTool(session, item)
    session.refused.emit("Pick the drawing or surface first: in the list of the stage Ground.")
    return None


def _land(kind: str) -> Callable[[Session], Tool]:
    def make(session: Session) -> Tool:
        from zumbert.app.stages.ground.places import LandTool

        return LandTool(session, kind)  # type: ignore[arg-type]

    return make


def _service(kind: str) -> Callable[[Session], Tool]:
    def make(session: Session) -> Tool:
        from zumbert.app.stages.ground.places import ServiceTool

        return ServiceTool(session, kind)  # type: ignore[arg-type]

    return make


def _from_line(what: str, kind: str | None) -> Callable[[Session], Tool]:
    def make(session: Session) -> Tool:
        from zumbert.app.tools.fromline import FromLineTool

        return FromLineTool(session, cast("Purpose", (what, kind)))

    return make


def _hint(s: State) -> str:
    return (
        "Click a road, an area, a service or a spot level. Drag to move the drawing, wheel to zoom."
    )


GROUND: WorkStage[Frame] = WorkStage(
    id="ground",
    text="Ground",
    icon=(
        "M2.5 18.5c3-4.5 5.5-6 9-4.5s6 1 10-3.5 M2.5 13c3-4 5-5.5 8.5-4.2s5.5 1.2 8-2.3 "
        "M5 7.5c1.8-2 3.6-2.8 5.8-2 M2.5 21.5h19"
    ),
    panel=_panel,
    yields=True,
    acts=_acts,
    back=_back,
    picks="ground",
    hint=_hint,
    tools={
        "spot": Offer(_spot),
        "make-road": Offer(_road),
        "road-points": Offer(_road_points),
        "road-from-line": Offer(_from_line("road", None)),
        "place": Offer(_place),
        **{f"draw-land-{k}": Offer(_land(k)) for k in LAND_WORDS},
        **{f"land-from-line-{k}": Offer(_from_line("land", k)) for k in LAND_WORDS},
        **{f"draw-service-{k}": Offer(_service(k)) for k in SERVICE_KINDS},
        **{f"service-from-line-{k}": Offer(_from_line("service", k)) for k in SERVICE_KINDS},
    },
    actions=(
        Action(id="structures-from", text="Create structures from a drawing …", menu="Draw",
               run=lambda w: acts(w).structures_from()),
        Action(id="place", text="Place a drawing or surface by points", menu="Draw",
               run=lambda w: w.toolbox.take("place")),
        Action(id="spot", text="Place spot levels", keys=("P",), menu="Draw",
               run=lambda w: w.toolbox.take("spot")),
        Action(id="make-road", text="Draw a road by points", menu="Draw",
               run=lambda w: w.toolbox.take("make-road")),
    ),
)  # fmt: skip
