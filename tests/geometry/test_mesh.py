"""Closed bodies in space against their formulas."""

from math import cos, hypot, pi, radians, sin

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.mesh import (
    SIDES,
    Mesh,
    circle,
    corner_normals,
    merged,
    outward,
    rings,
    rod,
    tube,
)

CUBE = rings([[(0, 0, z), (1, 0, z), (1, 1, z), (0, 1, z)] for z in (0, 1)])


def test_a_cube_is_closed_and_looks_outward():
    assert CUBE.closed and CUBE.volume == approx(1.0, abs=1e-15)
    inside_out = Mesh(CUBE.vertices, CUBE.faces[:, ::-1])
    assert inside_out.closed and inside_out.volume == approx(-1.0)
    assert outward(inside_out).volume == approx(1.0)
    assert not Mesh(CUBE.vertices, CUBE.faces[1:]).closed
    turned = CUBE.faces.copy()
    turned[0] = turned[0, ::-1]
    assert not Mesh(CUBE.vertices, turned).closed


def test_the_ring_of_a_circle_has_its_area_and_leaves_it_by_little():
    ring = circle(5.0, -3.0, 2.0, 1.2)
    x, y = ring[:, 0], ring[:, 1]
    assert 0.5 * float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) == approx(pi * 0.36)
    far = np.hypot(x - 5.0, y + 3.0) / 0.6
    assert len(ring) == SIDES and far.max() < 1.006 and far.min() * cos(pi / SIDES) > 0.994


@given(
    long=st.floats(0.5, 300),
    fall=st.floats(-5, 5),
    turn=st.floats(0, 360),
    inside=st.floats(0.05, 3),
    wall=st.floats(0.001, 0.3),
    far=st.sampled_from([0.0, 6e6]),
)
def test_a_tube_holds_its_ring_times_its_length_in_plan(long, fall, turn, inside, wall, far):
    end = far + long * sin(radians(turn)), far + long * cos(radians(turn)), 40.0 - fall
    made = tube([(far, far, 40.0), end], inside, inside + 2 * wall)
    want = pi / 4 * ((inside + 2 * wall) ** 2 - inside**2) * long
    assert made.closed and made.volume == approx(want, rel=1e-5 if far else 1e-9)
    assert made.vertices[:, 2].max() == approx(
        40.0 + max(0.0, -fall) + (inside / 2 + wall), abs=0.006 * (inside / 2 + wall)
    )


def test_bends_are_mitred_so_that_no_volume_is_lost():
    level = [(0, 0, 5), (30, 0, 5), (30, -20, 5), (55, -20, 5)]
    made = tube(level, 0.3, 0.4)
    assert made.closed and made.volume == approx(pi / 4 * 0.07 * 75, rel=1e-12)
    a = np.linspace(0, 1, 30)
    arc = np.column_stack([60 * np.sin(a), 60 * np.cos(a), 40 - 3 * a])
    length = sum(hypot(*d) for d in np.diff(arc[:, :2], axis=0))
    assert tube(arc, 0.3, 0.4).volume == approx(pi / 4 * 0.07 * length, rel=5e-4)


def test_a_rod_goes_up_and_on():
    made = rod([(0, 0, 10), (3, 0, 10), (3, 0, 12), (3, 0, 12), (3, 4, 12)], 0.2)
    assert made.closed and made.volume == approx(pi / 4 * 0.04 * 9)


def test_several_bodies_are_one_mesh():
    two = merged([CUBE, Mesh(CUBE.vertices + np.array([3.0, 0, 0]), CUBE.faces)])
    assert two.closed and two.volume == approx(2.0)
    assert merged([]).volume == 0.0 and len(merged([]).faces) == 0


def test_normals_are_sharp_at_edges_and_smooth_round_a_pipe():
    flat = corner_normals(CUBE)
    p = CUBE.vertices[CUBE.faces]
    own = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    own /= np.linalg.norm(own, axis=1, keepdims=True)
    assert flat == approx(np.repeat(own[:, None], 3, axis=1))
    pipe = tube([(0, 0, 0), (5, 0, 0)], 0.3, 0.4)
    normals, at = corner_normals(pipe).reshape(-1, 3), pipe.vertices[pipe.faces.ravel()]
    ends = np.abs(normals[:, 0]) > 0.9
    out = np.hypot(at[:, 1], at[:, 2])
    # the bore looks inward
    aside = at[:, 1:] / out[:, None] * np.where(out > 0.18, 1.0, -1.0)[:, None]
    assert (
        normals[~ends][:, 1:] == approx(aside[~ends], abs=1e-9) and ends.sum() == 2 * 2 * 3 * SIDES
    )
    assert (
        corner_normals(Mesh(np.zeros((3, 3)), np.array([[0, 1, 2]]))).tolist()
        == np.zeros((1, 3, 3)).tolist()
    )
