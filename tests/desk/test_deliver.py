"""The stage Deliver with real keys and a real mouse: pages, a label dragged, a title typed, a
PDF written.
"""

from pypdf import PdfReader

SHEET = "w.centre.of('deliver').sheet"


def deliver(desk):
    desk.key("alt", "7")
    desk.until(
        f"s.look.stage.id == 'deliver' and w.centre.covering is not None "
        f"and {SHEET}.page is not None and {SHEET}.hasFocus()"
    )


def pixel(of):
    """A place of the page on the screen, in units of the page."""
    return (
        f"at({SHEET}, *({SHEET}.origin + __import__('PySide6.QtCore', "
        f"fromlist=['x']).QPointF(*{of}) * {SHEET}.zoom).toTuple())"
    )


def test_pages_are_turned_zoomed_and_moved(desk):
    deliver(desk)
    first = desk.ask(f"{SHEET}.page.number")
    desk.key("Next")
    desk.until(f"{SHEET}.page.number != '{first}'")
    x, y = desk.ask(f"middle({SHEET})")
    zoom = desk.ask(f"{SHEET}.zoom")
    desk.wheel(x, y, 3)
    desk.until(f"{SHEET}.zoom > 1.9 * {zoom}")
    before = desk.ask(f"list({SHEET}.origin.toTuple())")
    desk.drag((x + 30, y + 150), (x + 71, y + 120), release=False)
    desk.wheel(x + 71, y + 120, 1)  # a notch while the sheet is in hand does nothing
    for i in range(5):
        desk.move(x + 71 + i, y + 120)
    desk.screen.button(1, False)
    desk.until(f"[round(b - a) for a, b in zip({before}, {SHEET}.origin.toTuple())] == [45, -30]")
    desk.double(x, y)
    desk.until(
        f"abs({SHEET}.zoom * {SHEET}.page.units[0] - {SHEET}.width()) < 60 or {SHEET}._fitted"
    )
    desk.key("Prior")
    desk.until(f"{SHEET}.page.number == '{first}'")
    assert desk.errors == ""


def test_a_label_is_dragged_by_single_pixels_and_taken_back(desk):
    deliver(desk)
    desk.key("Next")
    desk.until(f"{SHEET}.page.title.startswith('Plan and long')")
    find = "next(k for k, x in project.structures.items() if x.label == 'S3')"
    target = f"next(t for t in {SHEET}.page.targets if t.id == {find})"
    x, y = desk.ask(f"middle({SHEET})")
    zoom = desk.ask(f"{SHEET}.zoom")
    desk.wheel(x, y, 2)
    desk.until(f"{SHEET}.zoom > 1.5 * {zoom}")
    px, py = desk.ask(pixel(f"{target}.xy.mean(axis=0).tolist()"))
    for i in range(4):
        desk.move(px - 3 + i, py)
    desk.until(f"{SHEET}._hover is not None")
    desk.drag((px, py), (px + 20, py + 14), release=False)
    for i in range(10):
        desk.move(px + 20 + i, py + 14)
    desk.key("shift", "a")  # keys meanwhile do nothing
    desk.screen.button(1, False)
    labels = "next(x for x in project.sheets.values() if x.kind == 'plan-and-section').labels"
    desk.until(f"len({labels}) == 1")
    desk.key("ctrl", "z")
    desk.until(f"len({labels}) == 0")
    px, py = desk.ask(pixel(f"{target}.xy.mean(axis=0).tolist()"))
    desk.drag((px, py), (px + 30, py), release=False)
    desk.key("Escape")
    desk.screen.button(1, False)
    assert desk.ask(f"len({labels})") == 0
    assert desk.errors == ""


def test_a_title_is_typed_and_a_pdf_written_in_three_clicks(desk, tmp_path):
    desk.on("middle(w.rail.buttons['deliver'])")
    desk.until(f"s.look.stage.id == 'deliver' and {SHEET}.page is not None")
    desk.on("middle(w.side.panel.pages[0].values['title'])")
    desk.key("ctrl", "a")
    desk.type("Plan of all")
    desk.key("Return")
    desk.until("next(iter(project.sheets.values())).title == 'Plan of all'")
    desk.on("middle(w.side.panel.pdf)")
    desk.asked()
    desk.type(str(tmp_path / "a b"))
    desk.key("Return")
    desk.until("w.foot.hint.text().startswith('Written')")
    assert len(PdfReader(tmp_path / "a b.pdf").pages) == desk.ask(
        "w.centre.of('deliver').list.count()"
    )
    desk.key("ctrl", "z")
    desk.until("next(iter(project.sheets.values())).title == 'General plan'")
    assert desk.errors == ""


def test_keys_of_the_drawings_leave_the_sheets_and_del_takes_a_sheet(desk):
    deliver(desk)
    pipes = desk.ask("len(project.pipes)")
    desk.key("Delete")
    desk.until("len(project.sheets) == 4")
    assert desk.ask("len(project.pipes)") == pipes
    desk.key("ctrl", "z")
    desk.until("len(project.sheets) == 5")
    desk.key("l")
    desk.until("s.look.stage.id == 'layout' and w.plan.isVisible()")
    desk.key("Escape")
    deliver(desk)
    desk.key("F11")
    desk.key("f")
    desk.key("F6")
    desk.key("alt", "3")
    desk.until("s.look.stage.id == 'levels' and w.plan.isVisible() and w.section.isVisible()")
    assert desk.errors == ""
