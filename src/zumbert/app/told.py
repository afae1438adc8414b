"""Refusals are told where all of them are told."""

from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from zumbert.errors import ZumbertError

P = ParamSpec("P")
T = TypeVar("T")


def told(otherwise: Any) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Marks a method of what has a `session`: where the method raises a ZumbertError, the foot of
    the window tells the sentence and the caller gets `otherwise`.
    """

    def mark(method: Callable[P, T]) -> Callable[P, T]:
        @wraps(method)
        def telling(*args: P.args, **kwargs: P.kwargs) -> T:
            try:
                return method(*args, **kwargs)
            except ZumbertError as e:
                args[0].session.refused.emit(str(e))  # type: ignore[attr-defined]
                return otherwise  # type: ignore[no-any-return]

        return telling

    return mark
