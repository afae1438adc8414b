"""The tour of the README, key by key; each step leaves a picture."""

import pytest


@pytest.fixture
def look(desk, tmp_path):
    """Keeps what the screen shows after a step."""
    return lambda name: desk.picture(tmp_path / f"{name}.png")


def test_the_tour_of_the_readme(desk, look, tmp_path):
    # 1. Look
    plan = desk.ask("middle(w.plan)")
    desk.wheel(*plan, 2)
    desk.until("not w.plan.zooming and not w.section.zooming")
    free = plan[0] - 150, plan[1] - 90
    desk.drag(free, (free[0] + 60, free[1]))
    assert desk.ask("s.look.straight") and desk.ask("w.session.history.undo_name") is None
    desk.key("s")
    desk.until("not s.look.straight")
    desk.key("s")
    desk.until("s.look.straight")
    desk.key("f")
    desk.key("F1")
    desk.until("app.activeWindow() is not w")
    look("1-help")
    desk.key("Escape")
    desk.until("app.activeWindow() is w")
    look("1-look")
    # 2. Find
    desk.on("middle(w.head.state)")
    desk.until("s.look.stage.id == 'checks'")
    desk.on(
        "next((middle(r) for r in w.side.findChildren(QWidget) if type(r).__name__ == 'FindingRow'"
        " and r.finding.rule == 'cover_min'), None)"
    )
    desk.until("len(s.chosen.pipes) + len(s.chosen.structures) == 1")
    look("2-find")
    # 3. Drag
    desk.key("alt", "3")
    desk.until("s.look.stage.id == 'levels'")
    if not desk.ask("along(pipe('S5', 'S4').id, 0.3, w.section)"):
        desk.key("Escape")
        desk.key("f")
    desk.on("along(pipe('S5', 'S4').id, 0.3, w.section)")
    x, y = desk.until("ring('down')")
    before = desk.ask("pipe('S5', 'S4').invert_down")
    desk.drag((x, y), (x, y + 1), release=False)
    for dy in range(1, 90):
        desk.move(x, y + dy)
        if desk.ask("s.chosen.hand.snap") == "Least cover 0.90":
            break
    assert desk.ask("s.chosen.hand.snap") == "Least cover 0.90"
    look("3-drag")
    desk.do("release", "left")
    desk.until(f"not s.previewing and abs(pipe('S5', 'S4').invert_down - {before}) > 0.01")
    desk.key("ctrl", "z")
    desk.until(f"abs(pipe('S5', 'S4').invert_down - {before}) < 1e-12")
    # 4. Type
    for text, holds in (
        ("40.5", "pipe('S5', 'S4').invert_down == 40.5"),
        ("+0.15", "abs(pipe('S5', 'S4').invert_down - 40.65) < 1e-9"),
        ("1:80", "abs(s.current.facts.pipes[pipe('S5', 'S4').id].slope - 1 / 80) < 1e-12"),
        ("1.25%", "abs(s.current.facts.pipes[pipe('S5', 'S4').id].slope - 0.0125) < 1e-12"),
        ("c0.9", "abs(s.current.facts.pipes[pipe('S5', 'S4').id].cover.least - 0.9) < 1e-6"),
    ):
        desk.type(text)
        look("4-type")
        desk.key("Return")
        desk.until(holds)
    desk.type("41")
    desk.key("Escape")
    desk.until("not s.previewing and not w.section.typing")
    desk.on(
        "next((at(w.section, c.box[0] + c.box[2] / 2, c.box[1] + 8) for c in w.section.cells"
        " if c.row == 'Invert in' and c.id == pipe('S5', 'S4').id), None)"
    )
    desk.until("w.section.cell_edit.isVisible()")
    desk.key("Tab")
    desk.until(
        "w.section.cell_edit.isVisible() and w.section.cell_edit.cell.id != pipe('S5', 'S4').id"
    )
    look("4-cell")
    desk.key("Escape")
    # 5. Lay
    desk.key("Escape")
    desk.key("alt", "2")
    desk.key("f")
    desk.key("f")
    desk.until("structure('S9')")
    desk.key("l")
    desk.until("w.toolbox.tool.kind == 'lay'")
    desk.on("structure('S9')")
    desk.until("w.toolbox.tool.last is not None")
    count = desk.ask("len(project.structures)")
    desk.type("305 -6.5")
    look("5-typed")
    desk.key("Return")
    desk.until(f"len(project.structures) == {count + 1}")
    desk.key("BackSpace")
    desk.until(f"len(project.structures) == {count}")
    desk.enter("30 1 tansymoor")
    desk.until(f"len(project.structures) == {count + 1}")
    look("5-lay")
    desk.key("ctrl", "z")
    desk.key("Escape")
    desk.key("Escape")
    desk.until(f"w.toolbox.tool.kind == '' and len(project.structures) == {count}")
    desk.key("g")
    desk.until("w.toolbox.tool.kind == 'gullies'")
    look("5-gullies")
    desk.key("Escape")
    # 6. Regrade, tables
    desk.key("Escape")
    desk.key("s")
    desk.key("f")
    desk.until("not s.look.straight and structure('S17')")
    desk.key("r")
    for label in ("S14", "S17"):
        desk.on(f"structure('{label}')")
    desk.until("w.acts('levels').strip.isVisible() and focus() == 'regrade start'")
    desk.key("Tab")
    desk.key("ctrl", "a")
    desk.type("-2.5%")
    desk.until("s.previewing")
    look("6-regrade")
    desk.key("Escape")
    desk.until("not s.previewing and not w.acts('levels').strip.isVisible()")
    desk.key("v")
    desk.until("w.toolbox.tool.kind == 'probe'")
    desk.key("Escape")
    desk.key("ctrl", "t")
    desk.until("w.centre.tables.isVisible()")
    look("6-tables")
    desk.key("ctrl", "t")
    desk.until("not w.centre.tables.isVisible()")
    # 7. Count
    desk.key("alt", "6")
    desk.until("s.look.stage.id == 'trench' and s.dug.trenches is not None")
    look("7-count")
    # 8. Ground
    desk.key("alt", "1")
    desk.until("s.look.stage.id == 'ground'")
    desk.ask("w.session.pick(None)")
    desk.key("m")
    desk.until("'measured' in told()")
    look("8-ground")
    desk.key("Escape")
    # 9. Your own
    desk.key("ctrl", "n")
    desk.asked()
    look("9-new")
    desk.key("Escape")
    desk.answered()
    # 10. Save
    desk.key("ctrl", "s")
    desk.asked()
    desk.key("ctrl", "a")
    desk.enter(str(tmp_path / "tour.zumbert"))
    desk.until("s.file.saved and s.file.path is not None")
    desk.key("ctrl", "k")
    desk.type("S5")
    look("10-find")
    desk.key("Return")
    desk.until("len(s.chosen.structures) + len(s.chosen.pipes) == 1")
    assert desk.ask("fresh_equal()") == "" and desk.errors.count("Traceback") == 0
