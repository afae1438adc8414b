import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, grounded, v_project, with_pipe, with_structure
from zumbert.analysis.probe import levels, stops, within
from zumbert.drawing.pins import pin_level, pin_lines, surfaces_named
from zumbert.edits.grounditems import GroundItem, removed
from zumbert.edits.join import curved, deleted, split
from zumbert.edits.land import add_service
from zumbert.edits.notes import add_pin, change_pin
from zumbert.edits.setup import add_background
from zumbert.errors import EditError
from zumbert.geometry.segments import crossed_at
from zumbert.model.background import Background
from zumbert.model.ids import PipeId
from zumbert.model.structure import Free

# A to B, 60 m, DN 300 wall 45 mm, inverts 28.500 and 28.200; ground V-shaped, 29.000 in the middle
V = v_project()


def test_the_levels_in_the_middle_of_the_worked_example():
    at = levels(facts_of(V).pipes["P1"], facts_of(V), 30.0)
    assert (at.invert, at.centre, at.crown) == (approx(28.35), approx(28.5), approx(28.65))
    assert (at.top, at.underside) == (approx(28.695), approx(28.305))
    assert (at.ground, at.design, at.chainage) == (approx(29.0), None, None)
    assert at.cover == approx(0.305)
    assert (at.x, at.y) == (30.0, 0.0)


@given(st.floats(-50, 150))
def test_it_stops_at_the_inner_walls(distance):
    f = facts_of(V).pipes["P1"]
    s = levels(f, facts_of(V), distance).distance
    assert 0.6 <= s <= 59.4
    assert s == within(f, distance)
    if 0.6 <= distance <= 59.4:
        assert s == distance


def test_inverts_at_walls_are_those_at_the_walls():
    walls = replace(V, settings=replace(V.settings, invert_basis="walls"))
    f = facts_of(walls).pipes["P1"]
    assert levels(f, facts_of(walls), 0.0).invert == approx(28.5)
    assert levels(f, facts_of(walls), 60.0).invert == approx(28.2)


def test_what_crosses_a_pipe_is_named_where_it_does():
    p = chain([(48.0, 47.5), (47.4, 47.0)])
    p = with_structure(with_structure(p, "X", 20, -30), "Y", 40, 30)
    p = with_pipe(p, "PX", "X", "Y", 46.0, 45.0)  # crosses y = 0 at x = 30
    p, _ = add_service(p, "water", [(12.0, -5.0, 47.0), (12.0, 5.0, 47.0)])
    found = stops(facts_of(p), PipeId("P1"))
    assert found == [
        (approx(0.6), "wall of S1"),
        (approx(12.0), "W1 water"),
        (approx(30.0), "PX DN 300"),
        (approx(49.4), "wall of S2"),
    ]
    assert [name for _, name in stops(facts_of(p), PipeId("P2"))] == ["wall of S2", "wall of S3"]


def test_a_pin_on_an_arc_goes_by_its_length_and_follows_the_design():
    p = curved(V, facts_of(V), "P1", Free(30.0, 12.0))
    facts = facts_of(p)
    long = facts.spans["P1"].length
    p = add_pin(p, facts, "P1", long / 2)
    [pin] = p.pins.values()
    at = levels(facts.pipes["P1"], facts, pin.at)
    assert (at.x, at.y) == (approx(30.0), approx(12.0))
    assert at.invert == approx(28.35)
    lower = replace(p, pipes={**p.pipes, "P1": replace(p.pipes["P1"], invert_down=28.0)})
    assert levels(facts_of(lower).pipes["P1"], facts_of(lower), pin.at).invert == approx(28.25)


def test_pins_go_with_their_half_when_a_pipe_is_split_and_with_it_when_it_goes():
    p = add_pin(add_pin(V, facts_of(V), "P1", 10.0), facts_of(V), "P1", 50.0)
    made = split(p, facts_of(p), PipeId("P1"), 30.0, "manhole-1200")
    first, second = made.project.pins.values()
    assert (first.pipe, first.at) == ("P1", 10.0)
    assert (second.pipe != "P1", second.at) == (True, approx(20.0))
    gone, _ = deleted(p, facts_of(p), frozenset(), frozenset({PipeId("P1")}))
    assert gone.pins == {}


def test_what_a_pin_says_is_chosen_and_nonsense_refused():
    p = add_pin(V, facts_of(V), "P1", 10.0)
    [key] = p.pins
    p = change_pin(p, key, fields=("crown", "cover"), words={"crown": "CL"}, decimals=2)
    like = add_pin(p, facts_of(p), "P1", 20.0, p.pins[key])
    assert next(reversed(like.pins.values())).words == {"crown": "CL"}
    for values, says in (
        ({"fields": ()}, "says one thing at least"),
        ({"decimals": 9}, "0 to 6 decimals"),
    ):
        with pytest.raises(EditError, match=says):
            change_pin(p, key, **values)
    with pytest.raises(EditError, match=r"P1 is 60\.00 m long"):
        add_pin(p, facts_of(p), "P1", 61.0)
    assert removed(p, GroundItem("pin", key)).pins == {}


def test_a_pin_tells_inside_or_the_outer_wall_and_cover_from_a_chosen_surface():
    p = grounded([(-20, 33.0), (80, 33.0)], "rock", V)
    p = add_pin(p, facts_of(p), "P1", 10.0, cover_from="rock")
    [key] = p.pins
    p = change_pin(p, key, fields=("invert", "crown", "cover"), words={"cover": "rock over it"})
    facts = facts_of(p)
    f = facts.pipes["P1"]
    # at 10 m: invert 28.500 - 0.005 * 10 = 28.450, D 0.300, t 0.045: outside top 28.795, rock
    # 33.000
    assert [t for _, t in pin_lines(f, facts, p.pins[key])] == [
        "invert 28.450",
        "crown 28.750",
        "rock over it 4.205",
    ]
    assert pin_level(f, facts, p.pins[key]) == approx(28.45)
    outer = change_pin(p, key, outer=True).pins[key]
    assert [t for _, t in pin_lines(f, facts, outer)] == [
        "underside 28.405",
        "outside top 28.795",
        "rock over it 4.205",
    ]
    assert pin_level(f, facts, outer) == approx(28.405)
    assert [k for k, _ in surfaces_named(facts)] == ["reference", "existing", "rock"]


@given(st.floats(-5, 5), st.floats(-5, 5), st.floats(-5, 5), st.floats(-5, 5))
def test_a_crossing_lies_on_both_lines(x0, y0, x1, y1):
    line, at = np.array([(0.0, -4.0), (0.0, 0.0), (3.0, 4.0)]), np.array([0.0, 4.0, 9.0])
    s, which = crossed_at(line, at, np.array([(x0, y0, x1, y1)]))
    for d, j in zip(s.tolist(), which.tolist(), strict=True):
        x, y = np.interp(d, at, line[:, 0]), np.interp(d, at, line[:, 1])
        off = (x1 - x0) * (y - y0) - (y1 - y0) * (x - x0)
        assert j == 0
        assert abs(off) <= 1e-6 * max(1.0, np.hypot(x1 - x0, y1 - y0))


def test_it_stops_where_a_line_of_a_drawing_that_is_shown_crosses():
    lines = np.array([(20.0, -5.0, 20.0, 5.0), (40.0, -5.0, 40.0, 5.0), (50.0, 1.0, 50.0, 5.0)])
    drawn = Background(
        id="",
        name="others",
        layers=("kerb", "wall"),
        segments=lines,
        layer=np.array([0, 1, 0], np.int32),
    )
    p = add_background(V, drawn)
    assert [(s, n) for s, n in stops(facts_of(p), "P1") if "line" in n] == [
        (approx(20.0), "line of kerb"),
        (approx(40.0), "line of wall"),
    ]
    off = replace(next(iter(p.backgrounds.values())), off=frozenset({"wall"}))
    p = replace(p, backgrounds={off.id: off})
    assert [n for _, n in stops(facts_of(p), "P1") if "line" in n] == ["line of kerb"]
