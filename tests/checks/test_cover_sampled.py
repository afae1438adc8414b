"""Least cover on random surfaces with holes, under straight and curved pipes, against a sampling
at 1 mm.
"""

import numpy as np
import pytest
from msgspec.structs import replace

from tests.build import with_pipe, with_structure
from zumbert.analysis import analyse
from zumbert.edits.setup import add_surface
from zumbert.geometry.line import level_at
from zumbert.model.ids import PipeId
from zumbert.model.project import new_project
from zumbert.model.structure import Free

P1 = PipeId("P1")


def surface(rng, hole):
    """A shaken grid of 7 m over 80 by 80 m; with a hole some faces in its middle are missing."""
    n = 12
    x, y = np.meshgrid(np.linspace(-10, 70, n), np.linspace(-40, 40, n), indexing="ij")
    x, y = x + rng.uniform(-2, 2, x.shape), y + rng.uniform(-2, 2, y.shape)
    z = 50 + rng.normal(0, 0.6, x.shape)
    i = np.arange(n * n).reshape(n, n)
    a, b, c, d = (v.ravel() for v in (i[:-1, :-1], i[1:, :-1], i[1:, 1:], i[:-1, 1:]))
    faces = np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    vertices = np.column_stack([x.ravel(), y.ravel(), z.ravel()])
    if hole:
        middle = vertices[faces].mean(axis=1)
        faces = faces[np.hypot(middle[:, 0] - 30, middle[:, 1]) > 8]
    return vertices, faces


@pytest.mark.parametrize("seed", range(12))
@pytest.mark.parametrize("curved", [False, True])
def test_no_sample_is_under_the_least_cover_and_one_is_as_low(seed, curved):
    rng = np.random.default_rng(seed)
    p = add_surface(new_project("random"), "ground", "existing", *surface(rng, hole=seed % 3 == 0))
    p = with_structure(
        with_structure(p, "A", 0, float(rng.uniform(-5, 5))), "B", 60, float(rng.uniform(-5, 5))
    )
    p = with_pipe(p, "P1", "A", "B", float(rng.uniform(47, 49)), float(rng.uniform(46, 48)))
    if curved:
        p = replace(
            p, pipes={P1: replace(p.pipes[P1], through=Free(30.0, float(rng.uniform(6, 14))))}
        )
    facts = analyse(p)
    f = facts.pipes[P1]
    end = f.span.length - f.span.reach_down
    s = np.append(np.arange(f.span.reach_up, end, 0.001), end)
    line = f.span.barrel
    cover = level_at(line, s) - (
        f.pipe.invert_up - f.slope * (s - f.quoted_from) + f.outside_height
    )
    corners = line.s[(line.s >= s[0]) & (line.s <= s[-1])]
    at_corners = level_at(line, corners) - (
        f.pipe.invert_up - f.slope * (corners - f.quoted_from) + f.outside_height
    )
    assert f.cover.least <= np.nanmin(cover) + 1e-9
    assert f.cover.least >= min(np.nanmin(cover), np.nanmin(at_corners)) - 1e-6
    assert f.cover.greatest >= np.nanmax(cover) - 1e-9
    if not curved:  # the line over the pipe is the surface itself
        xy = np.array([f.span.point(v) for v in s[::50].tolist()])
        z = facts.surfaces.existing.level(xy[:, 0], xy[:, 1])
        known = ~np.isnan(z)
        np.testing.assert_allclose(level_at(line, s[::50])[known], z[known], atol=1e-6)
