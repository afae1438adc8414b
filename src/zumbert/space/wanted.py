"""The part of a project that is seen in space."""

from typing import Literal

from msgspec import Struct

Only = Literal["all", "run", "selection"]
View = Literal["above", "below", "north", "east", "south", "west"]
# that one can look from
VIEWS: tuple[View, ...] = ("above", "below", "north", "east", "south", "west")
ONLY: tuple[Only, ...] = ("all", "run", "selection")
STRENGTHS = (0.0, 0.2, 0.4, 0.7, 1.0)  # of the ground, to choose from
STRETCHES = (1.0, 2.0, 5.0, 10.0)  # of heights


class InSpace(Struct, frozen=True, kw_only=True):
    """The part of the project to be seen in space, and how."""

    only: Only = "all"
    cut: bool = False  # whether the ground is cut away on the eye's side of the run
    section: bool = False  # whether the ground is shown in section along the run
    dug: bool = False  # whether trenches and pits are shown
    strength: float = 0.4  # of the ground: 0 not there, 1 nothing shines through
    stretch: float = 1.0  # how many times larger than lengths heights are
