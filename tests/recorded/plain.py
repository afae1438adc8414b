"""Values as plain data that a file keeps, and where two of them differ."""

import json
import re
from collections.abc import Mapping
from functools import cached_property
from math import isclose, isfinite
from zlib import crc32

import numpy as np

FEW = 8  # numbers of an array that are kept as they are
LEFT_OUT = {"project", "made", "facts", "path", "stamp"}  # what a value was made from
NAMED = {
    "Pipe",
    "Structure",
    "PipeFacts",
    "StructureFacts",
    "Span",
    "PlaceFacts",
    "Road",
    "Area",
    "TrenchFacts",
}
NUMBER = re.compile(r"-?\d+(?:\.\d+)?(?:[eE][-+]?\d+)?")


def plain(value, brief=False, depth=0):
    """A value as JSON has it: records by the names of their fields; of many numbers a sketch. In
    brief, what is inside of facts and is told by itself is named only.
    """
    if brief and depth and type(value).__name__ in NAMED:
        return named(value)
    if value is None or isinstance(value, (bool, int, str)):
        return value
    if isinstance(value, (float, np.floating)):
        return float(value) + 0.0 if isfinite(value) else str(value)
    if isinstance(value, (np.integer, np.bool_)):
        return value.item()
    if isinstance(value, np.ndarray):
        return plain(value.tolist()) if value.size <= FEW else sketch(value)
    if isinstance(value, bytes):
        return {"bytes": len(value)}
    if isinstance(value, Mapping):
        return {str(k): plain(v, brief, depth) for k, v in value.items()}
    if isinstance(value, (set, frozenset)):
        return sorted((plain(v) for v in value), key=str)
    names = fields(value)
    if names is not None:
        names = [n for n in names if n not in LEFT_OUT and n[0] != "_"]
        return {
            "": type(value).__name__,
            **{n: plain(getattr(value, n), brief, depth + 1) for n in names},
        }
    if isinstance(value, (list, tuple)):
        numbers = len(value) > FEW and all(type(v) in (int, float) for v in value)
        return (
            sketch(np.array(value, float)) if numbers else [plain(v, brief, depth) for v in value]
        )
    return type(value).__name__


def rounded(value):
    """Plain data with its numbers to nine figures, as they are kept."""
    if isinstance(value, dict):
        return {k: rounded(v) for k, v in value.items()}
    if isinstance(value, list):
        return [rounded(v) for v in value]
    return float(f"{value:.9g}") if isinstance(value, float) else value


def fields(value):
    """What the parts of a record are called, without what it works out when it is asked; None
    for what is none.
    """
    names = getattr(value, "__struct_fields__", None) or getattr(value, "_fields", None)
    if names is None and hasattr(value, "__dict__"):
        names = [
            n for n in vars(value) if not isinstance(getattr(type(value), n, None), cached_property)
        ]
    return names


def named(value):
    """What a record is called by."""
    for name in ("pipe", "structure"):
        value = getattr(value, name, value)
    return getattr(value, "id", None)


def sketch(numbers):
    """Of many numbers: how many, their sum and one that tells their order."""
    flat = np.nan_to_num(np.asarray(numbers, float).ravel(), nan=-1.25, posinf=1e6, neginf=-1e6)
    order = np.cos(np.arange(len(flat)) * 0.7) + 0.1  # no two places weigh the same
    return {
        "shape": list(np.shape(numbers)),
        "sum": plain(float(flat.sum())),
        "order": plain(float(flat @ order)),
    }


def sketch_of_text(text):
    """Of a long text: its lines without numbers, each counted, and a sketch of the numbers."""
    numbers = [float(n) for n in NUMBER.findall(text)]
    words: dict[str, int] = {}
    for line in NUMBER.sub("#", text).splitlines():
        words[line.strip()] = words.get(line.strip(), 0) + 1
    return {"words": words, "numbers": sketch(np.array(numbers))}


def changes(old, new):
    """What of a record is not as in another: by field and key, the new value; what is gone is
    None.
    """
    if old is new:
        return {}
    names = getattr(old, "__struct_fields__", None)
    if names and type(old) is type(new):
        found = {n: changes(getattr(old, n), getattr(new, n)) for n in names}
        return {n: c for n, c in found.items() if c != {}}
    if isinstance(old, dict) and isinstance(new, dict):
        found = {str(k): changes(old.get(k), v) for k, v in new.items()}
        gone = {str(k): None for k in old if k not in new}
        return {k: c for k, c in found.items() if c != {}} | gone
    was, now = plain(old), plain(new)
    return {} if rounded(was) == rounded(now) else now


def differences(kept, now, where=""):
    """Sentences that tell where values differ; numbers may in their eighth figure."""
    if (
        isinstance(kept, (int, float))
        and isinstance(now, (int, float))
        and not isinstance(kept, bool)
    ):
        near = isclose(kept, now, rel_tol=2e-8, abs_tol=1e-8)
    elif isinstance(kept, dict) and isinstance(now, dict):
        for k in [*kept, *(k for k in now if k not in kept)]:
            if k in kept and k in now:
                yield from differences(kept[k], now[k], f"{where}/{k}")
            else:
                yield f"{where}/{k}: {'no more' if k in kept else 'new'}"
        near = True
    elif isinstance(kept, list) and isinstance(now, list) and len(kept) == len(now):
        for i, (a, b) in enumerate(zip(kept, now, strict=True)):
            yield from differences(a, b, f"{where}/{i}")
        near = True
    else:
        near = kept == now
    if not near:
        yield f"{where}: {cut(kept)} is kept, now {cut(now)}"


def cut(value):
    text = str(value)
    return text if len(text) <= 100 else f"{text[:100]}…"


def gist(value):
    """Of a large value: a sum over its words, and a sketch of its numbers."""
    numbers: list[float] = []

    def words(v):
        if isinstance(v, dict):
            return {k: words(x) for k, x in v.items()}
        if isinstance(v, list):
            return [words(x) for x in v]
        if isinstance(v, float):
            numbers.append(v)
            return 0.5
        return v

    told = json.dumps(words(plain(value)), sort_keys=True)
    return [
        f"{crc32(told.encode()):08x}",
        sketch(np.array(numbers))["sum"],
        sketch(np.array(numbers))["order"],
    ]


def short(value, deep=2):
    """The gist of each part of a value."""
    if deep and isinstance(value, dict):
        return {k: short(v, deep - 1) for k, v in value.items()}
    if deep and isinstance(value, list):
        return [short(v, deep - 1) for v in value]
    return gist(value)
