"""Which records of a dict changed, told by identity."""

from collections.abc import Hashable, Mapping
from itertools import compress
from operator import is_not
from typing import TypeVar

K = TypeVar("K", bound=Hashable)


def changed(old: Mapping[K, object], new: Mapping[K, object]) -> tuple[list[K], list[K]]:
    """Keys whose value is another object than before or is new, and keys that are gone."""
    if old is new:
        return [], []
    # the same keys in the same order: at C speed
    if len(old) == len(new) and list(old) == list(new):
        return list(compress(new, map(is_not, old.values(), new.values()))), []
    return [k for k, v in new.items() if old.get(k) is not v], [k for k in old if k not in new]
