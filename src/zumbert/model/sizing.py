"""The results of the last sizing, kept with the project."""

from typing import Literal

from msgspec import Struct

SizedWhat = Literal["size", "type", "levels"]


class SizeLine(Struct, frozen=True, kw_only=True):
    """One object: what it was, what it is to be, and why; both the same where it stays."""

    id: str  # of the pipe or structure
    object: str  # its label
    what: SizedWhat
    old: str
    new: str
    why: str

    @property
    def changes(self) -> bool:
        """Whether anything is to be another."""
        return self.old != self.new


class SizeLog(Struct, frozen=True, kw_only=True):
    """The lines of one sizing that was taken."""

    lines: tuple[SizeLine, ...]
    rounds: int
    settled: bool = True  # whether sizes and times agreed in the end
