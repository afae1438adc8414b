"""The library to start with: structure types with their inlets, and pipe sizes by material, in
plain figures.
"""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import SizeKey, TypeKey

StructureKind = Literal["manhole", "gully", "catchpit", "headwall", "outfall", "joint"]

InletKind = Literal["kerb", "grate", "combined", "side"]
Shape = Literal["circular"]

ENDS: frozenset[StructureKind] = frozenset({"headwall", "outfall"})  # they end a network


class Inlet(Struct, frozen=True, kw_only=True):
    """How water comes in: over a grate, through an opening in the kerb or beside the road, or
    both.
    """

    kind: InletKind
    length: float  # m along the kerb
    height: float = 0.0  # m of the opening in the kerb or side; 0: it has none
    width: float = 0.0  # m of the grate across the road; 0: it has none
    clear: float = 0.5  # share of the grate that is open


class StructureType(Struct, frozen=True, kw_only=True):
    """A type of structure; a chamber is round or rectangular, the others have no chamber."""

    key: TypeKey
    name: str
    kind: StructureKind
    inside: float = 0.0  # m, inside diameter, or length along its axis; 0: no chamber and no pit
    across: float | None = None  # m, inside width of a rectangular chamber; None: it is round
    wall: float = 0.0  # m
    base: float | None = None  # m, thickness of its base slab; None: as the trench type has it
    sump: float = 0.0  # m below the lowest invert
    frame: float = 0.0  # m, clear opening of its cover or grate; 0: it has none
    depth_min: float | None = None  # m, rim to lowest invert
    depth_max: float | None = None  # m
    dn_max: float | None = None  # mm
    backdrop: bool = False  # whether it may take a drop above the greatest
    loss: float = 0.5  # K of the head lost in it, K V²/2g
    inlet: Inlet | None = None
    allowed: bool = True  # whether it is offered for new work

    @property
    def outside(self) -> float:
        """Outside diameter, m; 0 where there is no chamber."""
        return self.inside + 2 * self.wall if self.inside else 0.0


class PipeSize(Struct, frozen=True, kw_only=True):
    """A pipe size of a material, named by its nominal diameter."""

    key: SizeKey
    dn: float  # mm
    inside: float  # m, inside diameter
    wall: float  # m
    material: str = "concrete"
    n: float = 0.013  # Manning's roughness
    ks: float = 0.0006  # m, roughness of Colebrook and White
    grade: str = ""  # its class of strength, as its makers name it
    shape: Shape = "circular"  # of the section; others will come
    allowed: bool = True  # whether it is offered for new work


_FRAMES: dict[StructureKind, float] = {"manhole": 0.60, "catchpit": 0.60, "gully": 0.40}
_LOSS: dict[StructureKind, float] = {"gully": 1.0, "catchpit": 0.8}


def _chamber(
    key: str,
    name: str,
    kind: StructureKind,
    inside: float,
    wall: float,
    depth: tuple[float, float],
    dn: float,
    sump: float = 0.0,
    inlet: Inlet | None = None,
    across: float | None = None,
) -> StructureType:
    return StructureType(
        key=TypeKey(key),
        name=name,
        kind=kind,
        inside=inside,
        across=across,
        wall=wall,
        sump=sump,
        depth_min=depth[0],
        depth_max=depth[1],
        dn_max=float(dn),
        backdrop=kind == "manhole",
        inlet=inlet,
        frame=_FRAMES[kind],
        loss=_LOSS.get(kind, 0.5),
    )


_KERB = Inlet(kind="kerb", length=0.9, height=0.15)
_GRATE = Inlet(kind="grate", length=0.45, width=0.45)
_COMBINED = Inlet(kind="combined", length=0.6, height=0.12, width=0.45)
_SIDE = Inlet(kind="side", length=0.9, height=0.2)
_WITHOUT_CHAMBER: tuple[StructureType, ...] = (
    StructureType(key=TypeKey("headwall"), name="Headwall", kind="headwall", dn_max=900.0),
    StructureType(key=TypeKey("outfall"), name="Outfall", kind="outfall"),
    StructureType(key=TypeKey("joint"), name="Joint", kind="joint", loss=0.1),
)

STRUCTURE_TYPES: tuple[StructureType, ...] = (
    _chamber("manhole-1050", "Manhole 1050", "manhole", 1.05, 0.10, (0.5, 3.0), 300),
    _chamber("manhole-1200", "Manhole 1200", "manhole", 1.20, 0.125, (0.5, 6.0), 450),
    _chamber("manhole-1500", "Manhole 1500", "manhole", 1.50, 0.15, (0.5, 8.0), 750),
    _chamber("manhole-1800", "Manhole 1800", "manhole", 1.80, 0.175, (0.5, 10.0), 900),
    _chamber("gully-450", "Gully 450", "gully", 0.45, 0.05, (0.4, 1.5), 225, 0.30, _GRATE),
    _chamber("catchpit-1200", "Catch pit 1200", "catchpit", 1.20, 0.125, (0.5, 4.0), 450, 0.45),
    *_WITHOUT_CHAMBER,
    _chamber("manhole-2100", "Manhole 2100", "manhole", 2.10, 0.20, (0.5, 10.0), 1200),
    _chamber(
        "manhole-1500x1200",
        "Manhole 1500 x 1200",
        "manhole",
        1.50,
        0.20,
        (0.5, 6.0),
        750,
        across=1.20,
    ),
    _chamber(
        "gully-kerb-900", "Kerb gully 900", "gully", 0.90, 0.10, (0.5, 2.0), 300, 0.30, _KERB, 0.45
    ),
    _chamber(
        "gully-combined-600",
        "Combined gully 600",
        "gully",
        0.60,
        0.08,
        (0.5, 2.0),
        225,
        0.30,
        _COMBINED,
    ),
    _chamber(
        "gully-side-900", "Side gully 900", "gully", 0.90, 0.10, (0.5, 2.0), 300, 0.30, _SIDE, 0.60
    ),
)

_ROUGH: dict[str, tuple[float, float]] = {  # Manning's n, and ks in m
    "concrete": (0.013, 0.0006), "plastic": (0.011, 0.00006), "clay": (0.012, 0.0003),
}  # fmt: skip


def _pipe(
    key: str, material: str, dn: float, inside: float, wall: float, grade: str = ""
) -> PipeSize:
    """A size from figures in mm."""
    n, ks = _ROUGH[material]
    return PipeSize(
        key=SizeKey(key),
        dn=float(dn),
        inside=round(inside / 1000, 7),
        wall=round(wall / 1000, 7),
        material=material,
        n=n,
        ks=ks,
        grade=grade,
    )


_CONCRETE = (
    (150, 25), (225, 30), (300, 45), (375, 50), (450, 55), (525, 60), (600, 70), (750, 80),
    (900, 95), (1050, 105), (1200, 115), (1350, 125),
)  # fmt: skip
_PLASTIC = (  # named by their outside diameter
    (110, 3.2), (125, 3.7), (160, 4.7), (200, 5.9), (250, 7.3), (315, 9.2), (355, 10.4),
    (400, 11.7), (450, 13.2), (500, 14.6), (560, 16.4), (630, 18.4),
)  # fmt: skip
_CLAY = (
    (100, 17), (125, 18), (150, 20), (200, 23), (225, 25), (250, 27), (300, 31), (350, 35),
    (400, 40), (450, 45), (500, 50), (600, 58),
)  # fmt: skip

PIPE_SIZES: tuple[PipeSize, ...] = (
    *(_pipe(f"{dn}", "concrete", dn, dn, wall) for dn, wall in _CONCRETE),
    *(_pipe(f"plastic-{dn}", "plastic", dn, dn - 2 * wall, wall, "SN 8") for dn, wall in _PLASTIC),
    *(_pipe(f"clay-{dn}", "clay", dn, dn, wall) for dn, wall in _CLAY),
)

_INCH = 0.0254


def _round_us(
    feet: int,
    name: str,
    kind: StructureKind,
    wall: float,
    depth: tuple[float, float],
    dn: float,
    sump: float = 0.0,
    inlet: Inlet | None = None,
    across: float | None = None,
    more: str = "",
) -> StructureType:
    """A chamber sized in feet: walls in inches, depths in feet."""
    key = "-".join([name.split()[0].lower(), *([more] if more else []), f"{feet}ft"])
    title = f"{more.capitalize()} {name.lower()} {feet} ft" if more else f"{name} {feet} ft"
    return _chamber(
        key,
        title,
        kind,
        round(feet * 0.3048, 4),
        wall * _INCH,
        (depth[0] * 0.3048, depth[1] * 0.3048),
        dn * 25.4,
        sump * 0.3048,
        inlet,
        None if across is None else across * 0.3048,
    )


US_STRUCTURE_TYPES: tuple[StructureType, ...] = (
    _round_us(4, "Manhole", "manhole", 5, (2, 20), 24),
    _round_us(5, "Manhole", "manhole", 6, (2, 25), 30),
    _round_us(6, "Manhole", "manhole", 7, (2, 30), 42),
    _round_us(2, "Gully", "gully", 3, (1.5, 6), 12, 1.0, _GRATE),
    _round_us(4, "Catchpit", "catchpit", 5, (2, 15), 24, 1.5),
    *_WITHOUT_CHAMBER,
    _round_us(8, "Manhole", "manhole", 8, (2, 30), 60),
    _round_us(3, "Gully", "gully", 6, (1.5, 8), 15, 1.0, _KERB, 2.0, "kerb"),
    _round_us(3, "Gully", "gully", 6, (1.5, 8), 15, 1.0, _COMBINED, None, "combined"),
    _round_us(3, "Gully", "gully", 6, (1.5, 8), 15, 1.0, _SIDE, 2.0, "side"),
)

_US_CONCRETE = (
    (6, 1), (8, 1.25), (10, 1.5), (12, 2), (15, 2.25), (18, 2.5), (21, 2.75), (24, 3), (30, 3.5),
    (36, 4), (42, 4.5), (48, 5),
)  # fmt: skip
_US_PLASTIC = (
    (4, 0.3), (6, 0.4), (8, 0.5), (10, 0.65), (12, 0.8), (15, 1), (18, 1.2), (21, 1.4), (24, 1.5),
    (30, 1.8), (36, 2.2), (42, 2.5),
)  # fmt: skip
_US_CLAY = (
    (4, 0.6), (6, 0.7), (8, 0.85), (10, 1), (12, 1.15), (15, 1.4), (18, 1.6), (21, 1.9), (24, 2.1),
    (27, 2.4), (30, 2.6), (36, 3.1),
)  # fmt: skip

US_PIPE_SIZES: tuple[PipeSize, ...] = tuple(
    _pipe(f"{prefix}{inch}in", material, round(inch * 25.4, 4), inch * 25.4, wall * 25.4)
    for material, prefix, figures in (
        ("concrete", "", _US_CONCRETE), ("plastic", "plastic-", _US_PLASTIC),
        ("clay", "clay-", _US_CLAY),
    )
    for inch, wall in figures
)  # fmt: skip

PIPE_LETTER = "P"
LABEL_LETTERS: dict[StructureKind, str] = {
    "manhole": "S",
    "gully": "G",
    "catchpit": "CP",
    "headwall": "HW",
    "outfall": "OF",
    "joint": "J",
}


def size_key(text: str) -> SizeKey:
    """The key that a size is meant by: "300", "DN300" and "DN 300" are one."""
    return SizeKey(text.strip().upper().removeprefix("DN").strip())
