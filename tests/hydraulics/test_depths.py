"""Shapes and depths against mpmath, figures of the flow reference, and each other."""

from math import pi, sqrt

import mpmath as mp
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx
from scipy.integrate import quad

from zumbert.hydraulics.depths import (
    critical_depth,
    flow_at,
    manning_angle,
    normal_depth,
    round_flow,
)
from zumbert.hydraulics.resistance import GRAVITY, VISCOSITY, Roughness, full_velocity
from zumbert.hydraulics.sections import BoxSection, Circle, Egg, Trapezoid

ROUGH = Roughness(0.013, 0.0006)
SECTIONS = [
    Circle(0.3),
    Circle(2.4),
    BoxSection(1.5, 0.9),
    Egg(0.9),
    Trapezoid(0.6, 1.5, 2.0),
    Trapezoid(0.0, 3.0, 3.0),
]
mp.mp.dps = 40


def true_half(section, y):
    """Half the width of the water's surface, by mpmath."""
    y = mp.mpf(y)
    if isinstance(section, Circle):
        return mp.sqrt(y * (mp.mpf(section.diameter) - y))
    if isinstance(section, BoxSection):
        return mp.mpf(section.span) / 2
    if isinstance(section, Trapezoid):
        return (mp.mpf(section.bottom) + y * (mp.mpf(section.left) + mp.mpf(section.right))) / 2
    r = mp.mpf(section.height) / 3
    if y <= r / 5:
        return mp.sqrt(y * (r - y))
    return (
        mp.sqrt(9 * r**2 - (y - 2 * r) ** 2) - 2 * r
        if y <= 2 * r
        else mp.sqrt(r**2 - (y - 2 * r) ** 2)
    )


def true_area(section, y):
    breaks = [0, y]
    if isinstance(section, Egg):
        r = mp.mpf(section.height) / 3
        breaks = [0, *[b for b in (r / 5, 2 * r) if b < y], y]
    return 2 * mp.quad(lambda h: true_half(section, h), breaks)


def true_perimeter(section, y):
    y = mp.mpf(y)
    if isinstance(section, Circle):
        d = mp.mpf(section.diameter)
        return d * mp.acos(1 - 2 * y / d)
    if isinstance(section, BoxSection):
        return mp.mpf(section.span) + 2 * y
    if isinstance(section, Trapezoid):
        sides = mp.sqrt(1 + mp.mpf(section.left) ** 2) + mp.sqrt(1 + mp.mpf(section.right) ** 2)
        return mp.mpf(section.bottom) + y * sides
    r, out = mp.mpf(section.height) / 3, mp.mpf(0)
    for radius, centre, low, high in (
        (r / 2, r / 2, 0, r / 5),
        (3 * r, 2 * r, r / 5, 2 * r),
        (r, 2 * r, 2 * r, 3 * r),
    ):
        top = min(y, high)
        if top > low:
            out += radius * (mp.asin((top - centre) / radius) - mp.asin((low - centre) / radius))
    return 2 * out


def depths(section):
    tall = section.height or 1.2
    return [tall * k for k in (0.01, 0.06, 0.2, 0.45, 0.7, 0.93)]


@pytest.mark.parametrize("section", SECTIONS, ids=repr)
def test_area_perimeter_and_width_are_those_of_the_shape(section):
    for y in depths(section):
        assert section.area(y) == approx(float(true_area(section, y)), rel=1e-12)
        assert section.perimeter(y) == approx(float(true_perimeter(section, y)), rel=1e-12)
        assert section.width(y) == approx(float(2 * true_half(section, y)), rel=1e-12)


@pytest.mark.parametrize("section", SECTIONS, ids=repr)
def test_critical_depth_against_mpmath(section):
    for y in depths(section):
        flow = mp.sqrt(mp.mpf(GRAVITY) * true_area(section, y) ** 3 / (2 * true_half(section, y)))
        assert critical_depth(section, float(flow)) == approx(y, rel=1e-9)
    assert critical_depth(section, 0.0) == 0.0


@pytest.mark.parametrize("formula", ["manning", "colebrook-white"])
@pytest.mark.parametrize("section", SECTIONS, ids=repr)
def test_normal_depth_against_mpmath(section, formula):
    for y in depths(section)[:5]:
        area, wet = true_area(section, y), true_perimeter(section, y)
        r, s = area / wet, mp.mpf("0.006")
        if formula == "manning":
            v = r ** (mp.mpf(2) / 3) * mp.sqrt(s) / mp.mpf(ROUGH.n)
        else:
            root = mp.sqrt(2 * mp.mpf(GRAVITY) * 4 * r * s)
            rough, smooth = (
                mp.mpf(ROUGH.ks) / (mp.mpf("3.7") * 4 * r),
                mp.mpf("2.51") * mp.mpf(VISCOSITY) / (4 * r * root),
            )
            v = -2 * root * mp.log10(rough + smooth)
        assert normal_depth(formula, section, float(area * v), 0.006, ROUGH) == approx(y, rel=1e-9)


def test_a_closed_section_takes_no_more_than_its_greatest_flow():
    full = full_velocity("manning", 0.3, 0.01, *ROUGH) * pi * 0.09 / 4
    assert normal_depth("manning", Circle(0.3), 1.0756 * full, 0.01, ROUGH) == approx(
        0.938 * 0.3, rel=2e-2
    )
    assert normal_depth("manning", Circle(0.3), 1.08 * full, 0.01, ROUGH) is None
    assert normal_depth("manning", Circle(0.3), 0.01, 0.0, ROUGH) is None
    most = max(flow_at("manning", Circle(0.3), 0.3 * k / 2000, 0.01, ROUGH) for k in range(1, 2000))
    assert most / full == approx(1.0757, abs=1e-4)


# flow.md 4: part full at 20, 50 and 80 % of full flow, D 0.300, 1:100
@pytest.mark.parametrize(
    ("formula", "share", "ratio", "velocity"),
    [
        ("manning", 0.2, 0.3033, 1.0681),
        ("manning", 0.5, 0.5, 1.368),
        ("manning", 0.8, 0.6766, 1.5199),
        ("colebrook-white", 0.2, 0.3019, 1.2319),
        ("colebrook-white", 0.5, 0.5, 1.5681),
        ("colebrook-white", 0.8, 0.6789, 1.7356),
    ],
)
def test_part_full_figures_of_the_reference(formula, share, ratio, velocity):
    full = full_velocity(formula, 0.3, 0.01, *ROUGH)
    made = round_flow(formula, 0.3, 0.01, ROUGH, share * full * pi * 0.09 / 4, full)
    assert made.depth_ratio == approx(ratio, abs=5e-5)
    assert made.velocity == approx(velocity, abs=5e-5)


def test_full_bore_and_critical_figures_of_the_reference():
    assert full_velocity("manning", 0.3, 0.01, *ROUGH) == approx(1.3680, abs=5e-5)
    assert full_velocity("colebrook-white", 0.3, 0.01, *ROUGH) == approx(1.5681, abs=5e-5)
    assert critical_depth(Circle(0.3), 0.050) == approx(0.1732, abs=5e-5)


@given(st.floats(1e-9, 1.0))
def test_the_angle_of_a_share_gives_the_share_back(share):
    t = mp.mpf(manning_angle(share))
    back = (t - mp.sin(t)) ** (mp.mpf(5) / 3) / (2 * mp.pi * t ** (mp.mpf(2) / 3))
    assert float(back / share - 1) == approx(0.0, abs=1e-11)


@given(
    st.sampled_from(["manning", "colebrook-white"]),
    st.floats(0.1, 3.0),
    st.floats(1e-4, 0.3),
    st.floats(1e-5, 0.9999),
    st.floats(0.009, 0.02),
    st.floats(0.00001, 0.003),
)
def test_round_pipes_go_the_way_of_all_shapes(formula, inside, slope, share, n, ks):
    rough = Roughness(n, ks)
    full = full_velocity(formula, inside, slope, n, ks)
    flow = share * full * pi * inside**2 / 4
    made = round_flow(formula, inside, slope, rough, flow, full)
    if full <= 0:
        return
    y = normal_depth(formula, Circle(inside), flow, slope, rough)
    if made.depth_ratio < 0.81:  # over that both roots are near
        assert made.depth_ratio * inside == approx(y, rel=1e-8)
    assert made.velocity * Circle(inside).area(made.depth_ratio * inside) == approx(flow, rel=1e-9)


def test_a_pipe_that_takes_no_more_runs_full():
    full = full_velocity("manning", 0.3, 0.01, *ROUGH)
    made = round_flow("manning", 0.3, 0.01, ROUGH, 0.2, full)
    assert made == (1.0, approx(0.2 / (pi * 0.09 / 4)))
    assert round_flow("manning", 0.3, 0.0, ROUGH, 0.01, 0.0).depth_ratio == 1.0
    assert round_flow("manning", 0.3, 0.01, ROUGH, 0.0, full) == (0.0, 0.0)


def test_an_egg_is_as_high_as_it_says_and_smooth_where_its_arcs_meet():
    egg = Egg(1.5)
    r = 0.5
    for y in (0.2 * r, 2 * r):
        assert egg.width(y - 1e-9) == approx(egg.width(y + 1e-9), abs=1e-6)
    assert egg.width(2 * r) == approx(1.0)
    assert egg.area(1.5) == approx(4.594 * r**2, rel=1e-3)
    assert egg.area(1.2) == approx(
        quad(egg.width, 0, 1.2, points=[0.1, 1.0], epsabs=1e-12)[0], rel=1e-9
    )
    assert egg.perimeter(1.5) == approx(7.93 * r, rel=1e-3)
    assert sqrt(egg.area(1.5)) > 1.0
