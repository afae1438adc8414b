import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, grounded, with_pipe, with_structure
from zumbert.edits.regrade import Regrade, path, regraded
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
    assert flat(levels(made.project)) == approx(flat([(20.0, 20.5), (20.5, 21.1), (21.175, 21.575)]))


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
    p = with_pipe(p, "Q2", "X", "D", 25, 25)  # against the other flow; 75.2 + 75.2 m, a little longer than 150
    assert [s.pipe for s in path(p, facts_of(p), "A", "D")] == ["P1", "P2", "P3"]
    q = replace(
        p, structures={**p.structures, "B": replace(p.structures["B"], place=type(p.structures["B"].place)(50, 30))}
    )
    assert [s.pipe for s in path(q, facts_of(q), "A", "D")] == ["Q1", "Q2"]
    with pytest.raises(EditError, match="No pipes lead"):
        lonely = with_structure(p, "L", 300)
        path(lonely, facts_of(lonely), "A", "L")


@given(st.floats(15, 28), st.floats(15, 28), st.floats(0, 0.2), st.sampled_from(["invert", "centre", "crown"]))
def test_picking_order_never_matters(a, d, drop, by):
    if abs(a - d) < 2 * drop + 0.01:
        return
    there = regrade(start=a, end=d, drop=drop, by=by)
    back = regrade(a="D", b="A", start=d, end=a, drop=drop, by=by)
    assert flat(levels(there.project)) == approx(flat(levels(back.project)))
    assert abs(a - d) == approx(abs(there.slope) * there.length + there.drops)
