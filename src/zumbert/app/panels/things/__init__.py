"""What is selected of ground, roads, drawings, land, services, spot levels and files: its values, edited in place."""

from zumbert.app.groundacts import GroundActs
from zumbert.app.panels.things.attachment import FileDetail
from zumbert.app.panels.things.detail import Detail, Fields
from zumbert.app.panels.things.drawing import DrawingDetail
from zumbert.app.panels.things.land import LandDetail
from zumbert.app.panels.things.road import RoadDetail
from zumbert.app.panels.things.service import ServiceDetail
from zumbert.app.panels.things.spot import SpotDetail
from zumbert.app.panels.things.surface import SurfaceDetail
from zumbert.app.panels.things.view import ViewDetail
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.edits.things import record


def detail(session: Session, pen: Pen, s: State, acts: GroundActs) -> Fields:
    """The panel of what is selected; of how ground is shown where nothing is."""
    if s.thing is None or s.thing.kind == "pin" or record(s.shown.project, s.thing) is None:
        return ViewDetail(session, pen)
    kinds: dict[str, type[Detail]] = {
        "surface": SurfaceDetail, "road": RoadDetail, "background": DrawingDetail, "land": LandDetail,
        "service": ServiceDetail, "spot": SpotDetail, "attachment": FileDetail,
    }  # fmt: skip
    return kinds[s.thing.kind](session, pen, s.thing, acts)
