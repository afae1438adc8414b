from importlib import import_module
from itertools import combinations

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.build import chain, facts_of, v_project, with_pipe, with_structure
from zumbert.analysis import analyse
from zumbert.checks import RULES, check
from zumbert.checks.finding import Bound, Rule
from zumbert.checks.legal import (
    FLATTER,
    Constraint,
    cover_bound,
    end_range,
    least_breach,
    rows,
    shallowest,
    shift_range,
)
from zumbert.checks.limits import drop_limit
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
    "chamber_depth",
    "rim_above_crowns",
}


def broken(project):
    facts = facts_of(project)
    about = {f.rule for f in check(project, facts) if f.pipe == "P2" or f.structure in ("S2", "S3")}
    return about & BAND


def test_the_dip_bounds_the_end():
    # at 30 m, half-way: invert there <= 29 - 0.9 - 0.345 = 27.755; the other end at 28.5: 2 x
    # 27.755 - 28.5 = 27.010
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
    other_end_alone = broken(kept) & {
        "drop_min",
        "drop_max",
        "crowns",
        "outlet_lowest",
        "cover_min",
        "cover_max",
    }
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
            "chamber_depth",
            "rim_above_crowns",
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
    # u <= 10 (cover), u >= 10.3 (drop): ease by 0.3
    both = [
        Constraint(1, 0, 10.0, "cover_min"),
        Constraint(-1, 0, -10.3, "drop_min"),
        Constraint(0, 1, 9.0, "cover_min"),
        Constraint(-1, 1, -1.0, "slope_min"),
    ]
    assert shallowest(both) is None
    assert least_breach(both, "cover_min") == approx(0.3)


def test_the_band_holds_the_rules_of_the_chambers():
    # cover of -1 m lets the pipe up: then its crown has to stay under the rim of 50.0: invert under
    # 49.7
    p = chain([(48.6, 48.2), (48.1, 47.7), (47.3, 46.9)])
    any_depth = {**p.types, "manhole-1200": replace(p.types["manhole-1200"], depth_min=None)}
    loose = replace(
        p,
        types=any_depth,
        standards={k: replace(s, cover_min=-1.0) for k, s in p.standards.items()},
    )
    facts = facts_of(loose)
    r = end_range(facts, facts.pipes["P1"], "up")
    assert (r.high, r.high_rule) == (approx(49.7, abs=2e-5), "rim_above_crowns")
    for deep, rule_low, rule_high in ((1.5, 48.5, None), (None, None, 48.2)):
        kind = replace(p.types["manhole-1200"], depth_max=deep, depth_min=None if deep else 1.8)
        q = replace(p, types={**p.types, "manhole-1200": kind})
        facts = facts_of(q)
        r = end_range(facts, facts.pipes["P1"], "up")
        if rule_low is not None:  # at most 1.5 m under the rim of 50.0
            assert (r.low, r.low_rule) == (approx(rule_low), "chamber_depth")
        if rule_high is not None:  # at least 1.8 m, and no other pipe at S1
            assert (r.high, r.high_rule) == (approx(rule_high), "chamber_depth")
    # at S2 the outlet P2 at 48.1 makes the chamber 1.9 m deep: P1 may end higher
    r = end_range(facts, facts.pipes["P1"], "down")
    assert r.high_rule != "chamber_depth"


def test_of_nearly_equal_sums_the_flatter_pipe_is_taken():
    # a dip at a share t of 60 m that lets the line through 10.0: at 0.4 % and at 3.33 % the sums
    # are 20 -+ (1 - 2 t) of the fall
    def found(t):
        dip = [Constraint(1 - t, t, 10.0, "cover_min")]
        slopes = [Constraint(-1, 1, -0.24, "slope_min"), Constraint(1, -1, 2.0, "slope_max")]
        u, d = shallowest([*dip, *slopes])
        return u - d

    # exactly half-way both give 20.0; 0.6 m beyond, the steep one is 0.02 x 1.76 = 0.035 m higher
    # in sum
    assert [found(t) for t in (0.49, 0.5, 0.51, 0.52)] == approx([0.24] * 4)
    assert found(0.6) == approx(2.0)  # 0.2 x 1.76 = 0.35 m: it counts


def test_a_bend_over_the_end_of_a_class_by_rounding_counts_in_it():
    p = chain([(48.6, 48.2), (48.1, 47.7)])
    table = ((15.0, 0.02), (45.0, 0.05), (180.0, 0.1))
    p = replace(p, standards={k: replace(s, drop_min=table) for k, s in p.standards.items()})
    s = p.structures["S2"]
    assert [drop_limit(p, s, v) for v in (15.0, 15.00008, 15.004, 15.006, 45.003)] == [
        0.02,
        0.02,
        0.02,
        0.05,
        0.05,
    ]


def test_abandoned_pipes_say_nothing_of_a_chamber_in_use():
    p = chain([(48.6, 48.2), (48.1, 47.7)])
    p = with_structure(p, "X", 50.0, 30.0)
    p = with_pipe(p, "OLD", "X", "S2", 47.0, 46.0)
    live, dead = (
        p,
        replace(p, pipes={**p.pipes, "OLD": replace(p.pipes["OLD"], status="abandoned")}),
    )
    f = facts_of(dead).structures["S2"]
    assert (f.lowest, f.depth, len(f.drops)) == (48.1, approx(1.9), 1)
    assert f.sump_level == facts_of(chain([(48.6, 48.2), (48.1, 47.7)])).structures["S2"].sump_level
    about = [{x.rule for x in check(q, facts_of(q)) if x.structure == "S2"} for q in (live, dead)]
    assert "outlet_lowest" in about[0] and about[1] == set()


@st.composite
def systems(draw):
    """Rows as a pipe has them over random ground, with and without neighbours; some that nothing
    keeps.
    """
    n = draw(st.integers(1, 30))
    rng = np.random.default_rng(draw(st.integers(0, 100_000)))
    t, long = np.sort(rng.uniform(0, 1, n)), rng.uniform(20, 80)
    z = (
        50
        + rng.normal(0, 1) * t
        + rng.choice([-2.0, 2.0, 0.0]) * (t - 0.5) ** 2
        + rng.normal(0, 0.05, n)
    )
    made = [
        Constraint(1 - s, s, v - 1.245, "cover_min")
        for s, v in zip(t.tolist(), z.tolist(), strict=True)
    ]
    made += [
        Constraint(s - 1, -s, 6 - v, "cover_max")
        for s, v in zip(t.tolist(), z.tolist(), strict=True)
    ]
    made += [
        Constraint(-1, 1, -0.004 * long, "slope_min"),
        Constraint(1, -1, 0.1 * long, "slope_max"),
    ]
    low = 48.8 - rng.uniform(0, 4)
    if draw(st.booleans()):
        made += [Constraint(0, -1, -low, "drop_min"), Constraint(0, 1, low + 0.6, "drop_max")]
    if draw(st.booleans()):
        made += [Constraint(1, 0, low + 1, "drop_min"), Constraint(-1, 0, -low - 0.4, "drop_max")]
    return made


def corners(a, c):
    """All places (m, k) where k rows meet and all are kept: every choice of k is tried."""
    index = np.array(list(combinations(range(len(c)), a.shape[1])))
    meet = np.abs(np.linalg.det(a[index])) > 1e-9
    found = np.linalg.solve(a[index][meet], c[index][meet][:, :, None])[:, :, 0]
    return found[(found @ a.T <= c + 1e-7).all(axis=1)]


@settings(max_examples=times(75, 1500), deadline=None)
@given(systems())
def test_the_best_levels_are_those_of_all_corners_tried(made):
    a, c = np.array([(r.a, r.b) for r in made]), np.array([r.c for r in made])
    every = corners(a, c)
    if not len(every):
        assert shallowest(made) is None
        return
    near = every[every.sum(axis=1) >= every.sum(axis=1).max() - FLATTER]
    fall = near[:, 0] - near[:, 1]
    flat = near[fall <= fall.min() + 1e-9]
    assert shallowest(made) == approx(tuple(flat[flat.sum(axis=1).argmax()]), abs=1e-6)


@settings(max_examples=times(30, 600), deadline=None)
@given(systems())
def test_the_least_breach_is_that_of_all_corners_tried(made):
    made = made[:: 1 + len(made) // 16] + made[-6:]
    rows_of = [(r.a, r.b, -1.0 if r.rule == "cover_min" else 0.0) for r in made]
    every = corners(np.array([*rows_of, (0.0, 0.0, -1.0)]), np.array([*(r.c for r in made), 0.0]))
    found = least_breach(made, "cover_min")
    assert (found is None) == (not len(every))
    if found is not None:
        assert found == approx(every[:, 2].min(), abs=1e-6)


def test_a_rule_of_pipes_and_structures_alike_has_its_say_in_the_band(monkeypatch):
    def bounds_of(facts, f):
        if hasattr(f, "pipe"):
            yield Bound({(f.pipe.id, "up"): -1.0}, -48.05, "both")
        else:  # at a structure: each pipe that leaves it
            yield from (Bound({(g.pipe.id, "up"): 1.0}, 48.15, "both") for g in f.pipes_out)

    both = Rule("both", "Both", "either", lambda facts, f: iter(()), lambda facts, n: "", bounds_of)
    for module in ("zumbert.checks.check", "zumbert.checks.legal"):
        monkeypatch.setattr(import_module(module), "RULES", {**RULES, "both": both})
    facts = facts_of(chain([(48.6, 48.2), (48.1, 47.7), (47.3, 46.9)]))
    r = end_range(facts, facts.pipes["P2"], "up")
    assert (r.low, r.low_rule, r.high, r.high_rule) == (48.05, "both", 48.15, "both")
