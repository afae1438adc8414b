import pytest
from msgspec.structs import replace

from tests.build import facts_of
from zumbert.demo.project import demo_project
from zumbert.edits.ground import own_origins
from zumbert.edits.records import pipe_labelled, structure_labelled, with_pipe, with_structure
from zumbert.errors import ReadError
from zumbert.exchange.csv import write_csv
from zumbert.exchange.readback import read_back, taken
from zumbert.exchange.tables import pipe_table, structure_table
from zumbert.exchange.xlsx import write_xlsx
from zumbert.geometry.placing import Placing, by_pairs

DEMO = demo_project()
FACTS = facts_of(DEMO)


def found(tmp_path, text, project=DEMO):
    path = tmp_path / "back.csv"
    path.write_text(text, encoding="utf-8")
    return read_back(project, facts_of(project), path)


@pytest.mark.parametrize("system", ["metric", "us"])
def test_a_schedule_read_back_as_it_was_written_differs_in_nothing(tmp_path, system):
    project = replace(
        DEMO, settings=replace(DEMO.settings, units=replace(DEMO.units, system=system))
    )
    facts = facts_of(project)
    tables = structure_table(facts), pipe_table(facts)
    for table in tables:
        write_csv(tmp_path / "t.csv", table)
        assert read_back(project, facts, tmp_path / "t.csv") == ((), ())
    write_xlsx(tmp_path / "t.xlsx", tables)
    assert read_back(project, facts, tmp_path / "t.xlsx") == ((), ())


def test_sizes_levels_and_places_are_listed_and_the_chosen_ones_taken(tmp_path):
    lead, s4 = pipe_labelled(DEMO, "P5"), structure_labelled(DEMO, "S4")
    other = with_pipe(DEMO, lead.id, size="375", invert_up=lead.invert_up - 0.1)
    other = with_structure(other, s4.id, place=replace(s4.place, chainage=95.0, offset=0.5))
    write_xlsx(tmp_path / "t.xlsx", (structure_table(facts_of(other)), pipe_table(facts_of(other))))
    back = read_back(DEMO, FACTS, tmp_path / "t.xlsx")
    told = {(d.label, d.title): (d.now, d.file) for d in back.differences}
    assert told[("P5", "DN")] == ("DN 300", "DN 375")
    assert told[("P5", "Invert up")] == ("41.169", "41.069")
    assert told[("S4", "Chainage")] == ("0+096.00", "0+095.00")
    assert told[("S4", "Offset")] == ("+1.10", "+0.50")
    chosen = [d for d in back.differences if d.title != "DN"]
    made = taken(DEMO, FACTS, chosen)
    assert made.pipes[lead.id].size == "300"
    assert made.pipes[lead.id].invert_up == pytest.approx(lead.invert_up - 0.1, abs=1e-9)
    assert (made.structures[s4.id].place.chainage, made.structures[s4.id].place.offset) == (
        95.0,
        0.5,
    )
    untouched = [k for k, p in DEMO.pipes.items() if made.pipes[k] is not p]
    assert untouched == [lead.id]


def test_what_is_held_is_told_and_stays(tmp_path):
    lead = pipe_labelled(DEMO, "P5")
    held = with_pipe(DEMO, lead.id, hold_up=True, hold_down=True, hold_size=True)
    back = found(
        tmp_path, "label,from,to,size,invert_up,invert_down\nP5,S5,S4,375,40.0,39.0\n", held
    )
    assert [(d.title, d.held) for d in back.differences] == [
        ("DN", True),
        ("Invert up", True),
        ("Invert down", True),
    ]
    assert taken(held, facts_of(held), back.differences) is held


def test_labels_that_match_nothing_are_told_and_nothing_is_done_with_them(tmp_path):
    back = found(
        tmp_path, "Pipe;From;To;DN (mm);Invert up (m)\nP99;S1;S2;300;40,5\nP5;S9;S4;300;41,169\n"
    )
    assert back.differences == ()
    assert back.notes[0] == "P5 goes from S9 in the file, here from S5: not taken."
    assert back.notes[1] == "No pipe here is called P99: passed over."
    assert back.notes[2].startswith("Not in the file, and left as they are: P1, P2, P3, P4 and ")


def test_x_and_y_of_a_structure_on_a_road_become_chainage_and_offset(tmp_path):
    s4 = structure_labelled(DEMO, "S4")
    x, y = (float(v) for v in FACTS.roads[s4.place.road].alignment.point(90.0, 2.0))
    back = found(tmp_path, f"Structure,x (m),y (m)\nS4,{x:.4f},{y:.4f}\n")
    made = taken(DEMO, FACTS, back.differences)
    place = made.structures[s4.id].place
    assert (place.chainage, place.offset) == (
        pytest.approx(90.0, abs=1e-3),
        pytest.approx(2.0, abs=1e-3),
    )


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "is empty: its first row needs"),
        ("a,b\n1,2\n", "row 1: these are no heads of a schedule"),
        ("Pipe,From,To,Invert up (m)\n,S1,S2,40\n", "row 2: the label is missing"),
        (
            "Pipe,From,To,Invert up (m)\nP5,S5,S4,deep\n",
            'row 2: Invert up is "deep", which is no number',
        ),
        (
            "Pipe,From,To,DN (mm)\nP5,S5,S4,333\n",
            'row 2: there is no pipe size "333 concrete" in the library',
        ),
        ("Pipe,From,To\nP5,S5,S4\nP5,S5,S4\n", 'row 3: "P5" comes twice'),
        ("Structure,x (m),y (m)\nS4,0,0\n", "row 2: S4 would stand beyond the end of its road"),
    ],
)
def test_a_bad_file_gets_one_sentence(tmp_path, text, says):
    with pytest.raises(ReadError) as e:
        found(tmp_path, text)
    assert says in str(e.value)


def test_a_damaged_spreadsheet_gets_one_sentence(tmp_path):
    (tmp_path / "t.xlsx").write_bytes(b"PK\x03\x04 nothing")
    with pytest.raises(ReadError, match="could not be read as a spreadsheet"):
        read_back(DEMO, FACTS, tmp_path / "t.xlsx")


def at_an_origin(turned):
    """The demo with its ground placed: a third of a right angle, 1 mm in 1 m longer, shifted;
    and the other way round.
    """
    placing = by_pairs(
        [((0.0, 0.0), (500.0, 20.0)), ((100.0, 0.0), (500.0 + 86.7, 20.0 + turned * 50.0))]
    )
    ground = next(iter(DEMO.surfaces.values()))
    return placing, replace(
        DEMO, surfaces={**DEMO.surfaces, ground.id: replace(ground, placing=placing)}
    )


@pytest.mark.parametrize("turned", [1, -1])
@pytest.mark.parametrize("written", ["csv", "xlsx"])
def test_coordinates_go_out_at_the_origin_of_a_source_and_come_back(tmp_path, written, turned):
    placing, project = at_an_origin(turned)
    path, write = (
        tmp_path / f"t.{written}",
        write_csv if written == "csv" else lambda p, t: write_xlsx(p, (t,)),
    )
    table = structure_table(facts_of(project), "Existing ground")
    assert [c.title for c in table.columns[5:7]] == [
        "x in Existing ground (m)",
        "y in Existing ground (m)",
    ]
    ex1 = structure_labelled(project, "EX1")
    row = next(r for r in table.rows if r[0] == "EX1")
    # the placing as its definition has it: x' = a x - b y + x0
    assert placing.a * row[5] - placing.b * row[6] + placing.x == pytest.approx(
        ex1.place.x, abs=1e-9
    )
    write(path, table)
    assert read_back(project, facts_of(project), path) == ((), ())
    other = with_structure(project, ex1.id, place=replace(ex1.place, x=ex1.place.x + 0.25))
    write(path, structure_table(facts_of(other), "Existing ground"))
    back = read_back(project, facts_of(project), path)
    assert {d.label for d in back.differences} == {"EX1"}
    made = taken(project, facts_of(project), back.differences).structures[ex1.id].place
    assert (made.x, made.y) == pytest.approx((ex1.place.x + 0.25, ex1.place.y), abs=1.5e-3)
    with pytest.raises(
        ReadError,
        match='at the origin of "existing ground", and nothing of that name is placed here',
    ):
        read_back(DEMO, FACTS, path)


def test_two_sources_of_one_name_keep_their_own_origins():
    placing, project = at_an_origin(1)
    other = replace(
        list(DEMO.surfaces.values())[1], name="Existing ground", placing=Placing(1.0, 0.0, 7.0, 0.0)
    )
    both = replace(project, surfaces={**project.surfaces, other.id: other})
    assert own_origins(both) == {
        "Existing ground": placing,
        f"Existing ground, {other.id}": other.placing,
    }
