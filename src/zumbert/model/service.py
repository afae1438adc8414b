"""Services of others that cross or run beside the work."""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import ServiceId

ServiceKind = Literal["water", "gas", "power", "telecom", "sewer"]
SERVICE_KINDS: tuple[ServiceKind, ...] = ("water", "gas", "power", "telecom", "sewer")


class ServiceLine(Struct, frozen=True, kw_only=True):
    """One service: its axis as a polyline (x, y, level in m; the level NaN-free, or None where
    it is not known).
    """

    id: ServiceId
    label: str
    kind: ServiceKind
    points: tuple[tuple[float, float, float | None], ...]
    size: float = 0.1  # m, outside
    clearance: float = 0.3  # m that others keep from its outside
    shown: bool = True
    strength: float = 1.0
