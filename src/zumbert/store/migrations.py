"""Migrations: documents of older formats brought up to today's, one step a format."""

from collections.abc import Callable
from typing import Any

Document = dict[str, Any]


def migrated(document: Document) -> Document:
    """The document in the format of today. Raises ValueError for a format that no step leads on
    from.
    """
    number = document.get("format")
    while isinstance(number, int) and number in _STEPS:
        document = _STEPS[number](document)
        number = number + 1
        document["format"] = number
    if number != max(_STEPS) + 1:
        raise ValueError(f"its format {number!r} is not known")
    return document


def _strips_for_carriageways(document: Document) -> Document:
    """Format 1 kept a paved width for each road; since 2 it is a strip of one section that gives no
    surface.

    It drew contours of existing ground alone.
    """
    project = dict(document["project"])
    roads = {}
    for key, record in dict(project.get("roads", {})).items():
        road = dict(record)
        paved = road.pop("carriageway", None)
        if paved is not None:
            section = {
                "left": paved["left"],
                "right": paved["right"],
                "verge": paved.get("verge", 0.0),
            }
            road["strip"] = {"sections": [section]}
        roads[key] = road
    surfaces = [{**s, "shown": s.get("role") == "existing"} for s in document.get("surfaces", [])]
    return {**document, "surfaces": surfaces, "project": {**project, "roads": roads}}


def _straight_pipes(document: Document) -> Document:
    """Since format 3 a pipe may be curved, which older readers would draw straight; nothing else
    changes.
    """
    return document


def _holds_by_end(document: Document) -> Document:
    """Format 3 held both inverts of a pipe at once; since 4 each by itself, and the slope."""
    project = dict(document["project"])
    pipes = {}
    for key, record in dict(project.get("pipes", {})).items():
        pipe = dict(record)
        held = pipe.pop("keep_levels", False)
        pipes[key] = {**pipe, "keep_up": held, "keep_down": held}
    return {**document, "project": {**project, "pipes": pipes}}


def _holds_by_name(document: Document) -> Document:
    """Format 4 called what is held of a pipe or structure "keep"; since 5 it is "hold"."""
    project = dict(document["project"])
    for shelf in ("pipes", "structures"):
        records = dict(project.get(shelf, {}))
        project[shelf] = {
            key: {
                k.replace("keep_", "hold_", 1) if k.startswith("keep_") else k: v
                for k, v in dict(record).items()
            }
            for key, record in records.items()
        }
    return {**document, "project": project}


def _limits_and_decisions(document: Document) -> Document:
    """Format 5 had no decisions, no limits of single pipes and structures and no rules to switch
    off; since 6 it may.
    """
    return document


def _trench_rows(document: Document) -> Document:
    """Format 6 had one trench for all sizes in a type, and a base of 0.15 m under each chamber that
    said nothing; since 7 a type has rows, and a chamber without a base of its own takes that of the
    trench type.
    """
    project = dict(document["project"])
    own = ("bedding", "width", "vertical_height", "batter")
    trench_types = {}
    for key, record in dict(project.get("trench_types", {})).items():
        kept = {k: v for k, v in dict(record).items() if k not in own}
        trench_types[key] = {**kept, "sizes": [{k: v for k, v in dict(record).items() if k in own}]}
    types = {
        key: {k: v for k, v in dict(record).items() if (k, v) != ("base", 0.15)}
        for key, record in dict(project.get("types", {})).items()
    }
    return {**document, "project": {**project, "trench_types": trench_types, "types": types}}


def _sheets(document: Document) -> Document:
    """Format 7 had no sheets, no way of making them and no issues; since 8 it may."""
    return document


def _flow(document: Document) -> Document:
    """Format 8 had no areas, no rain and no inflows; since 9 it may."""
    return document


_STEPS: dict[int, Callable[[Document], Document]] = {
    1: _strips_for_carriageways,
    2: _straight_pipes,
    3: _holds_by_end,
    4: _holds_by_name,
    5: _limits_and_decisions,
    6: _trench_rows,
    7: _sheets,
    8: _flow,
}
