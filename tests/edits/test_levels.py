import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, quoted_at, road_project, v_project
from zumbert.edits.change import move_structure
from zumbert.edits.levels import set_cover, set_invert, set_slope, shift_pipe, shift_side
from zumbert.edits.setup import add_road
from zumbert.edits.snaps import snapped, snapped_slope, snaps
from zumbert.edits.typed import changed_by, named_road, typed_levels, typed_place
from zumbert.errors import EditError
from zumbert.geometry.elements import Straight
from zumbert.model.display import METRIC
from zumbert.model.structure import Anchored, Free
from zumbert.model.typed import MINUS

RUN = chain([(48.0, 47.5), (47.45, 46.95), (46.9, 46.4)])


def test_one_end_moves_and_nothing_else():
    moved = set_invert(RUN, "P2", "down", 46.9)
    assert (moved.pipes["P2"].invert_up, moved.pipes["P2"].invert_down) == (47.45, 46.9)
    assert moved.pipes["P1"] is RUN.pipes["P1"]
    assert set_invert(RUN, "P2", "down", 46.95) is RUN


def test_a_shift_keeps_the_slope():
    p = shift_pipe(RUN, "P1", -0.15).pipes["P1"]
    assert (p.invert_up, p.invert_down) == (approx(47.85), approx(47.35))


@pytest.mark.parametrize("basis", ["centres", "walls"])
@given(slope=st.floats(-0.05, 0.1), keep=st.sampled_from(["up", "down"]))
def test_a_slope_keeps_one_end_on_either_basis(basis, slope, keep):
    p = quoted_at(RUN, basis)
    made = set_slope(p, facts_of(p), "P1", slope, keep)
    assert facts_of(made).pipes["P1"].slope == approx(slope, abs=1e-12)
    assert getattr(made.pipes["P1"], f"invert_{keep}") == getattr(RUN.pipes["P1"], f"invert_{keep}")


@pytest.mark.parametrize("end", ["up", "down", None])
@given(cover=st.floats(0.2, 3.0))
def test_a_cover_is_exactly_that_wherever_it_is_least(end, cover):
    p = v_project()
    made = set_cover(p, facts_of(p), "P1", cover, end)
    facts = facts_of(made)
    if end is None:
        assert facts.pipes["P1"].cover.least == approx(cover, abs=1e-9)
    else:  # the end that stays may lie shallower than that already
        fixed = 30.0 - (28.5 if end == "down" else 28.2) - 0.345
        assert facts.pipes["P1"].cover.least == approx(cover, abs=0.05) or fixed < cover + 0.02


def held(pipe="P2", **what):
    return replace(RUN, pipes={**RUN.pipes, pipe: replace(RUN.pipes[pipe], **what)})


def test_one_invert_is_held_and_the_other_still_moves():
    p = held(hold_up=True)
    assert set_invert(p, "P2", "down", 46.8).pipes["P2"].invert_down == 46.8
    assert set_slope(p, facts_of(p), "P2", 0.02, "up").pipes["P2"].invert_down == approx(46.45)
    for refused in (
        lambda: set_invert(p, "P2", "up", 47.5),
        lambda: shift_pipe(p, "P2", 0.1),
        lambda: set_slope(p, facts_of(p), "P2", 0.02, "down"),
        lambda: shift_side(p, facts_of(p), "P2", "up", 0.1),
    ):
        with pytest.raises(EditError, match='"P2" keeps its invert at S2: let it go first'):
            refused()


def test_a_held_slope_takes_the_other_end_along():
    p = held(hold_slope=True)
    made = set_invert(p, "P2", "down", 46.85).pipes["P2"]
    assert (made.invert_up, made.invert_down) == (approx(47.35), approx(46.85))
    with pytest.raises(EditError, match='"P2" keeps its slope of 1.00 %'):
        set_slope(p, facts_of(p), "P2", 0.02, "up")
    both = held(hold_slope=True, hold_up=True)
    with pytest.raises(EditError, match="keeps its invert at S2"):
        set_invert(both, "P2", "down", 46.85)


@pytest.mark.parametrize(
    ("kept", "up", "down"), [({}, 47.6, 46.95), ({"hold_up": True}, 47.45, 46.8)]
)
def test_a_held_slope_stays_where_its_pipe_grows(kept, up, down):
    p = held(hold_slope=True, **kept)
    place = p.structures["S3"].place  # 50 m from S2; moved 15 m on
    made = move_structure(p, facts_of(p), "S3", Free(place.x + 15.0, place.y))
    assert (made.pipes["P2"].invert_up, made.pipes["P2"].invert_down) == (approx(up), approx(down))
    assert facts_of(made).pipes["P2"].slope == approx(0.01, abs=1e-12)
    assert made.pipes["P3"] is p.pipes["P3"]


def test_a_side_moves_as_one():
    made = shift_side(RUN, facts_of(RUN), "P2", "down", -0.2)
    assert (made.pipes["P2"].invert_up, made.pipes["P2"].invert_down) == (47.45, approx(46.75))
    assert (made.pipes["P3"].invert_up, made.pipes["P3"].invert_down) == (
        approx(46.7),
        approx(46.2),
    )
    assert made.pipes["P1"] is RUN.pipes["P1"]
    up = shift_side(RUN, facts_of(RUN), "P2", "up", 0.1)
    assert (up.pipes["P1"].invert_up, up.pipes["P1"].invert_down) == (approx(48.1), approx(47.6))
    assert up.pipes["P3"] is RUN.pipes["P3"]


@pytest.mark.parametrize("level", [float("nan"), float("inf"), 1e9])
def test_no_level_on_land(level):
    with pytest.raises(EditError, match="is no level"):
        set_invert(RUN, "P1", "up", level)


@pytest.mark.parametrize(
    ("ring", "text", "up", "down"),
    [
        ("down", "47.3", 48.0, 47.3),
        ("down", "+0.15", 48.0, 47.65),
        ("up", f"{MINUS}0.1", 47.9, 47.5),
        ("down", "1:80", 48.0, 48.0 - 50 / 80),
        ("up", "1.25%", 47.5 + 0.625, 47.5),
        ("beyond-down", "2 %", 48.0, 47.0),
        ("mid", "+0.15", 48.15, 47.65),
        ("mid", "48.2", 48.2, 47.7),
        ("mid", "c1.2", 50 - 1.2 - 0.345 + 0.6 * 0.01, 50 - 1.2 - 0.345 + 0.6 * 0.01 - 0.5),
    ],
)
def test_what_is_typed_with_a_ring_in_hand(ring, text, up, down):
    p = typed_levels(RUN, facts_of(RUN), "P1", ring, text).pipes["P1"]
    assert (p.invert_up, p.invert_down) == (approx(up), approx(down))


@pytest.mark.parametrize("text", ["", "abc", "c", "1:0", "+", "1e999"])
def test_what_means_nothing_is_refused(text):
    with pytest.raises(EditError):
        typed_levels(RUN, facts_of(RUN), "P1", "up", text)


def test_typed_places():
    assert typed_place("412.5 -3.6", "r1", METRIC) == Anchored("r1", 412.5, -3.6)
    assert typed_place("0+412.5 3.6", "r1", METRIC) == Anchored("r1", 412.5, 3.6)
    assert typed_place("1480.2,865.1", None, METRIC) == Free(1480.2, 865.1)
    for text in ("412.5", "a b", "1,2,3", ""):
        with pytest.raises(EditError):
            typed_place(text, "r1", METRIC)
    with pytest.raises(EditError, match="no road"):
        typed_place("412.5 1", None, METRIC)


def test_typed_steps():
    assert [changed_by(t, 10.0, METRIC) for t in ("+0.5", "-1", "=-1", "3")] == [
        10.5,
        9.0,
        -1.0,
        3.0,
    ]


def test_snaps_are_named():
    p = v_project()
    f = facts_of(p)
    [cover] = [s for s in snaps(f, f.pipes["P1"], "down") if "cover" in s.name]
    assert cover.level == approx(27.010)
    assert snapped(f, f.pipes["P1"], "down", 27.05, 0.1) == cover
    far = snapped(f, f.pipes["P1"], "down", 27.518, 0.1)
    assert (far.level, far.name) == (approx(27.520), "")
    run = facts_of(RUN)
    names = {s.name: s.level for s in snaps(run, run.pipes["P1"], "down")}
    assert names["Least drop"] == approx(47.45 + 0.02)
    slope = snapped_slope(run, run.pipes["P1"], "down", 47.46)  # 1.08 % -> 1.10 %
    assert (slope.level, slope.name) == (approx(47.45), "Slope 1.10 %")


def test_a_typed_place_names_its_road():
    two = add_road(road_project(), "Tansymoor Lane", (Straight(0.0, 50.0, 90.0, 50.0),))
    first, second = two.roads
    assert named_road("20 1.0 tansymoor", two, first) == ("20 1.0", second)
    assert named_road("20 1.0 Rise", two, second) == ("20 1.0", first)  # a word of the name
    assert named_road(" 20 1.0 ", two, first) == ("20 1.0", first)
    with pytest.raises(
        EditError, match='"elm" is no road here: known are Quillerby Rise, Tansymoor Lane'
    ):
        named_road("20 1.0 elm", two, first)
