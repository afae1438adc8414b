"""The stage Trench with real keys and a real mouse: cross-section, figures, a dragged level, a
trench type on its drawing.
"""

FIGURES = (
    "w.side.panel.totals.findChildren(__import__('zumbert.app.panels.figures', "
    "fromlist=['x']).FigureRow)"
)
KNOWN = "s.dug.net is not None and s.dug.net[0] is s.dug.trenches"


def figure(name):
    return f"next(middle(f) for f in {FIGURES} if f.name == '{name}')"


def trench(desk):
    desk.key("alt", "6")
    desk.until("s.look.stage.id == 'trench' and s.dug.trenches is not None")
    desk.until(KNOWN)


def test_the_section_follows_the_pointer_steps_and_is_pinned(desk):
    trench(desk)
    desk.ask("w.section.fit_pipe(pipe('S4', 'S3').id)")
    x, y = desk.ask("middle(w.section)")
    seen = []
    for i in range(12):  # one pixel at a time
        desk.move(x - 20 + i, y)
        seen.append(desk.ask("w.centre.of('trench').at.run"))
    assert seen == sorted(seen) and seen[-1] > seen[0]
    desk.key("ctrl", "Right")
    desk.until(f"w.centre.of('trench').at.run > {seen[-1]}")
    desk.key("shift", "p")
    desk.until("len(s.look.sections) == 1")
    cx, cy = desk.ask("middle(w.centre.of('trench'))")
    desk.wheel(cx - 200, cy, 2)
    before = desk.ask("w.centre.of('trench').shown()[0].sight.ratios[0]")
    desk.drag((cx - 150, cy), (cx - 110, cy + 12))
    assert desk.ask("len(s.look.sections)") == 1  # a drag moves, it does not pin
    desk.key("Left")
    desk.until(f"w.centre.of('trench').at.run <= {seen[-1]}")
    desk.key("Return")
    desk.until("len(s.look.sections) == 2")
    # fitted to the new columns
    assert desk.ask("w.centre.of('trench').shown()[0].sight.ratios[0]") != before
    desk.on("button('Plan')")
    desk.until("w.centre.upper_view is w.plan")
    desk.key("x")
    desk.until("w.centre.upper_view is w.centre.of('trench')")


def test_a_figure_lights_up_what_is_in_it(desk):
    trench(desk)
    x, y = desk.ask(figure("DN 375"))
    for i in range(6):
        desk.move(x - 3 + i, y)
    desk.wheel(x, y, -1)
    desk.wheel(x, y, 1)
    desk.on(figure("DN 375"))
    desk.until("len(s.chosen.pipes) == 4")
    desk.on(figure("Pits"))
    desk.until("len(s.chosen.structures) > 20 and not s.chosen.pipes")
    desk.key("Escape")
    assert desk.errors == ""


def test_a_figure_is_pressed_while_figures_are_made_anew(desk):
    trench(desk)
    desk.until("s.dug.sectioned is not None and s.dug.sectioned[0] is s.dug.trenches")
    x, y = desk.ask(figure("DN 375"))
    for i in range(4):
        desk.move(x - 3 + i, y)
    desk.do("down", "Shift_L")
    desk.do("press", "left")
    anew = "w.session.set(sectioned=(s.dug.trenches, dict.fromkeys(s.dug.trenches.pipes, 1.0)))"
    desk.ask(f"{anew} or 1")
    for i in range(3):
        desk.move(x + i, y)  # one pixel at a time, the button held
    desk.do("release", "left")
    desk.do("up", "Shift_L")
    desk.until("len(s.chosen.pipes) == 4")
    desk.key("alt", "3")
    desk.until("s.look.stage.id == 'levels'")
    assert desk.errors == ""


def test_a_dragged_level_and_its_net_volume(desk):
    trench(desk)
    desk.ask("w.going.to_thing(pipe('S4', 'S3').id)")
    desk.until("s.chosen.hand is not None and ring('down')")
    before = desk.ask("pipe('S4', 'S3').invert_down")
    x, y = desk.ask("ring('down')")
    desk.drag((x, y), (x, y + 14), release=False)
    for i in range(8):
        desk.move(x, y + 14 + i)
    desk.until("s.previewing and s.dug.trenches.facts is s.shown.facts")
    assert desk.ask(f"next(f.value for f in {FIGURES} if f.name == 'Net excavation')").startswith(
        "≈"
    )
    desk.screen.button(1, False)
    desk.until(f"pipe('S4', 'S3').invert_down < {before}")
    desk.until(KNOWN)
    desk.until(
        f"not next(f.value for f in {FIGURES} if f.name == 'Net excavation').startswith('≈')"
    )
    desk.key("ctrl", "z")
    desk.until(f"abs(pipe('S4', 'S3').invert_down - {before}) < 1e-12")
    assert desk.ask("fresh_equal()") == ""


def test_a_trench_type_is_typed_on_its_drawing(desk):
    trench(desk)
    desk.on("button('Types')")
    desk.until("w.side.panel.page == 1")
    width = "list(project.trench_types.values())[-1].sizes[0].width"
    before = desk.ask(width)
    desk.on("middle(w.side.panel.pages[1].sketch.fields['width'])")
    desk.key("ctrl", "a")
    desk.type("1.35")
    desk.until("s.previewing")
    desk.key("Escape")
    desk.until("not s.previewing")
    assert desk.ask(width) == before
    desk.on("middle(w.side.panel.pages[1].sketch.fields['width'])")
    desk.key("ctrl", "a")
    desk.type("1.35")
    desk.key("Return")
    desk.until(f"{width} == 1.35")
    desk.key("ctrl", "z")
    desk.until(f"{width} == {before}")
    assert desk.ask("fresh_equal()") == ""


def test_quantities_are_exported_once_more_only_when_told_and_copied(desk, tmp_path):
    trench(desk)
    name = tmp_path / "job A v1.2"  # what follows the full stop is no ending
    written = tmp_path / "job A v1.2.xlsx"
    desk.key("ctrl", "e")
    desk.asked()
    desk.type(str(name))
    desk.key("Return")
    desk.until("w.foot.hint.text().startswith('Written')")
    before = written.stat().st_mtime_ns
    desk.key("ctrl", "e")
    desk.asked()
    desk.type(str(name))
    desk.key("Return")
    desk.asked("replace")
    desk.key("Escape")
    desk.answered()
    assert written.stat().st_mtime_ns == before and [p.name for p in tmp_path.iterdir()] == [
        written.name
    ]
    x, y = desk.ask("middle(w.side)")
    desk.wheel(x, y, -30)
    desk.on(
        "middle(w.side.panel.findChild(__import__('PySide6.QtWidgets', "
        "fromlist=['x']).QPushButton, 'copy quantities'))"
    )
    clip = (
        "__import__('PySide6.QtWidgets', fromlist=['x']).QApplication.clipboard().mimeData().{}()"
    )
    desk.until(clip.format("text") + ".startswith('Group')")
    assert "<table" in desk.ask(clip.format("html"))
