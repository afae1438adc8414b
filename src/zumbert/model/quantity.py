"""The kinds of number that a project shows: their units, metric and US, and the decimals that
they are written with.
"""

from typing import Literal, NamedTuple

from msgspec import Struct

System = Literal["metric", "us"]

FOOT = 0.3048  # m
INCH = 25.4  # mm
CUBIC_YARD = 0.9144**3  # m³
ACRE = 4046.8564224  # m²
HECTARE = 10_000.0  # m²


class Unit(NamedTuple):
    """A unit: its name, how much of the stored value one of it is, and its usual decimals."""

    name: str
    size: float
    decimals: int


class Quantity(Struct, frozen=True):
    """A kind of number. It is written alike wherever it stands: on drawings, in tables, panels
    and sentences.
    """

    name: str
    metric: Unit
    us: Unit

    def unit(self, system: System) -> Unit:
        """Its unit in a system."""
        return self.us if system == "us" else self.metric


def _alike(name: str, unit: str, size: float, decimals: int) -> Quantity:
    both = Unit(unit, size, decimals)
    return Quantity(name, both, both)


# differences of levels too: depths, drops, covers
LEVEL = Quantity("level", Unit("m", 1.0, 3), Unit("ft", FOOT, 2))
LENGTH = Quantity("length", Unit("m", 1.0, 2), Unit("ft", FOOT, 2))
# for setting out: x, y, chainage, offset
POSITION = Quantity("position", Unit("m", 1.0, 3), Unit("ft", FOOT, 3))
SMALL = Quantity("small length", Unit("mm", 1.0, 0), Unit("in", INCH, 0))  # in mm
# in mm; without zeros at its end
DN = Quantity("pipe size", Unit("mm", 1.0, 2), Unit("in", INCH, 2))
SQUARE = Quantity("area", Unit("m²", 1.0, 1), Unit("ft²", FOOT**2, 1))
WIDE = Quantity("wide area", Unit("ha", HECTARE, 3), Unit("ac", ACRE, 3))
VOLUME = Quantity("volume", Unit("m³", 1.0, 1), Unit("yd³", CUBIC_YARD, 1))
SPEED = Quantity("velocity", Unit("m/s", 1.0, 2), Unit("ft/s", FOOT, 2))
FLOW = Quantity("flow", Unit("l/s", 1e-3, 1), Unit("cfs", FOOT**3, 2))
INTENSITY = Quantity("intensity", Unit("mm/h", 1.0, 1), Unit("in/h", INCH, 2))  # stored in mm/h
MINUTES = _alike("time", "min", 1.0, 2)  # stored in minutes
PERCENT = _alike("slope", "%", 0.01, 2)
FRACTION = _alike("slope, fraction", "", 1.0, 4)
ONE_IN = _alike("slope, ratio", "1 in", 1.0, 1)  # n of 1:n
ANGLE = _alike("angle", "°", 1.0, 0)  # in degrees
RATIO = _alike("ratio", "", 1.0, 2)
NUMBER = _alike("number", "", 1.0, 0)
