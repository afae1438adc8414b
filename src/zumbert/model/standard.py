"""A design standard: a named set of limits for pipes and structures, and what each rule weighs."""

from typing import Any, Literal, NamedTuple

from msgspec import Struct, field

from zumbert.model.ids import StandardId

LimitTable = tuple[
    tuple[float, float], ...
]  # (up to and including, value), rising; beyond the last the last applies
Limit = float | LimitTable
Weight = Literal["breach", "caution", "off"]
WEIGHTS: tuple[Weight, ...] = ("breach", "caution", "off")
Against = Literal["design", "existing", "both"]
AGAINST: tuple[Against, ...] = ("design", "existing", "both")
CROWNS: tuple[str, ...] = ("crowns", "centres", "0.8", "off")

DROP_BY_DEFLECTION: LimitTable = ((15.0, 0.02), (45.0, 0.03), (180.0, 0.05))  # degrees, m
CHAMBER_BY_DN: LimitTable = ((300.0, 1.05), (450.0, 1.2), (600.0, 1.5), (900.0, 1.8))  # mm, m


class Standard(Struct, frozen=True, kw_only=True):
    """Limits that a network is checked against; a table goes by DN (mm), the least drop's by
    deflection (degrees).
    """

    id: StandardId
    name: str
    cover_min: Limit = 0.9  # m
    # m, in place of it under a carriageway, as the road strips have it; None: the same
    cover_carriageway: Limit | None = None
    cover_verge: Limit | None = None  # m, under a verge
    cover_field: Limit | None = None  # m, beside the strips
    cover_max: Limit = 6.0  # m
    slope_min: Limit = 0.004  # fraction
    slope_max: Limit = 0.1  # fraction
    velocity_min: Limit = 0.75  # m/s, full bore
    velocity_max: Limit = 4.0  # m/s
    capacity_max: Limit = 1.0  # design flow over full-bore flow
    depth_ratio_max: Limit = 0.8  # depth over diameter at design flow
    flow_velocity_min: Limit = 0.6  # m/s, at design flow
    flow_velocity_max: Limit = 4.0  # m/s
    drop_min: Limit = DROP_BY_DEFLECTION  # m
    drop_max: Limit = 0.6  # m
    spacing_max: Limit = 100.0  # m, centre plan
    deflection_max: Limit = 90.0  # degrees
    clearance_min: Limit = 0.0  # m between two pipes, outside to outside; a service says its own
    rim_tolerance: float = 0.05  # m that a fixed rim may lie off its surface
    chamber_min: Limit = CHAMBER_BY_DN  # m, inside, by the largest DN
    wall_gap: float = 0.1  # m, clear arc of the inner face between two openings
    # what lines up at a chamber: crowns, centres, 0.8 (of the diameter) or off
    crowns: str = "crowns"
    # the surface that cover is judged by; both: the stage of construction too
    cover_against: Against = "design"
    # by rule, where it is not the usual: how it counts, or off
    weights: dict[str, Weight] = field(default_factory=dict)


class LimitField(NamedTuple):
    """One limit of a standard and how it is written."""

    title: str
    of: Literal["m", "slope", "m/s", "degrees", "ratio"]
    rule: str  # the rule that it is the limit of
    by: Literal["dn", "degrees", ""] = "dn"  # what a table of it goes by; empty: it is one number
    table: Literal["pipes", "structures"] = "pipes"  # where it stands in a file
    empty: bool = False  # whether it may be left out


LIMITS: dict[str, LimitField] = {
    "cover_min": LimitField("Least cover", "m", "cover_min"),
    "cover_carriageway": LimitField("… under a carriageway", "m", "cover_min", empty=True),
    "cover_verge": LimitField("… under a verge", "m", "cover_min", empty=True),
    "cover_field": LimitField("… beside the road", "m", "cover_min", empty=True),
    "cover_max": LimitField("Greatest cover", "m", "cover_max"),
    "slope_min": LimitField("Least slope", "slope", "slope_min"),
    "slope_max": LimitField("Greatest slope", "slope", "slope_max"),
    "velocity_min": LimitField("Least velocity, full bore", "m/s", "velocity_min"),
    "velocity_max": LimitField("Greatest velocity, full bore", "m/s", "velocity_max"),
    "capacity_max": LimitField("Flow over full-bore flow, at most", "ratio", "capacity"),
    "depth_ratio_max": LimitField("Depth over diameter, at most", "ratio", "depth_ratio"),
    "flow_velocity_min": LimitField("Least velocity at design flow", "m/s", "flow_velocity_min"),
    "flow_velocity_max": LimitField("Greatest velocity at design flow", "m/s", "flow_velocity_max"),
    "drop_min": LimitField("Least drop", "m", "drop_min", "degrees"),
    "drop_max": LimitField("Greatest drop", "m", "drop_max"),
    "spacing_max": LimitField("Greatest spacing", "m", "spacing"),
    "deflection_max": LimitField("Greatest deflection", "degrees", "deflection"),
    "clearance_min": LimitField("Clearance between pipes", "m", "clearance"),
    "rim_tolerance": LimitField(
        "Rim off its surface, at most", "m", "rim_on_surface", "", "structures"
    ),
    "chamber_min": LimitField("Smallest chamber", "m", "chamber_size", "dn", "structures"),
    "wall_gap": LimitField("Wall between openings", "m", "wall_openings", "", "structures"),
}


class OwnLimit(Struct, frozen=True, kw_only=True):
    """A limit of one pipe or structure in place of its standard's, or a rule waived there, with
    the reason.
    """

    rule: str
    value: float | None = None  # in the unit of the limit; None: the rule is waived
    reason: str


def own_limit(limits: tuple[OwnLimit, ...], rule: str) -> OwnLimit | None:
    """The one of a rule among the limits of a pipe or structure."""
    return next((own for own in limits if own.rule == rule), None)


_FOOT = 0.3048
_INCH_DN = 25.4  # mm

# the built-in limits in round feet, for projects in US units
US_LIMITS: dict[str, Any] = {
    "cover_min": 3 * _FOOT, "cover_max": 20 * _FOOT, "velocity_min": 2.5 * _FOOT,
    "velocity_max": 13 * _FOOT, "flow_velocity_min": 2 * _FOOT, "flow_velocity_max": 13 * _FOOT,
    "drop_min": ((15.0, 0.07 * _FOOT), (45.0, 0.1 * _FOOT), (180.0, 0.17 * _FOOT)),
    "drop_max": 2 * _FOOT, "rim_tolerance": 0.15 * _FOOT,
    "spacing_max": 330 * _FOOT,
    "chamber_min": tuple((inch * _INCH_DN, round(feet * _FOOT, 4)) for inch,
                         feet in ((24, 4), (30, 5), (42, 6), (60, 8))),
    "wall_gap": 0.33 * _FOOT,
}  # fmt: skip


def limit_at(limit: Limit, key: float) -> float:
    """The value of a limit at a DN (mm) or a deflection (degrees)."""
    if isinstance(limit, (int, float)):
        return float(limit)
    for upto, value in limit:
        if key <= upto + 1e-9:
            return value
    return limit[-1][1]
