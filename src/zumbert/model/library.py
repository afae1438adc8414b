"""The fields of the library's records: what files and tables call them, and in which unit they
are written.
"""

from typing import Any, Literal, NamedTuple, get_args

from msgspec.structs import replace

from zumbert.model.catalogue import Inlet, InletKind, PipeSize, Shape, StructureKind, StructureType

Shelf = Literal["types", "sizes"]  # the two parts of the library, as the project names them
ShelfValue = str | float | bool | None


class ShelfField(NamedTuple):
    """One field of a record."""

    name: str  # in files, with its unit
    head: str  # in tables
    attribute: str  # of the record; one of the inlet begins with "inlet."
    of: Literal["text", "mm", "m", "dn", "number", "yes", "choice"]
    words: tuple[str, ...] = ()  # what a choice is one of
    empty: bool = False  # whether it may have no value


TYPE_FIELDS: tuple[ShelfField, ...] = (
    ShelfField("name", "Name", "name", "text"),
    ShelfField("kind", "Kind", "kind", "choice", get_args(StructureKind)),
    ShelfField("inside_mm", "Inside", "inside", "mm"),
    ShelfField("across_mm", "Across", "across", "mm", empty=True),
    ShelfField("wall_mm", "Wall", "wall", "mm"),
    ShelfField("base_mm", "Base", "base", "mm", empty=True),
    ShelfField("sump_mm", "Sump", "sump", "mm"),
    ShelfField("frame_mm", "Frame", "frame", "mm"),
    ShelfField("depth_min_m", "Depth from", "depth_min", "m", empty=True),
    ShelfField("depth_max_m", "Depth to", "depth_max", "m", empty=True),
    ShelfField("dn_max", "Largest DN", "dn_max", "dn", empty=True),
    ShelfField("backdrop", "Backdrop", "backdrop", "yes"),
    ShelfField("loss", "Loss K", "loss", "number"),
    ShelfField("inlet", "Inlet", "inlet.kind", "choice", ("", *get_args(InletKind)), empty=True),
    ShelfField("inlet_length_mm", "Inlet length", "inlet.length", "mm", empty=True),
    ShelfField("inlet_height_mm", "Opening height", "inlet.height", "mm", empty=True),
    ShelfField("inlet_width_mm", "Grate width", "inlet.width", "mm", empty=True),
    ShelfField("inlet_clear", "Open share", "inlet.clear", "number", empty=True),
    ShelfField("allowed", "Allowed", "allowed", "yes"),
)
SIZE_FIELDS: tuple[ShelfField, ...] = (
    ShelfField("material", "Material", "material", "text"),
    ShelfField("dn", "DN", "dn", "dn"),
    ShelfField("inside_mm", "Inside", "inside", "mm"),
    ShelfField("wall_mm", "Wall", "wall", "mm"),
    ShelfField("n", "Manning n", "n", "number"),
    ShelfField("ks_mm", "ks", "ks", "mm"),
    ShelfField("class", "Class", "grade", "text", empty=True),
    ShelfField("shape", "Section", "shape", "choice", get_args(Shape)),
    ShelfField("allowed", "Allowed", "allowed", "yes"),
)
FIELDS: dict[Shelf, tuple[ShelfField, ...]] = {"types": TYPE_FIELDS, "sizes": SIZE_FIELDS}
ShelfRecord = StructureType | PipeSize


def value_of(record: ShelfRecord, field: ShelfField) -> ShelfValue:
    """The value of a field in SI (DN in mm); None where it has none."""
    owner: Any = record
    name = field.attribute
    if name.startswith("inlet."):
        owner, name = getattr(record, "inlet", None), name.removeprefix("inlet.")
        if owner is None:
            return None
    value: ShelfValue = getattr(owner, name)
    return value


def with_value(record: Any, field: ShelfField, value: ShelfValue) -> Any:
    """The record with a field at a value in SI. A kind of inlet adds an inlet; none removes it."""
    if not field.attribute.startswith("inlet."):
        return replace(record, **{field.attribute: value})
    name, inlet = field.attribute.removeprefix("inlet."), record.inlet
    if name == "kind":
        if not value:
            return replace(record, inlet=None)
        kind: Any = value
        return replace(
            record,
            inlet=replace(inlet, kind=kind) if inlet is not None else Inlet(kind=kind, length=0.45),
        )
    if inlet is None or value is None:
        return record
    return replace(record, inlet=replace(inlet, **{name: value}))


def fault(record: ShelfRecord) -> str | None:
    """Why a record cannot be: in a few words, without the name of the record; None where it is
    sound.
    """
    if isinstance(record, PipeSize):
        if not record.material.strip():
            return "a pipe size needs a material"
        if not 1 <= record.dn <= 20_000:
            return "DN is between 1 and 20000 mm"
        if not (0 < record.inside <= 20 and 0 <= record.wall <= 2):
            return "the inside is more than 0, the wall 0 or more"
        return (
            None
            if 0.005 <= record.n <= 0.1 and 0 <= record.ks <= 0.1
            else "n lies between 0.005 and 0.1, ks between 0 and 100 mm"
        )
    if not record.name.strip():
        return "a structure type needs a name"
    if not (
        0 <= record.inside <= 20
        and 0 <= record.wall <= 2
        and 0 <= (record.base or 0) <= 5
        and 0 <= record.sump <= 10
    ):
        return "inside, wall, base and sump are 0 or more"
    if record.across is not None and not 0 < record.across <= 20:
        return "the width across is more than 0"
    if record.frame > (min(record.inside, record.across or record.inside)) + 1e-9:
        return "the frame is no wider than the chamber"
    low, high = record.depth_min, record.depth_max
    if low is not None and high is not None and low > high:
        return "the depth range ends above its beginning"
    if not 0 <= record.loss <= 20:
        return "the loss coefficient lies between 0 and 20"
    if record.inlet is not None and not (record.inlet.length > 0 and 0 < record.inlet.clear <= 1):
        return "an inlet has a length, and an open share between 0 and 1"
    return None
