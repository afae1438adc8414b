"""Volumes against a brute count that shares no code with them."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx
from scipy.spatial import Delaunay

from tests.amount import times
from tests.build import facts_of, grounded, with_pipe, with_structure
from zumbert.analysis.trench import trenches
from zumbert.edits.setup import add_surface, set_trench_type
from zumbert.geometry.tin import Tin
from zumbert.model.digging import Digging, Stratum
from zumbert.model.project import new_project
from zumbert.model.structure import Free
from zumbert.model.trench import TrenchSize, TrenchType

OUTSIDE = 0.39  # m, of DN 300


def kind(upper="existing", **values):
    return TrenchType(id="", name="t", sizes=(TrenchSize(**values),), upper=upper)


def rough(seed, role="existing", project=None, lower=0.0):
    """An irregular ground over 80 m by 60 m."""
    rng = np.random.default_rng(seed)
    edge = [(x, y) for x in (-20, 0, 20, 40, 60) for y in (-30, 30)] + [
        (x, y) for x in (-20, 60) for y in (-10, 10)
    ]
    xy = np.concatenate([edge, rng.uniform((-18, -28), (58, 28), (120, 2))])
    z = 50 - lower + 0.03 * xy[:, 0] + 0.05 * xy[:, 1] + rng.uniform(-0.3, 0.3, len(xy))
    return add_surface(
        project or new_project("t"), role, role, np.column_stack([xy, z]), Delaunay(xy).simplices
    )


def laid(
    project,
    trench,
    a=(0.0, 0.0),
    b=(40.0, 5.0),
    up=47.9,
    down=47.5,
    kinds=("joint", "outfall"),
    curved=None,
):
    p = with_structure(with_structure(project, "A", *a, kind=kinds[0]), "B", *b, kind=kinds[1])
    p = set_trench_type(with_pipe(p, "P", "A", "B", up, down), trench)
    if curved is not None:
        p = replace(p, pipes={"P": replace(p.pipes["P"], through=Free(*curved))})
    return p


def tin_of(project, role="existing"):
    s = next(s for s in project.surfaces.values() if s.role == role)
    return Tin(s.vertices, s.faces)


def side_height(out, width, upright, batter):
    """The floor over the bottom at a distance from the axis; far up where the side is upright."""
    beyond = np.maximum(out - width / 2, 0)
    return np.where(out <= width / 2, 0.0, upright + beyond / batter if batter > 0 else 1e6)


def count(
    project,
    upper,
    width,
    upright=0.0,
    batter=0.0,
    step=(0.02, 0.01),
    wide=9.0,
    bedding=0.1,
    slice_from=0.0,
):
    """The volume by the heights of columns on a grid along the straight pipe P, each at its
    middle.
    """
    a, b = (np.array([s.place.x, s.place.y]) for s in project.structures.values())
    p = project.pipes["P"]
    long = float(np.hypot(*(b - a)))
    d = (b - a) / long
    half = width / 2 if batter == 0 else wide
    n, m = int(np.ceil(long / step[0])), int(np.ceil(2 * half / step[1]))
    s, u = (np.arange(n) + 0.5) * long / n, -half + (np.arange(m) + 0.5) * 2 * half / m
    total = 0.0
    for part in np.array_split(u, max(1, m // 200)):
        ss, uu = np.meshgrid(s, part, indexing="ij")
        x, y = a[0] + d[0] * ss + d[1] * uu, a[1] + d[1] * ss - d[0] * uu
        bottom = p.invert_up + (p.invert_down - p.invert_up) * ss / long - 0.045 - bedding
        h = upper(x, y) - bottom - side_height(np.abs(uu), width, upright, batter) - slice_from
        total += np.maximum(h, 0).sum()
    return total * (long / n) * (2 * half / m)


@pytest.mark.parametrize("seed", range(4))
def test_exact_on_random_ground_against_a_fine_count(seed):
    p = laid(rough(seed), kind(width=1.1, vertical_height=0.9, batter=0.5))
    found = trenches(facts_of(p)).pipes["P"]
    brute = count(p, tin_of(p).level, 1.1, 0.9, 0.5, step=(0.01, 0.01), wide=4.0)
    assert found.excavation == approx(brute, rel=1e-4)


def test_by_depth_and_strata_on_random_ground():
    p = rough(7)
    p = rough(8, "rock", p, lower=1.6)
    p = laid(p, kind(width=1.1, vertical_height=0.5, batter=0.25))
    top, rock = tin_of(p), tin_of(p, "rock")
    p = replace(
        p,
        digging=Digging(
            strata=(
                Stratum(name="topsoil", thickness=0.25),
                Stratum(name="general"),
                Stratum(name="rock", surface=list(p.surfaces)[1]),
            )
        ),
    )
    found = trenches(facts_of(p)).pipes["P"]
    volume = {
        d: count(p, top.level, 1.1, 0.5, 0.25, wide=3.0, slice_from=d)
        for d in (0.0, 1.5, 2.0, 0.25)
    }
    in_rock = count(
        p, lambda x, y: np.minimum(top.level(x, y), rock.level(x, y)), 1.1, 0.5, 0.25, wide=3.0
    )
    assert found.excavation == approx(volume[0.0], rel=2e-4)
    assert found.by_depth["0-1.5"] == approx(volume[0.0] - volume[1.5], rel=2e-4)
    assert found.by_depth["1.5-2"] == approx(volume[1.5] - volume[2.0], rel=1e-3)
    assert found.by_stratum["rock"] == approx(in_rock, rel=5e-4)
    assert found.by_stratum["topsoil"] == approx(volume[0.0] - volume[0.25], rel=2e-4)
    assert sum(found.by_stratum.values()) == approx(found.excavation)
    assert sum(found.by_depth.values()) == approx(found.excavation)
    assert sum(found.length_by_depth.values()) == approx(found.length)


def test_a_v_shaped_ground():
    # 30.000 at both ends and 29.000 in the middle of 60 m; upright, 1.0 wide: the mean depth is
    # 29.5 less the mean bottom
    p = grounded([(-20, 30.0), (0, 30.0), (30, 29.0), (60, 30.0), (80, 30.0)])
    p = laid(p, kind(width=1.0), b=(60.0, 0.0), up=28.5, down=28.2)
    found = trenches(facts_of(p)).pipes["P"]
    assert found.excavation == approx(60 * (29.5 - (28.35 - 0.145)))
    assert found.fill_first == 0.0


def test_a_plane_that_falls_across():
    # falls 1 in 4 to the right; upright 0.5, then 0.5 out per 1 up: left and right rise to other
    # heights
    across = 0.25
    p = add_surface(
        new_project("t"),
        "g",
        "existing",
        [(-60, -60, 50 - 15.0), (120, -60, 50 - 15.0), (120, 60, 50 + 15.0), (-60, 60, 50 + 15.0)],
        [(0, 1, 2), (0, 2, 3)],
    )
    p = laid(p, kind(width=1.0, vertical_height=0.5, batter=0.5), b=(40.0, 0.0), up=48.0, down=48.0)
    # at u from the axis to the left the ground is 50 + u/4, the bottom 47.855: 2.145 + u/4 over it
    # over the bottom: 1 x 2.145; left: from u = 0.5 the depth over the floor is 1.77 - (2 - 1/4)(u
    # - 0.5), until it is 0
    left = (2.145 + 0.125 - 0.5) ** 2 / (2 * (1 / 0.5 - across))
    right = (2.145 - 0.125 - 0.5) ** 2 / (2 * (1 / 0.5 + across))
    assert trenches(facts_of(p)).pipes["P"].excavation == approx(40 * (2.145 + left + right))


def test_a_trench_across_a_gully_needs_fill_first():
    # level at 50, a cut down to 47 from 18 to 22 m with 1 m of slope on each side; level pipe,
    # bottom 47.855, crown 48.345
    p = grounded([(-50, 50.0), (17, 50.0), (18, 47.0), (22, 47.0), (23, 50.0), (90, 50.0)])
    p = laid(p, kind(width=1.0), b=(40.0, 0.0), up=48.0, down=48.0)
    found = trenches(facts_of(p)).pipes["P"]
    # under the crown from 17 + 1.655/3 on: 4 m and twice 1.345/3
    assert found.fill_first == approx(4 + 2 * 1.345 / 3)
    assert found.fill == approx(4 * 1.345 + 1.345 * 1.345 / 3)
    # dug: 34 m 2.145 deep, and on each slope down to the bottom, 2.145/3 long
    assert found.excavation == approx(34 * 2.145 + 2.145 * 2.145 / 3)


def test_a_curved_pipe():
    # level ground: the volume is section area times the length of the arc, whatever its turn
    p = laid(
        grounded([(-90, 50.0), (90, 50.0)]),
        kind(width=1.0, vertical_height=0.5, batter=0.5),
        b=(40.0, 0.0),
        up=48.0,
        down=48.0,
        curved=(20.0, 6.0),
    )
    facts = facts_of(p)
    found = trenches(facts).pipes["P"]
    h = 50 - 47.855
    assert found.length == approx(facts.spans["P"].length)
    assert found.excavation == approx((h + 0.5 * (h - 0.5) ** 2) * found.length, rel=1e-4)


def test_a_rectangular_chamber_turned_by_30_degrees_on_a_slope():
    # 1.5 x 1.2 inside, walls 0.2, working space 0.5: 2.9 x 2.6; the ground falls 1 in 10 along x:
    # level at the centre counts
    p = grounded([(-50, 55.0), (150, 35.0)])
    p = laid(
        p,
        kind(width=1.0),
        a=(0.0, 0.0),
        b=(40.0, 0.0),
        up=48.0,
        down=46.0,
        kinds=("manhole-1500x1200", "outfall"),
    )
    p = replace(
        p, structures={**p.structures, "A": replace(p.structures["A"], rotation=np.radians(30))}
    )
    pit = trenches(facts_of(p)).pits["A"]
    assert pit.excavation == approx(2.9 * 2.6 * (50 - (48.0 - 0.2)))
    assert pit.area_by_kind == {"field": approx(2.9 * 2.6)}
    # the chamber itself: 1.9 x 1.6 outside, from the base's underside to its rim on the ground at
    # its centre, cut off on the low side by the ground; on 1 in 10 that is |x|/10 averaged over
    # half of it
    n = 1001
    u, v = np.meshgrid((np.arange(n) + 0.5) / n - 0.5, (np.arange(n) + 0.5) / n - 0.5)
    a = np.radians(30)
    x = 1.9 * u * np.sin(a) - 1.6 * v * np.cos(a)
    brute = (np.minimum(50 - x / 10, 50.0) - 47.8).mean() * 1.9 * 1.6
    assert pit.chamber == approx(brute, rel=1e-5)


def test_the_trench_meets_the_turned_chamber_at_its_pit():
    p = laid(
        grounded([(-50, 50.0), (150, 50.0)]),
        kind(width=1.0),
        b=(40.0, 0.0),
        kinds=("manhole-1500x1200", "outfall"),
    )
    p = replace(
        p, structures={**p.structures, "A": replace(p.structures["A"], rotation=np.radians(30))}
    )
    # the ray at 90 degrees leaves a box of 2.9 along 30 degrees and 2.6 across: along 1.45/cos 60 =
    # 2.9, across 1.3/sin 60 = 1.501
    assert trenches(facts_of(p)).pipes["P"].begin == approx(1.3 / np.sin(np.radians(60)))


def test_bedding_surround_and_pipe_from_their_own_shapes():
    # sloped from the bottom on: at height y the trench is 1 + y wide; bedding 0.1, pipe 0.39,
    # surround 0.15: up to 0.64
    p = laid(
        grounded([(-90, 50.0), (90, 50.0)]),
        kind(width=1.0, batter=0.5, surround=0.15),
        b=(40.0, 0.0),
        up=48.0,
        down=48.0,
    )
    t = trenches(facts_of(p)).pipes["P"]
    assert t.bedding == approx(40 * (0.1 + 0.1**2 / 2))
    pipe = np.pi * OUTSIDE**2 / 4 * 40
    assert t.displacement == approx(pipe)
    assert t.surround == approx(40 * (0.64 + 0.64**2 / 2) - t.bedding - pipe)
    assert t.backfill == approx(t.excavation - t.bedding - t.surround - pipe)


def test_benches():
    # upright 1.0, ledge 0.4, upright 1.0, ledge 0.4, upright to the ground at 2.145: two ledges
    # each side
    p = laid(
        grounded([(-90, 50.0), (90, 50.0)]),
        kind(width=1.0, vertical_height=1.0, bench_width=0.4, bench_height=1.0),
        b=(40.0, 0.0),
        up=48.0,
        down=48.0,
    )
    t = trenches(facts_of(p)).pipes["P"]
    assert t.excavation == approx(40 * (1.0 * 2.145 + 2 * 0.4 * 1.145 + 2 * 0.4 * 0.145))


def test_support_on_each_side_by_its_own_depth():
    # falls 1 in 4 across, 1 m wide: 2.27 deep on the left, 2.02 on the right; support over 2.1
    # counts the left side alone
    p = add_surface(
        new_project("t"),
        "g",
        "existing",
        [(-60, -60, 35.0), (120, -60, 35.0), (120, 60, 65.0), (-60, 60, 65.0)],
        [(0, 1, 2), (0, 2, 3)],
    )
    for limit, area in ((2.1, 40 * 2.27), (1.0, 40 * (2.27 + 2.02)), (3.0, 0.0), (None, 0.0)):
        q = laid(p, kind(width=1.0, support_above=limit), b=(40.0, 0.0), up=48.0, down=48.0)
        assert trenches(facts_of(q)).pipes["P"].support == approx(area)


@pytest.mark.parametrize("seed", range(3))
def test_the_lower_of_two_rough_surfaces(seed):
    p = rough(seed)
    p = rough(seed + 20, "formation", p, lower=0.1)
    p = laid(p, kind("lower", width=1.0, vertical_height=0.5, batter=0.3))
    one, two = tin_of(p), tin_of(p, "formation")
    brute = count(
        p, lambda x, y: np.minimum(one.level(x, y), two.level(x, y)), 1.0, 0.5, 0.3, wide=3.0
    )
    assert trenches(facts_of(p)).pipes["P"].excavation == approx(brute, rel=2e-4)


@settings(max_examples=times(15))
@given(st.integers(0, 99), st.floats(0.0, 0.6), st.floats(-1.2, 1.2))
def test_the_stripped_topsoil_is_not_dug_again(seed, stripped, turn):
    p = laid(
        rough(seed), kind(width=1.0), b=(30 * np.cos(turn), 25 * np.sin(turn)), up=47.0, down=46.9
    )
    whole = trenches(facts_of(p)).pipes["P"]
    less = trenches(facts_of(replace(p, digging=Digging(stripped=stripped)))).pipes["P"]
    assert whole.excavation - less.excavation == approx(stripped * whole.length * 1.0, abs=1e-6)


def test_a_size_without_a_trench_is_named():
    p = laid(
        grounded([(-90, 50.0), (90, 50.0)]),
        TrenchType(id="", name="Small", sizes=(TrenchSize(dn=225.0),)),
    )
    t = trenches(facts_of(p)).pipes["P"]
    assert t.excavation is None
    assert t.misfit == "Small has no trench for DN 300"


def plane_of(project, over):
    """Levels of a plane so far (m) over the trench bottom, as a function of x and y."""
    a, b = (np.array([s.place.x, s.place.y]) for s in project.structures.values())
    p = project.pipes["P"]
    long = float(np.hypot(*(b - a)))
    d = (b - a) / long
    slope = (p.invert_up - p.invert_down) / long
    return lambda x, y: (
        p.invert_up - slope * ((x - a[0]) * d[0] + (y - a[1]) * d[1]) - 0.045 - 0.1 + over
    )


@pytest.mark.parametrize(("seed", "up"), [(1, 47.9), (2, 49.6), (3, 50.0)])
def test_bedding_surround_and_backfill_against_a_count(seed, up):
    p = laid(
        rough(seed),
        kind(width=1.0, vertical_height=0.2, batter=0.4, surround=0.15),
        up=up,
        down=up - 0.1,
    )
    t = trenches(facts_of(p)).pipes["P"]
    top = tin_of(p).level

    def under(over):
        plane = plane_of(p, over)
        return count(p, lambda x, y: np.minimum(top(x, y), plane(x, y)), 1.0, 0.2, 0.4, wide=3.0)

    bedding, around = under(0.1), under(0.1 + OUTSIDE + 0.15)
    # the pipe: its circle's part under the ground over its axis, in thin slices along it
    a, b = (np.array([s.place.x, s.place.y]) for s in p.structures.values())
    at = (np.arange(40_000) + 0.5) / 40_000
    x, y = a[0] + (b[0] - a[0]) * at, a[1] + (b[1] - a[1]) * at
    height = np.clip(top(x, y) - plane_of(p, 0.1 + OUTSIDE / 2)(x, y), -OUTSIDE / 2, OUTSIDE / 2)
    r = OUTSIDE / 2
    circle = r**2 * (np.pi - np.arccos(height / r)) + height * np.sqrt(r**2 - height**2)
    pipe = circle.mean() * np.hypot(*(b - a))
    assert t.bedding == approx(bedding, rel=2e-3, abs=1e-3)
    assert t.displacement == approx(pipe, rel=1e-4)
    assert t.surround == approx(around - bedding - pipe, rel=3e-3, abs=2e-3)
    assert t.backfill == approx(t.excavation - around, rel=3e-3, abs=2e-3)


@pytest.mark.parametrize(
    ("edge", "slant", "known"),
    # sides come out of level ground at 1.3225 from the axis (0.5 + 0.5 x 1.645); the plan holds for
    # a bottom of 47.75: 1.375
    [
        (1.5, 0.0, True),
        (1.38, 0.0, True),
        (1.30, 0.0, False),
        (0.6, 0.0, False),
        (0.4, 0.0, False),
        (1.35, -0.002, False),
        (1.35, 0.002, True),
    ],
)
def test_ground_that_ends_beside_a_trench(edge, slant, known):
    xy = [(-30.0, -edge), (70.0, -edge - slant * 70), (70.0, 30.0), (-30.0, 30.0)]
    p = add_surface(
        new_project("t"), "g", "existing", [(*c, 50.0) for c in xy], [(0, 1, 2), (0, 2, 3)]
    )
    p = laid(p, kind(width=1.0, vertical_height=0.5, batter=0.5), b=(40.0, 0.0), up=48.0, down=48.0)
    t = trenches(facts_of(p)).pipes["P"]
    assert (t.excavation is not None) == known
    if known:
        assert t.excavation == approx(40 * (2.145 + 1.645**2 / 2))
    else:
        assert t.misfit == "no ground over all of it"
