"""The register of the pen in space, by the number of a part: where it is, how thick, how it looks.
Arrays, so that a frame asks all at once.
"""

import numpy as np
from numpy.typing import NDArray

from zumbert.drawing.style import LINES, Theme, colour
from zumbert.geometry.elements import Mask
from zumbert.space.eye import SpaceEye
from zumbert.space.part import PICKED, Key, SpacePart
from zumbert.space.shaders import HOVERED, ROW, SELECTED, SHOWN

FIRST = 256  # parts that there is room for at first
Bytes = NDArray[np.uint8]
THIN = 1.5  # drawing units: a body thinner than this is not drawn, only its axis
_SIDES = {"": 0, "left": 1, "right": 2}


class Register:
    """Parts by number. A number that is free again is given to the next part."""

    def __init__(self) -> None:
        self.owners: list[SpacePart | None] = []
        self.numbers: dict[Key, int] = {}
        self._free: list[int] = []
        self._by_id: dict[str, set[int]] = {}
        self._middle = np.zeros((FIRST, 3))
        self._radius = np.zeros(FIRST)
        self._thick = np.full(FIRST, np.inf)
        self._axis = np.zeros(FIRST, bool)  # whether it is the axis of a pipe
        # whether its vertices are with the driver as they are now
        self.sent = np.zeros(FIRST, bool)
        self._side = np.zeros(FIRST, np.uint8)
        self._ink = np.zeros((FIRST, 4), np.uint8)
        self._style = np.zeros((FIRST, 4), np.uint8)
        self._theme: Theme = "light"
        self._looks: Bytes = np.zeros((0, 4), np.uint8)  # as they were asked for last

    def put(self, key: Key, part: SpacePart) -> int:
        """The number of a part, which is known from now on as it is."""
        number = self.numbers.get(key)
        if number is None:
            number = self._free.pop() if self._free else len(self.owners)
            self.numbers[key] = number
        else:
            self._forget(number)
        while number >= len(self.owners):
            self.owners.append(None)
        if number >= len(self._radius):
            self._grow()
        self.owners[number] = part
        if part.kind in PICKED:
            self._by_id.setdefault(part.id, set()).add(number)
        low, high = part.box
        self._middle[number], self._radius[number] = (
            (low + high) / 2,
            np.linalg.norm(high - low) / 2,
        )
        self.sent[number] = False
        self._thick[number], self._side[number] = part.thick, _SIDES[part.side]
        self._axis[number] = part.linear and part.kind == "pipe"
        self._colour(number, part)
        return number

    def drop(self, key: Key) -> int:
        """Forgets a part; the number that it had."""
        number = self.numbers.pop(key)
        self._forget(number)
        self._ink[number] = 0
        self._radius[number] = 0.0
        self._free.append(number)
        return number

    def _forget(self, number: int) -> None:
        part, self.owners[number] = self.owners[number], None
        if part is not None and part.kind in PICKED:
            self._by_id[part.id].discard(number)

    def _grow(self) -> None:
        n = len(self._radius)
        self._middle = np.vstack([self._middle, np.zeros((n, 3))])
        self._radius = np.concatenate([self._radius, np.zeros(n)])
        self._thick = np.concatenate([self._thick, np.full(n, np.inf)])
        self._axis = np.concatenate([self._axis, np.zeros(n, bool)])
        self.sent = np.concatenate([self.sent, np.zeros(n, bool)])
        self._side = np.concatenate([self._side, np.zeros(n, np.uint8)])
        self._ink = np.vstack([self._ink, np.zeros((n, 4), np.uint8)])
        self._style = np.vstack([self._style, np.zeros((n, 4), np.uint8)])

    def _colour(self, number: int, part: SpacePart) -> None:
        role = part.role
        if part.linear:
            s = LINES[role]
            self._style[number] = (
                round(10 * s.width),
                round(255 * s.alpha),
                round(10 * s.dash[0]) if s.dash else 0,
                0,
            )
            role = s.colour
        self._ink[number] = (*rgb(role, self._theme), SHOWN)

    def looks(
        self, theme: Theme, selected: frozenset[str], hovered: str | None, hidden: str
    ) -> tuple[Bytes, Bytes]:
        """Colours with bits and styles of lines, (n, 4) of bytes, in whole lines of a texture."""
        if theme != self._theme:
            self._theme = theme
            for number, part in enumerate(self.owners):
                if part is not None:
                    self._colour(number, part)
        rows = max(1, -(-len(self.owners) // ROW))
        looks = np.zeros((rows * ROW, 4), np.uint8)
        n = min(len(self._ink), len(looks))
        looks[:n] = self._ink[:n]
        if hidden:
            looks[:n, 3][self._side[:n] == _SIDES[hidden]] = 0
        for ids, bit in ((selected, SELECTED), ((hovered,), HOVERED)):
            for key in ids:
                for number in self._by_id.get(key or "", ()):
                    looks[number, 3] |= bit
        self._looks = looks
        styles = np.zeros((rows * ROW, 4), np.uint8)
        styles[:n] = self._style[:n]
        return looks, styles

    def look(self, number: int) -> tuple[int, ...]:
        """Colour and bits of a part as they were asked for last."""
        return tuple(self._looks[number].tolist())

    @property
    def used(self) -> int:
        """Numbers that were given so far."""
        return len(self.owners)

    def bodies(self, eye: SpaceEye, ratio: float = 1.0) -> tuple[Mask, Mask]:
        """Which parts are in sight, and which of those are thick enough there to be drawn as
        bodies; by number. `ratio` is pixels a drawing unit: a finer picture has more of them.
        """
        n = self.used
        seen, nearest = eye.sees(self._middle[:n], self._radius[:n])
        nearest = np.maximum(nearest, 1e-6)
        return seen, seen & (self._thick[:n] * eye.scale * max(1.0, ratio) / nearest >= THIN)

    def needed(self, seen: Mask, thick: Mask) -> Mask:
        """Which parts have to be there for a picture: of pipes bodies or axes, of all else what
        is in sight.
        """
        return np.asarray(np.where(self._axis[: len(seen)], seen & ~thick, thick))

    def farthest(self, eye: SpaceEye) -> float:
        """How far ahead (m) the farthest part ends."""
        n = self.used
        if not n:
            return 0.0
        ahead = (eye.stretched(self._middle[:n]) - eye.place) @ eye.axes[2]
        return float((ahead + self._radius[:n] * max(1.0, eye.stretch)).max())


def rgb(role: str, theme: Theme) -> tuple[int, int, int]:
    """The colour of a role."""
    code = colour(role, theme)
    red, green, blue = (int(code[i : i + 2], 16) for i in (1, 3, 5))
    return red, green, blue
