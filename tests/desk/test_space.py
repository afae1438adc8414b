"""Space with real keys and a real mouse: turned, moved, zoomed, picked in each of the three, a
level dragged with it open.
"""

EYE = "(w.centre.space.eye.bearing, w.centre.space.eye.tilt, w.centre.space.eye.distance)"
STILL = "not w.centre.space.settling.isActive()"


def key_of(desk, label):
    return desk.ask(f"next(k for k, r in project.structures.items() if r.label == '{label}')")


def beside(desk, label="S4"):
    """Space beside the plan, near a structure."""
    desk.key("F3")
    desk.until("w.centre.space.isVisible() and not w.plan.isVisible()")
    desk.key("F3")
    desk.until("w.centre.space.isVisible() and w.plan.isVisible()")
    key = key_of(desk, label)
    desk.ask(f"w.session.select(structures=frozenset(['{key}']))")
    desk.move(*desk.until("middle(w.centre.space)"))
    desk.key("f")
    desk.until(STILL)
    desk.ask("w.session.select()")
    return key


def test_turned_moved_and_zoomed_pixel_by_pixel(desk):
    key = beside(desk)
    x, y = desk.until(f"in_space('structure', '{key}')")
    before = desk.ask(EYE)
    desk.drag((x, y), (x + 3, y), steps=1, release=False)
    for i in range(20):
        desk.move(x + 3 + i, y + i // 3)
        if i == 8:
            desk.wheel(x + 3 + i, y + i // 3, 1)  # the wheel in between
            desk.wheel(x + 3 + i, y + i // 3, -1)
    desk.do("release", "left")
    after = desk.until(f"{STILL} and {EYE}")
    assert (
        after[0] != before[0]
        and after[1] > before[1]
        and desk.ask("not s.chosen.structures and not s.chosen.pipes")
    )
    x, y = desk.until(f"in_space('structure', '{key}')")
    turned = desk.ask("w.centre.space.eye.bearing")
    desk.drag((x, y), (x + 40, y - 20), held=("shift",))
    desk.until(STILL)
    assert desk.ask("w.centre.space.eye.bearing") == turned
    at = desk.until(f"in_space('structure', '{key}')")
    assert abs(at[0] - x - 40) < 12 and abs(at[1] - y + 20) < 12
    far = desk.ask("w.centre.space.eye.distance")
    desk.wheel(*at, 3)
    desk.until(f"{STILL} and w.centre.space.eye.distance < 0.6 * {far}")
    assert desk.errors == ""


def test_picked_in_each_of_the_three_and_seen_in_the_others(desk):
    key = beside(desk)
    for place in (
        f"in_space('structure', '{key}')",
        "structure('S4', w.plan)",
        "structure('S4', w.section)",
    ):
        desk.key("Escape")
        desk.until("not s.chosen.structures")
        x, y = desk.until(place)
        desk.move(x - 2, y)
        desk.move(x, y, 2)
        desk.until(f"s.at.pointed == '{key}'")
        seen = desk.ask("[bool(v.pointed_marks()) for v in (w.plan, w.section)]")
        assert seen.count(True) == (2 if "space" in place else 1), place
        desk.click(x, y)
        desk.until(f"s.chosen.structures == {{'{key}'}}")
        desk.until(
            f"{STILL} and w.centre.space._space.looked[0][4 * "
            f"w.centre.space._space.register.numbers['structure', '{key}'] + 3] & 2"
        )
    assert desk.errors == ""


def test_a_level_dragged_with_space_open_moves_there(desk):
    beside(desk)
    pipe = desk.ask("pipe('S5', 'S4').id")
    low = f"w.centre.space.scene.parts['pipe', '{pipe}'].mesh.vertices[:, 2].min()"
    desk.ask(f"w.going.to_thing('{pipe}')")
    desk.on(f"along('{pipe}', 0.3, w.section)")
    x, y = desk.until("ring('down')")
    before = desk.ask(low)
    desk.drag((x, y), (x, y + 10), release=False)
    for i in range(10):
        desk.move(x, y + 10 + i)
    desk.until(
        f"s.previewing and {low} < {before} - 0.05 and ('former', '{pipe}') in "
        "w.centre.space.scene.parts"
    )
    desk.do("down", "Shift_L")
    desk.do("up", "Shift_L")
    desk.do("release", "left")
    desk.until(
        f"not s.previewing and {low} < {before} - 0.05 and ('former', '{pipe}') not in "
        "w.centre.space.scene.parts"
    )
    desk.key("ctrl", "z")
    desk.until(f"abs({low} - {before}) < 1e-9")
    assert desk.ask("fresh_equal()") == "" and desk.errors == ""


def test_along_the_run_with_the_wheel_and_the_keys_of_the_views(desk):
    beside(desk)
    desk.key("shift", "F3")
    at = desk.until(f"{STILL} and w.centre.space.along and s.at.cursor")
    x, y = desk.ask("middle(w.centre.space)")
    desk.wheel(x, y, 4)
    desk.until(f"abs(s.at.cursor - {at} - 8.0) < 1e-6")
    desk.key("ctrl", "1")
    desk.until("not w.centre.space.along and w.centre.space.eye.tilt > 1.5")
    desk.key("F11")
    desk.until(
        "not w.section.isVisible() and not w.plan.isVisible() and w.centre.space.isVisible()"
    )
    desk.key("F11")
    desk.until("w.section.isVisible() and w.plan.isVisible()")
    for name in ("Cut away", "In section", "Trenches"):
        desk.on(f"button('{name}')")
    desk.until("s.look.space.cut and s.look.space.section and s.look.space.dug")
    desk.key("F3")
    desk.until("not w.centre.space.isVisible() and w.plan.isVisible()")
    assert desk.errors == ""
