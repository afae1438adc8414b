"""Typed texts as edits or places."""

import re
from math import cos, radians, sin
from typing import Literal

from zumbert.analysis.facts import Facts
from zumbert.edits.levels import not_too_steep, set_cover, set_invert, set_slope, shift_pipe
from zumbert.errors import EditError, known
from zumbert.model.display import METRIC, Units
from zumbert.model.ids import PipeId, RoadId, StructureId
from zumbert.model.pipe import End
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

Ring = Literal["up", "down", "mid", "beyond-up", "beyond-down"]


def changed_by(text: str, now: float, units: Units, whole: str = "") -> float:
    """A typed value (m): a number as it is, "+0.15" or "-0.15" as a step from now, "=-3" as a
    number with its sign.
    """
    t = text.strip()
    if t.startswith("="):
        return units.typed(t[1:], whole or text)
    return units.typed(t, whole or text) + (now if t[:1] in ("+", "-", "\u2212") else 0.0)


def typed_cover(facts: Facts, pipe: PipeId, text: str) -> float:
    """A least cover (m) that a text means, with or without a c before it: 0.9, or a step such as
    +0.15 from what it is now.
    """
    t, now = text.strip(), facts.pipes[pipe].cover
    return changed_by(
        t[1:] if t[:1] in ("c", "C") else t, 0.0 if now is None else now.least, facts.units, text
    )


def typed_levels(project: Project, facts: Facts, pipe: PipeId, ring: Ring, text: str) -> Project:
    """The project after a text typed with a ring in hand.

    A number sets the level of that end (of the middle ring: of its upper end, slope kept), "+0.15"
    moves it, "1:80" and "1.25%" set the slope about the other end (of the middle ring: about the
    upper end), "c0.9" gives exactly that least cover. Raises EditError with a sentence for a text
    that means none of these.
    """
    if not text.strip():
        raise EditError("Type a level, +0.15, 1:80, 1.25% or c0.9.")
    made = _typed_levels(project, facts, pipe, ring, text.strip())
    not_too_steep(made, facts, pipe)
    return made


def _typed_levels(project: Project, facts: Facts, pipe: PipeId, ring: Ring, t: str) -> Project:
    end: End | None = None if ring == "mid" else "up" if ring.endswith("up") else "down"
    if t[:1] in ("c", "C"):
        return set_cover(project, facts, pipe, typed_cover(facts, pipe, t), end)
    if ":" in t or t.endswith("%"):
        slope = project.units.typed_slope(t)
        return set_slope(project, facts, pipe, slope, "down" if end == "up" else "up")
    p = project.pipes[pipe]
    if end is None:
        return shift_pipe(project, pipe, changed_by(t, p.invert_up, project.units) - p.invert_up)
    now = p.invert(end)
    return set_invert(project, pipe, end, changed_by(t, now, project.units))


def typed_place(text: str, road: RoadId | None, units: Units) -> Anchored | Free:
    """A place: "412.5 -3.6" chainage and offset on a road, "0+412.5 -3.6" the same, "1480.2,865.1"
    x and y.

    Raises EditError for a text that is none, or a chainage where there is no road.
    """
    t = text.strip().replace("\u2212", "-")
    if "," in t:
        parts = t.split(",")
        if len(parts) == 2:
            return Free(units.typed(parts[0]), units.typed(parts[1]))
    parts = t.split()
    if len(parts) == 2:
        if road is None:
            raise EditError("There is no road for a chainage: type x,y.")
        return Anchored(road, units.typed_chainage(parts[0]), units.typed(parts[1]))
    raise EditError('Type chainage and offset as "412.5 -3.6", or "x,y".')


def named_road(text: str, project: Project, road: RoadId | None) -> tuple[str, RoadId | None]:
    """A typed place without the road that it names at its end ("20 1.0 tansymoor"), and that road;
    else the one given.

    The beginning of a name, or of a word of it, is enough where no other road has the same. Raises
    EditError for a name that is none, or that of several.
    """
    found = _ROAD.search(text.strip())
    if found is None:
        return text.strip(), road
    name = found.group(1).strip().casefold()
    names = {k: r.name.casefold() for k, r in project.roads.items()}
    like = [k for k, n in names.items() if n == name] or [
        k for k, n in names.items() if f" {n}".find(f" {name}") >= 0
    ]
    if len(like) != 1:
        known_ = ", ".join(r.name for r in project.roads.values())
        raise EditError(
            f'"{found.group(1).strip()}" '
            f"{'names several roads' if like else 'is no road here'}: known are {known_}."
        )
    return text.strip()[: found.start()].strip(), like[0]


_ROAD = re.compile(r"(?<=[\d.=\w])\s+([^\W\d_]{2}[^=,]*)$")


def typed_point(
    text: str, facts: Facts, road: RoadId | None, last: tuple[float, float] | None
) -> tuple[float, float]:
    """X and y (m) of a typed place: "x,y", chainage and offset, or "d12.4 b35": distance and
    bearing (degrees clockwise from north) from the last place. Raises EditError for a text that is
    none, or a chainage beyond the road.
    """
    t = text.strip().lower().replace("\u2212", "-")
    if t.startswith("d") and "b" in t:
        distance, _, bearing = t[1:].partition("b")
        if last is None:
            raise EditError("Distance and bearing go from a place: give a first one as x,y.")
        long, turn = facts.units.typed(distance), radians(METRIC.typed(bearing))
        return last[0] + long * sin(turn), last[1] + long * cos(turn)
    place = typed_place(text, road, facts.units)
    if isinstance(place, Free):
        return place.x, place.y
    x, y = facts.roads[place.road].alignment.point(place.chainage, place.offset)
    if x != x:
        raise EditError(f"Chainage {facts.units.chainage(place.chainage)} is outside the road.")
    return float(x), float(y)


def place_after(
    text: str, project: Project, facts: Facts, road: RoadId | None, last: StructureId | None
) -> Anchored | Free:
    """A typed place of a structure after the last one; "412.5 =" keeps the last offset, "= -3.6"
    the last chainage, "d12 b35" goes from the last. "=S4 2.8" is at the chainage of S4, "412.5 =S4"
    at its offset. A level may follow. Raises EditError for a text that means no place.
    """
    place = without_level(text)[0].lower()
    t, road = named_road(place, project, road)
    before = None if last is None else project.structures[last].place
    if t.startswith("d") and last is not None:
        at = facts.places[last]
        return Free(*typed_point(t, facts, road, (at.x or 0.0, at.y or 0.0)))
    parts = t.split()
    if len(parts) == 2 and any(p.startswith("=") for p in parts):
        if isinstance(before, Anchored) and t == place:
            road = before.road  # "=" is of the last one's road, unless another is named
        t = " ".join(
            _like(p, project, facts, road, before, i) if p.startswith("=") else p
            for i, p in enumerate(parts)
        )
    return typed_place(t, road, project.units)


def _like(
    text: str,
    project: Project,
    facts: Facts,
    road: RoadId | None,
    last: Anchored | Free | None,
    which: int,
) -> str:
    """The chainage (which 0) or offset (1) on a road of the last structure, or of the one named:
    "=", "=S4".
    """
    u = project.units
    if text == "=":
        if not isinstance(last, Anchored):
            raise EditError('"=" is the last chainage or offset: place one on a road first.')
        return f"{u.shown((last.chainage, last.offset)[which]):.6f}"
    found = next((k for k, s in project.structures.items() if s.label.lower() == text[1:]), None)
    if found is None or road is None:
        labels = [s.label for s in project.structures.values()]
        raise EditError(
            f'There is no structure "{text[1:]}" here: {known(text[1:].upper(), labels)}'
        )
    p = facts.places[found]
    at = [float(v) for v in facts.roads[road].alignment.project(p.x or 0.0, p.y or 0.0)]
    if p.x is None or at[which] != at[which]:
        label = project.structures[found].label
        raise EditError(f"{label} stands beyond the end of this road.")
    return f"{u.shown(at[which]):.6f}"


def without_level(text: str) -> tuple[str, str | None]:
    """A typed place, and the level that follows it after a z; None where none does."""
    t = text.strip()
    found = _LEVEL.search(t)
    return (t, None) if found is None else (t[: found.start()].strip(), found.group(1).strip())


_LEVEL = re.compile(r"(?:^|\s)[zZ]\s*([-+\u2212.\d].*)$")
