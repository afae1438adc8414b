"""Marks over the picture of space: findings where they are, pinned notes, labels, the shared
cursor, north.
"""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.probe import within
from zumbert.analysis.runline import Run
from zumbert.checks.check import Findings
from zumbert.checks.finding import Finding
from zumbert.drawing.labels import Labels, around
from zumbert.drawing.marks import Disc, Fill, Mark, Stroke
from zumbert.drawing.picture import Picture
from zumbert.drawing.pins import pin_level, pin_lines, pin_marks
from zumbert.drawing.planlabels import structure_lines
from zumbert.drawing.planpipes import stretch_marks
from zumbert.drawing.planstructures import severity_sign
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.model.ids import StructureId
from zumbert.space.eye import SpaceEye
from zumbert.space.scene import Scene

PLACES = 60  # along a service at which its label may stand
PIECE = 1.0  # m between the places by which a stretch is drawn
FAR = 1e5  # drawing units
# structures and findings in sight: of more only what is selected has its label, and findings have
# signs alone
MOST = 400


def over(picture: Picture, scene: Scene, eye: SpaceEye, pointed: str | None = None) -> list[Mark]:
    """The marks but for the cursor, in drawing units of the eye's picture."""
    facts = picture.facts
    marks: list[Mark] = []
    labels = Labels(plates=True)
    for edge in (
        (-FAR, -FAR, 1.0, FAR),
        (eye.width - 1.0, -FAR, FAR, FAR),
        (-FAR, eye.height - 1.0, FAR, FAR),
    ):
        labels.block(edge)  # none is cut
    labels.block((eye.width - 42.0, 6.0, eye.width - 6.0, 42.0))  # north
    found = _found(scene, picture.findings, eye)
    signs: list[Mark] = []
    for finding in found:
        f = facts.pipes[finding.of_pipe]
        if len(found) <= MOST:
            marks += _stretches(finding, f, eye)
        signs += _sign(finding, _finding_place(finding, f), eye)
    tops = _tops_in_sight(scene, eye)
    for key, (x, y) in tops.items():
        worst = picture.worst(key)
        if worst is not None:
            signs += severity_sign(worst, x, y - 2)
    for m in signs:
        if isinstance(m, Fill):
            (x0, y0), (x1, y1) = m.xy.min(axis=0).tolist(), m.xy.max(axis=0).tolist()
            labels.block((x0 - 2, y0 - 2, x1 + 2, y1 + 2))
    marks += signs
    marks += _pins(picture, scene, eye, labels)
    asked = [k for k in tops if k in picture.structures or k == pointed]
    for key in [*asked, *(k for k in tops if k not in set(asked))] if len(tops) <= MOST else asked:
        x, y = tops[key]
        gully = facts.project.types[facts.project.structures[key].type].kind == "gully"
        if gully and key not in asked:
            continue
        labels.put_lines(
            structure_lines(facts.structures[key], facts)[:1],
            around(x, y - 6, 8.0),
            always=key in asked,
        )
    _services(facts, scene, eye, labels)
    marks += labels.texts
    return [*marks, *_north(eye)]


def _inside(eye: SpaceEye, x: float, y: float) -> bool:
    return -30 < x < eye.width + 30 and -30 < y < eye.height + 30  # NaN is not


@kept(1)
def _tops(scene: Scene) -> tuple[list[StructureId], Array]:
    """The structures of a scene, and the middles of their tops (n, 3)."""
    mine = [p for p in scene.parts.values() if p.kind == "structure"]
    boxes = np.array([p.box for p in mine]).reshape(-1, 2, 3)
    return [StructureId(p.id) for p in mine], np.column_stack(
        [boxes[:, :, :2].mean(axis=1), boxes[:, 1, 2]]
    )


def _tops_in_sight(scene: Scene, eye: SpaceEye) -> dict[StructureId, tuple[float, float]]:
    """Drawing places of the rims of structures that are in sight."""
    keys, xyz = _tops(scene)
    x, y, _ = eye.drawn(xyz).T
    with np.errstate(invalid="ignore"):
        inside = (x > -30) & (x < eye.width + 30) & (y > -30) & (y < eye.height + 30)
    return {keys[i]: (float(x[i]), float(y[i])) for i in np.flatnonzero(inside).tolist()}


@kept(1)
def _balls(findings: Findings, scene: Scene) -> tuple[list[Finding], Array, Array]:
    """The findings of the pipes of a scene, and about each pipe the middle (n, 3) and radius (n)
    of a ball, m.
    """
    mine = [f for f in findings if f.pipe is not None and ("pipe", f.pipe) in scene.parts]
    boxes = np.array([scene.parts["pipe", f.pipe].box for f in mine if f.pipe is not None])
    boxes = boxes.reshape(-1, 2, 3)
    return mine, boxes.mean(axis=1), np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1) / 2


def _found(scene: Scene, findings: Findings, eye: SpaceEye) -> list[Finding]:
    """The findings of the pipes that are in sight."""
    mine, middle, radius = _balls(findings, scene)
    seen, _ = eye.sees(middle, radius)
    return [mine[i] for i in np.flatnonzero(seen).tolist()]


def _on_top(f: PipeFacts, s: Array) -> Array:
    """Places (n, 3) on the outside top of a pipe."""
    return np.array([(*f.span.point(d), f.invert(d) + f.inside + f.wall) for d in s.tolist()])


def _stretches(finding: Finding, f: PipeFacts, eye: SpaceEye) -> Iterator[Mark]:
    """Where along a pipe a rule is broken, with a bar at both ends."""
    for a, b in finding.stretches:
        n = max(2, min(60, int((b - a) / PIECE) + 2))
        yield from stretch_marks(finding, eye.drawn(_on_top(f, np.linspace(a, b, n)))[:, :2])


def _finding_place(finding: Finding, f: PipeFacts) -> Array | None:
    if f.span.up.x is None or f.span.down.x is None:
        return None
    at = f.span.length / 2 if finding.distance is None else finding.distance
    place: Array = _on_top(f, np.array([at]))[0]
    return place


def _sign(finding: Finding, place: Array | None, eye: SpaceEye) -> Iterator[Mark]:
    if place is None:
        return
    x, y, _ = eye.drawn(place)[0].tolist()
    if _inside(eye, x, y):
        yield from severity_sign(finding.look, x, y - 4)


def _services(facts: Facts, scene: Scene, eye: SpaceEye, labels: Labels) -> None:
    """Label and kind of each service that is in sight, at the middle of what is seen of it."""
    for key, line in facts.project.services.items():
        if ("service", key) not in scene.parts:
            continue
        at = [(x, y, z) for x, y, z in line.points if z is not None]
        long = np.concatenate(
            [[0.0], np.cumsum(np.linalg.norm(np.diff(np.array(at), axis=0), axis=1))]
        )
        s = np.linspace(0.0, long[-1], PLACES)
        x, y, _ = eye.drawn(np.column_stack([np.interp(s, long, v) for v in np.array(at).T])).T
        with np.errstate(invalid="ignore"):
            seen = np.flatnonzero(
                (x > 40) & (x < eye.width - 40) & (y > 20) & (y < eye.height - 20)
            )
        if len(seen):
            i = int(seen[len(seen) // 2])
            labels.put(
                "service", f"{line.label} {line.kind}", around(float(x[i]), float(y[i]), 7.0)
            )


def _pins(picture: Picture, scene: Scene, eye: SpaceEye, labels: Labels) -> Iterator[Mark]:
    """Pinned notes with what they say now."""
    for pin in picture.facts.project.pins.values():
        if ("pipe", pin.pipe) not in scene.parts:
            continue
        f = picture.facts.pipes[pin.pipe]
        x, y, _ = eye.drawn((*f.span.point(within(f, pin.at)), pin_level(f, picture.facts, pin)))[
            0
        ].tolist()
        if _inside(eye, x, y):
            yield from pin_marks(
                pin_lines(f, picture.facts, pin), x, y, labels, pin.id == picture.pin
            )


def cursor_place(run: Run, facts: Facts, cursor: float) -> tuple[float, float, float, float] | None:
    """X, y, the level of the pipe's axis and that of the ground (m) at a distance along a run;
    without a pipe there, 1 m under the ground; without ground, 1 m over the axis. None where
    nothing is known.
    """
    if run.line is None:
        return None
    x, y = (float(v) for v in run.line.point(cursor, 0.0))
    ground = (
        float(np.interp(cursor, run.ground.s, run.ground.z, np.nan, np.nan))
        if run.ground is not None
        else np.nan
    )
    axis = np.nan
    for r in run.reaches:
        if min(r.up, r.down) <= cursor <= max(r.up, r.down) and r.up != r.down:
            f = facts.pipes[r.pipe]
            axis = f.invert((cursor - r.up) / (r.down - r.up) * f.span.length) + f.inside / 2
            break
    axis, ground = (
        (ground - 1.0 if axis != axis else axis),
        (axis + 1.0 if ground != ground else ground),
    )
    return (x, y, axis, ground) if x == x and axis == axis and ground == ground else None


def cursor_marks(run: Run | None, facts: Facts, cursor: float | None, eye: SpaceEye) -> list[Mark]:
    """The shared cursor: upright from the pipe to over the ground."""
    at = cursor_place(run, facts, cursor) if run is not None and cursor is not None else None
    if at is None:
        return []
    x, y, axis, ground = at
    ends = eye.drawn(np.array([(x, y, axis - 0.5), (x, y, ground + 1.0), (x, y, axis)]))[:, :2]
    if np.isnan(ends).any():
        return []
    return [Stroke("cursor", ends[:2]), Disc("field", *ends[2].tolist(), 3.0, "leader")]  # type: ignore[call-arg] # x and y


def _north(eye: SpaceEye) -> Iterator[Mark]:
    """Where north lies, foreshortened as it is seen; upright, from the side, it is a point."""
    x, y, r = eye.width - 24.0, 24.0, 9.0
    yield Disc("chrome", x, y, 13.0, "pill")
    right, up, _ = eye.axes
    ahead, aside = np.array([right[1], -up[1]]), np.array([right[0], -up[0]])
    shape = [(0.0, 1.0), (0.45, -0.75), (0.0, -0.35), (-0.45, -0.75)]
    yield Fill("ink", np.array([(x, y) + r * (q * ahead + p * aside) for p, q in shape]))
