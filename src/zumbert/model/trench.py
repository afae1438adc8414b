"""Trench types: how a trench is dug for a pipe, by its size and the ground that it lies in."""

from typing import Literal, NamedTuple

from msgspec import Struct

from zumbert.model.ids import TrenchTypeId
from zumbert.model.standard import Limit, limit_at

Upper = Literal["existing", "formation", "lower"]
UPPERS: tuple[Upper, ...] = ("existing", "formation", "lower")
UPPER_WORDS: dict[Upper, str] = {
    "existing": "existing ground",
    "formation": "formation",
    "lower": "the lower of ground and formation",
}


class TrenchSize(Struct, frozen=True, kw_only=True):
    """One row of a trench type: the trench of the pipes up to a size, in one kind of ground or
    any.
    """

    dn: float | None = None  # mm, up to and including; None: any size
    ground: str = ""  # the stratum that the pipe lies in; empty: any
    bedding: float = 0.1  # m under the pipe
    width: Limit = 1.0  # m at the bottom; a table goes by the greatest depth of the trench, m
    # m beside the pipe: the width is its outside diameter and twice this, in place of `width`
    side: float | None = None
    vertical_height: float = 0.0  # m of upright side over the bottom
    batter: float = 0.0  # m out per 1 m up, above the upright side
    bench_width: float = 0.0  # m, ledge after each lift; 0: no benches
    bench_height: float = 1.5  # m, height of a lift between ledges
    surround: float | None = None  # m over the outside top of the pipe; None: there is none
    # m: sides are supported where the trench is deeper; None: never
    support_above: float | None = None

    def width_at(self, outside: float, depth: float) -> float:
        """The width at the bottom (m) for a pipe of an outside diameter (m), in a trench of a
        greatest depth (m).
        """
        return limit_at(self.width, depth) if self.side is None else outside + 2 * self.side


class TrenchType(Struct, frozen=True, kw_only=True):
    """A trench type; the first row that a pipe falls under counts, one of its own ground before
    one of any.
    """

    id: TrenchTypeId
    name: str
    sizes: tuple[TrenchSize, ...] = (TrenchSize(),)
    working_space: float = 0.5  # m all round a chamber
    base_thickness: float = 0.2  # m under the sump of a chamber that has no base of its own
    spacing: float = 2.5  # m between sections
    upper: Upper = "existing"

    def size_for(self, dn: float, ground: str = "") -> TrenchSize | None:
        """The row for a pipe of a DN (mm) in a kind of ground; None where the type has none."""
        fit = [
            r
            for r in self.sizes
            if (r.dn is None or dn <= r.dn + 1e-9) and r.ground in ("", ground)
        ]
        return min(
            fit,
            key=lambda r: (r.ground == "", float("inf") if r.dn is None else r.dn),
            default=None,
        )

    @property
    def by_ground(self) -> bool:
        """Whether a row is for one kind of ground alone."""
        return any(r.ground for r in self.sizes)


class TrenchField(NamedTuple):
    """One dimension of a trench type and how it is written."""

    title: str
    of: Literal["m", "ratio"] = "m"
    empty: bool = False  # whether it may be left out
    table: bool = False  # whether it may be a table by depth
    positive: bool = False  # whether 0 is refused
    short: str = ""  # its title on the drawing of the trench
    at: Literal["left", "right", "under"] = "right"  # where it stands there, from the top down


# in the order of the drawing
SIZE_FIELDS: dict[str, TrenchField] = {
    "support_above": TrenchField(
        "Support deeper than", empty=True, short="Support deeper", at="left"
    ),
    "surround": TrenchField("Surround over the pipe", empty=True, short="Surround over", at="left"),
    "bedding": TrenchField("Bedding", at="left"),
    "batter": TrenchField("Out per 1 up", "ratio"),
    "bench_width": TrenchField("Bench"),
    "bench_height": TrenchField("Lift between benches", positive=True, short="Lift"),
    "vertical_height": TrenchField("Upright up to"),
    "side": TrenchField("Beside the pipe", empty=True, short="Beside pipe"),
    "width": TrenchField("Width", table=True, positive=True, at="under"),
}
TYPE_FIELDS: dict[str, TrenchField] = {
    "working_space": TrenchField("Working space at chambers"),
    "base_thickness": TrenchField("Base under chambers"),
    "spacing": TrenchField("Sections every", positive=True),
}
LARGEST = 100.0  # m: no dimension of a trench is larger


def misfit(field: TrenchField, value: Limit | None) -> str:
    """Why a dimension (in SI) can not be, in a few words; empty where it can."""
    if value is None:
        return "" if field.empty else "it needs a value"
    if isinstance(value, tuple):
        if not field.table:
            return "it is one number"
        if (
            not value
            or len({k for k, _ in value}) < len(value)
            or list(value) != sorted(value)
            or value[0][0] <= 0
        ):
            return "its rows go up, each to another depth over 0"
    for v in [v for _, v in value] if isinstance(value, tuple) else [value]:
        if not 0 <= v <= LARGEST or (field.positive and v == 0):
            return "it is more than 0" if field.positive else "it is 0 or more"
    return ""
