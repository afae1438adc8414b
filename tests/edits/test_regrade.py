from math import copysign

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, grounded, with_pipe, with_structure
from zumbert.edits.regrade import Regrade, meant_level, path, regraded
from zumbert.errors import EditError
from zumbert.model.ids import SizeKey

# pipes 50, 60, 40 m from A up to D; water runs from D to A
UP = grounded([(-50, 30.0), (500, 30.0)])
for _label, _x in (("A", 0), ("B", 50), ("C", 110), ("D", 150)):
    UP = with_structure(UP, _label, _x)
for _name, _up, _down in (("P1", "B", "A"), ("P2", "C", "B"), ("P3", "D", "C")):
    UP = with_pipe(UP, _name, _up, _down, 25.0, 25.0)


def levels(project):
    return [(project.pipes[k].invert_down, project.pipes[k].invert_up) for k in ("P1", "P2", "P3")]


def regrade(project=UP, a="A", b="D", **values):
    return regraded(project, facts_of(project), Regrade(a=a, b=b, **values))


def flat(pairs):
    return [v for pair in pairs for v in pair]


def test_example_a_one_end_and_slope():
    made = regrade(start=20.0, slope=-0.01, drop=0.05)
    assert flat(levels(made.project)) == approx(flat([(20.0, 20.5), (20.55, 21.15), (21.2, 21.6)]))
    assert made.sum == "150.00 m at 1.00 % + drops 0.100 = 1.600 m"
    assert made.against == ()


def test_example_b_both_ends():
    made = regrade(start=20.0, end=21.6, drop=0.05)
    assert made.slope == approx(-0.01)
    assert flat(levels(made.project)) == approx(flat([(20.0, 20.5), (20.55, 21.15), (21.2, 21.6)]))


def test_example_c_crowns_carried_through_a_change_of_size():
    p = replace(UP, pipes={**UP.pipes, "P3": replace(UP.pipes["P3"], size=SizeKey("225"))})
    made = regrade(p, start=20.3, slope=-0.01, by="crown")
    assert flat(levels(made.project)) == approx(
        flat([(20.0, 20.5), (20.5, 21.1), (21.175, 21.575)])
    )


def test_drops_of_their_own_and_none():
    made = regrade(start=20.0, slope=-0.01, drop=0.05, drops={"B": 0.2}, without=frozenset({"C"}))
    assert flat(levels(made.project)) == approx(flat([(20.0, 20.5), (20.7, 21.3), (21.3, 21.7)]))


def test_joints_get_no_drop_unless_asked():
    p = replace(UP, structures={**UP.structures, "B": replace(UP.structures["B"], type="joint")})
    assert regrade(p, start=20.0, slope=-0.01, drop=0.05).drops == approx(0.05)
    assert regrade(p, start=20.0, slope=-0.01, drop=0.05, joints_too=True).drops == approx(0.1)


def test_at_no_slope_the_farther_side_is_the_lower():
    made = regrade(start=20.0, slope=0.0, drop=0.05)
    assert flat(levels(made.project)) == approx([20.0, 20.0, 19.95, 19.95, 19.9, 19.9])


def test_a_result_against_the_flow_is_done_and_told():
    made = regrade(start=20.0, slope=0.01)
    assert set(made.against) == {"P1", "P2", "P3"}


def test_drops_beyond_the_fall_change_nothing():
    with pytest.raises(EditError, match="add up to 0.100 m, more than the fall of 0.050 m"):
        regrade(start=20.0, end=20.05, drop=0.05)


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"b": "A", "start": 1.0, "slope": 0.0}, "given twice"),
        ({"start": 1.0}, "needs a slope, or the level"),
        ({"start": 1.0, "slope": 0.01, "drop": -0.1}, "a drop is 0 or more"),
    ],
)
def test_what_cannot_be_regraded_is_said(values, words):
    with pytest.raises(EditError, match=words):
        regrade(**values)


def test_the_path_is_the_shortest_whatever_the_flow():
    p = with_pipe(with_structure(UP, "X", 75, 5), "Q1", "X", "A", 25, 25)
    # against the other flow; 75.2 + 75.2 m, a little longer than 150
    p = with_pipe(p, "Q2", "X", "D", 25, 25)
    assert [s.pipe for s in path(p, facts_of(p), "A", "D")] == ["P1", "P2", "P3"]
    q = replace(
        p,
        structures={
            **p.structures,
            "B": replace(p.structures["B"], place=type(p.structures["B"].place)(50, 30)),
        },
    )
    assert [s.pipe for s in path(q, facts_of(q), "A", "D")] == ["Q1", "Q2"]
    with pytest.raises(EditError, match="No pipes lead"):
        lonely = with_structure(p, "L", 300)
        path(lonely, facts_of(lonely), "A", "L")


@given(
    st.floats(15, 28),
    st.floats(15, 28),
    st.floats(0, 0.2),
    st.sampled_from(["invert", "centre", "crown"]),
)
def test_picking_order_never_matters(a, d, drop, by):
    if abs(a - d) < 2 * drop + 0.01:
        return
    there = regrade(start=a, end=d, drop=drop, by=by)
    back = regrade(a="D", b="A", start=d, end=a, drop=drop, by=by)
    assert flat(levels(there.project)) == approx(flat(levels(back.project)))
    assert abs(a - d) == approx(abs(there.slope) * there.length + there.drops)


def test_the_example_of_five_pipes_with_steps_of_their_own():
    # lengths 54, 54, 59, 31, 28 from 46.900 to 44.150 with steps 0.100, 0.025, 0.100, 0.025:
    # 226.00 m at (2.750 - 0.250) / 226 = 1.1062 %
    p, x = grounded([(-50, 50.0), (500, 50.0)]), 0.0
    for i, long in enumerate((0, 54, 54, 59, 31, 28)):
        x += long
        p = with_structure(p, f"S{i}", x)
    for i in range(5):
        p = with_pipe(p, f"P{i + 1}", f"S{i}", f"S{i + 1}", 46.0, 45.0)
    made = regrade(
        p, "S0", "S5", start=46.9, end=44.15, drops={"S1": 0.1, "S2": 0.025, "S3": 0.1, "S4": 0.025}
    )
    assert made.slope == approx(0.011062, abs=1e-6)
    assert made.sum == "226.00 m at 1.11 % + drops 0.250 = 2.750 m"
    levels = [
        (round(line.end, 3), round(nxt.begin, 3))
        for line, nxt in zip(made.lines, made.lines[1:], strict=False)
    ]
    assert levels == [(46.303, 46.203), (45.605, 45.580), (44.928, 44.828), (44.485, 44.460)]
    assert made.lines[-1].end == approx(44.15)


@given(
    st.lists(st.floats(20, 90), min_size=2, max_size=6),
    st.floats(-0.05, 0.05),
    st.floats(0, 0.2),
    st.floats(30, 60),
    st.sampled_from(["invert", "centre", "crown"]),
)
def test_slopes_and_drops_are_what_the_strip_says(lengths, slope, drop, start, by):
    p, x = grounded([(-50, 80.0), (900, 80.0)]), 0.0
    p = with_structure(p, "S0", 0.0)
    for i, long in enumerate(lengths):
        x += long
        p = with_structure(p, f"S{i + 1}", x)
        # flow directions play no part
        ends = (f"S{i}", f"S{i + 1}") if i % 2 else (f"S{i + 1}", f"S{i}")
        p = with_pipe(p, f"P{i}", *ends, 50.0, 49.0, "300" if i % 3 else "375")
    made = regrade(p, "S0", f"S{len(lengths)}", start=start, slope=slope, drop=drop, by=by)
    for line in made.lines:
        assert (line.begin - line.end) / facts_of(p).pipes[line.step.pipe].basis == approx(
            slope, abs=1e-9
        )
    for line, after in zip(made.lines, made.lines[1:], strict=False):
        assert abs(line.end - after.begin) == approx(drop, abs=1e-9)
        falls = copysign(1.0, slope) > 0  # -0.0 rises
        assert after.begin <= line.end + 1e-9 if falls else after.begin >= line.end - 1e-9
    assert abs(made.lines[0].begin - made.lines[-1].end) == approx(
        abs(slope) * made.length + made.drops, abs=1e-9
    )


def joined_run():
    """A 375 from X to Y to Z, and a 225 from W into Y at right angles, to be regraded."""
    p = grounded([(-200, 50.0), (500, 50.0)], project=None)
    for label, x, y in (("X", 0, 0), ("Y", 50, 0), ("Z", 100, 0), ("W", 50, 30)):
        p = with_structure(p, label, x, y)
    p = with_pipe(
        with_pipe(p, "P1", "X", "Y", 47.5, 47.0, "375"), "P2", "Y", "Z", 46.95, 46.5, "375"
    )
    return with_pipe(p, "L", "W", "Y", 48.2, 47.9, "225")


@pytest.mark.parametrize(
    ("text", "level"),
    [
        ("47.4", 47.4),
        ("0.90 under 48.35", 47.45),
        ("0.2 over 47", 47.2),
        ("0.9 under floor level 48.35", 47.45),
        ("crown", 46.95 + 0.375 - 0.225),
        ("crown into Y", 46.95 + 0.375 - 0.225),
        ("drop", 46.95 + 0.05),
        ("least drop into Y", 46.95 + 0.05),
    ],
)
def test_a_level_may_be_a_rule(text, level):
    p = joined_run()
    facts = facts_of(p)
    steps = path(p, facts, "W", "Y")
    assert meant_level(facts, steps, True, text, "invert") == approx(level)
    assert meant_level(facts, path(p, facts, "Y", "W"), False, text, "invert") == approx(level)
    # a rule is about the pipe, whatever line is carried
    shown = level if text[0].isdigit() else level + 0.225
    assert meant_level(facts, steps, True, text, "crown") == approx(shown)


def test_a_rule_needs_something_to_go_by():
    p = joined_run()
    facts = facts_of(p)
    steps = path(p, facts, "W", "Y")
    with pytest.raises(EditError, match="Nothing else is joined at W"):
        meant_level(facts, steps, False, "crown", "invert")
    with pytest.raises(EditError, match='"deep" is no level'):
        meant_level(facts, steps, False, "deep", "invert")


def test_where_the_drops_are_the_whole_rise_the_far_end_is_met():
    p = grounded([(-50, 50.0), (500, 50.0)])
    for i in range(4):
        p = with_structure(p, f"S{i}", i * 50.0)
    for i in range(3):
        p = with_pipe(p, f"P{i + 1}", f"S{i + 1}", f"S{i}", 46.0, 45.0)  # walked against the flow
    made = regrade(p, "S0", "S3", start=45.0, end=45.2, drop=0.1)
    # two drops of 0.1 m are the rise of 0.2 m: level pipes, each 0.1 m over the last
    assert [(line.begin, line.end) for line in made.lines] == [
        (45.0, 45.0),
        (45.1, 45.1),
        (45.2, 45.2),
    ]
