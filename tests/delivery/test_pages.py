import numpy as np
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.delivery.places import overlapping, texts_on, window_on, with_delivery
from zumbert.delivery.job import Job
from zumbert.delivery.legend import entries, legend_rows
from zumbert.delivery.pages import leaves, page, room_of, sheet_number
from zumbert.delivery.paper import Box, capitals, paper_size, shortened, unit_of
from zumbert.delivery.plans import tile_sight, tiles
from zumbert.drawing.marks import Inset, Text
from zumbert.drawing.sight import StraightSight
from zumbert.drawing.style import CAPITALS, TEXTS, text_width
from zumbert.edits.sheets import add_sheet, change_sheet, move_sheet, remove_sheet
from zumbert.model.sheet import Delivery, Sheet


def test_labels_are_as_high_on_paper_as_is_asked_for():
    for small in (1.8, 2.5, 3.5):
        unit = unit_of(Delivery(small=small))
        assert TEXTS["sheet"].size * CAPITALS * unit == approx(small)


def test_papers_have_their_sizes():
    assert paper_size(Sheet(id="a", title="", kind="plan", paper="A3")) == (420.0, 297.0)
    assert paper_size(Sheet(id="a", title="", kind="plan", paper="A4", upright=True)) == (
        210.0,
        297.0,
    )
    assert paper_size(
        Sheet(id="a", title="", kind="plan", paper="custom", size=(700.0, 300.0))
    ) == (700.0, 300.0)


def test_a_long_text_is_squeezed_then_shortened():
    wide = text_width("A title of some length", "sheet")
    assert shortened("A title of some length", "sheet", wide) == ("A title of some length", 1.0)
    assert shortened("A title of some length", "sheet", 0.8 * wide) == (
        "A title of some length",
        approx(0.8),
    )
    text, squeeze = shortened("A title of some length", "sheet", 0.4 * wide)
    assert text.endswith("…") and squeeze == approx(0.7)
    assert text_width(text, "sheet") * squeeze <= 0.4 * wide


def test_capitals_take_no_more_room():
    [made] = capitals((Text("sheet", "existing ground", 0.0, 0.0),))
    assert made.text == "EXISTING GROUND"
    assert (
        text_width(made.text, made.role) * made.squeeze
        <= text_width("existing ground", "sheet") + 1e-9
    )
    [inset] = capitals((Inset((Text("sheet", "rim", 0, 0),), 0, 0, 9, 9),))
    assert inset.marks[0].text == "RIM"


def test_pages_are_numbered_through_and_anew(job):
    made = leaves(job)
    assert [leaf.number for leaf in made] == [f"Q-{n:02}" for n in range(1, len(made) + 1)]
    last = list(job.project.sheets)[-1]
    moved = leaves(Job(move_sheet(job.project, last, -9)))
    assert moved[0].sheet.id == last and moved[0].number == "Q-01"
    first = made[0].sheet.id
    assert len(leaves(Job(remove_sheet(job.project, first)))) == len(made) - sum(
        leaf.sheet.id == first for leaf in made
    )


def test_a_pattern_that_means_nothing_gives_the_plain_number():
    assert sheet_number("D-{n:03}", 7) == "D-007"
    assert sheet_number("{m}", 7) == "7"


def test_nothing_lies_outside_the_border_and_all_titles_are_there(job, pages):
    for drawn, leaf in zip(pages, leaves(job), strict=True):
        wide, tall = drawn.units
        texts = texts_on(drawn.marks)
        words = {t.text for t, *_ in texts}
        assert {job.project.name, "AB", "CD", "2026-11-27"} <= words
        assert any(leaf.number in w for w in words)
        for t, _, box, cut in texts:
            x0, y0, x1, y1 = (
                box
                if cut is None
                else (*np.maximum(box[:2], cut[:2]), *np.minimum(box[2:], cut[2:]))
            )
            assert x0 >= -1 and x1 <= wide + 1 and y0 >= -1 and y1 <= tall + 1, t.text


def test_no_texts_overlap_on_the_sheets_of_the_demo(job, pages):
    for drawn in pages:
        texts = texts_on(drawn.marks)
        assert len(texts) > 20
        assert overlapping(texts) == []


def test_the_name_of_a_stratum_keeps_clear_of_the_names_of_parts(job):
    sheet = next(s for s in job.project.sheets.values() if s.kind == "sections")
    for step in (7.0, 13.0, 11.0)[: times(2, 3)]:  # other cuts, so other depths
        there = Job(change_sheet(job.project, sheet.id, step=step), job.facts, job.findings)
        made = leaves(there)
        for leaf in made:
            if leaf.sheet.id == sheet.id:
                texts = texts_on(page(there, leaf, made).marks)
                assert sum(t.text == "Topsoil" for t, *_ in texts) > 0
                assert overlapping(texts) == []


def test_the_legend_names_what_is_on_the_sheet_once(job, pages):
    section = next(
        p
        for p, leaf in zip(pages, leaves(job), strict=True)
        if leaf.sheet.kind == "plan-and-section"
    )
    found = [e.words for e in entries(section.marks)]
    assert {
        "Proposed storm pipe",
        "Structure",
        "Gully",
        "Existing ground",
        "Design level",
        "Limit of land",
    } <= set(found)
    assert len(found) == len(set(found))
    assert "Existing storm pipe" not in found
    rows = legend_rows(entries(section.marks), 300.0)
    assert [e for row in rows for e in row] == entries(section.marks) and len(rows) > 2


def test_a_plan_too_large_for_its_paper_goes_over_tiles_that_cover_it(job):
    project, key = add_sheet(job.project, "plan")
    project = change_sheet(project, key, paper="A4", scale=500.0, turn=0.3)
    sheet, box, unit = (
        project.sheets[key],
        room_of(project, project.sheets[key]),
        unit_of(project.delivery),
    )
    tiled = Job(project)
    made = tiles(tiled, sheet, box, unit)
    assert len(made) > 4
    places = np.array([(p.x, p.y) for p in tiled.facts.places.values()])
    seen = np.zeros(len(places), bool)
    for tile in made:
        at = tile_sight(sheet, tile, box, unit).to_drawing(places)
        seen |= (at >= 0).all(axis=1) & (at <= (box.width, box.height)).all(axis=1)
    assert seen.all()
    every = leaves(tiled)
    mine = [leaf for leaf in every if leaf.sheet.id == key]
    numbers = {leaf.number for leaf in mine}
    for leaf in mine:
        joins = {
            t.text.removeprefix("joins sheet ")
            for t, *_ in texts_on(page(tiled, leaf, every).marks)
            if t.text.startswith("joins")
        }
        assert joins <= numbers - {leaf.number}
    pairs = {(a.part.column, a.part.row): a for a in mine}
    assert len(pairs) == len(mine)


def test_a_window_of_a_plan_is_one_page(job):
    project, key = add_sheet(job.project, "plan")
    place = next(iter(job.facts.places.values()))
    project = change_sheet(project, key, centre=(place.x, place.y), scale=200.0)
    made = [leaf for leaf in leaves(Job(project)) if leaf.sheet.id == key]
    assert len(made) == 1
    box = room_of(project, project.sheets[key])
    sight = tile_sight(project.sheets[key], made[0].part, box, unit_of(project.delivery))
    assert sight.to_drawing(np.array([[place.x, place.y]]))[0] == approx(
        [box.width / 2, box.height / 2]
    )


def test_an_empty_project_has_sheets_without_pages_or_with_empty_ones():
    from zumbert.model.project import new_project

    project, _ = add_sheet(new_project("nothing"), "plan")
    for kind in ("plan-and-section", "sections", "chambers", "tables"):
        project, _ = add_sheet(project, kind)
    empty = Job(project)
    made = leaves(empty)
    assert {leaf.sheet.kind for leaf in made} == {"plan", "tables"}
    for leaf in made:
        assert page(empty, leaf, made).marks


def test_a_label_moved_on_a_sheet_stays_where_it_was_put(job):
    sheet = next(s for s in job.project.sheets.values() if s.kind == "plan-and-section")
    s4 = next(k for k, s in job.project.structures.items() if s.label == "S4")
    every = leaves(job)
    leaf = next(x for x in every if x.sheet.id == sheet.id)
    moved = replace(
        job.project,
        sheets={**job.project.sheets, sheet.id: replace(sheet, labels={s4: (60.0, -50.0)})},
    )
    there = Job(moved, job.facts, job.findings)
    again = leaves(there)
    drawn = page(there, again[leaf.place - 1], again)
    plan, sight = window_on(drawn, StraightSight)
    p = job.facts.places[s4]
    [[x, y]] = sight.to_drawing(np.array([[p.x, p.y]])).tolist()
    [text] = [t for t in plan.marks if isinstance(t, Text) and t.text == "S4"]
    assert (text.x, text.y) == approx((x + 60.0, y - 50.0))
    other = next(x for x in again if x.sheet.kind == "plan")
    general = page(there, other, again)
    assert "S4" in {t.text for t, *_ in texts_on(general.marks)}


def test_a_table_stands_on_a_drawing_and_follows_it(job):
    sheet = next(s for s in job.project.sheets.values() if s.kind == "plan")
    there = Job(
        change_sheet(job.project, sheet.id, tables=("pipes", "crossings")), job.facts, job.findings
    )
    made = leaves(there)
    drawn = page(there, made[0], made)
    texts = texts_on(drawn.marks)
    words = {t.text for t, *_ in texts}
    assert {"Pipes", "Crossings", "P37", "15.10", "1635.768"} <= words
    box = room_of(there.project, sheet)
    head = next(b for t, _, b, _ in texts if t.text == "Pipes")
    assert box.x + box.width / 2 < head[0] and head[3] < box.bottom
    assert "Pipes" not in {
        t.text for t, *_ in texts_on(page(job, leaves(job)[0], leaves(job)).marks)
    }


def test_one_file_prints_in_capitals(job):
    loud = Job(with_delivery(job.project, capitals=True), job.facts, job.findings)
    made = leaves(loud)
    texts = [t for t, *_ in texts_on(page(loud, made[0], made).marks)]
    assert texts and all(t.text == t.text.upper() for t in texts)


def test_a_box_is_what_is_left_inside():
    assert Box(1.0, 2.0, 10.0, 20.0).inside(1, 2, 3, 4) == Box(2.0, 4.0, 6.0, 14.0)
