"""What the labels of structures and pipes say in plan."""

from typing import Literal, get_args

StructureField = Literal["label", "type", "chainage", "offset", "rim", "sump", "inverts"]
PipeField = Literal["label", "size", "length", "slope"]
STRUCTURE_FIELDS: tuple[StructureField, ...] = get_args(StructureField)
PIPE_FIELDS: tuple[PipeField, ...] = get_args(PipeField)
