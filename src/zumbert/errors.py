"""The tree of errors. Each carries one sentence: what is wrong, where, what to do."""

from collections.abc import Iterable


class ZumbertError(Exception):
    """Anything that Zumbert refuses; its text is the sentence that the user reads."""


class EditError(ZumbertError):
    """An edit that cannot be done; the project stays as it was."""


class TypedError(EditError, ValueError):
    """A typed text that means no number, length or slope."""


class ReadError(ZumbertError):
    """A file of the outside world that cannot be read as what it should be."""


class StoreError(ZumbertError):
    """A project file that cannot be read or written."""


class Cancelled(ZumbertError):
    """Long work that the user gave up; nothing is changed."""


def known(name: str, names: Iterable[str]) -> str:
    """The end of a sentence about an unknown name: the nearest known one, else all of them."""
    from difflib import get_close_matches

    names = sorted(names)
    near = get_close_matches(name, names, 1, 0.6)
    if near:
        return f'did you mean "{near[0]}"?'
    if not names:
        return "there are none yet."
    shown = ", ".join(names[:8]) + (", …" if len(names) > 8 else "")
    return f"known are {shown}."
