"""Trenches and pits in space: open sheets, so that one sees what lies in them."""

import numpy as np

from zumbert.analysis.crosssection import edges_in_plan
from zumbert.analysis.pits import PitFacts
from zumbert.analysis.plots import World
from zumbert.analysis.surfaces import levels
from zumbert.analysis.trench import TrenchFacts
from zumbert.geometry.elements import Array
from zumbert.geometry.mesh import Mesh
from zumbert.model.trench import Upper

SPACING = 2.5  # m between the sections by which the sides of a trench are drawn


def _levels(world: World, upper: Upper, xy: Array, otherwise: float | Array) -> Array:
    """Levels (m) of the surface from which something is dug, at places (n, 2); no lower than its
    bottom.
    """
    s = world.surfaces
    existing = levels(s.existing, xy[:, 0], xy[:, 1]) - world.stripped
    formation = levels(s.formation, xy[:, 0], xy[:, 1])
    z = (
        existing
        if upper == "existing"
        else formation
        if upper == "formation"
        else np.fmin(existing, formation)
    )
    return np.asarray(np.maximum(np.where(np.isnan(z), otherwise, z), otherwise))


def trench_mesh(t: TrenchFacts, world: World) -> Mesh | None:
    """Bottom and sides of a trench, by sections; a bench is drawn as part of a straight side."""
    if t.dig is None or t.length <= 1e-9:
        return None
    left, right = edges_in_plan(t, world, SPACING)
    s = np.unique(np.append(np.arange(t.begin, t.end, SPACING), t.end))
    span, half = t.pipe.span, t.dig.width / 2
    point, across = (np.array([f(v) for v in s.tolist()]) for f in (span.point, span.across))
    low = np.array([t.bottom(v) for v in s.tolist()])
    up = t.dig.upper
    foot_left, foot_right = point - half * across, point + half * across
    rows = [
        np.column_stack([left, _levels(world, up, left, low)]),
        np.column_stack([foot_left, low]),
        np.column_stack([foot_right, low]),
        np.column_stack([right, _levels(world, up, right, low)]),
    ]
    n = len(s)
    i = np.arange(n - 1)
    faces = []
    for a, b in ((0, n), (n, 2 * n), (2 * n, 3 * n)):
        faces += [
            np.column_stack([i + a, i + b, i + b + 1]),
            np.column_stack([i + a, i + b + 1, i + a + 1]),
        ]
    return Mesh(np.concatenate(rows), np.concatenate(faces).astype(np.int64))


def pit_mesh(pit: PitFacts, world: World, upper: Upper) -> Mesh | None:
    """Bottom and upright sides of a pit."""
    if pit.bottom is None:
        return None
    xy, n = pit.plan.outline, len(pit.plan.outline)
    top = _levels(world, upper, xy, pit.bottom)
    middle = np.array([[*xy.mean(axis=0), pit.bottom]])
    vertices = np.concatenate(
        [np.column_stack([xy, np.full(n, pit.bottom)]), np.column_stack([xy, top]), middle]
    )
    i, j = np.arange(n), np.roll(np.arange(n), -1)
    faces = [
        np.column_stack([i, j, j + n]),
        np.column_stack([i, j + n, i + n]),
        np.column_stack([np.full(n, 2 * n), i, j]),
    ]
    return Mesh(vertices, np.concatenate(faces).astype(np.int64))
