"""A design standard: a named set of limits for pipes and structures."""

from typing import Any

from msgspec import Struct

from zumbert.model.ids import StandardId

LimitTable = tuple[tuple[float, float], ...]  # (up to and including, value), rising; beyond the last the last applies
Limit = float | LimitTable

DROP_BY_DEFLECTION: LimitTable = ((15.0, 0.02), (45.0, 0.03), (180.0, 0.05))  # degrees, m


class Standard(Struct, frozen=True, kw_only=True):
    """Limits that a network is checked against; a table goes by DN (mm), the least drop's by deflection (degrees)."""

    id: StandardId
    name: str
    cover_min: Limit = 0.9  # m
    cover_max: Limit = 6.0  # m
    slope_min: Limit = 0.004  # fraction
    slope_max: Limit = 0.1  # fraction
    velocity_min: Limit = 0.75  # m/s, full bore
    velocity_max: Limit = 4.0  # m/s
    drop_min: Limit = DROP_BY_DEFLECTION  # m
    drop_max: Limit = 0.6  # m
    spacing_max: Limit = 100.0  # m, centre plan
    deflection_max: Limit = 90.0  # degrees
    rim_tolerance: float = 0.05  # m that a fixed rim may lie off its surface
    crowns: str = "crowns"  # what lines up at a chamber: crowns, centres, 0.8 (of the diameter) or off


LIMITS: tuple[str, ...] = (
    "cover_min", "cover_max", "slope_min", "slope_max", "velocity_min", "velocity_max",
    "drop_min", "drop_max", "spacing_max", "deflection_max",
)  # fmt: skip
CROWNS: tuple[str, ...] = ("crowns", "centres", "0.8", "off")


_FOOT = 0.3048

# the built-in limits in round feet, for projects in US units
US_LIMITS: dict[str, Any] = {
    "cover_min": 3 * _FOOT, "cover_max": 20 * _FOOT, "velocity_min": 2.5 * _FOOT, "velocity_max": 13 * _FOOT,
    "drop_min": ((15.0, 0.07 * _FOOT), (45.0, 0.1 * _FOOT), (180.0, 0.17 * _FOOT)), "drop_max": 2 * _FOOT,
    "rim_tolerance": 0.15 * _FOOT,
    "spacing_max": 330 * _FOOT,
}  # fmt: skip


def limit_at(limit: Limit, key: float) -> float:
    """The value of a limit at a DN (mm) or a deflection (degrees)."""
    if isinstance(limit, (int, float)):
        return float(limit)
    for upto, value in limit:
        if key <= upto + 1e-9:
            return value
    return limit[-1][1]
