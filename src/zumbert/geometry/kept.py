"""Answers that are kept with the value that they were asked about, and are gone with it."""

from collections.abc import Callable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

Owner = TypeVar("Owner")
P = ParamSpec("P")
R = TypeVar("R")

_NAME = "_kept"


def kept(
    most: int,
) -> Callable[[Callable[Concatenate[Owner, P], R]], Callable[Concatenate[Owner, P], R]]:
    """Has a function of a value, and of arguments that can be hashed, keep answers, the
    newest of them, at most so many, in the value itself: a project that is closed takes them along.
    """

    def keeping(make: Callable[Concatenate[Owner, P], R]) -> Callable[Concatenate[Owner, P], R]:
        @wraps(make)
        def asked(of: Owner, /, *args: P.args, **named: P.kwargs) -> R:
            every: dict[object, dict[Any, R]] = vars(of).setdefault(_NAME, {})
            mine = every.setdefault(make, {})
            key = (args, *named.items())
            if key in mine:
                return mine[key]
            found = mine[key] = make(of, *args, **named)
            for old in list(mine)[:-most]:  # another thread may have taken it out
                mine.pop(old, None)
            return found

        return asked

    return keeping
