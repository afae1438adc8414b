"""The stages with real keys and a real mouse, in the smallest window."""

import pytest

STAGES = ("ground", "layout", "levels", "flow", "checks", "trench", "deliver")


@pytest.fixture
def small(desk):
    """The window as narrow as it gets, and 700 high."""
    desk.ask("w.resize(1024, 700)")
    desk.until("w.width() == w.minimumWidth() and w.height() == 700")
    return desk


def test_each_stage_comes_by_its_button_and_by_its_key(small):
    for n, stage in enumerate(STAGES):
        small.on(f"middle(w.rail.buttons['{stage}'])")
        small.until(f"s.look.stage.id == '{stage}' and w.rail.buttons['{stage}'].isChecked()")
        fits = "w.side.panel.isVisible() and w.side.geometry().right() <= w.width()"
        small.until(f"{fits} and w.plan.width() >= 240")
        back = STAGES[(n + 3) % len(STAGES)]
        small.key("alt", str(STAGES.index(back) + 1))
        small.until(f"s.look.stage.id == '{back}'")
    assert small.ask("w.session.history.undo_name") is None
    assert small.ask("fresh_equal()") == ""


def test_a_form_of_the_rain_formula_is_picked_by_hand(small):
    small.key("alt", "4")
    small.until("s.look.stage.id == 'flow'")
    small.on("button('Rain')")
    form = "w.side.panel.findChild(object, 'rain form')"
    small.until(f"{form}.isVisible()")
    x, y = small.ask(f"middle({form})")
    small.move(x, y)
    small.wheel(x, y, -2)  # over a list that is shut: the panel moves, the choice stays
    assert small.ask("project.rain.source.form") == "power"
    small.wheel(x, y, 2)
    small.on(f"middle({form})")
    small.key("Down")
    small.key("Return")
    small.until("project.rain.source.form == 'sum'")
    small.key("ctrl", "z")
    small.until("project.rain.source.form == 'power'")
    assert small.errors == ""


def test_chips_of_a_stage_come_and_go_and_its_tool_brings_it(small):
    small.key("alt", "7")
    small.until("w.centre.covering is not None and w.centre.of('deliver').sheet.page is not None")
    small.key("l")  # a tool of another stage: the drawings come back with it
    small.until("s.look.stage.id == 'layout' and w.toolbox.name == 'lay'")
    small.until("w.chips.buttons['gullies'].isVisible() and w.plan.isVisible()")
    small.key("alt", "3")
    small.until("s.look.stage.id == 'levels' and w.toolbox.picking")
    small.until("not w.chips.buttons['gullies'].isVisible()")
    small.key("alt", "6")
    small.until("s.dug.trenches is not None and w.chips.buttons['cross'].isVisible() is False")
    small.key("x")  # the plan in the place of the cross-section, with its chip
    small.until("w.plan.isVisible() and w.chips.buttons['cross'].isVisible()")
    small.on("middle(w.chips.buttons['cross'])")
    small.until("w.centre.of('trench').isVisible() and not w.plan.isVisible()")
    small.on("middle(w.centre.head.chips['bands'])")
    small.until("'bands' not in s.seen")
    small.key("alt", "4")
    small.until("s.look.stage.id == 'flow' and 'bands' not in s.seen and 'flow' in s.seen")
    small.key("alt", "6")  # it stays switched off
    small.until("s.look.stage.id == 'trench' and 'bands' not in s.seen and 'trench' in s.seen")


def test_tables_come_by_their_buttons_and_a_status_is_picked_by_hand(small):
    small.key("alt", "2")
    small.on("middle(w.chips.buttons['tables'])")
    drawer = "w.centre.tables"
    for name, kind in (("Types", "types"), ("Areas", "areas"), ("Pipes", "pipes")):
        small.on(f"button('{name}')")
        small.until(f"{drawer}.kind == '{kind}' and {drawer}.table.isVisible()")
        bars = f"[k for k, t in {drawer}.tables.items() if t.bar is not None and t.bar.isVisible()]"
        assert small.ask(bars) == (["types"] if kind == "types" else [])
    small.on("button('Close')")
    small.until(f"not {drawer}.isVisible()")
    small.ask("w.session.select(pipes=frozenset([pipe('S5', 'S4').id]))")
    box = "w.side.panel.shared.choices['status']"
    small.until(f"{box}.isVisible() and {box}.currentText() == 'proposed'")
    small.ask(f"w.side.ensureWidgetVisible({box})")
    x, y = small.ask(f"middle({box})")
    small.move(x, y)
    small.wheel(x, y, -1)  # over a list that is shut: the choice stays
    small.ask(f"w.side.ensureWidgetVisible({box})")
    small.on(f"middle({box})")
    small.key("Down")
    small.key("Return")
    small.until("pipe('S5', 'S4').status == 'existing'")
    assert small.ask("w.session.history.undo_name") == "Change the status of P5"
    small.key("ctrl", "z")
    small.until(f"pipe('S5', 'S4').status == 'proposed' and {box}.currentText() == 'proposed'")
    assert small.errors == "" and small.ask("fresh_equal()") == ""


def test_a_finding_is_gone_to_in_one_step_while_the_mouse_moves(small):
    small.key("alt", "5")
    small.until("s.look.stage.id == 'checks' and w.side.panel.findings.rows")
    x, y = small.ask("middle(w.section)")
    for i in range(6):
        small.move(x + i, y)
    small.ask(
        "setattr(w, 'heard', []) or w.session.changed.connect(lambda a, b: w.heard.append("
        "(a.chosen.pipes | a.chosen.structures != b.chosen.pipes | b.chosen.structures, "
        "b.chosen.visited is not None)))"
    )
    small.key("F6")
    small.on("middle(w.side.panel.findings.rows[1])")
    small.until("s.chosen.visited is not None")
    chosen = small.ask("[visited for selected, visited in w.heard if selected]")
    assert chosen == [True]  # it was selected and gone to at once, and nothing else was
    for i in range(6):
        small.move(x + i, y - i)
    small.until("fresh_equal() == ''")
    assert small.ask("w.session.history.undo_name") is None
