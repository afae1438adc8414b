"""Ground, design and the other lines of levels along a run, with their names, low points and
crests.
"""

from collections.abc import Iterable, Iterator

import numpy as np

from zumbert.analysis.crossings import Reach
from zumbert.analysis.runline import Run
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import Anchor, Fill, Mark, Segments, Stroke, turning_point
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.style import text_width
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, level_at
from zumbert.model.ids import RoadId


def solid_parts(line: Line) -> list[tuple[Array, Array]]:
    """The parts of a line between its gaps."""
    ok = ~np.isnan(line.z)
    cuts = np.flatnonzero(np.diff(ok.astype(int))) + 1
    parts = zip(np.split(line.s, cuts), np.split(line.z, cuts), strict=True)
    return [(s, z) for s, z in parts if len(s) > 1 and not np.isnan(z[0])]


def seen(
    sight: SectionSight, s: Array, z: Array, left: float | None = None, right: float | None = None
) -> Array:
    """The part of a line that is in sight, or between two places across it, in drawing units."""
    a = sight.s_at(sight.left if left is None else max(left, sight.left)) - 1
    b = sight.s_at(sight.width if right is None else min(right, sight.width)) + 1
    i, j = max(0, int(np.searchsorted(s, a)) - 1), int(np.searchsorted(s, b)) + 1
    return np.column_stack([sight.px(s[i:j]), sight.py(z[i:j])])


def ground_fill(run: Run, sight: SectionSight) -> Iterator[Mark]:
    """Earth under the existing ground."""
    if run.ground is None:
        return
    for s, z in solid_parts(run.ground):
        xy = seen(sight, s, z)
        if len(xy) > 1:
            yield Fill(
                "ground-fill",
                np.vstack([xy, [(xy[-1, 0], sight.height), (xy[0, 0], sight.height)]]),
            )


def surfaces_over(run: Run, reaches: Iterable[Reach], sight: SectionSight) -> Iterator[Mark]:
    """The lines of ground and design over some pipes alone: those are drawn over the rest of the
    section.
    """
    for reach in reaches:
        a, b = sight.x_of(min(reach.up, reach.down)), sight.x_of(max(reach.up, reach.down))
        for role, line in (("ground", run.ground), ("design", run.design)):
            for s, z in solid_parts(line) if line is not None else ():
                xy = seen(sight, s, z, a, b)
                if len(xy) > 1:
                    yield Stroke(role, xy)


def surfaces(run: Run, sight: SectionSight) -> Iterator[Mark]:
    """The lines of ground and design."""
    if run.ground is not None:
        for s, z in solid_parts(run.ground):
            xy = seen(sight, s, z)
            if len(xy) > 1:
                yield Stroke("ground", xy)
                yield Segments("earth-tick", _earth_ticks(xy))
    if run.design is not None:
        for s, z in solid_parts(run.design):
            xy = seen(sight, s, z)
            if len(xy) > 1:
                yield Stroke("design", xy)


def _earth_ticks(xy: Array) -> Array:
    """Short ticks under the ground, in threes, every 46 units."""
    start = np.arange(np.ceil(xy[0, 0] / 46) * 46, xy[-1, 0] - 12, 46)
    x = (start[:, None] + np.array([0.0, 5.0, 10.0])).ravel()
    y = np.interp(x, xy[:, 0], xy[:, 1])
    return np.column_stack([x, y + 1, x - 5, y + 8])


OTHER_LINES = {
    "formation": ("formation", "design"), "rock": ("rock", "small"),
    "existing profile": ("profile-other", "ground"), "design profile": ("profile-other", "design"),
}  # fmt: skip


def others(run: Run, sight: SectionSight) -> Iterator[Mark]:
    """Formation, rock, and the profiles of a road that are not in force."""
    for other in run.others:
        for s, z in solid_parts(other.line):
            xy = seen(sight, s, z)
            if len(xy) > 1:
                yield Stroke(OTHER_LINES[other.role][0], xy)


SHARES = tuple(0.12 + (0.22 + 0.02 * i) % 0.78 for i in range(39))  # of the width, from a third on


def surface_labels(picture: Picture, run: Run, sight: SectionSight, labels: Labels) -> None:
    """The names of the lines, each at the first place along it that is free."""
    names = picture.facts.surfaces
    design = names.name("design") if names.design is not None else _profile_name(picture, run)
    lines: list[tuple[Line | None, str, str, bool]] = [
        (run.design, "design", _capital(design), True),
        (run.ground, "ground", _capital(names.name("existing")), False),
        *((o.line, OTHER_LINES[o.role][1], _capital(o.name), False) for o in run.others),
    ]
    for line, role, text, over in lines:
        if line is None:
            continue
        half = text_width(text, role) / 2
        along = sight.left + (sight.width - sight.left) * np.array(SHARES)
        ends = along[:, None] + np.array([-half, 0.0, half])
        y = sight.py(level_at(line, sight.x + (ends - sight.left) / sight.sx))
        for x, above, under in zip(
            along.tolist(),
            (y.min(axis=1) - 7.0).tolist(),
            (y.max(axis=1) + 15.0).tolist(),
            strict=True,
        ):
            # clear of the line along the whole name
            sides: list[tuple[float, float, Anchor]] = [(x, above, "middle"), (x, under, "middle")]
            places = [p for p in (sides if over else sides[::-1]) if 14 < p[1] < sight.height - 4]
            if labels.put(role, text, places):
                break


def surface_lines(run: Run, sight: SectionSight) -> Iterator[Array]:
    """The lines of all surfaces (n, 2), drawing units, without their gaps."""
    for line in (run.design, run.ground, *(o.line for o in run.others)):
        if line is not None:
            yield from (seen(sight, s, z) for s, z in solid_parts(line))


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _profile_name(picture: Picture, run: Run) -> str:
    """The design profile in force of a road's own section."""
    road = picture.facts.project.roads.get(RoadId(run.key.id)) if run.key.kind == "road" else None
    return "design" if road is None or road.design is None else road.profiles[road.design].name


NEARBY = 15.0  # m: a low point of a road this near to a run is shown in its section


def turning_points(picture: Picture, sight: SectionSight, labels: Labels) -> Iterator[Mark]:
    """Low points and crests of the roads beside the run, at their level on the profile."""
    u = picture.facts.units
    run = picture.run
    for r in picture.facts.roads.values():
        if r.profile is None or run is None or run.line is None:
            continue
        for ch, kind in r.profile.turning_points():
            s, off = (float(v) for v in run.line.project(*r.alignment.point(ch)))
            if s != s or abs(off) > NEARBY:
                continue
            x, y = sight.x_of(s), sight.y_of(float(r.profile.level(ch)))
            yield Fill("design", turning_point(x, y, kind))
            labels.put(
                "design",
                f"{kind.capitalize()} {u.chainage(ch, 1)}",
                [(x, y - 9, "middle"), (x, y - 23, "middle")],
            )
