"""A decision: a finding that somebody accepted."""

from msgspec import Struct


class Decision(Struct, frozen=True, kw_only=True):
    """A finding that was accepted, by whom and why. It holds while the finding is no worse and has
    its limit and place.
    """

    rule: str
    about: str  # id of the pipe or structure
    first: str = ""  # ids of the pipes or the service there that it is about
    second: str = ""
    reason: str
    by: str  # initials
    value: float | None = None  # as it was accepted, in the unit of the rule
    limit: float | None = None
    x: float | None = None  # m east
    y: float | None = None  # m north

    @property
    def key(self) -> str:
        """Under which the project keeps it."""
        return decision_key((self.rule, self.about, self.first, self.second))


def decision_key(parts: tuple[str, str, str, str]) -> str:
    """The key of a decision from a rule and what the finding is about."""
    return "|".join(parts)
