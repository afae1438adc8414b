"""The catalogue to start with: structure types and pipe sizes."""

from typing import Literal

from msgspec import Struct

from zumbert.model.ids import SizeKey, TypeKey

Kind = Literal["manhole", "gully", "catchpit", "headwall", "outfall", "joint"]

ENDS: frozenset[Kind] = frozenset({"headwall", "outfall"})  # they end a network


class StructureType(Struct, frozen=True, kw_only=True):
    """A type of structure; a chamber is round or rectangular, the others have no chamber."""

    key: TypeKey
    name: str
    kind: Kind
    inside: float = 0.0  # m, inside diameter, or length along its axis; 0: no chamber and no pit
    across: float | None = None  # m, inside width of a rectangular chamber; None: it is round
    wall: float = 0.0  # m
    base: float = 0.15  # m, thickness of the base slab
    sump: float = 0.0  # m below the lowest invert
    frame: float = 0.0  # m, clear opening of its cover or grate; 0: it has none
    depth_min: float | None = None  # m, rim to lowest invert
    depth_max: float | None = None  # m
    dn_max: float | None = None  # mm
    backdrop: bool = False  # whether it may take a drop above the greatest

    @property
    def outside(self) -> float:
        """Outside diameter, m; 0 where there is no chamber."""
        return self.inside + 2 * self.wall if self.inside else 0.0


class PipeSize(Struct, frozen=True, kw_only=True):
    """A pipe size, named by its nominal diameter."""

    key: SizeKey
    dn: float  # mm
    inside: float  # m
    wall: float  # m


def _chamber(
    key: str,
    name: str,
    kind: Kind,
    inside: float,
    wall: float,
    depth: tuple[float, float],
    dn: float,
    sump: float = 0.0,
) -> StructureType:
    return StructureType(
        key=TypeKey(key), name=name, kind=kind, inside=inside, wall=wall, sump=sump,
        depth_min=depth[0], depth_max=depth[1], dn_max=float(dn), backdrop=kind == "manhole",
    )  # fmt: skip


STRUCTURE_TYPES: tuple[StructureType, ...] = (
    _chamber("manhole-1050", "Manhole 1050", "manhole", 1.05, 0.10, (0.5, 3.0), 300),
    _chamber("manhole-1200", "Manhole 1200", "manhole", 1.20, 0.125, (0.5, 6.0), 450),
    _chamber("manhole-1500", "Manhole 1500", "manhole", 1.50, 0.15, (0.5, 8.0), 750),
    _chamber("manhole-1800", "Manhole 1800", "manhole", 1.80, 0.175, (0.5, 10.0), 900),
    _chamber("gully-450", "Gully 450", "gully", 0.45, 0.05, (0.4, 1.5), 225, sump=0.30),
    _chamber("catchpit-1200", "Catch pit 1200", "catchpit", 1.20, 0.125, (0.5, 4.0), 450, sump=0.45),
    StructureType(key=TypeKey("headwall"), name="Headwall", kind="headwall", dn_max=900.0),
    StructureType(key=TypeKey("outfall"), name="Outfall", kind="outfall"),
    StructureType(key=TypeKey("joint"), name="Joint", kind="joint"),
)

PIPE_SIZES: tuple[PipeSize, ...] = tuple(
    PipeSize(key=SizeKey(str(dn)), dn=float(dn), inside=dn / 1000, wall=wall / 1000)
    for dn, wall in zip(
        (150, 225, 300, 375, 450, 525, 600, 750, 900), (25, 30, 45, 50, 55, 60, 70, 80, 95), strict=True
    )
)

_INCH = 0.0254


def _round_us(
    feet: int, name: str, kind: Kind, wall: float, depth: tuple[float, float], dn: float, sump: float = 0.0
) -> StructureType:
    """A chamber sized in feet: walls in inches, depths in feet."""
    inside = round(feet * 0.3048, 4)
    return _chamber(
        f"{name.split()[0].lower()}-{feet}ft", f"{name} {feet} ft", kind, inside, wall * _INCH,
        (depth[0] * 0.3048, depth[1] * 0.3048), dn * 25.4, sump * 0.3048,
    )  # fmt: skip


US_STRUCTURE_TYPES: tuple[StructureType, ...] = (
    _round_us(4, "Manhole", "manhole", 5, (2, 20), 24),
    _round_us(5, "Manhole", "manhole", 6, (2, 25), 30),
    _round_us(6, "Manhole", "manhole", 7, (2, 30), 42),
    _round_us(2, "Gully", "gully", 3, (1.5, 6), 12, 1.0),
    _round_us(4, "Catchpit", "catchpit", 5, (2, 15), 24, 1.5),
    *(t for t in STRUCTURE_TYPES if not t.inside),
)

US_PIPE_SIZES: tuple[PipeSize, ...] = tuple(
    PipeSize(
        key=SizeKey(f"{inch}in"), dn=round(inch * 25.4, 4), inside=round(inch * _INCH, 6), wall=round(wall * _INCH, 6)
    )
    for inch, wall in zip(
        (6, 8, 10, 12, 15, 18, 21, 24, 30, 36, 42, 48),
        (1, 1.25, 1.5, 2, 2.25, 2.5, 2.75, 3, 3.5, 4, 4.5, 5),
        strict=True,
    )
)

LABEL_LETTERS: dict[Kind, str] = {
    "manhole": "S", "gully": "G", "catchpit": "CP", "headwall": "HW", "outfall": "OF", "joint": "J",
}  # fmt: skip


def size_key(text: str) -> SizeKey:
    """The key that a size is meant by: "300", "DN300" and "DN 300" are one."""
    return SizeKey(text.strip().upper().removeprefix("DN").strip())
