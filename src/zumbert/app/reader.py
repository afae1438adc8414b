"""A view of the session: shown again when something that it read last has changed, and only then."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from zumbert.app.reading import alike
from zumbert.app.session import Session
from zumbert.app.state import State


class Reader:
    """A view of the session: a widget with `show_state()`, which reads what it shows from the session's state."""

    session: Session
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

    def is_old(self, now: State) -> bool:
        """Whether something that is shown has become another."""
        return self._read is None or any(not alike(v, getattr(now, k)) for k, v in self._read.items())

    def follow(self, old: State, new: State) -> None:
        """The state has changed."""
        if self.is_old(new):
            self.refresh()
