"""A view of the session: shown again when something that it read last has changed, and only
then.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cached_property
from typing import Any, TypeVar

from zumbert.app.reading import alike, aside, changed
from zumbert.app.session import Session
from zumbert.app.state import State

T = TypeVar("T")


class Keeper:
    """A part of a view that keeps what it made of the session's state."""

    session: Session

    @cached_property
    def _kept(self) -> dict[str, tuple[tuple[Any, ...], dict[str, Any], Any]]:
        return {}  # by name: values of the view, what was read, what was made of both

    def kept(self, name: str, own: tuple[Any, ...], make: Callable[[State], T]) -> T:
        """A value made from the state and the view's own values: made again when something
        has changed that it was made from.
        """
        found = self._kept.get(name)
        if (
            found is not None
            and alike(found[0], own)
            and not changed(found[1], aside(self.session.state))
        ):
            self.session.note(found[1])
            made: T = found[2]
            return made
        with self.session.noted() as reading:
            made = make(self.session.state)
        self.keep(name, own, reading.read, made)
        return made

    def keep(self, name: str, own: tuple[Any, ...], read: dict[str, Any], made: object) -> None:
        """Keeps what was made of something read, for the next time that it is asked for."""
        self._kept[name] = own, read, made


class Reader(Keeper):
    """A view of the session: a widget with `show_state()`, which reads what it shows from the
    session's state.
    """

    _read: dict[str, Any] | None = None  # what it read last; None: nothing was shown yet

    def show_state(self) -> None:
        """Shows the state of now."""
        raise NotImplementedError

    def refresh(self) -> None:
        """Shows the state of now, and notes what is read of it."""
        with self.reading():
            self.show_state()

    @contextmanager
    def reading(self) -> Iterator[None]:
        """Notes what is read, until the next time."""
        with self.session.noted() as reading:
            yield
        self._read = reading.read

    def follow(self, old: State, new: State) -> None:
        """The state has changed."""
        if self._read is None or changed(self._read, new):
            self.refresh()
