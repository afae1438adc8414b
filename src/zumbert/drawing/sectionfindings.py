"""Notches and stretches where rules are broken, in a long section."""

from collections.abc import Iterator, Sequence

import numpy as np

from zumbert.analysis.crossings import Reach
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Finding, Look
from zumbert.checks.sentences import mark
from zumbert.checks.where import chainages
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import Anchor, Fill, Mark, Segments, Stroke, points
from zumbert.drawing.picture import GRAVEST, Picture, RunPicture
from zumbert.drawing.planstructures import severity_sign
from zumbert.drawing.sectionchambers import chamber_box
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.style import text_width
from zumbert.geometry.line import level_at


def findings(
    picture: RunPicture, sight: SectionSight, labels: Labels, far: Sequence[Reach] = ()
) -> Iterator[Mark]:
    """Notches and stretches where rules are broken; the selected pipe's with its measure, those of
    selected pipes out of sight (`far`) as an arrow at the edge.
    """
    left, right, words = sight.s_at(sight.left), sight.s_at(sight.width), MOST_WORDS
    out = [(reach, finding) for reach in far for finding in picture.found(reach.pipe)]
    for reach in picture.run.reaches:
        found = picture.found(reach.pipe)
        if not found:
            continue
        if max(reach.up, reach.down) < left or min(reach.up, reach.down) > right:
            out += [(reach, f) for f in found if reach.pipe in picture.pipes]
            continue
        for finding in found:
            if _place(picture, reach, finding, sight) is None:
                out += [(reach, finding)] if reach.pipe in picture.pipes else []
            words -= reach.pipe in picture.pipes
            yield from _pipe_finding(picture, reach, finding, sight, labels, words >= 0)
    yield from _beyond(picture, out, sight, labels)
    for key, at in picture.run.structures:
        found = picture.found(key)
        box = chamber_box(picture, key, at, sight)
        if not found or box is None:
            continue
        low = sight.y_of(picture.facts.structures[key].lowest or 0.0)
        for y, at_rim in (
            (low + 2, False),
            (box[2] + 3, True),
        ):  # of a rim beside the rim, all else at the lowest invert
            looks = {f.look for f in found if rule_of(f.rule).at_rim == at_rim}
            yield from severity_sign(
                next((look for look in GRAVEST if look in looks), None), box[1] + 9, y, 5
            )


STRIP = 5.0  # drawing units high


def finding_strip(picture: RunPicture, sight: SectionSight) -> Iterator[Mark]:
    """A strip along the top, as long as the run is shown: where along it something is found, the
    gravest uppermost in turn.
    """
    parts: list[tuple[Look, float, float]] = []
    for reach in picture.run.reaches:
        f = picture.facts.pipes[reach.pipe]
        for finding in picture.found(reach.pipe):
            at = _along(f, finding)
            for ends in finding.stretches or ((at, at),):
                a, b = sorted(sight.x_of(reach.at(s, f.span.length)) for s in ends)
                parts.append((finding.look, a, b))
    for key, at in picture.run.structures:
        x = sight.x_of(at)
        parts += [(finding.look, x, x) for finding in picture.found(key)]
    if not parts:
        return
    yield Segments("strip", np.array([(sight.left, STRIP + 1.5, sight.width, STRIP + 1.5)]))
    for look in reversed(GRAVEST):
        for own, a, b in parts:
            if own != look or b < sight.left or a > sight.width:
                continue
            middle, half = (a + b) / 2, max(2.5, (b - a) / 2)
            left, right = max(sight.left, middle - half), min(sight.width, middle + half)
            yield Fill(look, points((left, 1.0), (right, 1.0), (right, STRIP), (left, STRIP)))


# findings of selected pipes that say their measure in one section; the panel lists the others
MOST_WORDS = 8


def _along(f: PipeFacts, finding: Finding) -> float:
    return f.span.length / 2 if finding.distance is None else finding.distance


def _place(picture: Picture, reach: Reach, finding: Finding, sight: SectionSight) -> float | None:
    """The drawing x of a finding; None where that is out of sight."""
    f = picture.facts.pipes[reach.pipe]
    x = sight.x_of(reach.at(_along(f, finding), f.span.length))
    return x if sight.left <= x <= sight.width else None


def _beyond(
    picture: Picture, out: list[tuple[Reach, Finding]], sight: SectionSight, labels: Labels
) -> Iterator[Mark]:
    """At each edge an arrow for what the selected pipes break beyond it: the nearest by name,
    how far, how many more.
    """
    u = picture.facts.units
    for side in (-1, 1):
        edge = sight.s_at(sight.left if side < 0 else sight.width)
        far = []
        for reach, finding in out:
            f = picture.facts.pipes[reach.pipe]
            by = (reach.at(_along(f, finding), f.span.length) - edge) * side
            if by > 0:
                far.append((by, finding, f))
        if not far:
            continue
        by, finding, f = min(far, key=lambda t: t[0])
        x, y = (sight.left + 12.0 if side < 0 else sight.width - 12.0), sight.height / 2
        shape = np.array([(x + side * 8, y), (x - side * 4, y - 6), (x - side * 4, y + 6)])
        grave = finding.severity == "breach"
        yield Fill("breach", shape, "paper-rim") if grave else Stroke("caution", shape, closed=True)
        more = f", {len(far) - 1} more" if len(far) > 1 else ""
        text = f"{f.pipe.label}: {rule_of(finding.rule).title.lower()}, {u.long(by)} on{more}"
        anchor: Anchor = "left" if side < 0 else "right"
        places = [(x - side * 12, y + dy, anchor) for dy in (4.0, 20.0, -12.0)]
        labels.put(f"{finding.severity}-small", text, places, True)


def _pipe_finding(
    picture: Picture,
    reach: Reach,
    finding: Finding,
    sight: SectionSight,
    labels: Labels,
    told: bool,
) -> Iterator[Mark]:
    f = picture.facts.pipes[reach.pipe]
    at = _along(f, finding)
    x, top = sight.x_of(reach.at(at, f.span.length)), sight.y_of(f.invert(at) + f.outside_height)
    if not finding.stretches:
        yield from severity_sign(finding.look, x, top - 3, 5)
        return
    for a, b in finding.stretches:
        yield from _stretch(f, reach, finding, (a, b), sight)
    of_cover = rule_of(finding.rule).from_ground
    ground = sight.y_of(
        f.invert(at) + f.outside_height + ((finding.value or 0.0) if of_cover else 0.0)
    )
    yield from severity_sign(finding.look, x, ground - (14 if of_cover else 4))
    selected = reach.pipe in picture.pipes
    if not told or finding.decided or not sight.left <= x <= sight.width:
        return
    if selected and of_cover:
        yield Segments("breach-dimension", np.array([(x, ground, x, top)]))
        yield Segments(
            "breach-dimension",
            np.array(
                [
                    (x, ground, x - 3, ground + 6),
                    (x, ground, x + 3, ground + 6),
                    (x, top, x - 3, top - 6),
                    (x, top, x + 3, top - 6),
                ]
            ),
        )
    ends = (finding.stretches[0][0], finding.stretches[-1][1])
    small = f"{finding.severity}-small"
    lines = [(finding.severity, mark(picture.facts, finding)), (small, _from_to(picture, f, ends))]
    # it stays whole inside the drawing
    half = max(text_width(text, role) for role, text in lines) / 2 + 4
    middle = min(max(x, sight.left + half), max(sight.left + half, sight.width - half))
    places: list[tuple[float, float, Anchor]] = [
        (middle + dx, max(26.0, ground - up), "middle")
        for up in (44, 72, 100, 128, 156)
        for dx in (0, -60, 60, -120, 120)
    ]
    labels.put_lines(lines, places, selected)


def _from_to(picture: Picture, f: PipeFacts, ends: tuple[float, float]) -> str:
    u = picture.facts.units
    a, b = chainages(picture.facts, f, ends)
    if a is None or b is None:
        label = picture.facts.project.structures[f.pipe.up].label
        return f"{u.length(ends[0])} to {u.long(ends[1])} from {label}"
    return f"{u.chainage(min(a, b), 1)} to {u.chainage(max(a, b), 1)}"


def _stretch(
    f: PipeFacts, reach: Reach, finding: Finding, ends: tuple[float, float], sight: SectionSight
) -> Iterator[Mark]:
    """The stretch of outside top that breaks the rule, and of cover the sliver between it and
    the line that it breaks.
    """
    barrel = f.span.barrel
    if barrel is None:
        return
    a, b = ends
    inner = barrel.s[(barrel.s > a) & (barrel.s < b)]
    s = np.concatenate([[a], inner, [b]])
    x = sight.px(reach.up + (reach.down - reach.up) * s / f.span.length)
    top = sight.py(f.pipe.invert_up - (f.slope or 0.0) * (s - f.quoted_from) + f.outside_height)
    if (
        rule_of(finding.rule).from_ground
        and not finding.decided
        and not finding.under
        and not finding.surface
    ):
        line = sight.py(level_at(barrel, s) - (finding.limit or 0.0))
        yield Fill(
            "sliver", np.vstack([np.column_stack([x, top]), np.column_stack([x, line])[::-1]])
        )
    yield Stroke(
        "breach" if finding.look == "breach" else f"{finding.look}-stretch",
        np.column_stack([x, top]),
    )
    bars = [(x[i], top[i] - 6, x[i], top[i] + 6) for i in (0, -1)]
    yield Segments(f"{finding.look}-bar", np.array(bars))
