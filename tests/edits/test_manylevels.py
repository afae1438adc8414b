import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx
from scipy.optimize import linprog

from tests.amount import times
from tests.build import chain, facts_of, grounded, with_pipe, with_structure
from zumbert.checks import check
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import LayOptions
from zumbert.edits.levelling import with_levels
from zumbert.edits.manylevels import (
    all_shifted,
    at_slope,
    crowns_in_line,
    from_outfall,
    up_to_cover,
    with_drops,
)
from zumbert.errors import EditError
from zumbert.model.display import METRIC
from zumbert.model.structure import Free

# S1 to S4, 50 m apart; drops of 0.1 m at S2 and S3
RUN = chain([(48.5, 48.0), (47.9, 47.4), (47.3, 46.8)])
ALL = ("P1", "P2", "P3")


def levels(project):
    return [(project.pipes[k].invert_up, project.pipes[k].invert_down) for k in ALL]


def drops(project):
    ls = levels(project)
    return [a[1] - b[0] for a, b in zip(ls, ls[1:], strict=False)]


def flat(pairs):
    return [v for p in pairs for v in p]


def test_the_order_is_from_the_outfall_up():
    assert from_outfall(RUN, facts_of(RUN), ALL) == ["P3", "P2", "P1"]


def test_all_are_shifted_and_held_ones_counted_and_left():
    held = replace(RUN, pipes={**RUN.pipes, "P2": replace(RUN.pipes["P2"], hold_up=True)})
    made = all_shifted(held, facts_of(held), ALL, -0.2)
    assert made.reach == (2, 1)
    assert flat(levels(made.project)) == approx([48.3, 47.8, 47.9, 47.4, 47.1, 46.6])
    assert made.reach.words == "2 will change, 1 is held"


@given(st.floats(0.002, 0.08))
def test_one_slope_for_all_keeps_the_lowest_end_and_every_drop(slope):
    made = at_slope(RUN, facts_of(RUN), ALL, slope).project
    facts = facts_of(made)
    assert [facts.pipes[k].slope for k in ALL] == approx([slope] * 3, abs=1e-9)
    assert drops(made) == approx(drops(RUN), abs=1e-9)
    assert made.pipes["P3"].invert_down == 46.8


def test_a_drop_for_all_lifts_what_lies_above_and_keeps_slopes():
    # P3 stays 47.3 up; P2 ends at 47.32, begins at 47.82; P1 ends at 47.84
    made = with_drops(RUN, facts_of(RUN), ALL, 0.02).project
    assert flat(levels(made)) == approx([48.34, 47.84, 47.82, 47.32, 47.3, 46.8])
    assert with_drops(RUN, facts_of(RUN), ALL, 0.1).project is RUN
    with pytest.raises(EditError, match="A drop is 0 or more"):
        with_drops(RUN, facts_of(RUN), ALL, -0.1)


def test_crowns_are_brought_in_line_downstream():
    wide = replace(RUN, pipes={**RUN.pipes, "P3": replace(RUN.pipes["P3"], size="375")})
    made = crowns_in_line(wide, facts_of(wide), ALL).project
    # crown of P3 at S3: 47.3 + 0.375 = 47.675: P2 ends at 47.375; crowns of P2 and P1 are level
    # with one size
    assert made.pipes["P2"].invert_down == approx(47.375)
    assert made.pipes["P1"].invert_down == approx(made.pipes["P2"].invert_up)
    assert made.pipes["P1"].invert_up - made.pipes["P1"].invert_down == approx(0.5)


def test_up_to_cover_gives_the_shallowest_legal_levels_from_the_heads_down():
    made = up_to_cover(RUN, facts_of(RUN), ALL)
    assert made.reach == (3, 0)
    facts = facts_of(made.project)
    assert {f.rule for f in check(made.project, facts)} == set()
    # level ground 50.0: cover 0.9, outside top 0.345 above the invert, so no invert lies above
    # 48.755 least slope 0.4 % takes 0.2 m a pipe, least drop 0.02 m a chamber; the outfall stays at
    # 46.8
    assert flat(levels(made.project)) == approx([48.7574, 48.5574, 48.5374, 48.3374, 48.3174, 46.8])
    assert sum(flat(levels(made.project))) > sum(flat(levels(RUN)))
    again = up_to_cover(made.project, facts, ALL)
    assert again.project is made.project


def test_where_no_level_keeps_every_rule_a_pipe_stays():
    p = grounded([(-100, 50.0), (500, 50.0)])
    p = with_structure(with_structure(p, "A", 0.0), "B", 50.0, kind="outfall", rim=46.0)
    p = with_pipe(p, "P1", "A", "B", 49.9, 49.5)
    # under the least: none
    deep = replace(p, standards={k: replace(s, cover_max=0.5) for k, s in p.standards.items()})
    made = up_to_cover(deep, facts_of(deep), ["P1"])
    assert (made.project is deep, made.reach, made.words) == (
        True,
        (0, 0),
        "none will change, 1 cannot be raised",
    )


@pytest.mark.parametrize(
    ("text", "value"),
    [("42.1-0.3", 41.8), ("1 + 2 - 0.5", 2.5), ("-3", -3.0), (".5+.25", 0.75), ("1e3", 1000.0)],
)
def test_sums_are_typed(text, value):
    assert METRIC.typed(text) == approx(value)


@pytest.mark.parametrize("text", ["", "1-", "1--2", "a-b", "1 2", "+", "2*3"])
def test_what_is_no_sum_is_refused(text):
    with pytest.raises(ValueError, match="is no number"):
        METRIC.typed(text)


@st.composite
def networks(draw):
    """A trunk with side branches over rolling ground, laid by cover and then lowered by steps,
    so that it is sound but deep.
    """
    grade, wave = draw(st.floats(0.01, 0.05)), draw(st.floats(0.0, 1.0))
    x = np.linspace(-50, 500, 80)
    p = grounded([(float(a), float(50 + grade * a + wave * np.sin(a / 23))) for a in x])
    w = LayOptions(network=next(iter(p.networks)), up=True)
    spans = draw(st.lists(st.floats(25, 70), min_size=2, max_size=6))
    places = [Free(float(sum(spans[:i])), 0.0) for i in range(len(spans) + 1)]
    made = lay(p, facts_of(p), places, w)
    p = with_outfall(made[-1].project, made[0].structure)
    for i in draw(st.sets(st.integers(1, len(spans)), max_size=2)):
        at = made[i].structure
        branch = lay(p, facts_of(p), [Free(places[i].x + 5.0, draw(st.floats(-35, -20)))], w, at)
        p = branch[-1].project
    by = draw(st.floats(0.0, 0.8))
    for key in list(p.pipes):
        deeper = by if p.pipes[key].down != made[0].structure else 0.0
        p = with_levels(
            p, {key: (p.pipes[key].invert_up - deeper, p.pipes[key].invert_down - deeper)}
        )
    return p, made[0].structure


def with_outfall(p, key):
    return replace(p, structures={**p.structures, key: replace(p.structures[key], type="outfall")})


def told(p):
    return {(f.rule, f.pipe, f.structure, f.partner) for f in check(p, facts_of(p))}


@settings(max_examples=times(20, 600), deadline=None)
@given(networks())
def test_up_to_cover_leaves_no_finding_that_was_not_there_and_lowers_nothing(made):
    p, out = made
    raised = up_to_cover(p, facts_of(p), list(p.pipes))
    assert told(raised.project) <= told(p)
    for k, q in raised.project.pipes.items():
        assert (
            q.invert_up >= p.pipes[k].invert_up - 1e-6
            and q.invert_down >= p.pipes[k].invert_down - 1e-6
        )
        if q.down == out:
            assert q.invert_down == p.pipes[k].invert_down
    assert raised.reach.change + raised.reach.held + raised.stay == len(p.pipes)
    again = up_to_cover(raised.project, facts_of(raised.project), list(p.pipes))
    assert all(
        abs(q.invert_up - raised.project.pipes[k].invert_up) < 1e-3
        for k, q in again.project.pipes.items()
    )


@settings(max_examples=times(10, 300), deadline=None)
@given(st.lists(st.floats(25, 70), min_size=2, max_size=6), st.floats(0.01, 0.05), st.booleans())
def test_a_run_laid_over_even_ground_has_no_finding(spans, grade, up):
    p = grounded([(-50, 50 - 50 * grade), (500, 50 + 500 * grade)])
    before = told(p)
    places = [Free(float(sum(spans[:i])), 0.0) for i in range(len(spans) + 1)]
    w = LayOptions(network=next(iter(p.networks)), up=up)
    made = lay(p, facts_of(p), places if up else places[::-1], w)[-1].project
    assert {f for f in told(made) if f[0] != "no_outfall"} <= before


def test_a_lateral_rises_no_higher_than_lets_it_run_into_its_outlet_and_existing_ends_stay():
    p = with_structure(RUN, "L", 50.0, -30.0)
    p = with_pipe(p, "LAT", "L", "S2", 48.3, 48.1)
    old = replace(p, pipes={**p.pipes, "P2": replace(p.pipes["P2"], status="existing")})
    made = up_to_cover(old, facts_of(old), list(old.pipes)).project
    assert made.pipes["P2"] == old.pipes["P2"]  # it is there
    # joined to it: they stay
    assert (made.pipes["P1"].invert_down, made.pipes["LAT"].invert_down) == (48.0, 48.1)
    assert made.pipes["P1"].invert_up > 48.6
    assert told(made) <= told(old)


def test_pipes_through_a_joint_without_chamber_stay_straight():
    p = chain([(48.5, 48.0), (48.0, 47.5), (47.3, 46.8)])
    p = replace(p, structures={**p.structures, "S2": replace(p.structures["S2"], type="joint")})
    made = up_to_cover(p, facts_of(p), ALL).project
    one, other = made.pipes["P1"], made.pipes["P2"]
    assert one.invert_down == approx(other.invert_up, abs=1e-6)
    assert one.invert_up - one.invert_down == approx(other.invert_up - other.invert_down, abs=1e-6)
    assert one.invert_up > 48.6
    # P2 is not chosen: what a joint joins to it stays
    part = up_to_cover(p, facts_of(p), ["P1", "P3"])
    assert part.project.pipes["P1"] == p.pipes["P1"]


def rolling(grade, waves):
    """The level of rolling ground along x, m, and a project on it."""
    x = np.linspace(-50.0, 520.0, 115)
    z = 50 + grade * x + sum(a * np.sin(x / long + turn) for a, long, turn in waves)
    return x, z, grounded([(float(a), float(b)) for a, b in zip(x, z, strict=True)])


def sound_levels(x, z, places, outlet=None):
    """Levels (up, down) of a run of DN 300 from its head that keep cover, slope and drop, the last
    into an outlet at a level, by a linear programme of the test's own over samples every half
    metre; None where there are none.
    """
    n = len(places) - 1
    rows, bounds = [], []

    def at_most(factors, most):
        row = np.zeros(2 * n)
        for i, factor in factors:
            row[i] = factor
        rows.append(row)
        bounds.append(most)

    for i, (a, b) in enumerate(zip(places, places[1:], strict=False)):
        long = float(np.hypot(b.x - a.x, b.y - a.y))
        u, d = 2 * i, 2 * i + 1
        for s in [*np.arange(0.6, long - 0.6, 0.5).tolist(), long - 0.6]:
            t = s / long
            ground = float(np.interp(a.x + t * (b.x - a.x), x, z))
            at_most([(u, 1 - t), (d, t)], ground - 0.345 - 0.905)
            at_most([(u, t - 1), (d, -t)], 5.995 - (ground - 0.345))
        at_most([(u, -1), (d, 1)], -0.004 * long - 1e-4)
        at_most([(u, 1), (d, -1)], 0.1 * long - 1e-3)
        if i + 1 < n:
            at_most([(d + 1, 1), (d, -1)], -0.0501)
            at_most([(d + 1, -1), (d, 1)], 0.59)
    if outlet is not None:
        at_most([(2 * n - 1, -1)], -outlet - 0.1001)
        at_most([(2 * n - 1, 1)], outlet + 0.59)
    found = linprog(
        -np.ones(2 * n), A_ub=np.array(rows), b_ub=bounds, bounds=(None, None), method="highs"
    )
    return (
        None
        if not found.success
        else [(float(found.x[2 * i]), float(found.x[2 * i + 1])) for i in range(n)]
    )


waves = st.lists(
    st.tuples(st.floats(0, 4), st.floats(8, 60), st.floats(0, 6)), min_size=1, max_size=2
)
legs = st.lists(st.tuples(st.floats(20, 70), st.floats(-30, 30)), min_size=2, max_size=6)


@settings(max_examples=times(40, 1200), deadline=None)
@given(legs, st.floats(0.0, 0.1), waves, st.booleans())
def test_a_run_laid_over_rolling_ground_breaks_no_rule_that_some_levels_keep(
    legs, grade, waves, up
):
    x, z, p = rolling(grade, waves)
    along = np.concatenate([[0.0], np.cumsum([long for long, _ in legs])])
    outwards = [
        Free(float(a), float(y)) for a, y in zip(along, [0.0, *(y for _, y in legs)], strict=True)
    ]
    head_first = outwards[::-1]
    w = LayOptions(network=next(iter(p.networks)), up=up)
    made = lay(p, facts_of(p), outwards if up else head_first, w)
    project, levels = made[-1].project, sound_levels(x, z, head_first)
    if levels is None or not {t for t in told(project) if t[0] != "no_outfall"}:
        return
    keys = sorted(project.pipes, key=lambda k: -facts_of(project).places[project.pipes[k].up].x)
    other = with_levels(project, dict(zip(keys, levels, strict=True)))
    assert {t for t in told(other) if t[0] != "no_outfall"}, (
        f"laid: {told(project)}, while {levels} keep every rule"
    )


@settings(max_examples=times(20, 600), deadline=None)
@given(networks(), st.integers(1, 5), st.floats(8, 38), st.floats(-15, 15), st.booleans())
def test_a_branch_laid_into_a_network_breaks_no_rule_that_some_levels_keep(
    made, which, off, along, left
):
    p, _ = made
    facts = facts_of(p)
    trunk = [k for k, s in p.structures.items() if s.place.y == 0.0]
    at = trunk[min(which, len(trunk) - 1)]
    place = Free(p.structures[at].place.x + along, off if left else -off)
    project = lay(p, facts, [place], LayOptions(network=next(iter(p.networks)), up=True), at)[
        -1
    ].project
    new = {t for t in told(project) - told(p) if t[0] != "no_outfall"}
    [pipe] = set(project.pipes) - set(p.pipes)
    v = np.array(next(iter(p.surfaces.values())).vertices)[::2]
    outlet = min(facts.pipes[k].pipe.invert_up for k, q in p.pipes.items() if q.up == at)
    levels = sound_levels(v[:, 0], v[:, 2], [place, p.structures[at].place], outlet)
    if new and levels is not None:
        other = with_levels(project, {pipe: levels[0]})
        assert {t for t in told(other) - told(p) if t[0] != "no_outfall"}, (
            f"laid: {new}, while {levels} keep every rule"
        )
