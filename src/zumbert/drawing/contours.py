"""Contours of surfaces in plan: their steps, their pieces, their labels."""

import itertools
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import Mark, Segments, Text
from zumbert.drawing.sight import PlanSight
from zumbert.geometry.contours import contours
from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.kept import kept
from zumbert.geometry.tin import Tin
from zumbert.model.display import METRIC, Units
from zumbert.model.surface import Surface

MOST_LEVELS, MOST_PIECES = 2_000, 600_000  # of contours of one surface


def contour_steps(scale: float, units: Units = METRIC) -> tuple[float, float]:
    """Metres between minor and major contours at a scale (drawing units a metre), round in the
    project's unit.
    """
    scale, metres = scale * units.metres, units.metres
    for least, minor, major in (
        (6.0, 0.2, 1.0),
        (2.5, 0.5, 1.0),
        (1.0, 1.0, 5.0),
        (0.3, 2.5, 10.0),
    ):
        if scale >= least:
            return minor * metres, major * metres
    return 5.0 * metres, 25.0 * metres


@kept(64)
def contour_ceiling(tin: Tin, minor: float) -> float:
    """The step (m) between contours, no less than is asked for, at which there are not too many
    levels or pieces.
    """
    z = tin.vertices[tin.faces, 2]
    low, high = z.min(axis=1), z.max(axis=1)
    step = minor
    for by in itertools.cycle((2.0, 2.5, 2.0)):
        pieces = float((np.floor(high / step) - np.floor(low / step)).sum())
        if (high.max() - low.min()) / step <= MOST_LEVELS and pieces <= MOST_PIECES:
            return step
        step *= by
    raise AssertionError  # the cycle has no end


@kept(6)
def _pieces(tin: Tin, minor: float) -> tuple[Array, Array]:
    """Contour pieces and their levels; the last ones asked for are kept, since panning asks
    again and again.
    """
    z = tin.vertices[tin.used, 2]
    levels = np.arange(np.floor(z.min() / minor), np.ceil(z.max() / minor) + 1) * minor
    xy, index = contours(tin, levels)
    return xy, levels[index]


class Contours(NamedTuple):
    """The contours of a surface at a scale."""

    role: str  # without -minor and -major
    xy: Array  # straight pieces (n, 4), m
    level: Array  # of each, m above datum
    major: Mask  # which of them are
    thinned: float | None  # m between them where the step that was asked for gives too many


def surface_contours(facts: Facts, surface: Surface, scale: float) -> Contours | None:
    """The contours of a surface at a scale (drawing units a metre); None where it has no
    triangle.
    """
    role = "contour" if surface.role in ("existing", "none", "rock") else "contour-design"
    return tin_contours(facts, tin_of(facts, surface), role, scale)


def tin_contours(facts: Facts, tin: Tin, role: str, scale: float) -> Contours | None:
    """The same of triangles."""
    u, typed = facts.units, facts.project.settings.contours
    wanted, major = contour_steps(scale, u) if typed is None else (typed, 5 * typed)
    if not len(tin.faces):
        return None
    minor = contour_ceiling(tin, wanted)
    if minor > wanted:
        major = 5 * minor
    xy, level = _pieces(tin, minor)
    whole = np.abs(level / major - np.round(level / major)) < 1e-6
    return Contours(role, xy, level, whole, minor if minor > wanted else None)


def contour_marks(
    facts: Facts, surface: Surface, sight: PlanSight, labels: Labels, margin: float
) -> Iterator[Mark]:
    """Contours as marks."""
    found, u = surface_contours(facts, surface, sight.scale), facts.units
    if found is None:
        return
    lines, xy, level, whole, thinned = found
    if thinned is not None:
        words = (
            f"{surface.name}: contours each {u.contour(thinned)} {u.m}, nearer ones would be too "
            "many"
        )
        yield Text("small", words, margin + 16, sight.height - margin - 42, plate=True)
    a, b = sight.to_drawing(xy[:, :2]), sight.to_drawing(xy[:, 2:])
    low, high = np.minimum(a, b), np.maximum(a, b)
    wide, tall = sight.width + 60, sight.height + 60
    keep = (high[:, 0] > -60) & (low[:, 0] < wide) & (high[:, 1] > -60) & (low[:, 1] < tall)
    world = np.hypot(xy[:, 2] - xy[:, 0], xy[:, 3] - xy[:, 1]) * sight.scale
    keep &= (
        np.hypot(*(b - a).T) < 3 * world + 4
    )  # not torn apart at a bend; NaN (not in sight) compares false
    a, b, level, whole = a[keep], b[keep], level[keep], whole[keep]
    yield Segments(f"{lines}-minor", np.column_stack([a, b])[~whole])
    yield Segments(f"{lines}-major", np.column_stack([a, b])[whole])
    mid = (a[whole] + b[whole]) / 2
    x, y, right, under = mid[:, 0], mid[:, 1], sight.width - margin, sight.height - margin
    inside = (x > margin + 40) & (x < right - 40) & (y > margin + 46) & (y < under - 40)
    yield from _contour_labels(a[whole], b[whole], level[whole], inside, labels, u, lines)
    beyond = (x < margin - 20) | (x > right + 20) | (y < margin - 12) | (y > under + 12)
    yield from _contour_labels(a[whole], b[whole], level[whole], beyond, labels, u, lines)


def _contour_labels(
    a: Array, b: Array, level: Array, inside: Mask, labels: Labels, u: Units, role: str
) -> Iterator[Mark]:
    mid = (a + b) / 2
    for n, z in enumerate(np.unique(level[inside]).tolist()):
        rows = np.flatnonzero(inside & (level == z))
        for share in (0.25, 0.75, 0.5):
            low, high = mid[inside, 0].min(), mid[inside, 0].max()
            want = low + (high - low) * ((share + 0.17 * n) % 1.0)
            i = rows[int(np.abs(mid[rows, 0] - want).argmin())]
            x, y = mid[i]
            box = (x - 18, y - 9, x + 18, y + 9)
            if labels.free(box):
                labels.block(box)
                angle = float(np.degrees(np.arctan2(b[i, 1] - a[i, 1], b[i, 0] - a[i, 0])))
                angle = (angle + 90) % 180 - 90
                c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
                yield Text(role, u.contour(z), x - 4 * s, y + 4 * c, "middle", angle, plate=True)
                break


def tin_of(facts: Facts, surface: Surface) -> Tin:
    """The surface as triangles, where it has any."""
    for tin in (
        facts.surfaces.existing,
        facts.surfaces.design,
        facts.surfaces.formation,
        facts.surfaces.rock,
    ):
        if isinstance(tin, Tin) and tin.is_of(surface.vertices):
            return tin
    return _tin(surface)


@kept(1)
def _tin(surface: Surface) -> Tin:
    """A surface without a role in force, ready for its contours; the last ones are kept."""
    return Tin(surface.vertices, surface.faces)
