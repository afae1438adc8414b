"""Vertices on the side of the driver: a slot for each part, so that one that changes is sent alone."""

from typing import Any

import numpy as np

from zumbert.geometry.elements import Array
from zumbert.space.scene import Key

FACE = np.dtype([("place", "f4", 3), ("normal", "f4", 3), ("part", "u4")])
LINE = np.dtype([("place", "f4", 3), ("part", "u4")])
FORMATS = {"place": "3f", "normal": "3f", "part": "1u"}
FIRST = 1 << 16  # vertices that there is room for at first
FEW = 64  # parts that are drawn one by one


class Store:
    """One buffer of vertices of a kind, drawn by one or more programs."""

    def __init__(self, ctx: Any, kind: np.dtype[Any], programs: dict[str, Any]) -> None:
        self.ctx, self.kind, self.programs = ctx, kind, programs
        self.sent = 0  # bytes so far
        self._room = 0
        self._used = 0  # vertices that were sent
        self._end = 0  # of them and the new ones
        self._slots: dict[Key, tuple[int, int]] = {}  # first vertex and how many
        self._free: dict[int, list[int]] = {}  # of each size
        self._new: list[Array] = []  # to be sent behind all others
        self._buffer: Any = None
        self._arrays: dict[str, Any] = {}

    def put(self, key: Key, data: Array) -> None:
        """Sets the vertices of a part: in its slot where they are as many as before."""
        n = len(data)
        slot = self._slots.get(key)
        if slot is not None and slot[1] == n:
            self._write(slot[0], data)
            return
        self.drop(key)
        free = self._free.get(n)
        if free:
            self._slots[key] = (free.pop(), n)
            self._write(self._slots[key][0], data)
            return
        self._slots[key] = self._end, n
        self._new.append(data)
        self._end += n

    def drop(self, key: Key) -> None:
        """Frees the slot of a part."""
        self.flush()
        slot = self._slots.pop(key, None)
        if slot is not None:
            self._write(slot[0], np.zeros(slot[1], self.kind))  # triangles without size
            self._free.setdefault(slot[1], []).append(slot[0])

    def flush(self) -> None:
        """Sends what is new, all at once."""
        if not self._new:
            return
        data = np.concatenate(self._new)
        self._new = []
        if self._used + len(data) > self._room:
            self._grow(self._used + len(data))
        first, self._used = self._used, self._end
        self._write(first, data)

    def _write(self, first: int, data: Array) -> None:
        if len(data):
            self._buffer.write(data.tobytes(), offset=first * self.kind.itemsize)
            self.sent += data.nbytes

    def _grow(self, least: int) -> None:
        room = max(FIRST, 2 * self._room, least)
        buffer = self.ctx.buffer(reserve=room * self.kind.itemsize)
        if self._buffer is not None:
            self.ctx.copy_buffer(buffer, self._buffer, size=self._used * self.kind.itemsize)
            self._buffer.release()
        for made in self._arrays.values():
            made.release()
        self._buffer, self._room = buffer, room
        self._arrays = {}
        for name, program in self.programs.items():
            fields = [f for f in self.kind.names or () if f in program]
            how = " ".join(FORMATS[f] if f in fields else f"{self.kind[f].itemsize}x" for f in self.kind.names or ())
            self._arrays[name] = self.ctx.vertex_array(program, [(buffer, how, *fields)])

    def render(self, program: str, mode: int | None = None, only: set[Key] | None = None) -> None:
        """Draws all vertices, or those of a few parts; of many all, since the shader passes over what is not meant."""
        if not self._used:
            return
        array = self._arrays[program]
        mode = self.ctx.TRIANGLES if mode is None else mode
        if only is None or len(only) > FEW:
            array.render(mode, vertices=self._used)
            return
        for key in only:
            first, n = self._slots.get(key, (0, 0))
            if n:
                array.render(mode, vertices=n, first=first)

    def release(self) -> None:
        """Gives the buffer back."""
        for made in (*self._arrays.values(), self._buffer):
            if made is not None:
                made.release()
        self._arrays, self._buffer, self._room, self._used, self._end = {}, None, 0, 0, 0
        self._slots, self._free, self._new = {}, {}, []
