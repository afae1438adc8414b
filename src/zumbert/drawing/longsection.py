"""The long section: ground, design, pipes as barrels, chambers at true width, and what breaks the rules where it does."""

from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.crossings import Reach
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.probe import levels
from zumbert.analysis.runs import Run
from zumbert.analysis.trench import bottom_at, pit_radius, trench_type
from zumbert.checks.finding import Finding
from zumbert.checks.limits import pipe_limit
from zumbert.checks.where import chainages
from zumbert.drawing.handles import Hand, legal_band
from zumbert.drawing.labels import Labels
from zumbert.drawing.levelrows import level_rows
from zumbert.drawing.marks import (
    Anchor,
    Composed,
    Disc,
    Fill,
    Mark,
    Segments,
    Stroke,
    Target,
    Text,
    lozenge,
    notch,
    points,
    turning_point,
)
from zumbert.drawing.picture import Picture
from zumbert.drawing.pins import pin_lines, pin_marks
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.style import text_width
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, level_at
from zumbert.model.display import Units
from zumbert.model.ids import RoadId, StructureId


def long_section(picture: Picture, sight: SectionSight, hand: Hand | None = None) -> Composed:
    """Marks of a long section with its level rows; empty but for the grid where there is no run."""
    units = picture.units
    marks: list[Mark] = list(_grid(sight, units))
    targets: list[Target] = []
    labels = Labels()
    if picture.run is not None:
        picture = replace(picture, run=_in_sight(picture.run, sight))
        assert picture.run is not None  # noqa: S101 - just set
        marks += _ground_fill(picture.run, sight)
        marks += _halos(picture, sight)
        if picture.trenches is not None and "trench" in picture.shows:
            marks += _pits(picture, sight)
        marks += legal_band(picture, hand, sight)
        marks += _former(picture, sight)
        for reach in picture.run.reaches:
            marks += _barrel(picture, reach, sight)
            targets.append(_pipe_target(picture, reach, sight))
        if "cover" in picture.shows:
            marks += _least_cover(picture, sight)
        marks += _others(picture.run, sight)
        marks += _surfaces(picture.run, sight)
        if picture.trenches is not None and "trench" in picture.shows:
            marks += _trench(picture, sight)
        for key, at in picture.run.structures:
            marks += _chamber(picture, key, at, sight)
            targets.append(_structure_target(picture, key, at, sight))
        for key, at in picture.run.structures:
            box = _chamber_box(picture, key, at, sight)
            if box is not None:
                labels.block((box[0] - 2, box[2] - 3, box[1] + 2, box[3]))
        _structure_labels(picture, sight, labels)
        marks += _findings(picture, sight, labels)
        marks += _turning_points(picture, sight, labels)
        marks += _crossings(picture, sight, labels)
        marks += _pins(picture, picture.run, sight, labels)
        _surface_labels(picture, picture.run, sight, labels)
    marks += labels.texts
    marks += _frame(sight)
    marks += _axis_labels(sight, units)
    rows = level_rows(picture, sight, hand) if picture.run is not None else Composed([], [], [])
    return Composed(marks + rows.marks, targets[::-1], rows.cells)


def _pins(picture: Picture, run: Run, sight: SectionSight, labels: Labels) -> Iterator[Mark]:
    """The levels that are pinned to the pipes of the run, at the first level that each tells."""
    facts = picture.facts
    reaches = {r.pipe: r for r in run.reaches}
    for pin in facts.project.pins.values():
        reach = reaches.get(pin.pipe)
        if reach is None:
            continue
        f = facts.pipes[pin.pipe]
        at = levels(f, facts, pin.at)
        named = (getattr(at, n) for n in pin.fields if n not in ("chainage", "distance", "cover"))
        level = next((v for v in named if v is not None), at.invert)
        x, y = sight.x_of(reach.at(at.distance, f.span.length)), sight.y_of(level)
        if sight.left < x < sight.width and 0 < y < sight.height:
            yield from pin_marks(pin_lines(f, facts, pin), x, y, labels)


BESIDE = 30.0  # m along a run beyond the drawing that are composed too: chambers and labels reach in


def _in_sight(run: Run, sight: SectionSight) -> Run:
    """A run without the pipes and structures that are far out of sight."""
    a, b = sight.s_at(sight.left) - BESIDE, sight.s_at(sight.width) + BESIDE
    return run._replace(
        reaches=tuple(r for r in run.reaches if max(r.up, r.down) >= a and min(r.up, r.down) <= b),
        structures=tuple(s for s in run.structures if a <= s[1] <= b),
    )


def _former(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """Where pipes lay before a preview that moves several: their inverts and crowns."""
    before = picture.before
    if before is None or picture.run is None:
        return
    moved = []
    for reach in picture.run.reaches:
        old, new = before.pipes.get(reach.pipe), picture.facts.pipes[reach.pipe]
        levels = (new.pipe.invert_up, new.pipe.invert_down)
        if old is not None and (old.pipe.invert_up, old.pipe.invert_down) != levels:
            moved.append((reach, old))
    if len(moved) < 2:
        return
    for reach, f in moved:
        s = np.array([f.span.reach_up, f.span.length - f.span.reach_down])
        x = sight.px(reach.up + (reach.down - reach.up) * s / f.span.length)
        z = np.array([f.invert(v) for v in s.tolist()])
        for up in (0.0, f.inside):
            yield Stroke("former", np.column_stack([x, sight.py(z + up)]))


def _grid(sight: SectionSight, u: Units) -> Iterator[Mark]:
    yield Fill("paper", points((0, 0), (sight.width, 0), (sight.width, sight.height), (0, sight.height)))
    for role, step in (("grid-minor", _step(sight, u) / 2), ("grid-major", _step(sight, u))):
        z = np.arange(np.ceil(sight.z_at(sight.height) / step) * step, sight.z_at(0.0), step)
        y = sight.py(z)
        yield Segments(role, np.column_stack([np.full_like(y, sight.left), y, np.full_like(y, sight.width), y]))


def _step(sight: SectionSight, u: Units) -> float:
    """Metres between labelled levels, round in the project's unit: no nearer than 24 units."""
    one = u.metres
    return one * next((s for s in (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0) if s * one * sight.sz >= 24), 100.0)


def _axis_labels(sight: SectionSight, u: Units) -> Iterator[Mark]:
    step = _step(sight, u)
    for z in np.arange(np.ceil(sight.z_at(sight.height - 6) / step) * step, sight.z_at(10.0), step).tolist():
        y = sight.y_of(z)
        yield Text("axis", f"{u.shown(z):.1f}", sight.left - 9, y + 4, "right")
        yield Stroke("axis", points((sight.left - 5, y), (sight.left, y)))


def _frame(sight: SectionSight) -> Iterator[Mark]:
    yield Fill("paper", points((0, 0), (sight.left, 0), (sight.left, sight.height), (0, sight.height)))
    yield Stroke("axis", points((sight.left, 0), (sight.left, sight.height)))


def solid_parts(line: Line) -> list[tuple[Array, Array]]:
    """The parts of a line between its gaps."""
    ok = ~np.isnan(line.z)
    cuts = np.flatnonzero(np.diff(ok.astype(int))) + 1
    parts = zip(np.split(line.s, cuts), np.split(line.z, cuts), strict=True)
    return [(s, z) for s, z in parts if len(s) > 1 and not np.isnan(z[0])]


def _seen(sight: SectionSight, s: Array, z: Array) -> Array:
    """The part of a line that is in sight, in drawing units, thinned to what can be seen."""
    a, b = sight.s_at(sight.left) - 1, sight.s_at(sight.width) + 1
    i, j = max(0, int(np.searchsorted(s, a)) - 1), int(np.searchsorted(s, b)) + 1
    return np.column_stack([sight.px(s[i:j]), sight.py(z[i:j])])


def _ground_fill(run: Run, sight: SectionSight) -> Iterator[Mark]:
    if run.ground is None:
        return
    for s, z in solid_parts(run.ground):
        xy = _seen(sight, s, z)
        if len(xy) > 1:
            yield Fill("ground-fill", np.vstack([xy, [(xy[-1, 0], sight.height), (xy[0, 0], sight.height)]]))


def _surfaces(run: Run, sight: SectionSight) -> Iterator[Mark]:
    if run.ground is not None:
        for s, z in solid_parts(run.ground):
            xy = _seen(sight, s, z)
            if len(xy) > 1:
                yield Stroke("ground", xy)
                yield Segments("earth-tick", _earth_ticks(xy))
    if run.design is not None:
        for s, z in solid_parts(run.design):
            xy = _seen(sight, s, z)
            if len(xy) > 1:
                yield Stroke("design", xy)


def _earth_ticks(xy: Array) -> Array:
    """Short ticks under the ground, in threes, every 46 units."""
    start = np.arange(np.ceil(xy[0, 0] / 46) * 46, xy[-1, 0] - 12, 46)
    x = (start[:, None] + np.array([0.0, 5.0, 10.0])).ravel()
    y = np.interp(x, xy[:, 0], xy[:, 1])
    return np.column_stack([x, y + 1, x - 5, y + 8])


def barrel_ends(f: PipeFacts, reach: Reach) -> tuple[float, float, float, float]:
    """Section distances (m) and inverts of the barrel's ends at the inner walls: up first."""
    a, b = f.span.reach_up, f.span.length - f.span.reach_down
    if b <= a:
        a = b = f.span.length / 2
    return reach.at(a, f.span.length), reach.at(b, f.span.length), f.invert(a), f.invert(b)


def _tone(f: PipeFacts) -> str:
    return f.pipe.service


def _barrel(picture: Picture, reach: Reach, sight: SectionSight) -> Iterator[Mark]:
    f = picture.facts.pipes[reach.pipe]
    a, b, ia, ib = barrel_ends(f, reach)
    x0, x1 = sight.x_of(a), sight.x_of(b)
    if max(x0, x1) < sight.left or min(x0, x1) > sight.width:
        return
    tone = _tone(f)
    role = f"{tone}-existing" if f.pipe.status != "proposed" else tone

    def across(low: float, high: float) -> Array:
        return points(
            (x0, sight.y_of(ia + high)),
            (x1, sight.y_of(ib + high)),
            (x1, sight.y_of(ib + low)),
            (x0, sight.y_of(ia + low)),
        )

    outside, bore = across(-f.wall, f.outside_height), across(0.0, f.inside)
    yield Fill(f"{tone}-wall", outside)
    yield Fill(f"{tone}-bore", bore)
    fresh = f.pipe.id in picture.fresh
    for lines, kind in ((outside, "outside"), (bore, "inside")):
        for part in (lines[:2], lines[2:]):
            yield Stroke("preview" if fresh else f"{role}-{kind}", part)
    yield from _holds(f, (x0, sight.y_of(ia)), (x1, sight.y_of(ib)), sight.y_of(ia + f.inside) - sight.y_of(ia))


def _holds(
    f: PipeFacts, up: tuple[float, float], down: tuple[float, float], bore: float
) -> Iterator[Mark]:  # fmt: skip
    """What of a pipe's levels is held: a solid square on an invert, two strokes across the bore for the slope."""
    way = 1.0 if down[0] > up[0] else -1.0
    for held, (x, y), inward in ((f.pipe.keep_up, up, way), (f.pipe.keep_down, down, -way)):
        if held:
            x += inward * 9
            yield Fill("ink", points((x - 3, y - 3), (x + 3, y - 3), (x + 3, y + 3), (x - 3, y + 3)))
    if f.pipe.keep_slope:
        x, y = (up[0] + down[0]) / 2 + 16, (up[1] + down[1]) / 2
        lean = (down[1] - up[1]) / (down[0] - up[0] or 1.0)
        strokes = [(x + d - 2, y + lean * (16 + d) + 3, x + d + 2, y + lean * (16 + d) + bore - 3) for d in (0.0, 6.0)]
        yield Segments("held", np.array(strokes))


def _pipe_target(picture: Picture, reach: Reach, sight: SectionSight) -> Target:
    f = picture.facts.pipes[reach.pipe]
    a, b, ia, ib = barrel_ends(f, reach)
    mid = f.inside / 2
    line = points((sight.x_of(a), sight.y_of(ia + mid)), (sight.x_of(b), sight.y_of(ib + mid)))
    return Target("pipe", reach.pipe, line, max(7.0, f.outside_height / 2 * sight.sz))


def _halos(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    assert picture.run is not None  # noqa: S101 - asked for with a run only
    for reach in picture.run.reaches:
        if reach.pipe in picture.pipes:
            f = picture.facts.pipes[reach.pipe]
            a, b, ia, ib = barrel_ends(f, reach)
            for h in (f.outside_height, -f.wall):
                yield Stroke("halo", points((sight.x_of(a), sight.y_of(ia + h)), (sight.x_of(b), sight.y_of(ib + h))))
    for key, at in picture.run.structures:
        box = _chamber_box(picture, key, at, sight)
        if key in picture.structures and box is not None:
            x0, x1, y0, y1 = box
            yield Stroke("halo", points((x0, y0), (x1, y0), (x1, y1), (x0, y1)), closed=True)


def _least_cover(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """The line that outside tops have to stay under: reference less least cover, over each barrel."""
    assert picture.run is not None  # noqa: S101 - asked for with a run only
    for reach in picture.run.reaches:
        f = picture.facts.pipes[reach.pipe]
        if f.span.barrel is None:
            continue
        need = pipe_limit(picture.facts.project, f.pipe, f.dn, "cover_min")
        s = reach.up + (reach.down - reach.up) * f.span.barrel.s / f.span.length
        for ps, pz in solid_parts(Line(s[::-1], f.span.barrel.z[::-1]) if s[0] > s[-1] else Line(s, f.span.barrel.z)):
            yield Stroke("least-cover", np.column_stack([sight.px(ps), sight.py(pz - need)]))


def _chamber_box(
    picture: Picture, key: StructureId, at: float, sight: SectionSight
) -> tuple[float, float, float, float] | None:
    """The outside of a chamber in drawing units: left, right, rim, underside of base."""
    f = picture.facts.structures[key]
    kind = picture.facts.project.types[f.structure.type]
    rim = f.place.rim if f.place.rim is not None else f.place.ground
    bottom = f.sump_level
    if rim is None or bottom is None:
        if rim is None and bottom is None:
            return None
        rim = bottom + 1.0 if rim is None and bottom is not None else rim
        bottom = rim - 1.2 if bottom is None and rim is not None else bottom
    assert rim is not None and bottom is not None  # noqa: S101 - set above
    half = max(kind.outside * sight.sx / 2, 4.0)
    x = sight.x_of(at)
    under = sight.y_of(bottom - (kind.base if kind.inside else 0.15))
    return x - half, x + half, sight.y_of(rim), under


def _chamber(picture: Picture, key: StructureId, at: float, sight: SectionSight) -> Iterator[Mark]:
    box = _chamber_box(picture, key, at, sight)
    if box is None or box[1] < sight.left or box[0] > sight.width:
        return
    f = picture.facts.structures[key]
    kind = picture.facts.project.types[f.structure.type]
    x0, x1, y0, y1 = box
    x = (x0 + x1) / 2
    yield Stroke("column", points((x, y1), (x, sight.height)))
    if kind.kind == "joint":
        level = f.lowest or 0.0
        yield Disc("field", x, sight.y_of(level), 3.0, "chamber")
        return
    if not kind.inside:  # a wall that the pipe comes out of
        yield Fill("chamber-wall", points((x - 3, y0), (x + 3, y0), (x + 3, y1), (x - 3, y1)), "chamber")
        return
    wall = max(1.5, (x1 - x0) / 2 * (1 - kind.inside / kind.outside))
    yield Fill("chamber-wall", points((x0, y0), (x1, y0), (x1, y1), (x0, y1)), "chamber")
    floor = sight.y_of(f.sump_level) if f.sump_level is not None else y1 - 4
    inner = points((x0 + wall, y0 + 4), (x1 - wall, y0 + 4), (x1 - wall, floor), (x0 + wall, floor))
    yield Fill("field", inner, "chamber-inner")
    yield Fill("ink", points((x - 4, y0 - 2), (x + 4, y0 - 2), (x + 4, y0 + 2), (x - 4, y0 + 2)))
    for g in f.pipes_in:  # openings of side branches
        if all(r.pipe != g.pipe.id for r in picture.run.reaches):  # type: ignore[union-attr]
            y = sight.y_of(g.pipe.invert_down)
            tall, wide = g.inside * sight.sz, max(2.5, min(g.inside * sight.sx, x1 - x0 - 2 * wall - 1))
            yield Stroke(f"{g.pipe.service}-inside", _oval(x, y - tall / 2, wide / 2, tall / 2), closed=True)


def _oval(x: float, y: float, a: float, b: float) -> Array:
    t = np.linspace(0, 2 * np.pi, 25)[:-1]
    return np.column_stack([x + a * np.cos(t), y + b * np.sin(t)])


def _structure_target(picture: Picture, key: StructureId, at: float, sight: SectionSight) -> Target:
    box = _chamber_box(picture, key, at, sight)
    if box is None:
        return Target("structure", key, points((sight.x_of(at), -50)), 1.0)
    x0, x1, y0, y1 = box
    return Target("structure", key, points(((x0 + x1) / 2, y0), ((x0 + x1) / 2, y1)), max(5.0, (x1 - x0) / 2))


def _structure_labels(picture: Picture, sight: SectionSight, labels: Labels) -> None:
    assert picture.run is not None  # noqa: S101 - asked for with a run only
    ordered = sorted(picture.run.structures, key=lambda s: (s[0] not in picture.structures, s[1]))
    for key, at in ordered:
        box = _chamber_box(picture, key, at, sight)
        if box is None or box[3] < 0 or not sight.left + 12 < (box[0] + box[1]) / 2 < sight.width - 6:
            continue
        text = picture.facts.project.structures[key].label
        x, y = (box[0] + box[1]) / 2, max(13.0, box[2] - 8)
        labels.put("section-label", text, [(x, y, "middle"), (x, y - 14, "middle")], key in picture.structures)


SHARES = tuple(0.12 + (0.22 + 0.02 * i) % 0.78 for i in range(39))  # of the width, from a third on


NEARBY = 15.0  # m: a low point of a road this near to a run is shown in its section


def _turning_points(picture: Picture, sight: SectionSight, labels: Labels) -> Iterator[Mark]:
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
                "design", f"{kind.capitalize()} {u.chainage(ch, 1)}", [(x, y - 9, "middle"), (x, y - 23, "middle")]
            )


OTHER_LINES = {
    "formation": ("formation", "design"), "rock": ("rock", "small"), "existing profile": ("profile-other", "ground"),
    "design profile": ("profile-other", "design"),
}  # fmt: skip


def _others(run: Run, sight: SectionSight) -> Iterator[Mark]:
    """Formation, rock, and the profiles of a road that are not in force."""
    for other in run.others:
        for s, z in solid_parts(other.line):
            xy = _seen(sight, s, z)
            if len(xy) > 1:
                yield Stroke(OTHER_LINES[other.role][0], xy)


def _crossings(picture: Picture, sight: SectionSight, labels: Labels) -> Iterator[Mark]:
    """Services and pipes where they cross: an oval of their size at their level with the room to the run's pipe, or a
    name at the ground where the level is not known.
    """
    run = picture.run
    for c in run.crossings if run is not None else ():
        x = sight.x_of(c.at)
        if not sight.left < x < sight.width:
            continue
        role = "service" if c.kind == "service" else picture.facts.pipes[c.id].pipe.service
        if c.level is None:
            ground = run.ground or run.design  # type: ignore[union-attr]
            y = sight.y_of(float(level_at(ground, c.at))) if ground is not None else 20.0
            labels.put(role, f"{c.label}, level not known", [(x, y - 6, "middle"), (x, y - 20, "middle")])
            yield Stroke("service", points((x, y), (x, y + 14)))
            continue
        y = sight.y_of(c.level)
        oval = _oval(x, y, max(3.0, c.size * sight.sx / 2), max(3.0, c.size * sight.sz / 2))
        yield Stroke("service-oval" if c.kind == "service" else f"{role}-outside", oval, closed=True)
        tight = c.clear is not None and c.clear < c.need - 1e-6
        text = c.label if c.clear is None else f"{c.label}, clear {picture.units.length(c.clear)}"
        places: list[tuple[float, float, Anchor]] = [
            (x + 8, y + 4, "left"),
            (x - 8, y + 4, "right"),
            (x, y + 18, "middle"),
        ]
        if not labels.put("breach-small" if tight else role, text, places):
            labels.put(role, c.label, places)


def _surface_labels(picture: Picture, run: Run, sight: SectionSight, labels: Labels) -> None:
    """The names of the lines, each at the first place along it that is free."""
    names = picture.facts.surfaces
    design = names.name("design") if names.design is not None else _profile_name(picture, run)
    lines: list[tuple[Line | None, str, str, float]] = [
        (run.design, "design", _capital(design), -7.0), (run.ground, "ground", _capital(names.name("existing")), 20.0),
        *((o.line, OTHER_LINES[o.role][1], _capital(o.name), 14.0) for o in run.others),
    ]  # fmt: skip
    for line, role, text, dy in lines:
        if line is None:
            continue
        for x in (sight.left + (sight.width - sight.left) * share for share in SHARES):
            y = sight.y_of(float(level_at(line, sight.s_at(x)))) + dy
            if 14 < y < sight.height - 4 and labels.put(role, text, [(x, y, "middle"), (x, y + 12, "middle")]):
                break


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _profile_name(picture: Picture, run: Run) -> str:
    """The design profile in force of a road's own section."""
    road = picture.facts.project.roads.get(RoadId(run.key.id)) if run.key.kind == "road" else None
    return "design" if road is None or road.design is None else road.profiles[road.design].name


def _findings(picture: Picture, sight: SectionSight, labels: Labels) -> Iterator[Mark]:
    """Notches and stretches where rules are broken; the selected pipe's with its measure."""
    assert picture.run is not None  # noqa: S101 - asked for with a run only
    for reach in picture.run.reaches:
        for finding in picture.found(reach.pipe):
            yield from _pipe_finding(picture, reach, finding, sight, labels)
    for key, at in picture.run.structures:
        found = picture.found(key)
        box = _chamber_box(picture, key, at, sight)
        if not found or box is None:
            continue
        y = sight.y_of(picture.facts.structures[key].lowest or 0.0)
        yield from _sign(picture.worst(key), box[1] + 9, y + 2)


def _sign(worst: str | None, x: float, y: float) -> Iterator[Mark]:
    if worst == "breach":
        yield Fill("breach", notch(x, y), "paper-rim")
    elif worst == "caution":
        yield Stroke("caution", lozenge(x, y - 5), closed=True)


def _pipe_finding(
    picture: Picture, reach: Reach, finding: Finding, sight: SectionSight, labels: Labels
) -> Iterator[Mark]:
    u = picture.facts.units
    f = picture.facts.pipes[reach.pipe]
    at = f.span.length / 2 if finding.distance is None else finding.distance
    x, top = sight.x_of(reach.at(at, f.span.length)), sight.y_of(f.invert(at) + f.outside_height)
    if not finding.stretches:
        yield from _sign(finding.severity, x, top - 3)
        return
    for a, b in finding.stretches:
        yield from _stretch(f, reach, finding, (a, b), sight)
    of_cover = finding.rule in ("cover_min", "cover_max")
    ground = sight.y_of(f.invert(at) + f.outside_height + ((finding.value or 0.0) if of_cover else 0.0))
    yield Fill("breach", notch(x, ground - (14 if of_cover else 4)), "paper-rim")
    selected = reach.pipe in picture.pipes
    if selected and of_cover:
        yield Segments("breach-dimension", np.array([(x, ground, x, top)]))
        yield Segments("breach-dimension", np.array([
            (x, ground, x - 3, ground + 6), (x, ground, x + 3, ground + 6), (x, top, x - 3, top - 6), (x, top, x + 3, top - 6),
        ]))  # fmt: skip
    word = "needs" if finding.rule == "cover_min" else "at most"
    text = f"Cover {u.length(finding.value)}, {word} {u.length(finding.limit)}"
    if not of_cover:
        text = f"{u.long(finding.value)} outside the land"
    half = text_width(text, "breach") / 2 + 4  # it stays whole inside the drawing
    middle = min(max(x, sight.left + half), max(sight.left + half, sight.width - half))
    places: list[tuple[float, float, Anchor]] = [
        (middle + dx, max(26.0, ground - up), "middle") for up in (44, 72, 100) for dx in (0, -60, 60)
    ]
    if labels.put("breach", text, places, selected):
        x = labels.texts[-1].x
        y = labels.texts[-1].y
        ends = (finding.stretches[0][0], finding.stretches[-1][1])
        labels.put("breach-small", _from_to(picture, f, ends), [(x, y + 15, "middle")], selected)


def _from_to(picture: Picture, f: PipeFacts, ends: tuple[float, float]) -> str:
    u = picture.facts.units
    a, b = chainages(picture.facts, f, ends)
    if a is None or b is None:
        label = picture.facts.project.structures[f.pipe.up].label
        return f"{u.length(ends[0])} to {u.long(ends[1])} from {label}"
    return f"{u.chainage(min(a, b), 1)} to {u.chainage(max(a, b), 1)}"


def _stretch(
    f: PipeFacts, reach: Reach, finding: Finding, ends: tuple[float, float], sight: SectionSight
) -> Iterator[Mark]:  # fmt: skip
    """The stretch of outside top that breaks the rule, and of cover the sliver between it and the line that it breaks."""
    barrel = f.span.barrel
    if barrel is None:
        return
    a, b = ends
    inner = barrel.s[(barrel.s > a) & (barrel.s < b)]
    s = np.concatenate([[a], inner, [b]])
    x = sight.px(reach.up + (reach.down - reach.up) * s / f.span.length)
    top = sight.py(f.pipe.invert_up - (f.slope or 0.0) * (s - f.quoted_from) + f.outside_height)
    if finding.rule in ("cover_min", "cover_max"):
        line = sight.py(level_at(barrel, s) - (finding.limit or 0.0))
        yield Fill("sliver", np.vstack([np.column_stack([x, top]), np.column_stack([x, line])[::-1]]))
    yield Stroke("breach", np.column_stack([x, top]))
    bars = [(x[i], top[i] - 6, x[i], top[i] + 6) for i in (0, -1)]
    yield Segments("breach-bar", np.array(bars))


def _trench(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """Trench bottom from pit edge to pit edge, with a tick at each section."""
    assert picture.run is not None and picture.trenches is not None  # noqa: S101 - asked for with both
    for reach in picture.run.reaches:
        t = picture.trenches.pipes[reach.pipe]
        if t.length <= 0:
            continue
        f = picture.facts.pipes[reach.pipe]
        spacing = trench_type(picture.facts.project, f.pipe).spacing
        s = np.append(np.arange(t.begin, t.end, spacing), t.end)
        x = sight.px(reach.up + (reach.down - reach.up) * s / f.span.length)
        y = sight.py(np.array([bottom_at(picture.facts, f, d) for d in s.tolist()]))
        yield Stroke("trench-bottom", np.column_stack([x, y])[[0, -1]])
        yield Segments("trench-tick", np.column_stack([x, y, x, y + 5]))


def _pits(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    assert picture.run is not None and picture.trenches is not None  # noqa: S101 - asked for with both
    for key, at in picture.run.structures:
        pit = picture.trenches.pits.get(key)
        place = picture.facts.places[key]
        if pit is None or pit.bottom is None or place.ground is None:
            continue
        half = pit_radius(picture.facts.project, picture.facts.project.structures[key])
        x0, x1 = sight.x_of(at - half), sight.x_of(at + half)
        y0, y1 = sight.y_of(place.ground), sight.y_of(pit.bottom)
        yield Fill("plate", points((x0, y0), (x1, y0), (x1, y1), (x0, y1)), "pit")
