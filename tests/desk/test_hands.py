"""Single gestures with real keys and a real mouse that events sent to widgets did not see fail."""


def laying(desk):
    desk.key("l")
    desk.until("w.toolbox.tool.kind == 'lay'")
    desk.move(*desk.ask("middle(w.plan)"))


def test_after_a_choice_by_mouse_typing_goes_to_the_tool(desk):
    laying(desk)
    before = desk.ask("len(project.structures)")
    desk.on("middle(named('next size'))")
    desk.until("app.activePopupWidget() is not None")
    desk.key("Down")
    desk.key("Return")
    desk.until("app.activePopupWidget() is None and focus() in ('plan', 'section')")
    desk.on("button('Upstream')")
    desk.until("w.toolbox.tool.way.up and focus() in ('plan', 'section')")
    desk.enter("305 -6.5")
    desk.until(f"len(project.structures) == {before + 1}")
    desk.on("middle(named('lay start'))")
    desk.enter("41.5")
    desk.until("w.toolbox.tool.way.start == 41.5 and focus() in ('plan', 'section')")
    desk.key("ctrl", "z")
    desk.until(f"len(project.structures) == {before}")


def test_a_value_typed_in_the_panel_is_undone_by_its_key(desk):
    desk.key("alt", "3")
    desk.ask("w.going.to_thing(pipe('S5', 'S4').id)")
    was = desk.ask("pipe('S5', 'S4').invert_up")
    desk.on("middle(w.side.panel.rows['invert_up'].field)")
    desk.key("ctrl", "a")
    desk.enter("41.9")
    desk.until("pipe('S5', 'S4').invert_up == 41.9")
    desk.key("ctrl", "z")
    desk.until(f"pipe('S5', 'S4').invert_up == {was}")
    desk.on("middle(w.side.panel.rows['invert_up'].field)")
    desk.key("ctrl", "a")
    desk.enter("4x")  # refused: it stays to be mended
    assert desk.ask("w.side.panel.rows['invert_up'].field.text()") == "4x"
    desk.key("Escape")
    desk.until("focus() in ('plan', 'section')")


def test_the_keyboard_comes_back_after_the_run_picker(desk):
    desk.on("middle(w.head.picker)")
    desk.until("app.activePopupWidget() is not None")
    desk.key("Down")
    desk.key("Down")
    desk.key("Return")
    desk.until("app.activePopupWidget() is None and focus() in ('plan', 'section')")
    desk.key("ctrl", "r")
    desk.until("app.activePopupWidget() is not None")
    desk.key("Escape")
    desk.until("focus() in ('plan', 'section')")


def test_the_entry_line_lets_the_mouse_through_and_keeps_out_of_its_way(desk):
    laying(desk)
    x, y = desk.ask("middle(w.plan)")
    desk.move(x - 100, y)
    desk.until("w.plan.entry.isVisible()")
    desk.type("305 -")
    box = desk.ask(
        "(lambda g: [*at(w.plan, g.x(), g.y()), g.width(), g.height()])(w.plan.entry.geometry())"
    )
    inside = box[0] + box[2] // 2, box[1] + box[3] // 2
    desk.move(*inside, 12)
    box = desk.ask(
        "(lambda g: [*at(w.plan, g.x(), g.y()), g.width(), g.height()])(w.plan.entry.geometry())"
    )
    assert not (box[0] <= inside[0] <= box[0] + box[2] and box[1] <= inside[1] <= box[1] + box[3])
    assert desk.ask("w.plan.entry.field.text()") == "305 -"
    desk.key("Escape")  # the text alone
    assert desk.ask("w.toolbox.tool.kind") == "lay"
    desk.until("not w.plan.typing and s.previewing")
    for corner in (
        "3, 40",
        "w.plan.width() - 3, 40",
        "w.plan.width() - 3, w.plan.height() - 3",
        "3, w.plan.height() - 3",
    ):
        desk.move(*desk.ask(f"at(w.plan, {corner})"), 4)
        desk.until("w.plan.rect().contains(w.plan.entry.geometry()) or w.plan.entry.isHidden()")
    desk.click(x - 100, y)
    desk.until("len(w.toolbox.tool.placed) == 1")


def test_escape_takes_back_the_smallest_thing_first(desk):
    laying(desk)
    desk.enter("305 -6.5")
    desk.until("len(w.toolbox.tool.placed) == 1")
    desk.type("31")
    desk.key("Escape")
    assert desk.ask("(w.toolbox.tool.kind, len(w.toolbox.tool.placed))") == ["lay", 1]
    desk.key("Escape")
    assert desk.ask("(w.toolbox.tool.kind, len(w.toolbox.tool.placed))") == ["lay", 0]
    desk.key("Escape")
    desk.until("w.toolbox.tool.kind == ''")


def test_a_list_of_many_is_tried_out_under_the_mouse_and_taken_in_one_step(desk):
    desk.key("alt", "2")
    desk.ask("w.session.select(frozenset(list(project.pipes)[:3]), follow=False)")
    desk.until("named('sizes of all') is not None")
    for leave in (True, False):
        desk.on("middle(named('sizes of all'))")
        desk.until("app.activePopupWidget() is not None")
        for _ in range(3):
            desk.key("Down")
        desk.until(
            "s.previewing and w.session.history.undo_name is None and "
            "app.activePopupWidget() is not None"
        )
        desk.key("Escape" if leave else "Return")
        desk.until("app.activePopupWidget() is None and not s.previewing")
        assert (desk.ask("w.session.history.undo_name") is None) == leave
    desk.until("focus() in ('plan', 'section')")
    desk.key("ctrl", "z")
    desk.until("w.session.history.undo_name is None")
    desk.on("middle(named('sizes of all'))")  # and by mouse: pointed at, then clicked
    desk.until("app.activePopupWidget() is not None")
    row = (
        "(lambda v: at(v.viewport(), *v.visualRect(v.model().index(2, "
        "0)).center().toTuple()))(named('sizes of all').view())"
    )
    x, y = desk.until(row)
    desk.move(x - 8, y)
    desk.move(x, y, 4)
    desk.until("s.previewing and w.session.history.undo_name is None")
    wanted = desk.ask("named('sizes of all').itemData(2)")
    desk.click(x, y)
    desk.until("w.session.history.undo_name is not None")
    assert set(desk.ask("[str(project.pipes[p].size) for p in s.chosen.pipes]")) == {wanted}
    desk.key("ctrl", "z")
    desk.on("middle(named('status'))")  # a field that shows what is tried out
    desk.until("app.activePopupWidget() is not None")
    desk.key("Down")
    desk.until("s.previewing")
    desk.key("Return")
    desk.until("app.activePopupWidget() is None and w.session.history.undo_name is not None")
    assert set(desk.ask("[project.pipes[p].status for p in s.chosen.pipes]")) == {"existing"}


def test_what_is_dragged_in_a_straightened_plan_lies_where_it_is_let_go(desk):
    def key(label):
        return f"next(k for k, r in project.structures.items() if r.label == '{label}')"

    desk.ask(
        "w.session.show_run(__import__('zumbert.analysis.runs', fromlist=['x']).RunKey('run', "
        f"{key('S17')}))"
    )
    desk.until("s.look.straight and s.look.run_key.kind == 'run'")
    desk.ask("w.plan.repaint()")
    x, y = desk.until("structure('S15')")
    desk.drag((x, y), (x + 30, y - 14), release=False)
    for i in range(12):  # pixel by pixel
        desk.move(x + 30 + i, y - 14 - i)
    desk.do("down", "Shift_L")
    desk.do("up", "Shift_L")
    desk.wheel(x + 42, y - 26, 1)
    desk.until("not w.plan.zooming and not w.section.zooming")
    desk.move(x + 43, y - 27)
    desk.until("s.previewing and w.plan.mouse is not None")
    here = desk.ask("[float(v) for v in w.plan.world(w.plan.mouse.x, w.plan.mouse.y)]")
    desk.do("release", "left")
    desk.until("w.session.history.undo_name is not None and not s.previewing")
    there = desk.ask(f"(lambda p: [float(p.x), float(p.y)])(s.current.facts.places[{key('S15')}])")
    # it is laid to the centimetre
    assert max(abs(a - b) for a, b in zip(here, there, strict=True)) < 0.02
    assert desk.ask("fresh_equal()") == "" and desk.errors == ""


def test_a_size_typed_in_the_panel_is_looked_for_and_taken_with_return(desk):
    desk.click(*desk.ask("along(pipe('S5', 'S4').id, 0.3, w.section)"))
    desk.until("s.chosen.pipes == {pipe('S5', 'S4').id}")
    for _ in range(6):
        if desk.ask("focus()") == "pipe size":
            break
        desk.key("F6")
    assert desk.ask("focus()") == "pipe size"
    was = desk.ask("pipe('S5', 'S4').size")
    desk.type("225")
    desk.until("app.activePopupWidget() is not None")
    assert desk.ask("pipe('S5', 'S4').size") == was  # a key takes nothing
    desk.key("Escape")
    desk.until("app.activePopupWidget() is None and s.shown is s.current")
    assert desk.ask("pipe('S5', 'S4').size") == was
    desk.type("375")
    desk.key("Return")
    desk.until("pipe('S5', 'S4').size == '375'")
    assert len(desk.ask("w.session.history.undo_names")) == 1
    assert desk.errors == ""


def test_after_a_drag_the_fixes_are_there(desk):
    desk.click(*desk.ask("along(pipe('S5', 'S4').id, 0.3, w.section)"))
    desk.until("ring('up') is not None")
    x, y = desk.ask("ring('up')")
    desk.drag((x, y), (x, y - 40), release=False)
    for i in range(5):
        desk.move(x, y - 40 - i)  # pixel by pixel
    desk.screen.button(1, False)
    desk.until("w.session.history.undo_names and s.shown is s.current")
    desk.until("any(b.buttons for b in w.side.panel.mends)")
    assert desk.errors == ""


def test_a_text_that_is_typed_is_of_the_pipe_that_it_was_typed_for(desk):
    desk.key("alt", "3")
    desk.ask("w.going.to_thing(pipe('S5', 'S4').id)")
    desk.until("w.side.panel.pipe == pipe('S5', 'S4').id")
    other = desk.ask("pipe('S4', 'S3').invert_up")
    desk.ask("w.side.ensureWidgetVisible(named('own reason'))")
    desk.on("middle(named('own reason'))")
    desk.until("focus() == 'own reason'")
    desk.type("agreed")
    desk.ask("w.side.ensureWidgetVisible(w.side.panel.title)")
    desk.on("middle(w.side.panel.rows['invert_up'].field)")
    desk.key("ctrl", "a")
    desk.type("41.9")  # taken as the hand goes to the drawing
    x, y = desk.ask("along(pipe('S4', 'S3').id, 0.3, w.section)")
    desk.move(x - 3, y)
    for i in (2, 1, 0):
        desk.move(x - i, y)
    desk.wheel(x, y, 1)
    desk.until("not w.section.zooming")
    desk.on("along(pipe('S4', 'S3').id, 0.3, w.section)")
    desk.until("w.side.panel.pipe == pipe('S4', 'S3').id")
    assert desk.ask("pipe('S5', 'S4').invert_up") == 41.9
    assert desk.ask("pipe('S4', 'S3').invert_up") == other
    assert desk.ask("named('own reason').text()") == ""
    assert desk.ask("w.side.panel.rows['invert_up'].field.text()") == desk.ask(
        f"s.units.level({other})"
    )
    desk.key("ctrl", "z")
    desk.until("pipe('S5', 'S4').invert_up != 41.9")
    assert desk.ask("w.side.panel.pipe == pipe('S4', 'S3').id")
