"""The way of water over a surface: exact on planes, never rising, and catchments that part the
ground.
"""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from pytest import approx

from tests.amount import times
from zumbert.geometry.catchment import catchments, outline
from zumbert.geometry.drop import drop_path
from zumbert.geometry.tin import Tin


def surface(of, n=21, size=100.0, seed=None):
    """A surface of levels over a square from (0, 0), its inner points moved about, by so little
    that no triangle turns over.
    """
    g = np.linspace(0.0, size, n)
    x, y = (v.ravel() for v in np.meshgrid(g, g))
    if seed is not None:
        rng = np.random.default_rng(seed)
        inner = (x > 0) & (x < size) & (y > 0) & (y < size)
        step = size / (n - 1) * 0.16
        x, y = (
            x + inner * rng.uniform(-step, step, x.size),
            y + inner * rng.uniform(-step, step, x.size),
        )
    i = np.arange(n * n).reshape(n, n)
    a, b, c, d = i[:-1, :-1].ravel(), i[:-1, 1:].ravel(), i[1:, 1:].ravel(), i[1:, :-1].ravel()
    return Tin(
        np.column_stack([x, y, of(x, y)]),
        np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]),
    )


@given(st.floats(-3, 3), st.floats(-3, 3), st.floats(20, 80), st.floats(20, 80), st.integers(0, 5))
@example(1.0, 1.0, 20.0, 45.0, 0)  # it comes out at a vertex of the border
@settings(deadline=None, max_examples=times(30, 600))
def test_on_a_plane_it_is_the_straight_line_down(gx, gy, x, y, seed):
    if abs(gx) + abs(gy) < 0.05:
        return
    tin = surface(lambda u, v: 500.0 + gx * u + gy * v, 9, seed=seed)
    path = drop_path(tin, x, y)
    assert path.ended == "border"
    away = path.xyz[:, :2] - (x, y)
    assert np.abs(away[:, 0] * gy - away[:, 1] * gx).max() < 1e-6 * (abs(gx) + abs(gy)) * 100
    (ex, ey) = path.xyz[-1, :2]
    assert min(ex, ey, 100 - ex, 100 - ey) == approx(0.0, abs=1e-6)
    assert np.allclose(path.xyz[:, 2], 500.0 + gx * path.xyz[:, 0] + gy * path.xyz[:, 1], atol=1e-6)


@given(st.integers(0, 10_000), st.floats(1, 99), st.floats(1, 99))
@settings(deadline=None, max_examples=times(60, 1200))
def test_on_any_ground_it_never_rises_and_lies_on_the_ground(seed, x, y):
    rng = np.random.default_rng(seed)
    tin = surface(lambda u, v: 60 + rng.normal(0, 2, u.size) + 0.05 * u, 12, seed=seed)
    path = drop_path(tin, x, y)
    z = path.xyz[:, 2]
    assert (np.diff(z) <= 1e-9).all()
    on = tin.level(path.xyz[:, 0], path.xyz[:, 1])
    assert np.nanmax(np.abs(on - z)) < 1e-6
    end = path.xyz[-1]
    corner = np.hypot(*(np.asarray(tin.vertices)[:, :2] - end[:2]).T).min()
    if path.ended == "pit":
        assert corner < 1e-6  # a pit is a vertex that nothing round it lies under
        around = [
            tin.level(end[0] + 0.05 * np.cos(t), end[1] + 0.05 * np.sin(t))
            for t in np.linspace(0, 6.2, 40)
        ]
        assert min(around) >= end[2] - 1e-9
    else:
        assert min(end[0], end[1], 100 - end[0], 100 - end[1]) < 1e-6


def test_in_a_bowl_every_way_ends_at_the_bottom():
    tin = surface(lambda u, v: np.hypot(u - 50, v - 50), 21)
    for x, y in ((3.0, 4.0), (97.0, 20.0), (50.0, 99.0), (51.0, 49.5)):
        path = drop_path(tin, x, y)
        assert path.ended == "pit"
        assert path.xyz[-1] == approx((50.0, 50.0, 0.0), abs=1e-9)


def test_over_a_saddle_the_sides_part():
    tin = surface(lambda u, v: ((u - 50) ** 2 - (v - 50) ** 2) / 100, 21)
    assert drop_path(tin, 30.0, 53.0).xyz[-1, 1] == approx(100.0)
    assert drop_path(tin, 30.0, 47.0).xyz[-1, 1] == approx(0.0)


def test_down_a_valley_it_follows_the_edge_between_two_faces():
    vertices = [
        (0, 0, 10.0),
        (0, 10, 12.0),
        (0, -10, 12.0),
        (20, 0, 8.0),
        (20, 10, 12.0),
        (20, -10, 12.0),
    ]
    tin = Tin(np.array(vertices, float), np.array([(0, 3, 4), (0, 4, 1), (0, 2, 5), (0, 5, 3)]))
    path = drop_path(tin, 5.0, 4.0)
    assert path.xyz[-1] == approx((20.0, 0.0, 8.0))
    assert any(abs(y) < 1e-9 for _, y, _ in path.xyz[1:-1].tolist())


def test_outside_and_on_level_ground_there_is_no_way():
    tin = surface(lambda u, v: 0 * u + 5.0, 5)
    assert drop_path(tin, 500.0, 0.0).ended == "outside"
    path = drop_path(tin, 33.0, 41.0)
    assert path.ended == "pit" and len(path.xyz) == 1


@pytest.mark.parametrize("seed", range(4))
def test_catchments_of_all_pits_and_the_border_part_the_ground(seed):
    rng = np.random.default_rng(seed)
    waves = rng.uniform(0.05, 0.12, 4)

    def hills(u, v):
        return (
            40
            + 2 * np.sin(waves[0] * u) * np.cos(waves[1] * v)
            + np.sin(waves[2] * u + waves[3] * v)
        )

    tin = surface(hills, 31, seed=seed)
    found = catchments(tin, [(50.0, 50.0)], 0.5)
    sizes = [found.size(i) for i in range(int(found.label.max()) + 1)]
    assert sum(sizes) == approx(100.0 * 100.0, rel=5e-3)
    assert (found.label != -2).all()
    for i, (x, y) in enumerate(found.pits.tolist()):
        r, c = int((y - found.corner[1]) // 0.5), int((x - found.corner[0]) // 0.5)
        assert found.label[r, c] == 2 + i


def test_the_catchment_of_an_inlet_is_what_runs_to_it():
    def two(u, v):  # two bowls side by side, the ridge between them at u = 50
        return 0.05 * np.minimum(np.hypot(u - 25, v - 40), np.hypot(u - 75, v - 40))

    tin = surface(two, 41)
    found = catchments(tin, [(25.0, 40.0), (75.0, 40.0)], 0.5)
    assert found.size(0) == approx(5000.0, rel=2e-2) and found.size(1) == approx(5000.0, rel=2e-2)
    ring = outline(found, 0)
    assert len(ring) > 3 and ring[:, 0].max() == approx(50.0, abs=1.5)
    rng = np.random.default_rng(1)
    right = 0
    for x, y in rng.uniform(5, 95, (60, 2)).tolist():
        end = drop_path(tin, x, y).xyz[-1, :2]
        nearer = int(np.hypot(*(end - (75, 40))) < np.hypot(*(end - (25, 40))))
        right += int(found.label[int(y // 0.5), int(x // 0.5)]) == nearer
    assert right >= 58  # a cell on the ridge may go either way
    assert outline(catchments(tin, [(900.0, 0.0)], 1.0), 0) is None


def test_survey_coordinates_lose_nothing():
    near = surface(lambda u, v: 10 + 0.02 * u - 0.03 * v, 9)
    far = Tin(np.add(near.vertices, (600_000.0, 5_000_000.0, 0.0)), near.faces)
    a, b = drop_path(near, 40.0, 40.0), drop_path(far, 600_040.0, 5_000_040.0)
    assert np.allclose(a.xyz, b.xyz - (600_000.0, 5_000_000.0, 0.0), atol=1e-6)


def test_a_path_that_reaches_the_lowest_corner_ends_at_the_border():
    tin = surface(lambda x, y: 100 + np.maximum(x, y), n=5)  # its first vertex is the lowest
    path = drop_path(tin, 60.0, 60.0)
    assert path.xyz[-1].tolist() == [0.0, 0.0, 100.0]
    assert path.ended == "border"
