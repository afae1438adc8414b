"""A trench type: how a trench is dug for a pipe."""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import TrenchTypeId

DEPTH_BANDS: tuple[float, ...] = (0.0, 1.5, 2.0, 3.0, 4.0)  # m below the upper surface; the last is open


Upper = Literal["existing", "formation", "lower"]


class TrenchType(Struct, frozen=True, kw_only=True):
    """A trench: upright up to a height over its bottom, then battered."""

    id: TrenchTypeId
    name: str
    bedding: float = 0.1  # m under the pipe
    width: float = 1.0  # m at the bottom
    vertical_height: float = 0.0  # m of upright side over the bottom
    batter: float = 0.0  # m out per 1 m up, above the upright side
    working_space: float = 0.5  # m all round a chamber
    base_thickness: float = 0.2  # m under a chamber's sump
    spacing: float = 2.5  # m between drawn sections
    upper: Upper = "existing"
