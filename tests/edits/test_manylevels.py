import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, grounded, with_pipe, with_structure
from zumbert.checks import check
from zumbert.edits.manylevels import all_shifted, at_slope, crowns_in_line, from_outfall, up_to_cover, with_drops
from zumbert.errors import EditError
from zumbert.model.display import METRIC

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
    held = replace(RUN, pipes={**RUN.pipes, "P2": replace(RUN.pipes["P2"], keep_up=True)})
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
    # crown of P3 at S3: 47.3 + 0.375 = 47.675: P2 ends at 47.375; crowns of P2 and P1 are level with one size
    assert made.pipes["P2"].invert_down == approx(47.375)
    assert made.pipes["P1"].invert_down == approx(made.pipes["P2"].invert_up)
    assert made.pipes["P1"].invert_up - made.pipes["P1"].invert_down == approx(0.5)


def test_up_to_cover_gives_the_shallowest_legal_levels_from_the_heads_down():
    made = up_to_cover(RUN, facts_of(RUN), ALL)
    assert made.reach == (3, 0)
    facts = facts_of(made.project)
    assert {f.rule for f in check(made.project, facts)} == set()
    # level ground 50.0: cover 0.9, outside top 0.345 above the invert, so no invert lies above 48.755
    # least slope 0.4 % takes 0.2 m a pipe, least drop 0.02 m a chamber; the outfall stays at 46.8
    assert flat(levels(made.project)) == approx([48.7574, 48.5574, 48.5374, 48.3374, 48.3174, 46.8])
    assert sum(flat(levels(made.project))) > sum(flat(levels(RUN)))
    again = up_to_cover(made.project, facts, ALL)
    assert again.project is made.project


def test_where_no_level_keeps_every_rule_a_pipe_stays():
    p = grounded([(-100, 50.0), (500, 50.0)])
    p = with_structure(with_structure(p, "A", 0.0), "B", 50.0, kind="outfall", rim=46.0)
    p = with_pipe(p, "P1", "A", "B", 49.9, 49.5)
    deep = replace(p, standards={k: replace(s, cover_max=0.5) for k, s in p.standards.items()})  # under the least: none
    made = up_to_cover(deep, facts_of(deep), ["P1"])
    assert (made.project is deep, made.reach, made.words) == (True, (0, 0), "none will change, 1 cannot be raised")


@pytest.mark.parametrize(
    ("text", "value"), [("42.1-0.3", 41.8), ("1 + 2 - 0.5", 2.5), ("-3", -3.0), (".5+.25", 0.75), ("1e3", 1000.0)]
)
def test_sums_are_typed(text, value):
    assert METRIC.typed(text) == approx(value)


@pytest.mark.parametrize("text", ["", "1-", "1--2", "a-b", "1 2", "+", "2*3"])
def test_what_is_no_sum_is_refused(text):
    with pytest.raises(ValueError, match="is no number"):
        METRIC.typed(text)
