"""The systems of units that a project can be shown in. What is kept and computed is SI in each."""

from typing import Any

from msgspec import Struct

from zumbert.model.catalogue import (
    PIPE_SIZES,
    STRUCTURE_TYPES,
    US_PIPE_SIZES,
    US_STRUCTURE_TYPES,
    PipeSize,
    StructureType,
)
from zumbert.model.quantity import (
    ACRE,
    CUBIC_YARD,
    DN,
    FLOW,
    FOOT,
    INCH,
    INTENSITY,
    LENGTH,
    LEVEL,
    MILE,
    POSITION,
    SMALL,
    SPEED,
    SQUARE,
    VOLUME,
    WIDE,
    Quantity,
    Unit,
)
from zumbert.model.standard import US_LIMITS


class UnitSystem(Struct, frozen=True, kw_only=True):
    """A system of units, and the records that a new project in it starts with."""

    title: str
    words: str  # what it measures in, where it is picked
    units: dict[str, Unit] = {}  # by name of the quantity, where it is not the metric one
    far: Unit  # of great distances
    size_words: str  # a pipe size as it is called
    plus: int  # digits of a chainage after its plus
    level_step: float  # m, what a level is rounded to where it snaps to nothing
    types: tuple[StructureType, ...]
    sizes: tuple[PipeSize, ...]
    limits: dict[str, Any] = {}  # of the built-in standard, where they are not the metric ones
    landxml: tuple[str, dict[str, str]]  # its element in LandXML, and the names of its units

    def unit(self, of: Quantity) -> Unit:
        """The unit of a kind of number."""
        return self.units.get(of.name, of.metric)


UNIT_SYSTEMS: dict[str, UnitSystem] = {
    "metric": UnitSystem(
        title="metric",
        words="metres, DN in mm, m³",
        far=Unit("km", 1000.0, 1),
        size_words="DN {}",
        plus=3,
        level_step=0.005,
        types=STRUCTURE_TYPES,
        sizes=PIPE_SIZES,
        landxml=(
            "Metric",
            {
                "areaUnit": "squareMeter",
                "linearUnit": "meter",
                "volumeUnit": "cubicMeter",
                "temperatureUnit": "celsius",
                "pressureUnit": "milliBars",
                "diameterUnit": "millimeter",
            },
        ),
    ),
    "us": UnitSystem(
        title="US",
        words="feet, sizes in inches, cubic yards",
        units={
            LEVEL.name: Unit("ft", FOOT, 2),
            LENGTH.name: Unit("ft", FOOT, 2),
            POSITION.name: Unit("ft", FOOT, 3),
            SMALL.name: Unit("in", INCH, 0),
            DN.name: Unit("in", INCH, 2),
            SQUARE.name: Unit("ft²", FOOT**2, 1),
            WIDE.name: Unit("ac", ACRE, 3),
            VOLUME.name: Unit("yd³", CUBIC_YARD, 1),
            SPEED.name: Unit("ft/s", FOOT, 2),
            FLOW.name: Unit("cfs", FOOT**3, 2),
            INTENSITY.name: Unit("in/h", INCH, 2),
        },
        far=Unit("miles", MILE, 1),
        size_words="{} in",
        plus=2,
        level_step=0.01 * FOOT,
        types=US_STRUCTURE_TYPES,
        sizes=US_PIPE_SIZES,
        limits=US_LIMITS,
        landxml=(
            "Imperial",
            {
                "areaUnit": "squareFoot",
                "linearUnit": "foot",
                "volumeUnit": "cubicYard",
                "temperatureUnit": "fahrenheit",
                "pressureUnit": "inHG",
                "diameterUnit": "inch",
            },
        ),
    ),
}
