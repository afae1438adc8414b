"""Which levels there are on land, wherever they come in: typed, dragged or read."""

from math import isfinite

from zumbert.errors import EditError
from zumbert.model.display import Units
from zumbert.model.typed import MINUS

LOWEST, HIGHEST = -500.0, 9000.0  # m above datum: no ground lies lower or higher


def on_land(level: float, units: Units) -> float:
    """A level (m above datum) as it is. Raises EditError for one that no ground has."""
    if not (isfinite(level) and LOWEST <= level <= HIGHEST):
        low, high = (f"{units.shown(v):,.0f}".replace("-", MINUS) for v in (LOWEST, HIGHEST))
        raise EditError(
            f"{units.level(level)} {units.m} is no level: land lies between {low} and {high} "
            f"{units.m} above datum."
        )
    return level
