"""Whole pieces of work at the desk, with real keys and a real mouse."""

import pytest

from zumbert.demo.make import FILES
from zumbert.store import load, save


def at_level(desk, up="S5", down="S4"):
    """The stage Levels, with a pipe picked by a click in the long section."""
    desk.key("alt", "3")
    desk.ask(f"w.going.to_thing(pipe('{up}', '{down}').id)")
    desk.on(f"along(pipe('{up}', '{down}').id, 0.3, w.section)")
    desk.until("ring('down')")


@pytest.mark.parametrize(
    "keys", [["shift"], ["Up"], ["Down"], ["Tab"], ["shift", "Tab"], ["F5"], ["Page_Up"], ["Alt_L"]]
)
def test_no_key_in_the_open_entry_line_ends_the_program(desk, keys):
    at_level(desk)
    desk.type("40.5")
    desk.until("w.section.entry.field.text() == '40.5'")
    for key in keys if keys == ["shift"] else ():
        desk.do("down", "Shift_L")
        desk.do("up", "Shift_L")
        assert key == "shift"
    if keys != ["shift"]:
        desk.key(*keys)
    assert desk.ask("w.section.entry.field.text()") == "40.5"
    desk.enter("1")
    desk.until("abs(pipe('S5', 'S4').invert_down - 40.51) < 1e-9 and not s.previewing")


def test_a_run_is_laid_with_a_split(desk):
    desk.key("l")
    desk.until("w.toolbox.tool.kind == 'lay'")
    lead = desk.ask("pipe('S5', 'S4').id")
    x, y = desk.until(f"along('{lead}', 0.5)")
    # as a hand comes to rest
    for dx, dy in ((-4, -3), (-2, -1), (-1, 0), (0, 0), (1, 0), (1, 1), (0, 1), (0, 0)):
        desk.move(x + dx, y + dy)
    assert desk.ask("w.plan.entry.aside.text()").startswith(("Into", "Square onto"))
    desk.click(x, y)
    desk.until(
        f"'{lead}' not in project.pipes or len(project.pipes) > "
        "len(w.session.history.past[-1].value.project.pipes)"
    )
    made = desk.ask("w.session.history.undo_name").split()[1]
    assert desk.ask(f"pipe('S5', '{made}').size == pipe('{made}', 'S4').size")
    before = desk.ask("len(project.structures)")
    desk.move(x + 60, y + 40, 5)
    desk.enter("305 -6.5")
    desk.until(f"len(project.structures) == {before + 1} and not w.plan.typing")
    desk.enter("=S5 8")
    desk.until(f"len(project.structures) == {before + 2}")
    desk.key("Escape")
    desk.key("Escape")
    desk.until("w.toolbox.tool.kind == ''")
    assert desk.ask("fresh_equal()") == ""


def test_levels_are_typed_and_dragged(desk):
    at_level(desk)
    desk.enter("1:80")
    desk.until("abs(s.current.facts.pipes[pipe('S5', 'S4').id].slope - 1 / 80) < 1e-12")
    down = desk.ask("pipe('S5', 'S4').invert_down")
    desk.enter("+0.15")
    desk.until(f"abs(pipe('S5', 'S4').invert_down - {down + 0.15}) < 1e-9")
    x, y = desk.until("ring('down')")
    desk.drag((x, y), (x, y + 30), held=("alt",))
    desk.until(f"pipe('S5', 'S4').invert_down < {down + 0.15} and not s.previewing")
    steps = desk.ask("len(w.session.history.undo_names)")
    desk.key("ctrl", "z")
    desk.until(f"len(w.session.history.undo_names) == {steps - 1}")
    for key in (("ctrl", "z"), ("Delete",)):  # in the middle of a drag
        x, y = desk.until("ring('down')")
        desk.drag((x, y), (x, y + 20), release=False)
        assert desk.ask("s.previewing")
        desk.key(*key)
        desk.until("not s.previewing and s.chosen.hand is None or not s.chosen.hand.dragging")
        kept = desk.ask("str(id(project))")
        desk.move(x, y + 40, 3)
        desk.do("release", "left")
        assert desk.ask("str(id(project))") == kept


def test_a_command_from_the_list_runs_once_and_the_keyboard_comes_back(desk):
    at_level(desk)
    desk.key("ctrl", "k")
    desk.type("dark")
    desk.key("Down")
    desk.key("Return")
    desk.until("w.pen.theme == 'dark' and focus() == 'section'")
    desk.key("ctrl", "k")
    desk.enter("light or")
    desk.until("w.pen.theme == 'light' and focus() == 'section'")
    desk.key("ctrl", "k")
    desk.enter("straighten the")  # the sole one that fits
    desk.until("not s.look.straight")
    desk.key("ctrl", "k")
    desk.key("Escape")
    desk.until("focus() == 'section'")
    desk.enter("40.5")
    desk.until("pipe('S5', 'S4').invert_down == 40.5")


def test_a_file_is_saved_the_program_killed_and_the_work_recovered(desks):
    desk = desks("demo")
    file = desk.home / "school road.zumbert"
    desk.key("ctrl", "s")
    desk.asked()
    desk.key("ctrl", "a")
    desk.enter(str(file))
    desk.until("s.file.saved and s.file.path is not None")
    assert file.exists()
    at_level(desk)
    desk.enter("40.5")
    desk.until(
        "pipe('S5', 'S4').invert_down == 40.5 and 'nsaved' in w.windowTitle() or not s.file.saved"
    )
    desk.until(
        "w.autosave.recovery is not None and w.autosave.recovery.file.with_suffix('.json').exists()"
    )
    desk.kill()
    again = desks(str(file))
    again.asked()
    again.on("button('Recover')")
    again.until("len(project.pipes)")
    again.until("pipe('S5', 'S4').invert_down == 40.5 and not s.file.saved")
    again.key("ctrl", "s")
    again.until("s.file.saved")
    pipes = load(file).pipes.values()
    assert any(p.invert_down == 40.5 for p in pipes)


def test_two_windows_on_one_file(desks, tmp_path):
    first = desks("demo")
    file = first.home / "shared.zumbert"
    save(__import__("zumbert.demo.project", fromlist=["x"]).demo_project(), file)
    first.ask(f"w.files.open_file(__import__('pathlib').Path({str(file)!r}))")
    second = desks(str(file))
    second.until("s.file.look_only and w.head.looks.isVisible()")
    first.end()
    second.until("w.head.looks.text() == 'Reload'")
    second.on("middle(w.head.looks)")
    second.until("not s.file.look_only")


def test_a_run_is_regraded_in_its_strip(desk):
    desk.key("alt", "3")
    desk.key("r")
    desk.ask("w.session.set(straight=False) or w.plan.fit_map()")
    for label in ("S14", "S17"):
        desk.on(f"structure('{label}')")
    desk.until("w.acts('levels').strip.isVisible() and focus() == 'regrade start'")
    before = desk.ask("w.session.history.undo_name")
    desk.key("Return")  # at once: nothing changes
    desk.until("not w.acts('levels').strip.isVisible()")
    assert desk.ask("w.session.history.undo_name") == before
    desk.key("r")
    desk.until("w.acts('levels').strip.isVisible() and focus() == 'regrade start'")
    desk.key("Tab")
    desk.until("focus() == 'regrade slope'")
    desk.key("ctrl", "a")
    desk.type("-2.5%")
    desk.until("s.previewing and 'breach' in w.acts('levels').strip.says.text()")
    desk.key("Return")
    desk.until(
        "w.session.history.undo_name == 'Regrade S14 to S17' and focus() in ('plan', 'section')"
    )
    desk.key("ctrl", "z")
    desk.until("w.session.history.undo_name is None")


def test_a_table_is_opened_filtered_and_typed_over(desk):
    desk.key("ctrl", "t")
    desk.until("w.centre.tables_open and app.focusWidget() is w.centre.tables.table")
    desk.on("middle(named('Filter of the table'))")
    desk.type("S5")
    desk.until("w.centre.tables.table.model().rowCount() < 5")
    cell = (
        "(lambda t: at(t.viewport(), *t.visualRect(t.model().index(0, "
        "0)).center().toTuple()))(w.centre.tables.table)"
    )
    desk.double(*desk.until(cell))
    desk.until("app.focusWidget() is not None and type(app.focusWidget()).__name__ == 'QLineEdit'")
    desk.key("ctrl", "a")
    desk.enter('S5 "a"')
    desk.until("""any(r.label == 'S5 "a"' for r in project.structures.values())""")
    desk.key("Escape")
    desk.until("not w.centre.tables_open")
    desk.key("ctrl", "z")
    desk.until("any(r.label == 'S5' for r in project.structures.values())")


def test_files_are_imported_after_a_summary(desk):
    files = (
        FILES / "services.csv"
        if (FILES / "services.csv").exists()
        else next(iter(sorted(FILES.glob("*.dxf"))))
    )
    desk.key("ctrl", "i")
    desk.asked()
    desk.key("ctrl", "a")
    desk.enter(str(files))
    desk.asked("import")
    desk.on("button('Cancel')")
    desk.until("app.activeModalWidget() is None and w.session.history.undo_name is None")
    desk.key("ctrl", "i")
    desk.asked()
    desk.enter(str(files))
    desk.asked("import")
    desk.on("button('Import')")
    desk.until("app.activeModalWidget() is None and w.session.history.undo_name is not None")
    desk.key("ctrl", "z")
    desk.until("w.session.history.undo_name is None and fresh_equal() == ''")


def test_a_right_click_and_a_double_click(desk):
    desk.key("s")
    desk.until("not s.look.straight")
    x, y = desk.until("structure('S10')")
    desk.click(x, y, button="right")
    desk.until("app.activePopupWidget() is not None")
    desk.on("entry('Show in both drawings')")
    desk.until("app.activePopupWidget() is None and w.plan.scale_ratio() <= 600")
    assert desk.ask("[project.structures[k].label for k in s.chosen.structures]") == ["S10"]
    desk.ask("w.plan.fit_map()")
    desk.double(*desk.until("along(pipe('S10', 'S9').id, 0.5)"))
    desk.until("w.plan.scale_ratio() <= 600 and len(s.chosen.pipes) == 1")
    desk.key("F1")
    desk.asked("help")
    desk.key("Escape")
    desk.answered()


def test_a_drawing_is_placed_by_two_pairs_typed_and_clicked(desk):
    setup, build = (
        "__import__('zumbert.edits.setup', fromlist=['x'])",
        "__import__('tests.build', fromlist=['x'])",
    )
    site = f"{build}.drawn('site', ('A',), [(0, 0, 10, 0)], [0])"
    desk.ask(f"w.session.edit('Import', lambda p, f: {setup}.add_background(p, {site}))")
    desk.key("alt", "1")
    things = "__import__('zumbert.edits.grounditems', fromlist=['x'])"
    desk.ask(
        f"w.session.pick({things}.GroundItem('background', next(reversed(project.backgrounds))))"
    )
    before = desk.ask("list(project.backgrounds.values())[-1].segments")
    desk.action("place a drawing")
    desk.until("'then where that goes' in told() and focus() == 'plan'")
    x, y = desk.until("middle(w.plan)")
    desk.move(x, y, 5)
    desk.enter("0,0")
    desk.enter("1450,900")
    desk.until("s.previewing")
    desk.enter("10,0")
    desk.move(x + 40, y + 20, 6)
    desk.wheel(x + 40, y + 20, 1)  # the wheel in between
    desk.click(x + 60, y + 21)
    desk.until("w.session.history.undo_name == 'Place site' and not s.previewing")
    placed = desk.ask("list(project.backgrounds.values())[-1].segments")
    assert placed[0][:2] == [1450.0, 900.0] and placed != before
    desk.key("Escape")
    desk.key("ctrl", "z")
    desk.until(f"list(project.backgrounds.values())[-1].segments.tolist() == {before}")


def test_sizes_and_slopes_are_typed_into_the_table(desk):
    desk.key("ctrl", "t")
    desk.until("w.centre.tables_open")
    desk.on("button('Pipes')")
    table = "w.centre.tables.table"
    desk.until(f"{table}.kind == 'pipes'")

    def cell(head):
        row = f"next(i for i, t in enumerate({table}.records.texts) if t[0] == 'P5')"
        column = (
            f"next(i for i, c in enumerate({table}.records.table.columns) if c.head == {head!r})"
        )
        index = f"{table}.proxy.mapFromSource({table}.records.index({row}, {column}))"
        desk.ask(f"{table}.scrollTo({index})")
        return desk.ask(f"at({table}.viewport(), *{table}.visualRect({index}).center().toTuple())")

    for text in ("225", "375", "150"):
        desk.click(*cell("DN"))
        desk.enter(text)
        desk.until(f"pipe('S5', 'S4').size == {text!r}")
    desk.click(*cell("DN"))
    desk.key("F2")
    desk.key("alt", "Down")
    desk.until("app.activePopupWidget() is not None")
    desk.key("Down")
    desk.key("Return")
    desk.until("pipe('S5', 'S4').size == '225'")
    desk.click(*cell("Slope"))
    desk.enter("0.0125")
    desk.until("abs(s.current.facts.pipes[pipe('S5', 'S4').id].slope - 0.0125) < 1e-9")
    desk.click(*cell("Invert up"))
    desk.enter("c1.4")
    desk.until("abs(s.current.facts.pipes[pipe('S5', 'S4').id].cover.least - 1.4) < 1e-6")
    assert len(desk.ask("w.session.history.undo_names")) == 6
    assert desk.errors == ""
