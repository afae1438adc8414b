from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx, raises

from tests.amount import times
from tests.build import facts_of
from zumbert.analysis.facts import analyse
from zumbert.demo.project import demo_project
from zumbert.edits.several import HowMany, hold, moved, moved_with, set_sizes, set_status, set_types
from zumbert.errors import EditError
from zumbert.model.structure import Free

DEMO = demo_project()
FACTS = facts_of(DEMO)
S = {s.label: s.id for s in DEMO.structures.values()}
P = {p.label: p.id for p in DEMO.pipes.values()}


def test_an_edit_of_many_passes_over_what_is_held_and_counts_both():
    chosen = [p.id for p in DEMO.pipes.values() if p.size == "150"]
    held = hold(DEMO, [], chosen[:2], "size", True)
    made = set_sizes(held, chosen, "225")
    assert made.reach == HowMany(len(chosen) - 2, 2)
    assert made.reach.words == f"{len(chosen) - 2} will change, 2 are held"
    assert [made.project.pipes[p].size for p in chosen] == ["150", "150"] + ["225"] * (
        len(chosen) - 2
    )
    assert made.project.structures is held.structures
    assert set_sizes(held, chosen, "150").project is held
    with raises(EditError, match='no pipe size "900x"'):
        set_sizes(held, chosen, "900x")


def test_types_status_and_held_marks_of_many():
    chosen = [S["S4"], S["S5"]]
    held = hold(DEMO, [S["S4"]], [], "size", True)
    made = set_types(held, chosen, "manhole-1500")
    assert made.reach.words == "1 will change, 1 is held"
    assert made.project.structures[S["S4"]] is held.structures[S["S4"]]
    assert set_types(held, [S["S4"]], "manhole-1500").reach.words == "none will change, 1 is held"
    out = set_status(DEMO, chosen, [P["P5"]], "abandoned")
    assert (
        {out.structures[k].status for k in chosen} == {out.pipes[P["P5"]].status} == {"abandoned"}
    )
    assert out.structures[S["S6"]] is DEMO.structures[S["S6"]]
    assert set_status(out, chosen, [P["P5"]], "abandoned") is out
    # a structure has no levels to hold
    assert hold(held, [S["S4"]], [], "levels", True).structures is held.structures


@given(along=st.floats(-3, 3), across=st.floats(-3, 3))
@settings(max_examples=times(20))
def test_many_move_by_as_much_and_their_pipes_keep_their_inverts(along, across):
    chosen = [S["S4"], S["S5"], S["EX1"]]
    out = moved(DEMO, FACTS, chosen, along, across)
    for k in chosen[:2]:
        a, b = DEMO.structures[k].place, out.structures[k].place
        assert (b.chainage - a.chainage, b.offset - a.offset) == (approx(along), approx(across))
    a, b = FACTS.places[S["EX1"]], analyse(out, FACTS).places[S["EX1"]]
    assert (b.x - a.x) ** 2 + (b.y - a.y) ** 2 == approx(along**2 + across**2, abs=1e-9)
    assert out.pipes is DEMO.pipes


def test_what_is_dragged_takes_the_others_along():
    road = DEMO.structures[S["S4"]].place.road
    at = DEMO.structures[S["S4"]].place
    out = moved_with(
        DEMO, FACTS, S["S4"], replace(at, chainage=at.chainage + 2), [S["S5"], S["EX1"], S["S15"]]
    )
    facts = analyse(out, FACTS)
    assert out.structures[S["S5"]].place.chainage == approx(
        DEMO.structures[S["S5"]].place.chainage + 2
    )
    step = (
        facts.places[S["S4"]].x - FACTS.places[S["S4"]].x,
        facts.places[S["S4"]].y - FACTS.places[S["S4"]].y,
    )
    for label in ("EX1", "S15"):  # one free, one on the other road: by as much in x and y
        a, b = FACTS.places[S[label]], facts.places[S[label]]
        assert (b.x - a.x, b.y - a.y) == (approx(step[0], abs=1e-6), approx(step[1], abs=1e-6))
    assert isinstance(out.structures[S["EX1"]].place, Free)
    assert out.structures[S["S15"]].place.road != road
    with raises(EditError, match="outside the road"):
        moved(DEMO, FACTS, [S["S13"]], 500.0, 0.0)
