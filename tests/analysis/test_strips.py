from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.build import facts_of, grounded, road_project, the_road, with_pipe, with_structure
from tests.geometry.defined import strip_levels
from zumbert.analysis.strips import Strips
from zumbert.edits.ground import set_role
from zumbert.edits.roads import add_profile, new_road, set_strip
from zumbert.edits.setup import add_surface
from zumbert.errors import EditError
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.intersections import Intersection
from zumbert.geometry.line import Line, level_at
from zumbert.geometry.profile import Profile, Pvi
from zumbert.geometry.strip import LEVEL_ERROR, StripAt, strip_tins
from zumbert.model.road import Strip

SECTIONS = (
    StripAt(left=3.0, right=3.0, crossfall_left=-0.03, crossfall_right=-0.03, kerb=0.1, verge=1.0),
)


def crossing():
    """Two straight roads that cross at (100, 0): along x at level 20, along y at level 21."""
    p = grounded([(-50, 15), (300, 15)])
    p = new_road(p, "A", [Intersection(0, 0), Intersection(200, 0)])
    p = new_road(p, "B", [Intersection(100, -100), Intersection(100, 100)])
    for road, z in zip(list(p.roads), (20.0, 21.0), strict=True):
        p = add_profile(p, road, "design", [Pvi(0.0, z), Pvi(200.0, z)])
        p = set_strip(p, road, Strip(sections=SECTIONS, surface=True, depth=0.5))
    return p


def test_importing_a_profile_makes_no_surface_until_the_strip_is_asked_to():
    p = road_project()
    p = add_profile(p, the_road(p), "d", [Pvi(0.0, 50.0), Pvi(500.0, 60.0)])
    p = set_strip(p, the_road(p), Strip(sections=SECTIONS))
    assert facts_of(p).surfaces.design is None
    p = set_strip(p, the_road(p), Strip(sections=SECTIONS, surface=True))
    facts = facts_of(p)
    assert float(facts.surfaces.design.level(100.0, -2.0)) == approx(52.0 - 0.06)
    assert facts.surfaces.name("design") == "strip of Quillerby Rise"
    assert float(facts.surfaces.formation.level(100.0, 0.0)) == approx(52.0 - 0.4)


def test_where_strips_overlap_the_nearer_alignment_wins():
    design = facts_of(crossing()).surfaces.design
    # (101.5, 1.0) is 1.0 from A and 1.5 from B; (101.0, 2.0) is 2.0 from A and 1.0 from B
    assert design.level([101.5, 101.0, 150.0], [1.0, 2.0, 0.0]).tolist() == approx(
        [19.97, 20.97, 20.0]
    )


def test_a_line_over_a_crossing_is_exact_and_jumps_where_the_roads_part():
    design = facts_of(crossing()).surfaces.design
    s, z = design.section([(90.0, 1.0), (110.0, 1.0)])
    jumps = s[np.flatnonzero((np.diff(s) == 0) & (np.abs(np.diff(z)) > 0.5))]
    assert jumps.tolist() == approx([9.0, 11.0])  # where |x - 100| = 1
    assert float(np.interp(10.0, s, z)) == approx(21.0)
    assert float(np.interp(8.5, s, z)) == approx(19.97)


def test_a_loaded_design_surface_comes_before_strips():
    p = crossing()
    p = add_surface(
        p, "loaded", "none", [(0, -9, 30.0), (200, -9, 30.0), (100, 9, 30.0)], [(0, 1, 2)]
    )
    p = set_role(p, list(p.surfaces)[-1], "design")
    facts = facts_of(p)
    assert float(facts.surfaces.design.level(100.0, 0.0)) == 30.0
    assert facts.surfaces.name("design") == "loaded"
    assert float(facts.surfaces.formation.level(150.0, 0.0)) == approx(19.5)


def test_cover_is_under_the_strip_and_under_the_ground_beyond_it():
    p = crossing()
    p = with_structure(with_structure(p, "S1", 150.0, -8.0, rim=20.0), "S2", 150.0, 8.0, rim=20.0)
    p = with_pipe(p, "P", "S1", "S2", 13.0, 12.9)
    f = facts_of(p).pipes["P"]
    assert f.span.sources == ("design", "existing")
    assert f.cover.least == approx(15.0 - 13.345 + 0.1 * 0.6 / 16)


def test_a_strip_that_cannot_be_is_refused():
    p = grounded([(0, 10), (9, 10)])
    p = new_road(
        p, "bend", [Intersection(0, 0), Intersection(100, 0, 6.0), Intersection(100, -100)]
    )
    [road] = p.roads
    with pytest.raises(EditError, match="inside of a bend of 6.00 m radius"):
        set_strip(p, road, Strip(sections=(StripAt(left=3.0, right=7.0),)))
    set_strip(p, road, Strip(sections=(StripAt(left=7.0, right=3.0),)))
    with pytest.raises(EditError, match="a width of the strip is 0 to 100.00 m"):
        set_strip(p, road, Strip(sections=(StripAt(left=-1.0, right=7.0),)))


def test_a_strip_without_a_profile_is_told():
    p = grounded([(0, 10), (9, 10)])
    p = new_road(p, "R", [Intersection(0, 0), Intersection(100, 0)])
    [road] = p.roads
    p = set_strip(p, road, Strip(sections=SECTIONS, surface=True))
    assert facts_of(p).surfaces.faults == {road: "it has no design profile in force"}


def test_a_changed_strip_is_seen_by_what_stands_on_it():
    p = road_project()
    p = add_profile(p, the_road(p), "d", [Pvi(0.0, 50.0), Pvi(500.0, 60.0)])
    p = set_strip(p, the_road(p), Strip(sections=SECTIONS, surface=True))
    p = with_structure(p, "S", 100.0, 2.0, road=True)
    before = facts_of(p)
    wide = tuple(replace(s, crossfall_right=-0.01) for s in SECTIONS)
    after = set_strip(p, the_road(p), Strip(sections=wide, surface=True))
    from zumbert.analysis import analyse

    moved = analyse(after, before).places["S"]
    assert (before.places["S"].rim, moved.rim) == (approx(51.94), approx(51.98))
    assert moved == facts_of(after).places["S"]


def test_a_section_over_two_strips_keeps_the_first_stretch_after_a_gap():
    p = grounded([(-50, 15), (300, 15)])
    p = new_road(p, "A", [Intersection(0, -20), Intersection(200, -20)])
    p = new_road(p, "B", [Intersection(0, 20), Intersection(200, 20)])
    for road, z in zip(list(p.roads), (20.0, 21.0), strict=True):
        p = add_profile(p, road, "design", [Pvi(0.0, z), Pvi(200.0, z)])
        p = set_strip(p, road, Strip(sections=SECTIONS, surface=True, depth=0.5))
    design = facts_of(p).surfaces.design
    s, z = design.section([(100.0, -30.0), (100.0, 30.0)])
    line = Line(s, z)
    # from -30: strip A from -24 to -16 (3 m and 1 m of verge each side), a gap, strip B from 16 to
    # 24 off A by 2: 20 - 0.06; by 3.5: 20 - 0.09 + 0.1 + 0.02 x 0.5; off B by 2.5: 21 - 0.075
    for at, level in (
        (8.0, 19.94),
        (10.0, 20.0),
        (13.5, 20.02),
        (47.5, 20.925),
        (50.0, 21.0),
        (52.5, 20.925),
    ):
        assert float(level_at(line, at)) == approx(level), at
    assert np.isnan(level_at(line, 30.0))
    solid = [
        (a, b)
        for (a, za), (b, zb) in pairwise(zip(s.tolist(), z.tolist(), strict=True))
        if b > a and za == za and zb == zb
    ]
    assert (min(a for a, b in solid if a > 20), max(b for _, b in solid)) == (
        approx(46.0),
        approx(54.0),
    )
    assert sum(b - a for a, b in solid) == approx(16.0)


@settings(max_examples=times(25), deadline=None)
@given(
    start=st.floats(-300, 3000),
    turn=st.floats(-1.2, 1.2),
    cross=st.floats(0.6, 2.5),
    at=st.floats(20, 80),
    levels=st.tuples(st.floats(10, 30), st.floats(10, 30)),
    widths=st.tuples(st.floats(2, 5), st.floats(2, 5)),
)
def test_two_strips_at_a_time_are_the_formula_of_the_nearer_one(
    start, turn, cross, at, levels, widths
):
    # with a corner
    a = Alignment.through([(0, 0), (0, 60), (60 * np.sin(turn), 60 + 60 * np.cos(turn))], start)
    d = np.array([np.sin(cross), np.cos(cross)])
    b = Alignment.through([np.array([0.0, at]) - 50 * d, np.array([0.0, at]) + 50 * d], 7.3)
    made = []
    for line, z, half in zip((a, b), levels, widths, strict=True):
        profile = Profile([Pvi(line.start, z), Pvi(line.end, z + 0.03 * line.length)])
        sections = [StripAt(left=half, right=half, crossfall_left=-0.03, crossfall_right=-0.02)]
        made.append((line, profile, sections, half))
    strips = Strips([a, b], [strip_tins(line, p, s, 0.4).design for line, p, s, _ in made])
    rng = np.random.default_rng(7)
    x, y = rng.uniform(-20, 40, 3000), rng.uniform(-10, 130, 3000)
    want, far, clear = [], [], np.ones(3000, bool)
    for line, profile, sections, half in made:
        ch, off, away = line.foot(x, y)
        want.append(strip_levels(profile, sections, ch, off))
        far.append(np.where(np.isnan(want[-1]), np.inf, away))
        clear &= (np.abs(np.abs(off) - half) > 0.03) | np.isnan(off)
        ends = np.column_stack(line.point(np.array([line.start, line.end])))
        clear &= np.stack([np.hypot(x - ex, y - ey) for ex, ey in ends]).min(axis=0) > 7.0
    clear &= ~(np.abs(np.minimum(far[0], 1e6) - np.minimum(far[1], 2e6)) < 0.03)
    nearer = np.where(far[0] <= far[1], want[0], want[1])
    got = strips.level(x, y)
    assert (np.isnan(got) == np.isnan(nearer))[clear].all()
    both = clear & ~np.isnan(nearer)
    assert np.abs(got - nearer)[both].max(initial=0.0) < LEVEL_ERROR
