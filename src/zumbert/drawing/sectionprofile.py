"""The road's profile as figures over a long section: grades with their lengths, vertical curves
with theirs.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from zumbert.analysis.roads import RoadFacts
from zumbert.analysis.runline import Run
from zumbert.drawing.labels import Box
from zumbert.drawing.marks import Fill, Mark, Stroke, Text, points
from zumbert.drawing.picture import Picture, RunPicture
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.style import text_width
from zumbert.geometry.elements import Array
from zumbert.geometry.profile import Profile
from zumbert.model.display import Units
from zumbert.model.ids import RoadId

TALL = 34.0  # drawing units of the band
LINE = 26.0  # where in it the profile runs
BESIDE = 15.0  # m: so near to a run its road lies along it
ROLE = "design"


class Told(NamedTuple):
    """A road whose profile is told, over a part of the section."""

    road: RoadFacts
    profile: Profile
    low: float  # m along the section
    high: float


def roads_told(picture: Picture) -> list[Told]:
    """The section's own road over all of it; of a run each road from the first to the last of
    its structures on it.
    """
    run, facts = picture.run, picture.facts
    if run is None:
        return []
    if run.key.kind == "road":
        road = facts.roads.get(RoadId(run.key.id))
        return (
            [Told(road, road.profile, -np.inf, np.inf)]
            if road is not None and road.profile is not None
            else []
        )
    at: dict[RoadId, list[float]] = {}
    for key, s in run.structures:
        road_id = getattr(facts.project.structures[key].place, "road", None)
        if road_id is not None:
            at.setdefault(road_id, []).append(s)
    out = []
    for anchored, stands in at.items():
        of = facts.roads[anchored]
        if of.profile is not None and len(stands) > 1:
            out.append(Told(of, of.profile, min(stands), max(stands)))
    return out


def has_profile(picture: Picture) -> bool:
    """Whether there is a road's profile that could be told."""
    return bool(roads_told(picture))


def band(picture: Picture, sight: SectionSight) -> Box | None:
    """The room that the figures take up; None where they are not shown, or there is no profile."""
    return (
        (sight.left, 0.0, sight.width, TALL)
        if "profile" in picture.shows and has_profile(picture)
        else None
    )


def profile_data(picture: RunPicture, sight: SectionSight) -> Iterator[Mark]:
    """Straight grades as lines, curves as bows (up for a crest), each with its figures where
    there is room for them.
    """
    if band(picture, sight) is None:
        return
    wide, left = sight.width, sight.left
    yield Fill("paper", points((left, 0), (wide, 0), (wide, TALL), (left, TALL)))
    yield Stroke("axis-thin", points((left, TALL), (wide, TALL)))
    for told in roads_told(picture):
        yield from _profile(picture, told, sight)


def _profile(picture: RunPicture, told: Told, sight: SectionSight) -> Iterator[Mark]:
    """The figures of one road."""
    u, profile = picture.units, told.profile
    begins, ends = profile.ch - profile.before, profile.ch + profile.beyond
    for i, grade in enumerate(profile.grades.tolist()):
        a, b = _places(picture.run, told, sight, float(ends[i]), float(begins[i + 1]))
        if b - a > 1:
            yield Stroke(ROLE, points((a, LINE), (b, LINE)))
            long = float(begins[i + 1] - ends[i])
            yield from _words(f"{u.slope(grade)}  {u.long(long)}", a, b, sight)
    for i in range(1, len(profile.ch) - 1):
        a, b = _places(picture.run, told, sight, float(begins[i]), float(ends[i]))
        yield from _curve(profile, i, a, b, sight, u)


def _places(run: Run, told: Told, sight: SectionSight, a: float, b: float) -> tuple[float, float]:
    """Drawing places (from left to right) of two chainages, kept to the part that the road is told
    over; the same twice where nothing of them is in it.
    """
    if run.key.kind == "road":
        return sight.x_of(a), sight.x_of(b)
    if run.line is None:
        return 0.0, 0.0
    s, off = run.line.project(*told.road.alignment.point(np.linspace(a, b, 33)))
    beside: Array = s[~np.isnan(s) & (np.abs(off) <= BESIDE)]
    if not len(beside):
        return 0.0, 0.0
    low, high = max(float(beside.min()), told.low), min(float(beside.max()), told.high)
    return (sight.x_of(low), sight.x_of(high)) if high > low else (0.0, 0.0)


def _curve(
    profile: Profile, i: int, a: float, b: float, sight: SectionSight, u: Units
) -> Iterator[Mark]:
    """The curve at a vertical point, or a tick where it is a corner."""
    long = float(profile.before[i] + profile.beyond[i])
    if long <= 0:
        yield Stroke(ROLE, points((a, LINE - 5), (a, LINE + 5)))
        return
    if b - a <= 1:
        return
    way = 1.0 if profile.grades[i] > profile.grades[i - 1] else -1.0
    t = np.linspace(0.0, np.pi, 17)
    yield Stroke(
        ROLE, np.column_stack([(a + b) / 2 - (b - a) / 2 * np.cos(t), LINE + way * 5.0 * np.sin(t)])
    )
    for x in (a, b):
        yield Stroke("column-rule", points((x, LINE - 5), (x, LINE + 5)))
    radius = f"  R {u.length(abs(float(profile.radius[i])))}" if profile.radius[i] else ""
    yield from _words(f"L {u.long(long)}{radius}", a, b, sight)


def _words(text: str, a: float, b: float, sight: SectionSight) -> Iterator[Mark]:
    """Figures over the middle of what is in sight of a piece; the first alone where there is
    room for no more.
    """
    a, b = max(a, sight.left), min(b, sight.width)
    for part in (text, text.split("  ")[0]):
        if text_width(part, "note") + 4 <= b - a:
            yield Text("note", part, (a + b) / 2, LINE - 8, "middle")
            return
