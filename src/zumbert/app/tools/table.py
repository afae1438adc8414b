"""The tools that can be taken in hand, by name: how each is made, and in which stage it works."""

from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

from zumbert.app.session import Session
from zumbert.app.state import StageName
from zumbert.app.tools.tool import Tool
from zumbert.model.ids import RoadId
from zumbert.model.land import LAND_WORDS
from zumbert.model.service import SERVICE_KINDS

if TYPE_CHECKING:
    from zumbert.app.tools.fromline import Purpose


class Offer(NamedTuple):
    """One tool; its module is imported when it is first asked for."""

    make: Callable[[Session], Tool | None]  # None where it was refused, and told
    stage: StageName | None = None  # the stage that it works in
    again: bool = False  # asked for while it is in hand, it is put down


def _lay(session: Session) -> Tool:
    from zumbert.app.tools.lay import LayTool

    chosen = session.state.chosen.structures
    return LayTool(session, next(iter(chosen)) if len(chosen) == 1 else None)


def _gullies(session: Session) -> Tool:
    from zumbert.app.tools.gully import GullyTool

    return GullyTool(session)


def _line_pipes(session: Session) -> Tool:
    from zumbert.app.tools.linepipes import LinePipesTool

    return LinePipesTool(session)


def _probe(session: Session) -> Tool:
    from zumbert.app.tools.probe import ProbeTool

    return ProbeTool(session)


def _measure(session: Session) -> Tool:
    from zumbert.app.tools.places import MeasureTool

    return MeasureTool(session)


def _spot(session: Session) -> Tool:
    from zumbert.app.tools.places import SpotTool

    return SpotTool(session)


def _road(session: Session) -> Tool:
    from zumbert.app.tools.places import RoadTool

    return RoadTool(session)


def _road_points(session: Session) -> Tool | None:
    from zumbert.app.tools.roads import AddPointTool

    item = session.state.chosen.item
    return (
        AddPointTool(session, RoadId(item.id)) if item is not None and item.kind == "road" else None
    )


def _place(session: Session) -> Tool | None:
    from zumbert.app.tools.places import PlacingTool

    item = session.state.chosen.item
    if item is not None and item.kind in ("background", "surface"):
        return PlacingTool(session, item)
    session.refused.emit("Pick the drawing or surface first: in the list of the stage Ground.")
    return None


def _drawn(what: str, kind: str) -> Callable[[Session], Tool]:
    def make(session: Session) -> Tool:
        from zumbert.app.tools.places import LandTool, ServiceTool

        return LandTool(session, kind) if what == "land" else ServiceTool(session, kind)  # type: ignore[arg-type]

    return make


def _from_line(purpose: "Purpose") -> Callable[[Session], Tool]:
    def make(session: Session) -> Tool:
        from zumbert.app.tools.fromline import FromLineTool

        return FromLineTool(session, purpose)

    return make


def _flow(name: str) -> Callable[[Session], Tool]:
    def make(session: Session) -> Tool:
        from zumbert.app.tools.areas import AREA_TOOLS

        tool: Tool = AREA_TOOLS[name](session)
        return tool

    return make


TOOLS: dict[str, Offer] = {
    **{
        name: Offer(_flow(name), "flow", again=True)
        for name in ("area", "area-line", "assign", "drop-path", "catchment")
    },
    "lay": Offer(_lay, "layout", again=True),
    "gullies": Offer(_gullies, "layout", again=True),
    "line-pipes": Offer(_line_pipes, "layout", again=True),
    "probe": Offer(_probe, again=True),
    "measure": Offer(_measure),
    "spot": Offer(_spot, "ground"),
    "make-road": Offer(_road, "ground"),
    "road-points": Offer(_road_points, "ground"),
    "road-from-line": Offer(_from_line(("road", None)), "ground"),
    "place": Offer(_place, "ground"),
    **{f"draw-land-{k}": Offer(_drawn("land", k), "ground") for k in LAND_WORDS},
    **{f"land-from-line-{k}": Offer(_from_line(("land", k)), "ground") for k in LAND_WORDS},
    **{f"draw-service-{k}": Offer(_drawn("service", k), "ground") for k in SERVICE_KINDS},
    **{
        f"service-from-line-{k}": Offer(_from_line(("service", k)), "ground") for k in SERVICE_KINDS
    },
}
