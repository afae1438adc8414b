"""Notes of what a view reads of the state, so that it is shown again when that has changed, and
only then.
"""

from collections.abc import Callable
from operator import attrgetter
from pathlib import Path
from typing import Any, Generic, TypeVar, overload

from msgspec import Struct

T = TypeVar("T")
PLAIN = (int, float, str, frozenset, Path)  # compared by value; all else by identity


class StateValue(Generic[T]):
    """A value that follows from a state, worked out once for each. It has changed where it is
    another value; one that is made of `parts` has where they have.
    """

    def __init__(self, make: Callable[[Any], T], parts: bool = False) -> None:
        self.make, self.parts = make, parts
        self.kept, self.__doc__ = f"_{make.__name__}", make.__doc__

    @overload
    def __get__(self, state: None, owner: type) -> "StateValue[T]": ...
    @overload
    def __get__(self, state: object, owner: type) -> T: ...
    def __get__(self, state: object | None, owner: type) -> "StateValue[T] | T":
        return self if state is None else self.of(state)[0]

    def of(self, state: Any) -> tuple[T, dict[str, Any]]:
        """The value for a state, and what it was made from."""
        known: dict[str, Any] = state.__dict__
        if self.kept not in known:
            reading = Reading(lambda: state)
            known[self.kept] = self.make(reading), reading.read
        found: tuple[T, dict[str, Any]] = known[self.kept]
        return found


def derived(make: Callable[[Any], T]) -> StateValue[T]:
    """Marks what follows from a state."""
    return StateValue(make)


def composed(make: Callable[[Any], T]) -> StateValue[T]:
    """Marks what is made of parts of a state, each time anew: it has changed where one of them
    has.
    """
    return StateValue(make, parts=True)


class StatePart(Struct, frozen=True, kw_only=True, eq=False):
    """A part of a state: what is read of it is noted value by value."""


class PartReading:
    """A part of a state, as a view sees it."""

    def __init__(self, reading: "Reading", part: str) -> None:
        self._reading, self._part = reading, part

    def __getattr__(self, name: str) -> Any:
        return self._reading.noted(f"{self._part}.{name}")


class Reading:
    """A state, as a view sees it: what is read of it is noted by its name."""

    def __init__(self, now: Callable[[], Any]) -> None:
        self._now = now
        self.read: dict[str, Any] = {}

    def __getattr__(self, name: str) -> Any:
        now = self._now()
        of = getattr(type(now), name)
        if isinstance(of, StateValue) and of.parts:
            value, parts = of.of(now)
            self.read |= parts
            return value
        value = getattr(now, name)
        return PartReading(self, name) if isinstance(value, StatePart) else self.noted(name)

    def noted(self, name: str) -> Any:
        """A value, noted by its name: that of a part as `part.name`."""
        value = self.read[name] = attrgetter(name)(self._now())
        return value


def note(state: object, *names: str) -> None:
    """Notes that something is made from parts of a state which is not read by them."""
    for name in names if isinstance(state, Reading) else ():
        attrgetter(name)(state)


def aside(state: T) -> T:
    """The state itself: nothing that is read of it is noted."""
    return state._now() if isinstance(state, Reading) else state


def alike(a: object, b: object) -> bool:
    """Whether two values of a state show the same: one object, or plain values that are equal."""
    if a is b:
        return True
    if type(a) is type(b) is tuple:
        return len(a) == len(b) and all(map(alike, a, b))
    return isinstance(a, PLAIN) and isinstance(b, PLAIN) and a == b


def changed(read: dict[str, Any], now: object) -> bool:
    """Whether something that was read is another value now."""
    return any(not alike(v, attrgetter(k)(now)) for k, v in read.items())
