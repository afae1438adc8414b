"""A typed text means the same wherever it is typed, and the same levels are refused wherever
they come in.
"""

import pytest
from pytest import approx

from tests.build import facts_of
from zumbert.demo.project import demo_project
from zumbert.edits.change import set_rim
from zumbert.edits.fields import set_field
from zumbert.edits.land import add_service
from zumbert.edits.levels import set_invert
from zumbert.edits.roads import set_pvis
from zumbert.edits.typed import changed_by, typed_levels
from zumbert.errors import EditError, ReadError
from zumbert.exchange.importing import import_files
from zumbert.geometry.profile import Pvi
from zumbert.model.display import METRIC, Units
from zumbert.model.structure import FixedRim

DEMO = demo_project()
PIPE = next(
    p.id
    for p in DEMO.pipes.values()
    if (DEMO.structures[p.up].label, DEMO.structures[p.down].label) == ("S5", "S4")
)


@pytest.mark.parametrize(
    "text", ["41.5", "+0.05", "=41.5", "41.2+0.3", "1:50", "2.5%", "c0.9", "C1.1", "c+0.2"]
)
@pytest.mark.parametrize("end", ["up", "down"])
def test_a_field_of_an_end_takes_what_the_entry_line_takes(end, text):
    facts = facts_of(DEMO)
    assert (
        set_field(DEMO, facts, PIPE, f"invert_{end}", text).pipes[PIPE]
        == typed_levels(DEMO, facts, PIPE, end, text).pipes[PIPE]
    )


@pytest.mark.parametrize(
    ("text", "least"), [("1.4", 1.4), ("c1.4", 1.4), ("C1.4", 1.4), ("+0.2", None), ("c+0.2", None)]
)
def test_a_cover_is_a_value_or_a_step_from_the_one_there_is(text, least):
    facts = facts_of(DEMO)
    made = set_field(DEMO, facts, PIPE, "cover", text)
    assert facts_of(made).pipes[PIPE].cover.least == approx(
        least or facts.pipes[PIPE].cover.least + 0.2
    )


@pytest.mark.parametrize("text", ["=4O.2", "+O.1", "\u2212O.1", "Deep"])
def test_what_is_refused_is_quoted_as_it_was_typed(text):
    with pytest.raises(EditError, match=r"is no number") as told:
        changed_by(text, 41.0, METRIC)
    assert str(told.value).startswith(f'"{text}"')


def test_a_cover_is_quoted_whole_and_a_step_of_it_is_one_at_a_ring_too():
    facts = facts_of(DEMO)
    with pytest.raises(EditError, match='^"cO.9"'):
        set_field(DEMO, facts, PIPE, "cover", "cO.9")
    made = typed_levels(DEMO, facts, PIPE, "mid", "c+0.2")
    assert facts_of(made).pipes[PIPE].cover.least == approx(facts.pipes[PIPE].cover.least + 0.2)


@pytest.mark.parametrize(("text", "said"), [("C0.9x", '"C0.9x"'), (" 41.X ", '"41.X"')])
def test_so_it_is_at_a_ring(text, said):
    with pytest.raises(EditError) as told:
        typed_levels(DEMO, facts_of(DEMO), PIPE, "up", text)
    assert str(told.value).startswith(said)


def read(level, tmp_path):
    """A list of structures with a rim at a level."""
    path = tmp_path / "structures.csv"
    path.write_text(
        f"label,type,x,y,rim,service,status,network\nQ1,manhole-1200,1500,1000,{level},storm,proposed,N\n"
    )
    return import_files("q", structures=path)


WAYS = {
    "an invert": lambda z, tmp: set_invert(DEMO, PIPE, "up", z),
    "a rim": lambda z, tmp: set_rim(DEMO, next(iter(DEMO.structures)), FixedRim(z)),
    "a profile": lambda z, tmp: set_pvis(
        DEMO, next(iter(DEMO.roads)), 0, [Pvi(0.0, 40.0), Pvi(420.0, z)]
    ),
    "a service": lambda z, tmp: add_service(DEMO, "water", [(0.0, 0.0, z), (9.0, 9.0, 40.0)]),
    "a file": read,
}


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("level", [9000.01, -500.01, 1e6])
def test_a_level_that_no_land_has_is_refused_by_each_way_in(way, level, tmp_path):
    with pytest.raises((EditError, ReadError), match=r"level"):
        WAYS[way](level, tmp_path)


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("level", [9000.0, -500.0])
def test_the_highest_and_the_lowest_land_are_taken(way, level, tmp_path):
    WAYS[way](level, tmp_path)


def test_the_bounds_are_told_in_the_unit_of_the_project():
    from zumbert.model.levels import on_land

    with pytest.raises(
        EditError,
        match=r"10000\.000 m is no level: land lies between \u2212500 and 9,000 m above datum",
    ):
        on_land(10_000.0, METRIC)
    with pytest.raises(
        EditError, match=r"ft is no level: land lies between \u22121,640 and 29,528 ft above datum"
    ):
        on_land(10_000.0, Units(system="us"))
