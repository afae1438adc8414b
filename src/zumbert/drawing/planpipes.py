"""Pipes in plan: their lines, their arrows, what crosses, and the places of their findings."""

from collections.abc import Iterator
from math import hypot

import numpy as np

from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import mark
from zumbert.drawing.marks import Fill, Mark, Segments, Stroke, Text, arrow, cross
from zumbert.drawing.picture import Picture
from zumbert.drawing.planstructures import severity_sign
from zumbert.drawing.sight import PlanSight
from zumbert.drawing.strokes import strokes
from zumbert.geometry.elements import Array
from zumbert.model.ids import PipeId

NEAR = 6.0  # drawing units a metre: from here on pipes show open arrows
BARREL = 5.0  # drawing units: pipes at least this wide are drawn at true width
LONG = 44.0  # drawing units: from here on a pipe has a flow arrow
CROSS_STEP = 36.0  # drawing units between the crosses on an abandoned pipe


def _role(picture: Picture, f: PipeFacts) -> str:
    if f.pipe.id in picture.fresh:
        return "preview"
    return f.pipe.service + ("-existing" if f.pipe.status != "proposed" else "")


def far_pipes(picture: Picture, lines: dict[PipeId, Array], sight: PlanSight) -> Iterator[Mark]:
    """Straight pipes too thin to show their width, a mark for all of a role."""
    by_role: dict[str, list[Array]] = {}
    for key, xy in lines.items():
        f = picture.facts.pipes[key]
        if len(xy) == 2 and (f.inside + 2 * f.wall) * sight.scale < BARREL:
            by_role.setdefault(_role(picture, f), []).append(xy)
    for role, found in by_role.items():
        yield Segments(role, np.array(found).reshape(-1, 4))


def pipe_marks(picture: Picture, f: PipeFacts, xy: Array, sight: PlanSight) -> Iterator[Mark]:
    """A pipe in plan."""
    role = _role(picture, f)
    wide = (f.inside + 2 * f.wall) * sight.scale
    if wide >= BARREL and not np.isnan(xy).any():
        left, right = _beside(xy, wide / 2)
        yield Fill(f"{f.pipe.service}-bore", np.vstack([left, right[::-1]]))
        for line in (left, right):
            yield Stroke(f"{role}-outside" if role != "preview" else role, line)
    elif len(xy) > 2 or wide >= BARREL:
        yield from strokes(role, xy)
    a, b = xy[0].tolist(), xy[-1].tolist()
    long = hypot(b[0] - a[0], b[1] - a[1])  # the chord
    if long > LONG:
        yield from _flow(f, xy, sight)
    if f.pipe.status == "abandoned":
        yield Segments("crossed", _crosses(xy))


def _crosses(xy: Array) -> Array:
    """Small crosses along what is abandoned (n, 4)."""
    d = np.hypot(*np.diff(xy, axis=0).T)
    run = np.concatenate([[0.0], np.cumsum(d)])
    n = max(1, int(run[-1] / CROSS_STEP)) if run[-1] == run[-1] else 0
    at = (np.arange(n) + 0.5) * run[-1] / max(1, n)
    x, y = np.interp(at, run, xy[:, 0]), np.interp(at, run, xy[:, 1])
    return np.concatenate(
        [cross(px, py, 5.0) for px, py in zip(x.tolist(), y.tolist(), strict=True)]
        or [np.empty((0, 4))]
    )


def _beside(xy: Array, by: float) -> tuple[Array, Array]:
    d = np.gradient(xy, axis=0)
    d /= np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-9)[:, None]
    normal = np.column_stack([d[:, 1], -d[:, 0]]) * by
    return xy + normal, xy - normal


def _flow(f: PipeFacts, xy: Array, sight: PlanSight) -> Iterator[Mark]:
    """A flow arrow at six tenths of the way, pointing downstream: solid from afar, open from
    near.
    """
    i = max(0, int((len(xy) - 1) * 0.6) - (len(xy) == 2))
    a, b = xy[i], xy[i + 1]
    if np.isnan(a).any() or np.isnan(b).any():
        return
    t = 0.6 if len(xy) == 2 else 0.5
    x, y = (a + (b - a) * t).tolist()
    shape = arrow(x, y, float(np.arctan2(b[1] - a[1], b[0] - a[0])))
    if sight.scale >= NEAR:
        yield Stroke("flow-open" if f.pipe.service == "storm" else "flow-open-foul", shape)
    else:
        yield Fill(f.pipe.service, shape)


def pipe_finding(
    picture: Picture, finding: Finding, f: PipeFacts, xy: Array, sight: PlanSight
) -> Iterator[Mark]:
    """The stretch that breaks a rule, with end bars, and the notch at its worst place."""
    for a, b in finding.stretches:
        n = 2 if hasattr(sight, "turn") and f.span.arc is None else 9
        line = sight.to_drawing(f.span.points(np.linspace(a, b, n)))
        yield from stretch_marks(finding, line)
    if finding.x is None or finding.y is None:
        return
    x, y = sight.to_drawing(np.array([[finding.x, finding.y]]))[0].tolist()
    if x == x:
        if f.pipe.id in picture.fresh and rule_of(finding.rule).at_once:
            yield Text(
                finding.severity, mark(picture.facts, finding), x, y - 22, "middle", plate=True
            )
        yield from severity_sign(finding.look, x, y - 4)


def stretch_marks(finding: Finding, line: Array) -> Iterator[Mark]:
    """A stretch (n, 2) in which a rule is broken, with a bar at both ends; none where it is not
    all in the drawing.
    """
    if np.isnan(line).any():
        return
    yield Stroke(f"{finding.look}-plan", line)
    for end, near in ((line[0], line[1]), (line[-1], line[-2])):
        d = (near - end) / max(float(np.hypot(*(near - end))), 1e-9) * 6
        yield Segments(
            f"{finding.look}-bar",
            np.array([(end[0] - d[1], end[1] + d[0], end[0] + d[1], end[1] - d[0])]),
        )
