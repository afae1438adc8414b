"""The stage Checks with real keys and a real mouse: findings, fixes, decisions, limits,
crossings; and rules that hold.
"""

ROW = (
    "next((middle(r) for r in w.side.panel.findings.rows if r.finding.rule == '{}' and "
    "r.isVisible()), None)"
)
FIX = "[[b.text(), *middle(b)] for b in w.side.panel.findings.mending.fixes.buttons]"


def checks(desk):
    desk.key("alt", "5")
    desk.until("s.look.stage.id == 'checks' and w.side.panel.findings.rows")


def test_a_fix_is_tried_by_resting_on_it_and_taken_by_a_click(desk):
    checks(desk)
    desk.on(ROW.format("cover_min"))
    desk.until("s.chosen.visited is not None and w.side.panel.findings.mending.fixes.buttons")
    before = desk.ask("pipe('S5', 'S4').invert_down")
    rows = desk.ask("[middle(r) for r in w.side.panel.findings.rows]")
    for text, x, y in desk.ask(FIX):
        desk.move(x - 40, y, 6)
        desk.until("s.previewing")
        # one pixel at a time, the wheel in between: nothing goes from under the pointer
        for i in range(6):
            desk.move(x - 40 + i, y)
        assert desk.ask("[middle(r) for r in w.side.panel.findings.rows]") == rows, text
        assert desk.ask("s.previewing"), text
    desk.move(*desk.ask("middle(w.plan)"), 4)
    desk.until("not s.previewing")
    assert desk.ask("pipe('S5', 'S4').invert_down") == before
    _, x, y = next(f for f in desk.ask(FIX) if f[0] == "Lower S4 to 40.544")
    desk.click(x, y)
    desk.until("all(r.finding.rule != 'cover_min' for r in w.side.panel.findings.rows)")
    desk.key("ctrl", "z")
    desk.until(f"abs(pipe('S5', 'S4').invert_down - {before}) < 1e-12")
    assert desk.ask("fresh_equal()") == ""


def test_keys_walk_through_the_findings_and_a_decision_is_typed(desk):
    checks(desk)
    desk.on(ROW.format("adverse_fall"))
    desk.until("s.chosen.visited is not None and s.chosen.visited.rule == 'adverse_fall'")
    desk.key("Down")
    desk.until("s.chosen.visited.rule == 'drop_min'")
    desk.key("Down")
    desk.until("s.chosen.visited.rule == 'size_order'")
    desk.key("Up")
    desk.until("s.chosen.visited.rule == 'drop_min'")
    desk.on("middle(named('decision reason'))")
    desk.type('the "old" wall')
    desk.key("Tab")
    desk.type("QT")
    desk.key("Return")
    desk.until("s.current.findings.decided == 1")
    assert desk.ask("next(iter(project.decisions.values())).reason") == 'the "old" wall'
    desk.key("ctrl", "z")
    desk.until("s.current.findings.decided == 0")
    assert desk.ask("fresh_equal()") == ""


def test_a_limit_is_typed_with_its_preview_and_given_up(desk):
    checks(desk)
    desk.on("button('Standards')")
    desk.until("w.side.panel.standards.isVisible()")
    desk.on("middle(w.side.panel.standards.limits['cover_min'].field)")
    desk.key("ctrl", "a")
    desk.type("1.1")
    desk.until("w.side.panel.standards.says.text() == '29 findings come'")
    desk.key("Escape")
    desk.until("not s.previewing")
    desk.on("middle(w.side.panel.standards.limits['cover_min'].field)")
    desk.key("ctrl", "a")
    desk.enter("300: 0.8, 900: 0.9")
    desk.until("all(r.rule != 'cover_min' for r in s.current.findings)")
    desk.key("ctrl", "z")
    desk.until("any(r.rule == 'cover_min' for r in s.current.findings)")
    desk.on("button('Crossings')")
    desk.until("w.side.panel.rooms.isVisible()")
    desk.on("middle(w.side.panel.rooms.rows[0])")
    desk.until("w.side.panel.rooms.across.isVisible()")
    assert desk.ask("fresh_equal()") == ""


def test_while_rules_hold_a_drag_stops_and_ctrl_passes_it(desk):
    desk.key("alt", "3")
    desk.until("s.look.stage.id == 'levels'")
    desk.on("middle(w.centre.head.holds)")
    desk.until("s.held.holds")
    desk.ask("w.going.to_thing(pipe('S7', 'S6').id)")
    x, y = desk.until("ring('down')")
    before = desk.ask("pipe('S7', 'S6').invert_down")
    high = desk.ask(
        "__import__('zumbert.checks.legal', fromlist=['x']).end_range(s.current.facts,"
        " s.current.facts.pipes[pipe('S7', 'S6').id], 'down').high"
    )
    desk.drag((x, y), (x, y - 70), held=("alt",), release=False)
    desk.until("s.held.stopped")
    assert abs(desk.ask("pipe('S7', 'S6').invert_down") - high) < 1e-9
    for dy in range(70, 75):
        desk.move(x, y - dy)
    shown = desk.ask("pipe('S7', 'S6').invert_down")
    desk.screen.button(1, False)
    desk.until("not s.previewing")
    assert desk.ask("pipe('S7', 'S6').invert_down") == shown
    desk.key("ctrl", "z")
    desk.until(f"pipe('S7', 'S6').invert_down == {before}")
    x, y = desk.until("ring('down')")
    desk.drag((x, y), (x, y - 70), held=("ctrl", "alt"))
    desk.until(f"pipe('S7', 'S6').invert_down > {high} + 0.1")
    desk.key("ctrl", "z")
    desk.until(f"pipe('S7', 'S6').invert_down == {before}")
    desk.type("46")
    desk.key("Return")
    desk.until("'stopped by' in told()")
    assert abs(desk.ask("pipe('S7', 'S6').invert_down") - high) < 1e-9
    assert desk.ask("fresh_equal()") == ""


def test_while_rules_hold_shift_takes_all_downstream_no_further_than_its_rules(desk):
    desk.key("alt", "3")
    desk.until("s.look.stage.id == 'levels'")
    desk.on("middle(w.centre.head.holds)")
    desk.until("s.held.holds")
    desk.ask("w.going.to_thing(pipe('S7', 'S6').id)")
    x, y = desk.until("ring('down')")
    levels = "[p.invert_down for p in s.{}.project.pipes.values()]"
    before = desk.ask(levels.format("current"))
    desk.move(x, y)
    desk.do("down", "Shift_L")
    desk.do("press", "left")
    for dy in range(1, 30):
        desk.move(x, y - dy)
    desk.wheel(x, y - 29, 1)
    for dx in range(6):
        desk.move(x + dx, y - 29)
    # P5 downstream has too little already: it may get no worse
    desk.until("s.held.stopped == 'stopped by least cover'")
    shown = desk.ask(levels.format("shown"))
    desk.do("release", "left")
    desk.do("up", "Shift_L")
    desk.until("not s.previewing and 'stopped by least cover' in told()")
    assert desk.ask(levels.format("current")) == shown == before
    assert desk.ask("fresh_equal()") == ""
