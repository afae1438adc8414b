"""The one table of the fields of structures and pipes. Panels, tables, level rows, labels, files
and the command line read it.

A new field is one line in STRUCTURE_FIELDS or PIPE_FIELDS. One that is stored in the record is
edited by its kind alone; one that follows from others and can be edited all the same has a function
in `edits/fields.py`.
"""

from collections.abc import Callable
from typing import Any

from msgspec import Struct

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.flowfacts import PipeFlow
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.probe import levels
from zumbert.checks.limits import governing_drop
from zumbert.checks.velocity import velocity
from zumbert.model import quantity
from zumbert.model.display import NONE, Units
from zumbert.model.pipe import End, Pipe
from zumbert.model.project import LENGTH_BASES, LengthBasis, Project, size_number
from zumbert.model.quantity import Quantity
from zumbert.model.structure import STATUSES, Anchored, Free, Structure

ObjectRecord = Structure | Pipe
CellValue = str | float | None


class ValueKind(Struct, frozen=True):
    """The kind of values of a field, and how they are written."""

    show: Callable[[Units, Any], str]
    of: Quantity | None  # in its column; None for words
    more: int = 0  # decimals more than usual in its column
    with_levels: bool = False  # whether it changes when a level does
    # how level rows write it, where that is another way
    row: Callable[[Units, Any], str] | None = None

    @property
    def number(self) -> bool:
        """Whether the values are numbers."""
        return self.of is not None


def _same(units: Units, value: str) -> str:
    return value


def _both(units: Units, value: float | None) -> str:
    return f"{units.slope(value)}  {units.other_slope(value)}"


TEXT = ValueKind(_same, None)
LEVEL = ValueKind(Units.level, quantity.LEVEL, with_levels=True)
COVER = ValueKind(Units.length, quantity.LEVEL, with_levels=True)
LENGTH = ValueKind(Units.length, quantity.LENGTH, with_levels=True)
CHAINAGE = ValueKind(Units.chainage, quantity.POSITION)
OFFSET = ValueKind(Units.offset, quantity.POSITION)
COORDINATE = ValueKind(lambda u, v: u.coordinate(v, 1), quantity.POSITION)
SPEED = ValueKind(Units.speed, quantity.SPEED, with_levels=True)
SLOPE = ValueKind(Units.slope, quantity.PERCENT, 1, with_levels=True, row=_both)
FLOW = ValueKind(Units.flow, quantity.FLOW, with_levels=True)
INTENSITY = ValueKind(Units.intensity, quantity.INTENSITY, with_levels=True)
MINUTES = ValueKind(Units.minutes, quantity.MINUTES, with_levels=True)
WIDE = ValueKind(Units.wide, quantity.WIDE)
SHARE = ValueKind(Units.ratio, quantity.RATIO, 1, with_levels=True)
DN = ValueKind(Units.dn_number, quantity.DN)


def _always(record: Any) -> bool:
    return True


class Field(Struct, frozen=True, kw_only=True, eq=False):
    """A field of a structure or pipe. The empty word, or False, says that a place does not show
    it.
    """

    # what edits, label settings and files call it; the attribute of the record where it is stored
    key: str
    title: str  # the head of its column
    kind: ValueKind = TEXT
    read: Callable[[Facts, Any], Any]  # of its facts: SI, None where there is none
    # a value in words, where it is a key or a list
    words: Callable[[Facts, Any], str] | None = None
    head: Callable[[Facts], str] | None = None  # its title, where that names a surface
    column: bool = True  # in tables and schedules
    row: str = ""  # its name among the level rows
    usual: int = 0  # its place among the level rows of a new project, from 1 on
    ink: str = "row"  # of its level row
    end: End | None = None  # of a pipe: its level row stands under the structure at that end
    label: Callable[[Units, Any], str] | None = None  # how labels in plan write it
    beside: str = ""  # the field beside which it stands in a label
    panel: str = ""  # its name in the panel of the object
    json: str = ""  # its name in the documents of the command line
    heads: tuple[str, ...] = ()  # what columns of a file call it besides
    edit: str = ""  # the name of an edit of it, with the label as {}; none where it is not edited
    stored: bool = False  # whether it is in the record, not derived: read-back compares it
    when: Callable[[Any], bool] = _always  # whether a record has it
    # whether it follows another value today: no level row offers it
    follows: Callable[[Facts, Any], bool] | None = None
    hold: str = ""  # the attribute of the record that holds it
    choices: Callable[[Project], list[str]] | None = None  # the words that it takes

    def offered(self, project: Project) -> list[str]:
        """The words that it takes, where they are few."""
        return [] if self.choices is None else self.choices(project)

    def cell(self, facts: Facts, of: Any) -> CellValue:
        """The value in its column: in the metric unit of the column, or in words."""
        value = self.read(facts, of)
        if value is None:
            return None
        if self.words is not None:
            return self.words(facts, value)
        of = self.kind.of
        return value if of is None else value / of.metric.size  # type: ignore[no-any-return]

    def text(self, facts: Facts, of: Any) -> str:
        """The value as it is shown, in the units of the project; a dash where there is none."""
        return self._shown(facts, of, self.kind.show)

    def row_text(self, facts: Facts, of: Any) -> str:
        """The value as a level row shows it."""
        return self._shown(facts, of, self.kind.row or self.kind.show)

    def _shown(self, facts: Facts, of: Any, show: Callable[[Units, Any], str]) -> str:
        value = self.read(facts, of)
        if value is None:
            return NONE
        return self.words(facts, value) if self.words is not None else show(facts.units, value)

    def label_lines(self, facts: Facts, of: Any) -> list[str]:
        """The lines of a label in plan; none without a value."""
        value = self.read(facts, of)
        if self.label is None or value is None:
            return []
        return self.label(
            facts.units, value if self.words is None else self.words(facts, value)
        ).splitlines()

    def held(self, record: ObjectRecord) -> bool:
        """Whether the value is held in a record."""
        return bool(self.hold) and bool(getattr(record, self.hold, False))


# -- structures ------------------------------------------------------------------------------------


def _road(facts: Facts, f: StructureFacts) -> str | None:
    return None if f.place.road is None else facts.project.roads[f.place.road].name


def _inverts_in(facts: Facts, f: StructureFacts) -> tuple[float, ...] | None:
    """Every invert in, the run's own and those of its side branches, highest first."""
    return tuple(sorted((g.pipe.invert_down for g in f.pipes_in), reverse=True)) or None


def _inverts(facts: Facts, f: StructureFacts) -> tuple[tuple[str, float], ...]:
    into = tuple((f"in {g.pipe.label}", g.pipe.invert_down) for g in f.pipes_in)
    return into + tuple((f"out {g.pipe.label}", g.pipe.invert_up) for g in f.pipes_out)


def _surface(role: str, word: str) -> Callable[[Facts], str]:
    return lambda facts: f"{word}: {facts.surfaces.name(role)}"


def _networks(project: Project) -> list[str]:
    return [n.name for n in project.networks.values()]


def _table(*fields: Field) -> dict[str, Field]:
    return {f.key: f for f in fields}


STRUCTURE_FIELDS = _table(
    Field(key="label", title="Structure", read=lambda facts, f: f.structure.label, label=_same,
          json="label",
          heads=("label",), edit="Rename {}", stored=True),
    Field(key="type", title="Type", read=lambda facts, f: f.structure.type, json="type",
          label=_same, stored=True,
          words=lambda facts, key: facts.project.types[key].name, edit="Change the type of {}",
          hold="hold_size",
          choices=lambda project: [t.name for t in project.types.values() if t.allowed]),
    Field(key="road", title="Road", read=_road, json="road", heads=("alignment",)),
    Field(key="chainage", title="Chainage", kind=CHAINAGE, read=lambda facts, f: f.place.chainage,
          row="Chainage", usual=2,
          label=Units.chainage, panel="Chainage", json="chainage", edit="Move {}", stored=True,
          when=lambda s: isinstance(s.place, Anchored)),
    Field(key="offset", title="Offset", kind=OFFSET, read=lambda facts, f: f.place.offset,
          label=Units.offset, beside="chainage",
          panel="Offset", json="offset", edit="Move {}", stored=True,
          when=lambda s: isinstance(s.place, Anchored)),
    Field(key="x", title="x", kind=COORDINATE, read=lambda facts, f: f.place.x, panel="X", json="x",
          edit="Move {}",
          stored=True, when=lambda s: isinstance(s.place, Free)),
    Field(key="y", title="y", kind=COORDINATE, read=lambda facts, f: f.place.y, panel="Y", json="y",
          edit="Move {}",
          stored=True, when=lambda s: isinstance(s.place, Free)),
    Field(key="ground", title="Ground", head=_surface("existing", "Ground"), kind=LEVEL,
          read=lambda facts, f: f.place.ground,
          row="Ground", usual=3, ink="row-ground", panel="Ground"),
    Field(key="design", title="Design", head=_surface("design", "Design"), kind=LEVEL,
          read=lambda facts, f: f.place.design,
          row="Design", usual=4, ink="row-design", panel="Design"),
    Field(key="rim", title="Rim", kind=LEVEL, read=lambda facts, f: f.place.rim, row="Rim", usual=5,
          panel="Rim", json="rim",
          label=lambda u, v: f"rim {u.level(v)}", edit="Set the rim of {}", stored=True,
          follows=lambda facts, f: f.place.rim_from != "fixed"),
    Field(key="lowest", title="Lowest invert", kind=LEVEL, read=lambda facts, f: f.lowest),
    Field(key="depth", title="Depth", kind=LEVEL, read=lambda facts, f: f.depth, row="Depth",
          usual=8,
          panel="Depth to invert", json="depth"),
    Field(key="sump", title="Sump level", kind=LEVEL, read=lambda facts, f: f.sump_level,
          row="Sump", panel="Sump level",
          json="sump_level", label=lambda u, v: f"sump {u.level(v)}"),
    Field(key="inverts", title="Inverts", kind=LEVEL, read=_inverts, column=False,
          label=lambda u, v: "\n".join(f"{where} {u.level(z)}" for where, z in v)),
    Field(key="inverts_in", title="All inverts in", read=_inverts_in, column=False,
          row="All inverts in",
          words=lambda facts, v: " ".join(map(facts.units.level, v))),
    Field(key="status", title="Status", read=lambda facts, f: f.structure.status,
          edit="Change the status of {}", stored=True,
          choices=lambda project: [*STATUSES]),
    Field(key="network", title="Network", read=lambda facts,
          f: facts.project.networks[f.structure.network].name,
          edit="Move {} to a network", stored=True, choices=_networks),
    Field(key="next_slope", title="Next slope", kind=SLOPE, read=lambda facts,
          f: f.structure.next_slope, column=False,
          panel="Next slope", edit="Set the slope of the next pipe from {}"),
)  # fmt: skip


# -- pipes -----------------------------------------------------------------------------------------


def _end_label(end: End) -> Callable[[Facts, PipeFacts], str]:
    return lambda facts, f: facts.project.structures[f.pipe.at(end)].label


def _material(facts: Facts, f: PipeFacts) -> str | None:
    return facts.project.sizes[f.pipe.size].material if isinstance(f.pipe.size, str) else None


def _crown(end: End) -> Callable[[Facts, PipeFacts], float]:
    return lambda facts, f: f.pipe.invert(end) + f.inside


def _end_cover(end: End) -> Callable[[Facts, PipeFacts], float | None]:
    """Cover at the inner wall of the chamber at an end."""
    return lambda facts, f: levels(f, facts, f.span.length if end == "down" else 0.0).cover


def _drop(end: End) -> Callable[[Facts, PipeFacts], float | None]:
    def read(facts: Facts, f: PipeFacts) -> float | None:
        worst = governing_drop(facts, f.pipe.id, f.pipe.at(end))
        return None if worst is None else worst.drop

    return read


def _length(basis: LengthBasis) -> Field:
    where, along = basis.split("-")
    return Field(
        key=f"length_{where}_{along}",
        title=f"{where.capitalize()} {along}",
        kind=LENGTH,
        read=lambda facts, f: f.length(basis),
        json=f"length_{where}_{along}",
    )


def _flow(of: Callable[[PipeFlow], float | None]) -> Callable[[Facts, PipeFacts], float | None]:
    """Of the design flow of a pipe."""

    def read(facts: Facts, f: PipeFacts) -> float | None:
        flow = facts.pipe_flow.get(f.pipe.id)
        return None if flow is None else of(flow)

    return read


def _trench(facts: Facts, f: PipeFacts) -> str:
    """The trench type of a pipe: its own, or that of its network."""
    project = facts.project
    return project.trench_types[f.pipe.trench or project.networks[f.pipe.network].trench].name


PIPE_FIELDS = _table(
    Field(key="label", title="Pipe", read=lambda facts, f: f.pipe.label, label=_same, json="label",
          heads=("label",)),
    Field(key="from", title="From", read=_end_label("up"), json="from"),
    Field(key="to", title="To", read=_end_label("down"), json="to"),
    Field(key="size", title="DN", kind=DN, read=lambda facts, f: f.dn, row="DN", usual=11,
          label=Units.dn, json="dn",
          edit="Change the size of {}", stored=True, hold="hold_size",
          choices=lambda project: [size_number(project, z) for z in project.sizes.values()
                                   if z.allowed]),
    Field(key="material", title="Material", read=_material, row="Material"),
    Field(key="length", title="Length", kind=LENGTH, read=lambda facts,
          f: f.length(facts.project.settings.length_basis),
          column=False, row="Length", usual=9, label=Units.long),
    Field(key="invert_up", title="Invert up", kind=LEVEL, read=lambda facts, f: f.pipe.invert_up,
          row="Invert out", usual=7,
          end="up", panel="Invert at", json="invert_up", edit="Set the invert at {}", stored=True,
          hold="hold_up"),
    Field(key="invert_down", title="Invert down", kind=LEVEL, read=lambda facts,
          f: f.pipe.invert_down, row="Invert in", usual=6,
          end="down", panel="Invert at", json="invert_down", edit="Set the invert at {}",
          stored=True, hold="hold_down"),
    Field(key="slope", title="Slope", kind=SLOPE, read=lambda facts, f: f.slope, row="Slope",
          usual=10, panel="Slope",
          label=Units.slope, json="slope", edit="Set the slope of {}", hold="hold_slope"),
    Field(key="crown_up", title="Crown up", kind=LEVEL, read=_crown("up"), column=False,
          row="Crown out", end="up",
          edit="Set the crown at {}"),
    Field(key="crown_down", title="Crown down", kind=LEVEL, read=_crown("down"), column=False,
          row="Crown in", end="down",
          edit="Set the crown at {}"),
    Field(key="fall", title="Fall", kind=LEVEL, read=lambda facts,
          f: f.pipe.invert_up - f.pipe.invert_down, column=False,
          row="Fall"),
    *(_length(basis) for basis in LENGTH_BASES),
    Field(key="cover", title="Least cover", kind=COVER, read=lambda facts,
          f: f.cover and f.cover.least, row="Least cover",
          panel="Least cover", json="cover_min", edit="Set the cover of {}"),
    Field(key="cover_at", title="Least cover at", kind=LENGTH, read=lambda facts,
          f: f.cover and f.cover.least_at,
          json="cover_min_at"),
    Field(key="greatest_cover", title="Greatest cover", kind=COVER, read=lambda facts,
          f: f.cover and f.cover.greatest,
          panel="Greatest cover", json="cover_max"),
    Field(key="greatest_cover_at", title="Greatest cover at", kind=LENGTH, column=False,
          read=lambda facts, f: f.cover and f.cover.greatest_at, json="cover_max_at"),
    Field(key="cover_up", title="Cover up", kind=COVER, read=_end_cover("up"), column=False,
          row="Cover out", end="up"),
    Field(key="cover_down", title="Cover down", kind=COVER, read=_end_cover("down"), column=False,
          row="Cover in", end="down"),
    Field(key="cover_from", title="Cover from", read=lambda facts, f: f.span.sources,
          json="cover_from",
          words=lambda facts, v: ", ".join(map(facts.surfaces.name, v))),
    Field(key="velocity", title="Velocity", kind=SPEED, read=lambda facts,
          f: velocity(facts.project, f), row="Velocity",
          panel="Velocity, full bore"),
    Field(key="ca", title="CA", kind=WIDE, read=_flow(lambda q: q.ca), column=False, row="CA"),
    Field(key="tc", title="Time of concentration", kind=MINUTES, read=_flow(lambda q: q.tc),
          column=False, row="tc"),
    Field(key="intensity", title="Intensity", kind=INTENSITY, read=_flow(lambda q: q.intensity),
          column=False, row="Intensity"),
    Field(key="flow", title="Design flow", kind=FLOW, read=_flow(lambda q: q.flow), column=False,
          row="Flow",
          label=lambda u, v: u.flows(v)),
    Field(key="capacity", title="Full-bore flow", kind=FLOW, read=_flow(lambda q: q.capacity),
          column=False, row="Full-bore flow"),
    Field(key="used", title="Flow over full-bore flow", kind=SHARE, read=_flow(lambda q: q.used),
          column=False, row="Q / Qfull",
          label=lambda u, v: f"Q/Qfull {u.ratio(v)}"),
    Field(key="flow_velocity", title="Velocity of flow", kind=SPEED,
          read=_flow(lambda q: q.velocity), column=False,
          row="Flow velocity"),
    Field(key="depth_ratio", title="Depth over diameter", kind=SHARE,
          read=_flow(lambda q: q.depth_ratio), column=False,
          row="y / D"),
    Field(key="drop_up", title="Drop up", kind=LEVEL, read=_drop("up"), column=False,
          panel="Drop at",
          edit="Set the drop at {}", end="up"),
    Field(key="drop_down", title="Drop down", kind=LEVEL, read=_drop("down"), column=False,
          panel="Drop at",
          edit="Set the drop at {}", end="down"),
    Field(key="status", title="Status", read=lambda facts, f: f.pipe.status,
          edit="Change the status of {}", stored=True,
          choices=lambda project: [*STATUSES]),
    Field(key="network", title="Network", read=lambda facts,
          f: facts.project.networks[f.pipe.network].name,
          edit="Move {} to a network", stored=True, choices=_networks),
    Field(key="trench", title="Trench type", read=_trench, edit="Change the trench of {}",
          stored=True,
          choices=lambda project: [t.name for t in project.trench_types.values()]),
)  # fmt: skip


def fields_of(project: Project, thing: Any) -> dict[str, Field]:
    """The fields of the structure or pipe that a key names, by their own keys."""
    return PIPE_FIELDS if thing in project.pipes else STRUCTURE_FIELDS


def panel_fields(fields: dict[str, Field]) -> list[Field]:
    """Those that have a row in the panel of their object."""
    return [f for f in fields.values() if f.panel]


def label_fields(fields: dict[str, Field]) -> list[Field]:
    """Those that labels in plan can say, in the order in which they say them."""
    return [f for f in fields.values() if f.label is not None]
