"""The kinds of number that a project shows, with the metric unit of each and the decimals that it
is written with.
"""

from typing import NamedTuple

from msgspec import Struct

FOOT = 0.3048  # m
INCH = 25.4  # mm
CUBIC_YARD = 0.9144**3  # m³
MILE = 1609.344  # m
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


# differences of levels too: depths, drops, covers
LEVEL = Quantity("level", Unit("m", 1.0, 3))
LENGTH = Quantity("length", Unit("m", 1.0, 2))
# for setting out: x, y, chainage, offset
POSITION = Quantity("position", Unit("m", 1.0, 3))
SMALL = Quantity("small length", Unit("mm", 1.0, 0))  # in mm
# in mm; without zeros at its end
DN = Quantity("pipe size", Unit("mm", 1.0, 2))
SQUARE = Quantity("area", Unit("m²", 1.0, 1))
WIDE = Quantity("wide area", Unit("ha", HECTARE, 3))
VOLUME = Quantity("volume", Unit("m³", 1.0, 1))
SPEED = Quantity("velocity", Unit("m/s", 1.0, 2))
FLOW = Quantity("flow", Unit("l/s", 1e-3, 1))
INTENSITY = Quantity("intensity", Unit("mm/h", 1.0, 1))  # stored in mm/h
MINUTES = Quantity("time", Unit("min", 1.0, 2))  # stored in minutes
PERCENT = Quantity("slope", Unit("%", 0.01, 2))
FRACTION = Quantity("slope, fraction", Unit("", 1.0, 4))
ONE_IN = Quantity("slope, ratio", Unit("1 in", 1.0, 1))  # n of 1:n
ANGLE = Quantity("angle", Unit("°", 1.0, 0))  # in degrees
RATIO = Quantity("ratio", Unit("", 1.0, 2))
NUMBER = Quantity("number", Unit("", 1.0, 0))
