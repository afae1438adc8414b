import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st
from pytest import approx

from tests.build import chain, facts_of, v_project
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.checks.legal import cover_bound, end_range, least_breach, rows, shallowest, shift_range
from zumbert.edits.levels import set_invert, shift_pipe

BAND = {
    "cover_min",
    "cover_max",
    "slope_min",
    "slope_max",
    "adverse_fall",
    "drop_min",
    "drop_max",
    "crowns",
    "outlet_lowest",
}


def broken(project):
    facts = facts_of(project)
    about = {f.rule for f in check(project, facts) if f.pipe == "P2" or f.structure in ("S2", "S3")}
    return about & BAND


def test_the_dip_bounds_the_end():
    # at 30 m, half-way: invert there <= 29 - 0.9 - 0.345 = 27.755; the other end at 28.5: 2 x 27.755 - 28.5 = 27.010
    facts = facts_of(v_project())
    r = end_range(facts, facts.pipes["P1"], "down")
    assert (r.high, r.high_rule) == (approx(27.010), "cover_min")
    assert cover_bound(facts, facts.pipes["P1"], "down", 0.9) == approx(27.010)
    assert cover_bound(facts, facts.pipes["P1"], None, 0.9) == approx(0.305 - 0.9)


@given(st.floats(47.0, 48.6), st.floats(46.5, 48.6), st.sampled_from(["up", "down"]))
def test_just_inside_the_band_every_rule_is_kept_and_just_outside_one_is_broken(up, down, end):
    p = chain([(48.6, 48.2), (up, down), (46.3, 45.9)])
    facts = facts_of(p)
    r = end_range(facts, facts.pipes["P2"], end)
    assume(not r.empty)
    kept = set_invert(p, "P2", end, (r.low + r.high) / 2)
    other_end_alone = broken(kept) & {"drop_min", "drop_max", "crowns", "outlet_lowest", "cover_min", "cover_max"}
    far = "S2" if end == "down" else "S3"
    about_far = {f.rule for f in check(kept, facts_of(kept)) if f.structure == far}
    assert broken(kept) - about_far == set() or other_end_alone <= about_far
    for bound, step, rule in ((r.low, -1e-4, r.low_rule), (r.high, 1e-4, r.high_rule)):
        assert rule in {
            "cover_min",
            "cover_max",
            "slope_min",
            "slope_max",
            "drop_min",
            "drop_max",
            "crowns",
            "outlet_lowest",
        }
        out = broken(set_invert(p, "P2", end, bound + step))
        assert rule in out or (rule == "slope_min" and "adverse_fall" in out)


def test_shifting_within_its_range_keeps_the_rules():
    p = chain([(48.6, 48.2), (48.1, 47.7), (47.3, 46.9)])
    facts = facts_of(p)
    r = shift_range(facts, facts.pipes["P2"])
    assert not r.empty
    assert broken(shift_pipe(p, "P2", r.low)) == broken(shift_pipe(p, "P2", r.high)) == set()
    assert broken(shift_pipe(p, "P2", r.high + 1e-3)) != set()


def test_the_shallowest_is_at_a_corner_and_nothing_legal_is_shallower():
    facts = facts_of(v_project())
    all_rows = rows(facts, facts.pipes["P1"])
    u, d = shallowest(all_rows)
    rng = np.random.default_rng(1)
    for _ in range(3000):
        a, b = u + rng.normal(0, 0.4), d + rng.normal(0, 0.4)
        if all(r.a * a + r.b * b <= r.c for r in all_rows):
            assert a + b <= u + d + 1e-9
    assert analyse(set_invert(set_invert(v_project(), "P1", "up", u), "P1", "down", d)).pipes[
        "P1"
    ].cover.least == approx(0.9)


def test_how_far_a_rule_must_be_eased():
    from zumbert.checks.legal import Row

    # u <= 10 (cover), u >= 10.3 (drop): ease by 0.3
    both = [
        Row(1, 0, 10.0, "cover_min"),
        Row(-1, 0, -10.3, "drop_min"),
        Row(0, 1, 9.0, "cover_min"),
        Row(-1, 1, -1.0, "slope_min"),
    ]
    assert shallowest(both) is None
    assert least_breach(both, "cover_min") == approx(0.3)
