"""The steps that can be taken back and made again, and the value that was saved last."""

from msgspec import Struct

from zumbert.app.value import Value


class HistoryStep(Struct, frozen=True, eq=False):
    """One step of the history: its name in words, and the value before it (after it, where it
    was taken back).
    """

    name: str
    value: Value


class History:
    """The steps before and after the current value."""

    def __init__(self, saved: Value) -> None:
        self.past: list[HistoryStep] = []
        self.future: list[HistoryStep] = []
        self.saved: Value | None = saved  # None: what is shown was never saved

    def step(self, name: str, before: Value) -> None:
        """A step has been made."""
        self.past.append(HistoryStep(name, before))
        self.future.clear()

    def undo(self, current: Value) -> HistoryStep | None:
        """The last step, taken back; None where there is none."""
        return _moved(self.past, self.future, current)

    def redo(self, current: Value) -> HistoryStep | None:
        """The last step that was taken back, made again; None where there is none."""
        return _moved(self.future, self.past, current)

    @property
    def undo_names(self) -> list[str]:
        """All steps that can be taken back, the last first."""
        return [s.name for s in reversed(self.past)]

    @property
    def undo_name(self) -> str | None:
        """The step that undo takes back, in words."""
        return self.past[-1].name if self.past else None

    @property
    def redo_name(self) -> str | None:
        """The step that redo makes again."""
        return self.future[-1].name if self.future else None

    def earlier(self) -> list[tuple[str, Value]]:
        """Values to compare with: that of the last save, and those before each step, the last
        first.
        """
        saved = [] if self.saved is None else [("since the last save", self.saved)]
        return [*saved, *((f"since before: {s.name}", s.value) for s in reversed(self.past))]

    def holds(self, v: Value) -> bool:
        """Whether steps can be taken back to a value."""
        return any(s.value is v for s in self.past)


def _moved(of: list[HistoryStep], to: list[HistoryStep], current: Value) -> HistoryStep | None:
    if not of:
        return None
    step = of.pop()
    to.append(HistoryStep(step.name, current))
    return step
