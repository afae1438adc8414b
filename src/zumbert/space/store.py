"""Vertices on the side of the driver: a slot for each part, so that one that changes is sent
alone.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from zumbert.geometry.elements import Array, Mask

FACE = np.dtype([("place", "f4", 3), ("normal", "f4", 3), ("part", "u4")])
LINE = np.dtype([("place", "f4", 3), ("part", "u4")])
Numbers = NDArray[np.int64]
FORMATS = {"place": "3f", "normal": "3f", "part": "1u"}
FIRST = 1 << 16  # vertices that there is room for at first
MOST = 400  # stretches of the buffer that are drawn one by one; of more the whole is drawn


class Store:
    """One buffer of vertices of a kind, drawn by one or more programs. Parts go by their
    numbers.
    """

    def __init__(self, ctx: Any, kind: np.dtype[Any], programs: dict[str, Any]) -> None:
        self.ctx, self.kind, self.programs = ctx, kind, programs
        self.sent = 0  # bytes so far
        self.used = 0  # vertices that were sent
        self.buffer: Any = None
        self._room = 0
        self._end = 0  # of them and the new ones
        self._first = np.zeros(FIRST // 256, np.int64)  # vertex of each part
        self._count = np.zeros(FIRST // 256, np.int64)
        self._free: dict[int, list[int]] = {}  # slots of each size
        self._new: list[Array] = []  # to be sent behind all others
        self._arrays: dict[str, Any] = {}

    def put(self, number: int, data: Array) -> None:
        """Sets the vertices of a part: in its slot where they are as many as before."""
        n = len(data)
        while number >= len(self._count):
            self._first, self._count = (
                np.concatenate([v, np.zeros(len(v), np.int64)]) for v in (self._first, self._count)
            )
        if n and self._count[number] == n:
            self.flush()
            self._write(int(self._first[number]), data)
            return
        self.drop(number)
        free = self._free.get(n)
        self._count[number] = n
        if free:
            self._first[number] = free.pop()
            self._write(int(self._first[number]), data)
            return
        self._first[number] = self._end
        self._new.append(data)
        self._end += n

    def drop(self, number: int) -> None:
        """Frees the slot of a part, where it has one."""
        n = int(self._count[number]) if number < len(self._count) else 0
        if n:
            self.flush()  # it may be among what is not sent yet
            self._write(int(self._first[number]), np.zeros(n, self.kind))  # triangles without size
            self._free.setdefault(n, []).append(int(self._first[number]))
            self._count[number] = 0

    def flush(self) -> None:
        """Sends what is new, all at once."""
        if not self._new:
            return
        data = np.concatenate(self._new)
        self._new = []
        if self.used + len(data) > self._room:
            self._grow(self.used + len(data))
        first, self.used = self.used, self._end
        self._write(first, data)

    def _write(self, first: int, data: Array) -> None:
        if len(data):
            self.buffer.write(data.tobytes(), offset=first * self.kind.itemsize)
            self.sent += data.nbytes

    def _grow(self, least: int) -> None:
        room = max(FIRST, 2 * self._room, least)
        buffer = self.ctx.buffer(reserve=room * self.kind.itemsize)
        if self.buffer is not None:
            self.ctx.copy_buffer(buffer, self.buffer, size=self.used * self.kind.itemsize)
            self.buffer.release()
        for made in self._arrays.values():
            made.release()
        self.buffer, self._room = buffer, room
        self._arrays = {}
        for name, program in self.programs.items():
            fields = [f for f in self.kind.names or () if f in program]
            how = " ".join(
                FORMATS[f] if f in fields else f"{self.kind[f].itemsize}x"
                for f in self.kind.names or ()
            )
            self._arrays[name] = self.ctx.vertex_array(program, [(buffer, how, *fields)])

    def stretches(self, chosen: Mask) -> tuple[Numbers, Numbers]:
        """Where in the buffer the vertices of chosen parts (by number) lie, and how many;
        neighbours are one stretch.
        """
        n = min(len(chosen), len(self._count))
        mine = np.flatnonzero(chosen[:n] & (self._count[:n] > 0))
        order = mine[np.argsort(self._first[mine], kind="stable")]
        first, count = self._first[order], self._count[order]
        if not len(first):
            return first, count
        begins = np.concatenate([[True], first[1:] != first[:-1] + count[:-1]])
        return first[begins], np.asarray(np.add.reduceat(count, np.flatnonzero(begins)), np.int64)

    def render(self, program: str, mode: int | None = None, chosen: Mask | None = None) -> None:
        """Draws all vertices, or those of chosen parts."""
        if not self.used:
            return
        array = self._arrays[program]
        mode = self.ctx.TRIANGLES if mode is None else mode
        first, count = (
            (np.zeros(1, np.int64), np.array([self.used]))
            if chosen is None
            else self.stretches(chosen)
        )
        if len(first) > MOST:
            first, count = np.zeros(1, np.int64), np.array([self.used])
        for a, n in zip(first.tolist(), count.tolist(), strict=True):
            array.render(mode, vertices=n, first=a)

    def held(self, chosen: Mask) -> list[int]:
        """Which of some parts have vertices here."""
        n = min(len(chosen), len(self._count))
        held: list[int] = np.flatnonzero(chosen[:n] & (self._count[:n] > 0)).tolist()
        return held

    def render_one(self, program: str, number: int) -> None:
        """Draws the triangles of one part."""
        n, first = int(self._count[number]), int(self._first[number])
        self._arrays[program].render(self.ctx.TRIANGLES, vertices=n, first=first)

    def release(self) -> None:
        """Gives the buffer back."""
        for made in (*self._arrays.values(), self.buffer):
            if made is not None:
                made.release()
        self._arrays, self.buffer, self._room, self.used, self._end = {}, None, 0, 0, 0
        self._count[:] = 0
        self._free, self._new = {}, []
