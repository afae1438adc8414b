"""A project: one immutable value that holds all that is saved."""

from typing import Literal

from msgspec import Struct, field
from msgspec.structs import replace

from zumbert.model.area import AREA_KINDS, Area, AreaKind
from zumbert.model.background import Background
from zumbert.model.catalogue import PIPE_SIZES, STRUCTURE_TYPES, PipeSize, StructureType, size_key
from zumbert.model.decision import Decision
from zumbert.model.digging import Digging
from zumbert.model.display import Units
from zumbert.model.ids import (
    AreaId,
    AttachmentId,
    BackgroundId,
    IssueId,
    LandId,
    NetworkId,
    PinId,
    PipeId,
    RoadId,
    RunId,
    ServiceId,
    SheetId,
    SizeKey,
    SpotId,
    StandardId,
    StructureId,
    SurfaceId,
    TrenchTypeId,
    TypeKey,
)
from zumbert.model.land import Land
from zumbert.model.network import Network
from zumbert.model.note import Attachment, Pin, Spot
from zumbert.model.pipe import Bore, InvertBasis, Pipe
from zumbert.model.rain import Rain
from zumbert.model.road import Road
from zumbert.model.run import NamedRun
from zumbert.model.service import ServiceLine
from zumbert.model.sheet import Delivery, Issue, Sheet
from zumbert.model.sizing import SizeLog
from zumbert.model.standard import Standard
from zumbert.model.structure import Structure
from zumbert.model.surface import Surface
from zumbert.model.trench import TrenchType

Formula = Literal["manning", "colebrook-white"]
Travel = Literal["actual", "full"]
LengthBasis = Literal["centre-plan", "wall-plan", "centre-slope", "wall-slope"]
FORMULAS: tuple[Formula, ...] = ("manning", "colebrook-white")
LENGTH_BASES: tuple[LengthBasis, ...] = ("centre-plan", "wall-plan", "centre-slope", "wall-slope")


class Settings(Struct, frozen=True, kw_only=True):
    """How the project quotes and counts."""

    invert_basis: InvertBasis = "centres"
    length_basis: LengthBasis = "centre-plan"
    formula: Formula = "manning"  # of the velocity in a pipe
    travel: Travel = "actual"  # the velocity that water travels with from structure to structure
    units: Units = Units()
    contours: float | None = None  # m between contours; None: by the scale
    shading: bool = False  # whether the ground is shaded by its slope
    labels: dict[str, str] = field(
        default_factory=dict
    )  # patterns of labels by kind, where they are not the usual
    structure_label: tuple[str, ...] = ("label",)  # what labels say in plan
    rows: tuple[str, ...] = ()  # level rows under a long section, in order; none: the usual ones
    pipe_label: tuple[str, ...] = ("label", "size")


class Project(Struct, frozen=True, kw_only=True):
    """The whole project; dicts keep the order in which things came and are never changed in
    place.
    """

    name: str
    settings: Settings = Settings()
    roads: dict[RoadId, Road] = field(default_factory=dict)
    surfaces: dict[SurfaceId, Surface] = field(default_factory=dict)
    backgrounds: dict[BackgroundId, Background] = field(default_factory=dict)
    land: dict[LandId, Land] = field(default_factory=dict)
    areas: dict[AreaId, Area] = field(default_factory=dict)
    area_kinds: tuple[AreaKind, ...] = AREA_KINDS
    rain: Rain | None = None
    size_log: SizeLog | None = None  # of the last sizing that was taken
    services: dict[ServiceId, ServiceLine] = field(default_factory=dict)
    spots: dict[SpotId, Spot] = field(default_factory=dict)
    attachments: dict[AttachmentId, Attachment] = field(default_factory=dict)
    structures: dict[StructureId, Structure] = field(default_factory=dict)
    pipes: dict[PipeId, Pipe] = field(default_factory=dict)
    runs: dict[RunId, NamedRun] = field(default_factory=dict)
    pins: dict[PinId, Pin] = field(default_factory=dict)
    networks: dict[NetworkId, Network] = field(default_factory=dict)
    decisions: dict[str, Decision] = field(default_factory=dict)
    standards: dict[StandardId, Standard] = field(default_factory=dict)
    trench_types: dict[TrenchTypeId, TrenchType] = field(default_factory=dict)
    digging: Digging = Digging()
    types: dict[TypeKey, StructureType] = field(
        default_factory=lambda: {t.key: t for t in STRUCTURE_TYPES}
    )
    sizes: dict[SizeKey, PipeSize] = field(default_factory=lambda: {s.key: s for s in PIPE_SIZES})
    # in the order in which they are numbered
    sheets: dict[SheetId, Sheet] = field(default_factory=dict)
    delivery: Delivery = Delivery()
    issues: dict[IssueId, Issue] = field(default_factory=dict)
    serial: int = 0  # the last number given to an id

    @property
    def units(self) -> Units:
        """How values are shown and taken."""
        return self.settings.units


def new_project(name: str, settings: Settings | None = None) -> Project:
    """An empty project with one storm network on the built-in standard and trench type.

    Its limits, structure types and pipe sizes are those of its system of units.
    """
    settings = settings or Settings()
    start = settings.units.measures
    standard = Standard(id=StandardId("standard1"), name="Built-in standard", **start.limits)
    trench = TrenchType(id=TrenchTypeId("trench1"), name="Built-in trench")
    network = Network(
        id=NetworkId("network1"), name="Storm", standard=standard.id, trench=trench.id
    )
    return Project(
        name=name,
        settings=settings,
        networks={network.id: network},
        standards={standard.id: standard},
        trench_types={trench.id: trench},
        types={t.key: t for t in start.types},
        sizes={s.key: s for s in start.sizes},
    )


def with_id(project: Project, letter: str) -> tuple[Project, str]:
    """The project with its serial moved on, and a fresh id."""
    serial = project.serial + 1
    return replace(project, serial=serial), f"{letter}{serial}"


def inside_and_wall(project: Project, pipe: Pipe) -> tuple[float, float]:
    """Inside diameter and wall of a pipe, m."""
    if isinstance(pipe.size, Bore):
        return pipe.size.inside, pipe.size.wall
    size = project.sizes[pipe.size]
    return size.inside, size.wall


def base_thickness(project: Project, structure: Structure) -> float:
    """Thickness under the sump of a chamber, m: its type's own base, else that of the trench
    type of its network.
    """
    own = project.types[structure.type].base
    return (
        project.trench_types[project.networks[structure.network].trench].base_thickness
        if own is None
        else own
    )


def invert_basis(project: Project, pipe: Pipe) -> InvertBasis:
    """Where the inverts of a pipe are quoted: as it says itself, else its network, else the
    project.
    """
    return (
        pipe.invert_basis
        or project.networks[pipe.network].invert_basis
        or project.settings.invert_basis
    )


def nominal(project: Project, pipe: Pipe) -> float:
    """DN of a pipe, mm; the inside diameter in mm where no size is named."""
    return (
        round(pipe.size.inside * 1000, 3)
        if isinstance(pipe.size, Bore)
        else project.sizes[pipe.size].dn
    )


def size_of(project: Project, text: str) -> SizeKey:
    """The key that a size is meant by: "300", "DN300" and "DN 300" are one, as are "12in", "12 in"
    and (in US) "12".

    With a material, "300 clay" or "DN 300 clay", the size of that material; an unknown one is given
    back as it came.
    """
    key = size_key(text)
    if key in project.sizes:
        return key
    words = key.lower().removesuffix("in").replace("-", " ").split()
    materials = {s.material.lower() for s in project.sizes.values()}
    material = next((w for w in words if w in materials), None)
    numbers = [w.removesuffix("in") for w in words if w != material and w != "in"]
    try:
        dn = float(numbers[0]) * project.units.mm if len(numbers) == 1 else None
    except ValueError:
        dn = None
    named = (
        k
        for k, s in project.sizes.items()
        if dn is not None and abs(s.dn - dn) < 0.01 and material in (None, s.material.lower())
    )
    return next(named, key)


def size_words(project: Project, size: PipeSize) -> str:
    """A pipe size in words, with its material where that is not the library's first, and its
    class in a copy.
    """
    return f"{project.units.dn(size.dn)} {_kind_words(project, size)}".rstrip()


def size_number(project: Project, size: PipeSize) -> str:
    """The same without the letters of the nominal size, as a table takes it: "300", "300 clay"."""
    return f"{project.units.dn_number(size.dn)} {_kind_words(project, size)}".rstrip()


def _kind_words(project: Project, size: PipeSize) -> str:
    first = next(iter(project.sizes.values())).material
    twins = [s for s in project.sizes.values() if (s.material, s.dn) == (size.material, size.dn)]
    grade = size.grade if len(twins) > 1 else ""
    return f"{size.material if size.material != first or grade else ''} {grade}".strip()
