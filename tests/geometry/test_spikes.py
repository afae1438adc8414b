import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pytest import approx

from tests.amount import times
from zumbert.geometry.spikes import all_spikes, spikes
from zumbert.geometry.tin import Tin
from zumbert.geometry.triangulate import triangulate, without


def test_a_spike_is_found_with_its_place():
    rng = np.random.default_rng(1)
    grid = np.array(
        [
            (x, y, 0.03 * x - 0.02 * y + rng.normal(0, 0.05))
            for x in range(0, 100, 7)
            for y in range(0, 100, 7)
        ],
        float,
    )
    assert spikes(triangulate(grid).tin) == []
    grid[112, 2] += 3.0
    [fault] = [f for f in spikes(triangulate(grid).tin) if abs(f.by) > 2.5]
    assert (fault.x, fault.y) == tuple(grid[112, :2])
    assert fault.by == approx(3.0, abs=0.3)


def survey(rng, n=5000):
    """Rolling ground with 3 cm of noise: scattered points, and rows of them as along a road."""
    xy = rng.uniform(0, 400, (n - 600, 2))
    t = np.linspace(0, 400, 200)
    rows = np.vstack([np.column_stack([t, 120 + 10 * np.sin(t / 60) + o]) for o in (-3, 0, 3)])
    xy = np.vstack([xy, rows])
    z = (
        50
        + 8 * np.sin(xy[:, 0] / 70)
        + 5 * np.cos(xy[:, 1] / 55)
        + 0.03 * rng.standard_normal(len(xy))
    )
    return np.column_stack([xy, z])


def test_no_good_point_of_clean_surveys_is_a_spike_and_all_planted_ones_are():
    for seed in range(times(8, 20)):
        rng = np.random.default_rng(seed)
        points = survey(rng)
        for height in (0.5, 2.0):
            assert spikes(triangulate(points).tin, height) == [], seed
        planted = rng.choice(len(points), 10, replace=False)
        points[planted, 2] += rng.choice([-4.0, 4.0], 10)
        made = triangulate(points)
        found = {(round(f.x, 6), round(f.y, 6)) for f in spikes(made.tin)}
        assert found == {(round(x, 6), round(y, 6)) for x, y in points[planted, :2]}, seed


def spiky(seed):
    """A survey with spikes, some of them side by side, where one hides another."""
    rng = np.random.default_rng(seed)
    points = survey(rng, 1500)
    planted = rng.choice(1400, 12, replace=False)
    beside = np.array(
        [np.argsort(np.hypot(*(points[:, :2] - points[i, :2]).T))[1] for i in planted[:5]]
    )
    all_of_them = np.union1d(planted, beside)
    points[all_of_them, 2] += 6.0
    return triangulate(points), points[all_of_them]


@pytest.mark.parametrize("seed", range(6))
def test_spikes_that_hide_each_other_all_go_and_leave_none(seed):
    made, planted = spiky(seed)
    found = all_spikes(made.tin, 2.0)
    tin = Tin(*without(made.tin, found))
    assert spikes(tin, 2.0) == []
    assert sorted(made.vertices[found].tolist()) == sorted(planted.tolist())


@settings(max_examples=times(12))
@given(st.integers(0, 50), st.sampled_from((0.001, 0.3048, 1200 / 3937, 1000.0)))
def test_a_surface_in_another_unit_has_the_same_spikes(seed, unit):
    made, _ = spiky(seed)
    other = Tin(made.vertices / unit, made.faces)
    assert all_spikes(other, 2.0, unit) == all_spikes(made.tin, 2.0)
    for a, b in zip(spikes(other, 2.0, unit), spikes(made.tin, 2.0), strict=True):
        assert (a.vertex, a.x, a.y, a.by) == (b.vertex, approx(b.x), approx(b.y), approx(b.by))


def test_too_few_vertices_tell_no_spike():
    made = triangulate([(0, 0, 0), (9, 0, 0), (0, 9, 0), (9, 9, 50.0)])
    assert spikes(made.tin) == [] and all_spikes(made.tin, 2.0) == []
