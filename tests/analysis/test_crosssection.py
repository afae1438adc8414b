import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.analysis.test_trench_proof import kind, laid, rough
from tests.build import facts_of, grounded
from zumbert.analysis.crosssection import cross_section, section_volumes
from zumbert.analysis.estimate import estimate
from zumbert.analysis.trench import trenches
from zumbert.edits.setup import add_surface
from zumbert.model.digging import Digging, Stratum
from zumbert.model.project import new_project


def tilted(project=None, role="existing", lower=0.0):
    """A plane that falls 1 in 4 to the right of a pipe along x: 50 at the axis."""
    z = [35.0 - lower, 35.0 - lower, 65.0 - lower, 65.0 - lower]
    corners = [(-60, -60), (120, -60), (120, 60), (-60, 60)]
    vertices = [(*c, level) for c, level in zip(corners, z, strict=True)]
    return add_surface(project or new_project("t"), role, role, vertices, [(0, 1, 2), (0, 2, 3)])


def test_left_and_right_on_their_own_ground():
    # upright 0.5, then 0.5 out per 1 up, 1 m wide, bottom 47.855; left (y > 0) the ground rises 1
    # in 4
    p = laid(
        tilted(),
        kind(width=1.0, vertical_height=0.5, batter=0.5),
        b=(40.0, 0.0),
        up=48.0,
        down=48.0,
    )
    found = cross_section(trenches(facts_of(p)), "P", 20.0)
    # left side: 0.5 + 2 (u - 0.5) = 2.145 + u/4 at u = 1.5114, right: 0.5 + 2 (u - 0.5) = 2.145 -
    # u/4 at 1.1756
    left, right = (2.145 + 0.5) / 1.75, (2.145 + 0.5) / 2.25
    cut = found.trench
    assert cut.outline[0] == approx([-left, 50 + left / 4])
    assert cut.outline[-1] == approx([right, 50 - right / 4])
    assert (cut.left, cut.right) == (approx(2.145 + left / 4), approx(2.145 - right / 4))
    assert cut.top_width == approx(left + right)
    dug = trenches(facts_of(p)).pipes["P"]
    assert cut.area == approx(dug.excavation / 40)
    # the outline closed along the ground has that area
    x, z = cut.outline.T
    assert abs(np.dot(x, np.roll(z, 1)) - np.dot(z, np.roll(x, 1))) / 2 == approx(cut.area)


def test_the_estimate_on_ground_that_falls_across():
    # falls 1 in 10: left (2.145 + 0.05 - 0.5)² / (2 x 1.9), right (2.145 - 0.05 - 0.5)² / (2 x
    # 2.1), level 2 x 1.645² / 4
    z = [44.0, 44.0, 56.0, 56.0]
    corners = [(-60, -60), (120, -60), (120, 60), (-60, 60)]
    p = add_surface(
        new_project("t"),
        "g",
        "existing",
        [(*c, v) for c, v in zip(corners, z, strict=True)],
        [(0, 1, 2), (0, 2, 3)],
    )
    facts = facts_of(
        laid(p, kind(width=1.0, vertical_height=0.5, batter=0.5), b=(40.0, 0.0), up=48.0, down=48.0)
    )
    exact = trenches(facts).pipes["P"].excavation
    assert exact == approx(40 * (2.145 + 1.695**2 / 3.8 + 1.595**2 / 4.2))
    assert estimate(facts, facts.pipes["P"]) == approx(40 * (2.145 + 1.645**2 / 2))
    assert 1 - estimate(facts, facts.pipes["P"]) / exact == approx(0.0025, abs=1e-4)


def test_strata_in_a_section():
    p = laid(tilted(tilted(), "rock", 1.5), kind(width=1.0), b=(40.0, 0.0), up=48.0, down=48.0)
    p = replace(
        p,
        digging=Digging(
            strata=(
                Stratum(name="topsoil", thickness=0.3),
                Stratum(name="general"),
                Stratum(name="rock", surface=list(p.surfaces)[1]),
            )
        ),
    )
    cut = cross_section(trenches(facts_of(p)), "P", 7.0).trench
    assert cut.by_stratum == {"topsoil": approx(0.3), "general": approx(1.2), "rock": approx(0.645)}
    assert cut.area == approx(2.145)


def test_in_a_pit_and_where_the_trench_is_in_the_air_there_is_no_cut():
    p = laid(
        grounded([(-90, 50.0), (20, 50.0), (30, 45.0), (90, 45.0)]),
        kind(width=1.0),
        b=(40.0, 0.0),
        up=48.0,
        down=48.0,
        kinds=("manhole-1200", "outfall"),
    )
    dug = trenches(facts_of(p))
    assert cross_section(dug, "P", 0.5).trench is None
    assert cross_section(dug, "P", 5.0).trench is not None
    assert cross_section(dug, "P", 35.0).trench is None


def test_a_pit_with_its_chamber():
    # 1.2 inside, walls of 0.125, working space 0.5: radii 1.225 and 0.725; at 0.5 from the centre
    # the chords are shorter
    p = laid(
        grounded([(-90, 50.0), (90, 50.0)]),
        kind(width=1.0),
        b=(40.0, 0.0),
        up=48.0,
        down=48.0,
        kinds=("manhole-1200", "outfall"),
    )
    dug = trenches(facts_of(p))
    pit = cross_section(dug, "P", 0.5).pit
    half, chamber = np.sqrt(1.225**2 - 0.25), np.sqrt(0.725**2 - 0.25)
    assert (pit.begin, pit.end) == (approx(-half, rel=0.01), approx(half, rel=0.01))
    assert pit.chamber == (approx(-chamber, rel=0.02), approx(chamber, rel=0.02))
    assert (pit.structure, pit.bottom, pit.floor, pit.rim, pit.wall) == (
        "A",
        approx(47.8),
        approx(48.0),
        approx(50.0),
        0.125,
    )
    assert cross_section(dug, "P", 1.0).pit.chamber is None
    assert cross_section(dug, "P", 5.0).pit is None
    assert cross_section(dug, "P", 40.0).pit is None  # an outfall has none


def test_the_worked_volume_by_sections():
    # W 1.10, h_v 0.90, m 0.25, H 1.5 to 2.5 over 50 m: 126.172 by average end area at 2.5 m,
    # 126.1667 exact
    p = laid(
        grounded([(-50, 48.355), (100, 51.355)]),
        kind(width=1.10, vertical_height=0.9, batter=0.25),
        b=(50.0, 0.0),
        up=48.0,
        down=48.0,
    )
    dug = trenches(facts_of(p))
    assert section_volumes(dug, 2.5)["P"] == approx(126.172, abs=1e-3)
    assert dug.pipes["P"].excavation == approx(126.1667, abs=1e-4)
    assert section_volumes(dug)["P"] == approx(126.172, abs=1e-3)  # the spacing of its type


@settings(max_examples=times(20), deadline=None)
@given(st.integers(0, 50), st.sampled_from(["existing", "lower"]), st.floats(0, 1))
def test_sections_come_near_the_exact_volume(seed, upper, batter):
    p = rough(seed)
    p = rough(seed + 60, "formation", p, lower=0.1)
    p = laid(p, kind(upper, width=1.0, vertical_height=0.5, batter=batter))
    dug = trenches(facts_of(p))
    exact = dug.pipes["P"].excavation
    assert section_volumes(dug, 2.5)["P"] == approx(exact, rel=1e-2)
    assert section_volumes(dug, 0.1)["P"] == approx(exact, rel=3e-4)


@pytest.mark.parametrize("s", [0.0, 13.7, 40.0])
def test_a_section_of_benches(s):
    p = laid(
        grounded([(-90, 50.0), (90, 50.0)]),
        kind(width=1.0, vertical_height=1.0, bench_width=0.4, bench_height=1.0),
        b=(40.0, 0.0),
        up=48.0,
        down=48.0,
    )
    cut = cross_section(trenches(facts_of(p)), "P", s).trench
    assert cut.area == approx(1.0 * 2.145 + 2 * 0.4 * 1.145 + 2 * 0.4 * 0.145)
    right = [tuple(q) for q in (cut.outline - [0, cut.bottom]).round(6).tolist() if q[0] > 0]
    assert right == [(0.5, 0.0), (0.5, 1.0), (0.9, 1.0), (0.9, 2.0), (1.3, 2.0), (1.3, 2.145)]


@pytest.mark.parametrize("through", [(20.0, 6.0), (20.0, -4.0), (14.0, 9.0)])
def test_a_curved_trench_on_rough_ground(through):
    # sections square to the arc every 5 cm: on a bend the outer half is longer than the axis and
    # the inner one shorter; they agree but for the fall of the ground across
    p = laid(rough(5), kind(width=1.0), b=(40.0, 0.0), up=47.9, down=47.5, curved=through)
    dug = trenches(facts_of(p))
    assert section_volumes(dug, 0.05)["P"] == approx(dug.pipes["P"].excavation, rel=1e-3)
