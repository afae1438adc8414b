import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.analysis.test_trench_proof import kind, laid
from tests.build import facts_of, grounded
from zumbert.analysis.crosssection import cross_section
from zumbert.analysis.trench import trenches
from zumbert.drawing.crosssection import crosssection_marks, levels_shown
from zumbert.drawing.hatches import hatch, pattern_of
from zumbert.drawing.marks import Fill, Segments, Stroke, Text
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.style import AREAS, LINES, TEXTS
from zumbert.model.digging import Digging, Stratum
from zumbert.model.display import Units

SIGHT = SectionSight(width=900.0, height=400.0, left=84.0, x=-5.1, z=46.5, sx=80.0, sz=80.0)
SLOPED = {"width": 1.0, "vertical_height": 0.9, "batter": 0.5, "surround": 0.15}


def section(ground=50.0, s=20.0, strata=(), units=None, **size):
    p = laid(
        grounded([(-90, ground), (90, ground)]),
        kind(**(size or SLOPED)),
        b=(40.0, 0.0),
        up=48.0,
        down=48.0,
    )
    p = replace(p, digging=Digging(strata=strata))
    if units is not None:
        p = replace(p, settings=replace(p.settings, units=units))
    dug = trenches(facts_of(p))
    cut = cross_section(dug, "P", s, 6.0)
    return dug, cut, crosssection_marks(dug, cut, SIGHT)


def texts(marks):
    return [m.text for m in marks if isinstance(m, Text)]


def test_the_outline_stands_where_the_trench_is():
    _, cut, marks = section()
    [outline] = [m for m in marks if isinstance(m, Stroke) and m.role == "trench-outline"]
    x, y = outline.xy.T
    # bottom 47.855, 1.0 wide; out of the ground at 0.5 + 0.5 (2.145 - 0.9) = 1.1225 to each side
    assert (x.min(), x.max()) == (approx(SIGHT.x_of(-1.1225)), approx(SIGHT.x_of(1.1225)))
    assert (y.max(), y.min()) == (approx(SIGHT.y_of(47.855)), approx(SIGHT.y_of(50.0)))
    assert cut.trench.area == approx(2.145 + 0.5 * 1.245**2)


def test_dimensions_and_names():
    said = texts(section()[2])
    for words in (
        "2.15",
        "1.00",
        "Bedding 0.10",
        "Surround, 0.15 over pipe",
        "0.5 out per 1 up",
        "DN 300, outside 0.390",
    ):
        assert words in said
    assert said.count("2.15") == 2  # left and right


def test_in_feet():
    said = texts(section(units=Units(system="us"))[2])
    assert "7.04" in said
    assert "3.28" in said
    assert "4.92 ft deep" in said


def test_an_upright_trench_without_surround_says_less():
    said = texts(section(width=1.0)[2])
    assert not any("out per 1 up" in t or "Surround" in t for t in said)


def test_strata_by_pattern_and_none_inside_the_trench():
    strata = (
        Stratum(name="topsoil", thickness=0.3),
        Stratum(name="clay", thickness=1.0),
        Stratum(name="rock"),
    )
    _, cut, marks = section(strata=strata)
    assert [m.role for m in marks if isinstance(m, Fill) and m.role.startswith("stratum")] == [
        "stratum-topsoil",
        "stratum-general",
        "stratum-rock",
    ]
    assert {"Topsoil", "Clay", "Rock"} <= set(texts(marks))
    for m in marks:
        if isinstance(m, Segments) and m.role in ("hatch-topsoil", "hatch-general", "hatch-rock"):
            assert len(m.xy)
            u, z = (
                SIGHT.x + (m.xy[:, 0] - SIGHT.left) / SIGHT.sx,
                SIGHT.z + (SIGHT.height - m.xy[:, 1]) / SIGHT.sz,
            )
            out = 0.5 + np.maximum(0, z - 47.855 - 0.9) * 0.5
            assert not ((np.abs(u) < out - 0.02) & (z > 47.86)).any()
    assert cut.trench.by_stratum == {
        "topsoil": approx(0.6, abs=0.1),
        "clay": approx(1.3, abs=0.4),
        "rock": approx(0.85, abs=0.1),
    }


def test_a_pipe_over_the_ground_is_filled_first():
    said = texts(section(ground=48.0)[2])
    assert "Fill first, up to the crown" in said
    assert any(isinstance(m, Fill) and m.role == "fill-first" for m in section(ground=48.0)[2])
    assert not any(isinstance(m, Fill) and m.role == "fill-first" for m in section()[2])


def test_levels_that_should_be_seen():
    dug, cut, _ = section()
    low, high = levels_shown(dug, cut)
    assert (low, high) == (approx(47.855), approx(50.0))


def test_every_role_has_a_style():
    strata = (Stratum(name="topsoil", thickness=0.3), Stratum(name="rock"))
    for m in (*section(strata=strata)[2], *section(ground=48.0)[2]):
        table = TEXTS if isinstance(m, Text) else AREAS if isinstance(m, Fill) else LINES
        assert m.role in table, m.role
        assert getattr(m, "edge", None) is None or m.edge in LINES


@pytest.mark.parametrize(
    ("name", "place", "pattern"),
    [
        ("topsoil", 0, "topsoil"),
        ("Top soil", 0, "topsoil"),
        ("weathered rock", 2, "rock"),
        ("sandstone", 1, "rock"),
        ("clay", 1, "general"),
        ("made ground", 0, "general"),
    ],
)
def test_patterns_go_by_name(name, place, pattern):
    assert pattern_of(name, place) == pattern


@given(
    st.sampled_from(["topsoil", "general", "rock", "stones"]),
    st.floats(0, 300),
    st.floats(0, 300),
    st.floats(20, 200),
)
def test_hatches_stay_inside(pattern, x, y, radius):
    def inside(px, py):
        return (px - x) ** 2 + (py - y) ** 2 < radius**2

    xy = hatch(pattern, (0, 0, 400, 400), inside).xy
    assert inside(xy[:, 0], xy[:, 1]).all()
    assert inside(xy[:, 2], xy[:, 3]).all()
