"""The eye: places in space to places of a picture and back, and how it moves."""

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from zumbert.space.eye import NEAREST, ROOM, WAYS, SpaceEye

metres = st.floats(-500, 500)
eyes = st.builds(
    SpaceEye, width=st.floats(200, 2000), height=st.floats(200, 1200), x=metres, y=metres,
    z=st.floats(0, 100),
    bearing=st.floats(-3.1, 3.1), tilt=st.floats(-1.5, 1.5), distance=st.floats(5, 900),
    stretch=st.sampled_from([1.0, 2.0, 5.0]),
    base=st.floats(0, 50),
)  # fmt: skip
shares = st.floats(0.05, 0.95)
hands = st.floats(-300, 300)


@given(eyes, shares, shares, st.floats(0.2, 5))
def test_a_ray_leads_to_what_is_drawn_there(eye, sx, sy, far):
    x, y, ahead = sx * eye.width, sy * eye.height, far * eye.distance
    back = eye.drawn(eye.true(eye.seen(x, y, ahead)))[0]
    assert back == approx([x, y, ahead], abs=1e-6 * max(1, ahead))


@given(eyes, shares, shares, st.floats(0.5, 3))
def test_the_matrix_draws_as_the_eye_does_and_its_depth_leads_back(eye, sx, sy, far):
    ahead = far * eye.distance
    place = eye.true(eye.seen(sx * eye.width, sy * eye.height, ahead))
    origin = np.round(place) + np.array([3.0, -2.0, 1.0])
    clip = eye.matrix(origin, 4 * eye.distance) @ [*(place - origin), 1.0]
    x, y, z = clip[:3] / clip[3]
    assert ((x + 1) / 2, (y + 1) / 2) == (approx(sx, abs=1e-9), approx(sy, abs=1e-9))
    assert eye.ahead((z + 1) / 2, 4 * eye.distance) == approx(ahead, rel=1e-6)
    part = eye.matrix(origin, 4 * eye.distance, (sx, 0.0, sx + 0.5, 0.5)) @ [*(place - origin), 1.0]
    assert (part[0] / part[3], part[1] / part[3]) == (
        approx(-1.0, abs=1e-6),
        approx((sy - 0.25) / 0.25, abs=1e-6),
    )


@given(eyes, shares, shares, st.floats(0.3, 3), hands, hands)
def test_what_is_turned_about_stays_where_it_is_seen(eye, sx, sy, far, dx, dy):
    x, y = sx * eye.width, sy * eye.height
    about = eye.seen(x, y, far * eye.distance)
    turned = eye.orbited(about, dx, dy)
    assert turned.drawn(turned.true(about))[0] == approx([x, y, far * eye.distance], abs=1e-5)
    assert np.linalg.norm(turned.place - about) == approx(
        np.linalg.norm(eye.place - about), rel=1e-9
    )


@given(eyes, shares, shares, st.floats(0.3, 3), hands, hands)
def test_what_is_taken_hold_of_goes_with_the_hand(eye, sx, sy, far, dx, dy):
    x, y, ahead = sx * eye.width, sy * eye.height, far * eye.distance
    held = eye.seen(x, y, ahead)
    moved = eye.panned(ahead, dx, dy)
    assert moved.drawn(moved.true(held))[0, :2] == approx([x + dx, y + dy], abs=1e-5)
    assert (moved.bearing, moved.tilt, moved.distance) == (eye.bearing, eye.tilt, eye.distance)


@given(eyes, shares, shares, st.floats(0.3, 3), st.floats(0.5, 2))
def test_a_zoom_leads_to_what_is_under_the_pointer(eye, sx, sy, far, factor):
    x, y, ahead = sx * eye.width, sy * eye.height, far * eye.distance
    to = eye.seen(x, y, ahead)
    nearer = eye.zoomed(to, factor)
    assume(nearer.distance > NEAREST)
    assert nearer.drawn(nearer.true(to))[0] == approx([x, y, ahead / factor], rel=1e-6, abs=1e-5)
    back = nearer.zoomed(to, 1 / factor)
    assert (back.x, back.y, back.z) == approx((eye.x, eye.y, eye.z), abs=1e-5)


@given(
    eyes,
    st.lists(st.tuples(metres, metres, st.floats(0, 60)), min_size=2, max_size=12, unique=True),
)
def test_what_is_fitted_is_in_sight_and_touches_the_edge_but_for_the_room(eye, places):
    xyz = np.array(places)
    assume(np.ptp(xyz, axis=0).max() > 20)
    fitted = eye.fitted(xyz)
    x, y, _ = fitted.drawn(xyz).T
    assert not np.isnan(x).any()
    off = np.maximum(np.abs(x / eye.width - 0.5), np.abs(y / eye.height - 0.5)) * 2
    assert off.max() <= 1 / ROOM + 1e-6
    across = (fitted.stretched(xyz) @ fitted.axes.T)[:, :2]
    if np.ptp(across, axis=0).max() > np.ptp(fitted.stretched(xyz) @ fitted.axes[2]):
        assert off.max() >= 0.6 / ROOM
    assert (fitted.bearing, fitted.tilt) == (eye.bearing, eye.tilt)
    assert eye.fitted(np.zeros((0, 3))) == eye


def test_six_views_look_along_the_axes():
    ahead = {v: SpaceEye().looking(v).axes[2].round(2).tolist() for v in WAYS}
    assert ahead == {
        "above": [0.0, 0.0, -1.0],
        "below": [0.0, 0.0, 1.0],
        "north": [0.0, -1.0, 0.0],
        "east": [-1.0, 0.0, 0.0],
        "south": [0.0, 1.0, 0.0],
        "west": [1.0, 0.0, 0.0],
    }
    above = SpaceEye().looking("above")
    (x0, y0, _), (x1, y1, _) = above.drawn(np.array([(0.0, 0.0, 0.0), (0.0, 10.0, 0.0)]))
    assert x0 == approx(x1) and y1 < y0  # north is up


def test_heights_are_stretched_about_the_base():
    eye = replace(SpaceEye(base=40.0), stretch=5.0)
    assert eye.stretched((1.0, 2.0, 42.0)).tolist() == [1.0, 2.0, 50.0]
    assert eye.true((1.0, 2.0, 50.0)).tolist() == [1.0, 2.0, 42.0]
    flat, tall = (
        SpaceEye(z=41.0, base=40.0, tilt=0.0),
        SpaceEye(z=41.0, base=40.0, tilt=0.0, stretch=5.0),
    )
    rise = [
        float(np.diff(e.drawn(np.array([(0, 0, 41.0), (0, 0, 42.0)]))[:, 1])[0])
        for e in (flat, tall)
    ]
    assert rise[1] == approx(5 * rise[0])


def test_what_lies_behind_the_eye_is_nowhere():
    eye = SpaceEye(tilt=0.0, bearing=0.0, distance=10.0)
    assert np.isnan(eye.drawn((0.0, -20.0, 0.0))[0]).all()
