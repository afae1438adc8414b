"""Surfaces parted along a line: nothing is lost, nothing is sampled."""

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from pytest import approx
from scipy.spatial import Delaunay

from zumbert.geometry.cut import on_left, parted
from zumbert.geometry.mesh import Mesh
from zumbert.geometry.tin import Tin


def grid(n=8, size=10.0, seed=0, at=(0.0, 0.0)):
    rng = np.random.default_rng(seed)
    edge = np.linspace(0, size, n)
    inner = rng.uniform(0.3, size - 0.3, (n * n, 2))
    xy = np.vstack(
        [
            inner,
            *(
                np.column_stack(p)
                for p in (
                    (edge, 0 * edge),
                    (edge, 0 * edge + size),
                    (0 * edge, edge),
                    (0 * edge + size, edge),
                )
            ),
        ]
    )
    xy = np.unique(xy.round(6), axis=0)
    faces = Delaunay(xy).simplices
    z = 0.3 * xy[:, 0] - 0.1 * xy[:, 1] + np.sin(xy[:, 0])
    return Mesh(np.column_stack([xy + at, z]), faces.astype(np.int64))


def area(mesh):
    p = mesh.vertices[mesh.faces][:, :, :2]
    a, b = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    return float(np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() / 2)


def test_a_straight_cut_gives_two_halves_with_the_edge_between():
    left, right = parted(grid(), [(4.0, -1.0), (4.0, 2.0)])
    assert (area(left), area(right)) == (approx(40.0), approx(60.0))
    assert left.vertices[left.faces.ravel(), 0].max() == approx(4.0)  # looking north, west is left
    assert right.vertices[right.faces.ravel(), 0].min() == approx(4.0)


ways = st.lists(
    st.tuples(st.floats(-2, 12), st.floats(-2, 12)), min_size=2, max_size=6, unique=True
)


@given(ways, st.integers(0, 5))
@example([(3.285111946181402e-178, 1.5929662308634705e-257), (1.0, 0.0), (0.0, 1.0)], 0)
def test_both_halves_together_are_the_surface(way, seed):
    mesh = grid(seed=seed)
    way = [
        p
        for i, p in enumerate(way)
        if i == 0 or np.hypot(p[0] - way[i - 1][0], p[1] - way[i - 1][1]) > 1e-3
    ]
    if len(way) < 2:
        return
    halves = parted(mesh, way)
    assert sum(map(area, halves)) == approx(area(mesh), abs=1e-6)
    whole = Tin(mesh.vertices, mesh.faces)
    for half in halves:
        if len(half.faces):
            middles = half.vertices[half.faces].mean(axis=1)
            assert whole.level(middles[:, 0], middles[:, 1]) == approx(middles[:, 2], abs=1e-6)


@given(st.floats(0.5, 9.5), st.floats(0.5, 9.5), st.floats(-3, 3), st.integers(0, 3))
def test_what_lies_left_of_a_straight_line_is_left(x, y, turn, seed):
    d = np.array([np.cos(turn), np.sin(turn)])
    left, right = parted(grid(seed=seed), [(x, y), (x + d[0], y + d[1])])
    for half, sign in ((left, 1), (right, -1)):
        if len(half.faces):
            p = half.vertices[half.faces].mean(axis=1)[:, :2] - (x, y)
            assert (sign * (d[0] * p[:, 1] - d[1] * p[:, 0]) > -1e-6).all()


def test_a_line_through_vertices_and_along_edges_loses_nothing():
    xy = np.array([(x, y) for x in range(4) for y in range(4)], float)
    mesh = Mesh(np.column_stack([xy, xy.sum(axis=1)]), Delaunay(xy).simplices.astype(np.int64))
    for way in ([(0, 1), (3, 1)], [(0, 0), (3, 3)], [(1, 0), (1, 2), (3, 2)], [(0, 0), (0, 3)]):
        halves = parted(mesh, way)
        assert sum(map(area, halves)) == approx(9.0), way
    # beyond its ends the line goes on straight
    assert area(parted(mesh, [(1, 0), (1, 2), (3, 2)]).left) == approx(5.0)


def test_far_from_the_origin_it_is_cut_as_well():
    near, far = grid(), grid(at=(6_543_210.0, 3_456_789.0))
    a = parted(near, [(2.0, 1.0), (7.0, 6.0)])
    b = parted(far, np.add([(2.0, 1.0), (7.0, 6.0)], (6_543_210.0, 3_456_789.0)))
    assert area(b.left) == approx(area(a.left), abs=1e-5) and area(b.right) == approx(
        area(a.right), abs=1e-5
    )


def test_at_a_corner_the_side_is_that_of_the_wedge():
    path = np.array([(-10.0, 0.0), (0.0, 0.0), (0.0, -10.0)])  # turns right
    assert on_left(
        path, np.array([(5.0, 5.0), (-5.0, -5.0), (0.1, 0.1), (-0.1, -0.1), (5.0, 0.0)])
    ).tolist() == [True, False, True, False, True]


def test_a_line_without_length_is_refused():
    with pytest.raises(ValueError, match="parts nothing"):
        parted(grid(), [(1.0, 1.0), (1.0, 1.0)])
