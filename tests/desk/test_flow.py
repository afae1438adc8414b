"""The stage Flow with real keys and a real mouse: a level dragged, an area drawn, the way of
water, sizes taken and undone.
"""

Q = "s.shown.facts.pipe_flow[pipe('S2', 'S1').id]"


def flow(desk):
    desk.key("alt", "4")
    desk.until("s.look.stage.id == 'flow' and w.side.panel.choice is not None")
    desk.until("w.plan.isVisible()")


def at_place(x, y):
    return f"at(w.plan, *w.plan.drawn({x}, {y}))"


def as_a_map(desk):
    desk.key("s")
    desk.until("not s.look.straight")
    desk.ask("w.plan.fit()")


def test_flow_changes_with_the_mouse_still_down(desk):
    flow(desk)
    desk.ask("w.going.to_thing(pipe('S2', 'S1').id)")
    desk.on("along(pipe('S2', 'S1').id, 0.3, w.section)")
    x, y = desk.until("ring('up')")
    before = desk.ask(f"{Q}.capacity")
    desk.drag((x, y), (x, y - 12), release=False)
    for i in range(8):
        desk.move(x, y - 12 - i)
    desk.until(f"s.previewing and {Q}.capacity > 1.02 * {before}")
    desk.do("down", "Shift_L")
    desk.do("up", "Shift_L")
    desk.wheel(x, y - 19, 1)
    desk.key("Escape")
    desk.until(f"not s.previewing and abs({Q}.capacity - {before}) < 1e-12")
    desk.screen.button(1, False)
    assert desk.ask("fresh_equal()") == "" and desk.errors == ""


def test_an_area_is_drawn_pixel_by_pixel_drained_and_undone(desk):
    flow(desk)
    as_a_map(desk)
    desk.on("button('Areas')")
    count = desk.ask("len(project.areas)")
    desk.on("button('Draw')")
    desk.until("w.toolbox.name == 'area'")
    for place in ((1700, 960), (1735, 960), (1735, 985)):
        x, y = desk.until(at_place(*place))
        for i in range(4):
            desk.move(x - 4 + i, y)
        desk.click(x, y)
        desk.key("shift", "a")
    desk.key("BackSpace")
    desk.click(*desk.until(at_place(1735, 990)))
    desk.key("Return")
    desk.until(f"len(project.areas) == {count + 1} and s.chosen.item.kind == 'area'")
    desk.key("Escape")
    desk.until("w.toolbox.picking")
    desk.on("button('Assign by a click')")
    desk.until("w.toolbox.name == 'assign'")
    desk.click(*desk.until("structure('S10', w.plan)"))
    desk.until("project.structures[list(project.areas.values())[-1].structure].label == 'S10'")
    desk.key("Escape")
    desk.key("ctrl", "z")
    desk.key("ctrl", "z")
    desk.until(f"len(project.areas) == {count}")
    assert desk.ask("fresh_equal()") == "" and desk.errors == ""


def test_water_runs_from_where_the_pointer_is(desk):
    flow(desk)
    as_a_map(desk)
    desk.on("button('Areas')")
    desk.on("button('Drop path')")
    desk.until("w.toolbox.name == 'drop-path'")
    x, y = desk.until(at_place(1650, 990))
    for i in range(12):
        desk.move(x + i, y)
    first = desk.until("len(w.toolbox.tool.path.xyz)")
    assert first > 3
    desk.wheel(x + 12, y, 2)
    desk.move(x + 40, y + 10, 10)
    desk.until("(w.toolbox.tool.path.xyz[:-1, 2] >= w.toolbox.tool.path.xyz[1:, 2] - 1e-9).all()")
    desk.key("Escape")
    desk.until("w.toolbox.picking")
    assert desk.errors == ""


def test_sizes_are_worked_out_taken_and_undone(desk):
    flow(desk)
    desk.on("button('Sizes')")
    desk.on("button('Work out sizes')")
    desk.until("s.previewing and s.shown.project.pipes[pipe('S2', 'S1').id].size == '450'")
    desk.on("button('Take')")
    desk.until(
        "not s.previewing and pipe('S2', 'S1').size == '450' and project.size_log is not None"
    )
    desk.key("ctrl", "z")
    desk.until("pipe('S2', 'S1').size == '375' and project.size_log is None")
    assert desk.ask("fresh_equal()") == "" and desk.errors == ""
