"""How values are written for people, and read back from them; rounding happens here and nowhere
before.
"""

from collections.abc import Callable
from math import copysign
from typing import Literal

from msgspec import Struct

from zumbert.errors import TypedError
from zumbert.model.quantity import (
    DN,
    FLOW,
    INTENSITY,
    LENGTH,
    LEVEL,
    MINUTES,
    RATIO,
    SMALL,
    SPEED,
    SQUARE,
    VOLUME,
    WIDE,
    Quantity,
)
from zumbert.model.typed import MINUS, typed_fraction, typed_number, typed_quantity
from zumbert.model.unitsystem import UNIT_SYSTEMS, UnitSystem

NONE = "\u2013"  # an en dash where a value does not exist

BARE = 0.1  # a bare slope from here on is per cent, in a field that shows per cent

Chainages = Literal["plus", "plain"]  # 0+123.45 or 123.45
Slopes = Literal["percent", "ratio", "fraction"]


class Units(Struct, frozen=True, kw_only=True):
    """How a project shows values and takes them; what is kept and computed is SI whatever it says.

    In US units lengths and levels are feet (0.3048 m), pipe sizes inches, volumes cubic yards,
    areas acres, and a chainage goes by the hundred feet: 12+34.56.
    """

    system: str = "metric"  # of UNIT_SYSTEMS
    chainages: Chainages = "plus"
    slopes: Slopes = "percent"

    def __post_init__(self) -> None:
        """Raises ValueError for a system that there is not."""
        if self.system not in UNIT_SYSTEMS:
            raise ValueError(
                f'no system of units is called "{self.system}", but {", ".join(UNIT_SYSTEMS)}'
            )

    @property
    def measures(self) -> UnitSystem:
        """The system of units."""
        return UNIT_SYSTEMS[self.system]

    def unit(self, of: Quantity) -> str:
        """The unit of a kind of number."""
        return self.measures.unit(of).name

    def write(self, of: Quantity, value: float | None, more: int = 0, signed: bool = False) -> str:
        """A number of a kind, with its usual decimals, and more where they are asked for; a dash
        for None.
        """
        unit = self.measures.unit(of)
        return number(None if value is None else value / unit.size, unit.decimals + more, signed)

    def with_unit(self, of: Quantity, value: float | None, more: int = 0) -> str:
        """The same, and its unit."""
        return f"{self.write(of, value, more)} {self.unit(of)}"

    @property
    def metres(self) -> float:
        """Metres in one unit of length."""
        return self.measures.unit(LENGTH).size

    @property
    def mm(self) -> float:
        """Millimetres in one unit of small lengths: of pipe sizes and walls."""
        return self.measures.unit(SMALL).size

    @property
    def m(self) -> str:
        """The unit of lengths and levels."""
        return self.unit(LENGTH)

    @property
    def m3(self) -> str:
        """The unit of volumes."""
        return self.unit(VOLUME)

    def shown(self, value: float) -> float:
        """A length (m) in the unit that it is shown in."""
        return value / self.metres

    def si(self, value: float) -> float:
        """A length in the unit that it is shown in, as metres."""
        return value * self.metres

    def level(self, value: float | None, more: int = 0) -> str:
        """A level, m: 3 decimals, in feet 2, and more where they are asked for."""
        return self.write(LEVEL, value, more)

    def step(self, value: float | None) -> str:
        """A change of level (m), with its sign."""
        return self.write(LEVEL, value, signed=True)

    def length(self, value: float | None, more: int = 0) -> str:
        """A length (m), 2 decimals, and more where they are asked for."""
        return self.write(LENGTH, value, more)

    def full(self, value: float, decimals: int = 3) -> str:
        """A length (m) for a field that is edited: no digit that the project holds is lost above
        a decimal.
        """
        return f"{self.shown(value):.{decimals}f}".rstrip("0").rstrip(".") or "0"

    def offset(self, value: float | None) -> str:
        """An offset (m), 2 decimals, with its sign."""
        return self.write(LENGTH, value, signed=True)

    def coordinate(self, value: float | None, more: int = 0) -> str:
        """An x or y (m), 2 decimals."""
        return self.write(LENGTH, value, more)

    def long(self, value: float | None, more: int = 0) -> str:
        """A length with its unit."""
        return self.with_unit(LENGTH, value, more)

    @staticmethod
    def angle(value: float | None, more: int = 0) -> str:
        """An angle (degrees), whole, and with more decimals where they are asked for."""
        return NONE if value is None else f"{number(value, more)}°"

    def speed(self, value: float | None, more: int = 0) -> str:
        """A velocity (m/s) with its unit."""
        return self.with_unit(SPEED, value, more)

    def ratio(self, value: float | None, more: int = 0) -> str:
        """A plain ratio, 2 decimals."""
        return self.write(RATIO, value, more)

    def minutes(self, value: float | None) -> str:
        """A time (min), 2 decimals."""
        return self.write(MINUTES, value)

    def flow(self, value: float | None, more: int = 0) -> str:
        """A flow (m³/s) in l/s, 1 decimal, or in cubic feet a second, 2."""
        return self.write(FLOW, value, more)

    @property
    def flow_unit(self) -> str:
        """The unit of flows."""
        return self.unit(FLOW)

    def flows(self, value: float | None, more: int = 0) -> str:
        """A flow with its unit."""
        return self.with_unit(FLOW, value, more)

    def intensity(self, value: float | None) -> str:
        """An intensity of rain (mm/h), 1 decimal, or in inches an hour, 2."""
        return self.write(INTENSITY, value)

    @property
    def intensity_unit(self) -> str:
        """The unit of intensities."""
        return self.unit(INTENSITY)

    def wide(self, value: float | None) -> str:
        """An area (m²) in hectares, or acres."""
        return self.write(WIDE, value)

    @property
    def wide_unit(self) -> str:
        """The unit of large areas."""
        return self.unit(WIDE)

    def far(self, value: float) -> str:
        """A great distance (m), in kilometres or miles."""
        unit = self.measures.far
        return f"{number(value / unit.size, unit.decimals)} {unit.name}"

    def deep(self, value: float | None, more: int = 0) -> str:
        """A difference of levels with its unit."""
        return self.with_unit(LEVEL, value, more)

    @staticmethod
    def apart(
        show: Callable[[float | None, int], str], a: float | None, b: float | None
    ) -> tuple[str, str]:
        """Two values of one sentence, written with as many decimals as they need to differ, up
        to six more.
        """
        for more in range(7):
            texts = show(a, more), show(b, more)
            if texts[0] != texts[1] or a is None or b is None or a == b:
                break
        return texts

    def contour(self, value: float) -> str:
        """A contour's level (m), with no more decimals than it needs."""
        shown = round(value / self.metres, 2)
        return f"{shown:.1f}" if abs(shown * 10 - round(shown * 10)) < 1e-6 else f"{shown:.2f}"

    def volume(self, value: float | None) -> str:
        """A volume (m³), 1 decimal."""
        return self.write(VOLUME, value)

    def square(self, value: float, decimals: int = 1) -> str:
        """An area in the unit of lengths, squared."""
        return f"{number(value / self.metres**2, decimals)} {self.m}²"

    def area(self, value: float) -> str:
        """An area (m²) with its unit, and in hectares or acres where it is large."""
        large = abs(value) >= 0.05 * self.measures.unit(WIDE).size
        more = f", {self.with_unit(WIDE, value)}" if large else ""
        return f"{self.with_unit(SQUARE, value)}{more}"

    def chainage(self, value: float | None, decimals: int = 2) -> str:
        """A chainage (m) as 0+123.45, by the hundred feet as 12+34.56, or plain."""
        if value is None:
            return NONE
        shown = value / self.metres
        if self.chainages == "plain":
            return number(shown, decimals)
        digits = self.measures.plus
        whole, rest = divmod(round(abs(shown), decimals), 10.0**digits)
        width = digits + 1 + decimals if decimals else digits
        sign = MINUS if shown < 0 and (whole or rest) else ""
        return f"{sign}{int(whole)}+{rest:0{width}.{decimals}f}"

    def slope(self, value: float | None, more: int = 0) -> str:
        """A slope in the project's own notation: 1.25 %, 1:80 or 0.0125."""
        if self.slopes == "ratio":
            return ratio(value, more)
        return percent(value, 2 + more) if self.slopes == "percent" else number(value, 4 + more)

    def other_slope(self, value: float | None) -> str:
        """A slope in the other notation: as a ratio, or as a percentage where that is the
        project's own.
        """
        return percent(value) if self.slopes == "ratio" else ratio(value)

    def dn(self, dn: float) -> str:
        """A pipe size (mm) with its unit: DN 300, or 12 in."""
        return self.measures.size_words.format(self.dn_number(dn))

    def dn_number(self, dn: float) -> str:
        """A pipe size (mm) alone: 300, or in inches 12."""
        return f"{dn:g}" if self.mm == 1.0 else f"{round(dn / self.mm, 2):g}"

    # -- what people type --------------------------------------------------------------------------

    def typed(self, text: str, whole: str = "", of: Quantity = LENGTH) -> float:
        """A typed number of a kind, as it is stored: a length or level in metres. It may have a
        unit, "900 mm".

        Raises TypedError for anything else, which quotes `whole` if the text is a part of that.
        """
        return typed_quantity(of, self.measures.unit(of), text, whole)

    def typed_dn(self, text: str) -> float:
        """A typed pipe size, "300", "DN 300" or "12 in", as mm. Raises TypedError."""
        t = text.strip()
        return self.typed(t[2:] if t[:2].upper() == "DN" else t, text, DN)

    def typed_chainage(self, text: str) -> float:
        """A typed chainage, 412.5 or 0+412.5 (in feet 12+34.56), as metres. Raises TypedError."""
        large, plus, rest = text.strip().rpartition("+")
        if not (plus and large):
            return self.typed(text)
        sign = -1.0 if large[:1] in ("-", MINUS) else 1.0
        each = 10.0**self.measures.plus
        return sign * (abs(typed_number(large)) * each + typed_number(rest)) * self.metres

    def typed_slope(self, text: str, always: bool = False) -> float:
        """A slope typed into a field: 1.25% or 1:80. Where slopes are shown per cent a bare number
        from 0.1 on is per cent, under 0.1 a fraction: 1.5 is 1.5 %, 0.0125 is 1.25 %; where a field
        shows numbers `always` per cent, each is. Raises TypedError, also for one over 100 %.
        """
        value = typed_fraction(text)
        bare = not any(c in text for c in ":%")
        if bare and (always or (self.slopes == "percent" and abs(value) >= BARE)):
            value /= 100
        if abs(value) > 1.0 + 1e-12:
            raise TypedError(
                f'"{text.strip()}" is steeper than 100 %: write a slope as 1.25%, 1:80 or 0.0125.'
            )
        return value

    def understood(self, text: str) -> str:
        """The slope that a text is understood as, while it is typed: "= 1.25 %, 1:80"; nothing
        where it means none yet.
        """
        try:
            value = self.typed_slope(text)
        except ValueError:
            return ""
        return f"= {percent(value)}, {ratio(value)}"


METRIC = Units()


def number(value: float | None, decimals: int, signed: bool = False) -> str:
    """A number with a true minus; "\u2013" for None. A value that rounds to nothing has no sign."""
    if value is None:
        return NONE
    value += copysign(1e-9, value)  # 0.305 kept as 0.30499… is shown as 0.31
    text = f"{value:{'+' if signed else ''}.{decimals}f}"
    if float(text) == 0:
        text = text.replace("-", "+" if signed else "")
    return text.replace("-", MINUS)


def counted(n: int, one: str, many: str | None = None) -> str:
    """A number of things in words: 1 pipe, 2 pipes."""
    return f"{n} {one if n == 1 else many or one + 's'}"


def percent(slope: float | None, decimals: int = 2) -> str:
    """A slope as 1.25 %."""
    return NONE if slope is None else number(slope * 100, decimals) + " %"


def ratio(slope: float | None, more: int = 0) -> str:
    """A slope as 1:80; level where it is none."""
    if slope is None:
        return NONE
    if abs(slope) < 1e-9:
        return "level"
    n = 1 / abs(slope)
    text = f"1:{n:.{1 + more}f}" if n < 99.95 else f"1:{n:.{more}f}"
    return (MINUS if slope < 0 else "") + text.removesuffix(".0")
