"""Events end where they fail: what an event handler raises is a fault of its own, and disturbs
nothing else.
"""

import sys
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

T = TypeVar("T", bound=type)


def is_handler(name: str) -> bool:
    """Whether a method takes events of Qt."""
    return name.endswith("Event") or name in ("event", "eventFilter")


def guarded(widget: T) -> T:
    """Marks a class that handles events of Qt.

    Qt carries what a handler raises to whatever Python code next comes back from a call of Qt, an
    edit under way, say. So it is caught here, and goes where exceptions go that nothing catches.
    """
    for name, method in list(vars(widget).items()):
        if is_handler(name):
            setattr(widget, name, _ending_here(method))
    return widget


def _ending_here(handler: Callable[..., Any]) -> Callable[..., Any]:
    @wraps(handler)
    def handling(*args: Any) -> Any:
        try:
            return handler(*args)
        except Exception:
            sys.excepthook(*sys.exc_info())
            return False

    return handling
