"""The road's profile as figures over a long section: grades with their lengths, vertical curves with theirs."""

from collections import Counter
from collections.abc import Iterator

import numpy as np

from zumbert.analysis.roads import RoadFacts
from zumbert.analysis.runs import Run
from zumbert.drawing.labels import Box
from zumbert.drawing.marks import Fill, Mark, Stroke, Text, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.style import text_width
from zumbert.geometry.elements import Array
from zumbert.geometry.profile import Profile
from zumbert.model.display import Units
from zumbert.model.ids import RoadId

TALL = 34.0  # drawing units of the band
LINE = 26.0  # where in it the profile runs
ROLE = "design"


def shown_road(picture: Picture) -> RoadFacts | None:
    """The road whose profile is told: the section's own, else the one that most of the run's structures are anchored to."""
    run, facts = picture.run, picture.facts
    if run is None:
        return None
    if run.key.kind == "road":
        return facts.roads.get(RoadId(run.key.id))
    roads = (getattr(facts.project.structures[k].place, "road", None) for k, _ in run.structures)
    most = Counter(r for r in roads if r is not None).most_common(1)
    return facts.roads.get(most[0][0]) if most else None


def has_profile(picture: Picture) -> bool:
    """Whether there is a road's profile that could be told."""
    road = shown_road(picture)
    return road is not None and road.profile is not None


def band(picture: Picture, sight: SectionSight) -> Box | None:
    """The room that the figures take up; None where they are not shown, or there is no profile."""
    road = shown_road(picture) if "profile" in picture.shows else None
    return (sight.left, 0.0, sight.width, TALL) if road is not None and road.profile is not None else None


def profile_data(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """Straight grades as lines, curves as bows (up for a crest), each with its figures where there is room for them."""
    road = shown_road(picture)
    if band(picture, sight) is None or road is None or road.profile is None or picture.run is None:
        return
    profile, u = road.profile, picture.units
    wide, left = sight.width, sight.left
    yield Fill("paper", points((left, 0), (wide, 0), (wide, TALL), (left, TALL)))
    yield Stroke("axis-thin", points((left, TALL), (wide, TALL)))
    begins, ends = profile.ch - profile.before, profile.ch + profile.beyond
    for i, grade in enumerate(profile.grades.tolist()):
        a, b = _places(picture.run, road, sight, float(ends[i]), float(begins[i + 1]))
        if b - a > 1:
            yield Stroke(ROLE, points((a, LINE), (b, LINE)))
            long = float(begins[i + 1] - ends[i])
            yield from _words(f"{u.slope(grade)}  {u.long(long)}", a, b, sight)
    for i in range(1, len(profile.ch) - 1):
        a, b = _places(picture.run, road, sight, float(begins[i]), float(ends[i]))
        yield from _curve(profile, i, a, b, sight, u)


def _places(run: Run, road: RoadFacts, sight: SectionSight, a: float, b: float) -> tuple[float, float]:
    """Drawing places (from left to right) of two chainages; the same twice where the section does not hold both."""
    if run.key.kind == "road":
        return sight.x_of(a), sight.x_of(b)
    if run.line is None:
        return 0.0, 0.0
    along, _ = run.line.project(*road.alignment.point(np.linspace(a, b, 9)))
    known: Array = along[~np.isnan(along)]
    if len(known) < 2:
        return 0.0, 0.0
    return sight.x_of(float(known.min())), sight.x_of(float(known.max()))


def _curve(profile: Profile, i: int, a: float, b: float, sight: SectionSight, u: Units) -> Iterator[Mark]:
    """The curve at a vertical point, or a tick where it is a corner."""
    long = float(profile.before[i] + profile.beyond[i])
    if long <= 0:
        yield Stroke(ROLE, points((a, LINE - 5), (a, LINE + 5)))
        return
    if b - a <= 1:
        return
    way = 1.0 if profile.grades[i] > profile.grades[i - 1] else -1.0
    t = np.linspace(0.0, np.pi, 17)
    yield Stroke(ROLE, np.column_stack([(a + b) / 2 - (b - a) / 2 * np.cos(t), LINE + way * 5.0 * np.sin(t)]))
    for x in (a, b):
        yield Stroke("column-rule", points((x, LINE - 5), (x, LINE + 5)))
    radius = f"  R {u.length(abs(float(profile.radius[i])))}" if profile.radius[i] else ""
    yield from _words(f"L {u.long(long)}{radius}", a, b, sight)


def _words(text: str, a: float, b: float, sight: SectionSight) -> Iterator[Mark]:
    """Figures over the middle of what is in sight of a piece; the first alone where there is room for no more."""
    a, b = max(a, sight.left), min(b, sight.width)
    for part in (text, text.split("  ")[0]):
        if text_width(part, "note") + 4 <= b - a:
            yield Text("note", part, (a + b) / 2, LINE - 8, "middle")
            return
