"""The details of the selected item: ground, roads, drawings, land, services, spot levels and files:
its values, edited in place.
"""

from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.ground.details.attachment import FileDetail
from zumbert.app.stages.ground.details.detail import Detail, Fields
from zumbert.app.stages.ground.details.drawing import DrawingDetail
from zumbert.app.stages.ground.details.land import LandDetail
from zumbert.app.stages.ground.details.road import RoadDetail
from zumbert.app.stages.ground.details.service import ServiceDetail
from zumbert.app.stages.ground.details.spot import SpotDetail
from zumbert.app.stages.ground.details.surface import SurfaceDetail
from zumbert.app.stages.ground.details.view import ViewDetail
from zumbert.app.stages.ground.groundacts import GroundActs
from zumbert.app.state import State
from zumbert.edits.grounditems import record


def detail(session: Session, pen: Pen, s: State, acts: GroundActs) -> Fields:
    """The panel of what is selected; of how ground is shown where nothing is."""
    kinds: dict[str, type[Detail]] = {
        "surface": SurfaceDetail,
        "road": RoadDetail,
        "background": DrawingDetail,
        "land": LandDetail,
        "service": ServiceDetail,
        "spot": SpotDetail,
        "attachment": FileDetail,
    }
    if (
        s.chosen.item is None
        or s.chosen.item.kind not in kinds
        or record(s.shown.project, s.chosen.item) is None
    ):
        return ViewDetail(session, pen)  # a pin or an area has its panel elsewhere
    return kinds[s.chosen.item.kind](session, pen, s.chosen.item, acts)
