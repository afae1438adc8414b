"""Which records of a dict changed, told by identity."""

from collections.abc import Hashable, Mapping
from itertools import compress
from operator import is_not
from typing import Any, TypeVar

K = TypeVar("K", bound=Hashable)
_one: tuple[object, object, Any] | None = None  # two dicts, and the key in which alone they differ


def differ_in_one(old: Mapping[K, object], new: Mapping[K, object], key: K) -> None:
    """Remembers that two dicts differ in one key. `changed` is usually asked about them next."""
    global _one
    _one = old, new, key


def changed(old: Mapping[K, object], new: Mapping[K, object]) -> tuple[list[K], list[K]]:
    """Keys whose value is another object than before or is new, and keys that are gone."""
    if old is new:
        return [], []
    one = _one  # as it is now: another thread may remember another
    if one is not None and one[0] is old and one[1] is new:
        return [one[2]], []
    # the same keys in the same order: at C speed
    if len(old) == len(new) and list(old) == list(new):
        return list(compress(new, map(is_not, old.values(), new.values()))), []
    return [k for k, v in new.items() if old.get(k) is not v], [k for k in old if k not in new]
