"""How a project counts what it digs: strata, depth bands, what goes back, and what things cost."""

from msgspec import Struct

from zumbert.model.ids import NetworkId, SurfaceId
from zumbert.model.structure import Status

GENERAL, ROCK = "general", "rock"  # what strata are called where a project names none


class Stratum(Struct, frozen=True, kw_only=True):
    """A layer of the ground, from its top down to the top of the next."""

    name: str
    # m: the next one begins as far below its top; None: where the next one says
    thickness: float | None = None
    surface: SurfaceId | None = None  # the surface of its top; None: where the one above ends
    # x, y and level (m) of its top, where it was met
    boreholes: tuple[tuple[float, float, float], ...] = ()


class Rate(Struct, frozen=True, kw_only=True):
    """The cost of one unit of an item of the takeoff."""

    item: str
    unit: str
    rate: float  # money a unit


class Digging(Struct, frozen=True, kw_only=True):
    """The work that is counted, and how."""

    # from the top; none: general, and rock under the surface of that role
    strata: tuple[Stratum, ...] = ()
    # m below the upper surface; the last is open
    bands: tuple[float, ...] = (0.0, 1.5, 2.0, 3.0, 4.0)
    stripped: float = 0.0  # m of topsoil taken off the existing ground before anything is dug
    # whether trenches run to the centres of chambers, not to the edges of their pits
    to_centres: bool = False
    statuses: frozenset[Status] = frozenset({"proposed"})  # of the work that is counted as dug
    left_out: frozenset[NetworkId] = frozenset()  # networks that are not counted
    reuse: float = 1.0  # share of the backfill that is what was dug
    bulking: float = 1.25  # volume of what is carted away, loose over solid
    carriageway: float = 0.0  # m of reinstatement over a trench in a carriageway
    verge: float = 0.0  # m, in a verge
    field: float = 0.0  # m, beside the roads
    rates: tuple[Rate, ...] = ()

    def band_name(self, i: int) -> str:
        """The name of a depth band: "0-1.5", … "4-"."""
        stop = f"{self.bands[i + 1]:g}" if i + 1 < len(self.bands) else ""
        return f"{self.bands[i]:g}-{stop}"

    @staticmethod
    def band_words(name: str, metres: float = 1.0) -> str:
        """The name of a depth band in words, in a unit of so many metres: "1.5 to 2", "over 4"."""
        low, high = (f"{round(float(v) / metres, 2):g}" if v else "" for v in name.split("-"))
        return f"{low} to {high}" if high else f"over {low}"

    @property
    def band_names(self) -> tuple[str, ...]:
        """The names of all depth bands, from the top."""
        return tuple(map(self.band_name, range(len(self.bands))))
