"""Faults put into the program, met by real hands: the sentence shows, the log has it, the work
is there.
"""

import pytest

from tests.desk.test_journeys import at_level

PLACES = {  # where a fault is, and how hands come there
    "slot": lambda desk: desk.key("f"),
    "paint": lambda desk: desk.move(*desk.ask("middle(w.plan)"), 3),
    "thread": lambda desk: desk.key("alt", "6"),
    "timer": lambda desk: desk.wheel(*desk.ask("middle(w.plan)"), 1),
}


@pytest.mark.parametrize("place", PLACES)
def test_a_fault_is_told_and_the_work_is_there_after_it_and_after_a_kill(desks, place):
    desk = desks("demo")
    at_level(desk)
    desk.enter("40.5")
    desk.until("pipe('S5', 'S4').invert_down == 40.5 and not s.file.saved")
    desk.until(
        "w.autosave.recovery is not None and w.autosave.recovery.file.with_suffix('.json').exists()"
    )
    desk.faulty = True
    desk.ask(f"put_fault({place!r})")
    PLACES[place](desk)
    desk.until("app.activeWindow() is not None and app.activeWindow() is named('fault')")
    desk.until("at(named('fault'), 0, 0)[1] > 100")  # the window manager has placed it
    assert "failed at" in desk.ask("named('fault').text.text()")
    desk.ask("take_fault()")
    desk.on("button('Copy details')")
    desk.until("'put here by a test' in app.clipboard().text()")
    desk.on("button('Go on')")
    desk.until("named('fault') is None")
    assert desk.ask("pipe('S5', 'S4').invert_down") == 40.5
    assert desk.ask("fresh_equal()") == ""
    desk.key("alt", "3")
    desk.until("s.look.stage.id == 'levels'")
    assert "put here by a test" in (desk.home / "state" / "zumbert" / "zumbert.log").read_text()
    desk.kill()
    again = desks()
    again.until("button('Recover') is not None")
    again.on("button('Recover')")
    again.until("len(project.pipes)")
    again.until("pipe('S5', 'S4').invert_down == 40.5 and not s.file.saved")
