"""Regrading through the strip over the long section."""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton
from pytest import approx

from zumbert.analysis.runline import RunKey
from zumbert.app.tools.pick import PickTool
from zumbert.edits.regrade import as_it_is


@pytest.fixture
def strip(user):
    """Open on S14 to S17, from the lower end."""
    a, b = user.structure("S14"), user.structure("S17")
    user.session.select(structures=frozenset({a.id, b.id}))
    user.do("regrade")
    return user.window.acts("levels").strip


def fill(user, field, text):
    field.setFocus()
    field.selectAll()
    user.type(field, text)


def test_it_opens_as_it_is_and_enter_at_once_changes_nothing(user, strip):
    before = user.project
    assert strip.isVisible()
    assert user.session.state.look.run.name == "S17 to S14"
    assert strip.title.text() == "Regrade S14 to S17"
    assert user.shown is before
    user.key(strip.start, Qt.Key.Key_Return)
    assert user.project is before and not strip.isVisible()
    assert user.session.history.undo_names == []


def test_each_field_is_live_and_the_other_end_follows(user, strip):
    before = user.project
    fill(user, strip.slope, "-2.5%")
    assert user.shown is not before
    # 103.36 x 0.025 + 2 x 0.030: the drops that are there
    assert "103.36 m at 2.50 % + drops 0.060 = 2.644 m" in strip.sum.text()
    first = strip.end.text()
    fill(user, strip.drop, "0.05")
    # 0.05 at two chambers for 0.03 there
    assert float(strip.end.text()) == approx(float(first) + 0.04, abs=1e-3)
    fill(user, strip.end, "45.0")
    assert strip.slope.text().endswith("%")
    total = sum(user.facts.pipes[step.pipe].basis for step in strip.steps)
    rise = 45.0 - float(strip.start.text())
    assert float(strip.slope.text().rstrip("%")) == approx(-(rise - 0.1) / total * 100, abs=1e-3)
    fill(user, next(iter(strip.drops.values())), "0.2")
    assert strip.made.drops == approx(0.25)
    fill(user, list(strip.drops.values())[1], "-")
    assert strip.made.drops == approx(0.2)
    user.key(strip.end, Qt.Key.Key_Return)
    assert user.session.history.undo_names == ["Regrade S14 to S17"]
    slopes = [user.facts.pipes[line.pipe].slope for line in strip.steps]
    assert slopes == approx([slopes[0]] * 3, abs=1e-9)
    user.do("undo")
    assert user.project is before


def test_where_the_pipes_lay_is_ghosted_and_escape_leaves_all_as_it_was(user, strip):
    before = user.project
    user.settle()
    fill(user, strip.slope, "-4%")
    user.settle()
    marks = user.in_section()
    former = [m for m in marks if getattr(m, "role", "") == "former"]
    assert len(former) == 2 * 3
    ghost = np.vstack([m.xy for m in former])
    assert ghost[:, 0].max() < user.section.width() and ghost[:, 1].min() > 0  # it stays in sight
    assert ghost[:, 1].max() < user.section.sight.height
    assert f"{user.session.state.shown.findings.breaches} breaches, 5 before." in strip.says.text()
    user.key(strip.slope, Qt.Key.Key_Escape)
    assert user.shown is user.project is before
    assert not strip.isVisible()


def test_a_text_that_means_nothing_and_held_pipes_are_told_and_nothing_is_taken(user, strip):
    before = user.project
    fill(user, strip.slope, "steep")
    assert "steep" in strip.says.text() and not strip.take.isEnabled()
    fill(user, strip.slope, "-2%")
    fill(user, strip.end, "43.99")
    fill(user, strip.drop, "3")
    assert "more than the fall" in strip.says.text()
    strip.shut()
    pipe = user.pipe("S16", "S15")
    user.session.select(pipes=frozenset({pipe.id}))
    user.session.to_stage("layout")
    user.settle()
    user.window.side.panel.shared.holds["up"].click()
    user.session.select(structures=frozenset({user.structure("S14").id, user.structure("S17").id}))
    user.do("regrade")
    assert strip.holds.isVisible() and pipe.label in strip.holds.text()
    fill(user, strip.slope, "-2.5%")
    assert "hold a level or slope" in strip.says.text()
    strip.holds.click()
    assert strip.made is not None
    strip.shut()
    assert user.project is not before and user.shown is user.project


def test_two_structures_are_picked_in_plan_or_section_in_either_order(user):
    user.session.select()
    user.do("regrade")
    assert "Click the structure to regrade from" in user.window.foot.hint.text()
    user.session.show_run(RunKey("run", user.structure("S13").id))
    user.settle()

    def in_section(label):
        key = user.structure(label).id
        return next(
            t for t in user.section.targets if t.kind == "structure" and t.id == key
        ).xy.mean(axis=0)

    user.click(user.section, *in_section("S9"))
    assert "from S9" in user.window.foot.hint.text()
    user.click(user.section, *in_section("S6"))
    strip = user.window.acts("levels").strip
    assert strip.isVisible() and strip.title.text() == "Regrade S9 to S6"
    assert isinstance(user.window.toolbox.tool, PickTool)
    strip.findChild(QPushButton, "regrade turn").click()
    assert strip.title.text() == "Regrade S6 to S9"
    user.do("undo")  # nothing to take back: it stays open
    assert strip.isVisible()
    user.window.acts("levels").strip.shut()


def test_an_undo_while_it_is_open_shuts_it(user, strip):
    strip.shut()
    user.session.edit("x", lambda p, f: user_edit(p))
    user.session.select(structures=frozenset({user.structure("S14").id, user.structure("S17").id}))
    user.do("regrade")
    fill(user, strip.slope, "-3%")
    user.do("undo")
    assert not strip.isVisible()
    assert user.shown is user.project


def user_edit(project):
    from zumbert.edits.labels import set_pattern

    return set_pattern(project, "gully", "GG{n}")


def test_the_way_between_two_structures_is_shown_kept_named_and_follows(user):
    ids = frozenset({user.structure("G9L").id, user.structure("S15").id})
    user.session.select(structures=ids)
    user.do("show-path")
    run = user.session.state.look.run
    labels = [user.project.structures[k].label for k, _ in run.structures]
    assert labels == ["S15", "S14", "S4", "S5", "S6", "S7", "S8", "S9", "S10", "G9L"]
    assert run.length == approx(sum(user.facts.spans[r.pipe].length for r in run.reaches))
    user.session.select()
    user.session.to_stage("layout")
    user.settle()
    panel = user.window.side.panel
    panel.findChild(QPushButton, "name run").click()
    user.settle()
    [kept] = user.project.runs.values()
    assert user.session.state.look.run_key == RunKey("named", kept.id)
    field = next(
        w
        for w in panel.runs.findChildren(type(panel.networks.patterns["gully"]))
        if w.text() == kept.name
    )
    fill(user, field, "Across")
    user.key(field, Qt.Key.Key_Return)
    assert user.session.state.look.run.name == "Across"
    user.session.select(structures=frozenset({user.structure("S7").id}))
    user.settle()
    user.window.side.panel.shared.left_out.click()
    assert user.structure("S7").id not in {k for k, _ in user.session.state.look.run.structures}
    user.settle()
    user.session.select(structures=frozenset({user.structure("G9L").id}))
    user.do("delete")
    user.do("delete")
    assert user.session.state.look.run_key != RunKey("named", kept.id)  # its end is gone
    user.do("undo")
    assert RunKey("named", kept.id) in user.session.state.look.keys


def test_the_first_of_two_that_is_deleted_meanwhile_is_asked_for_again(user):
    user.session.select(structures=frozenset({user.structure("G9L").id}))
    user.do("regrade")
    assert "from G9L" in user.window.foot.hint.text()
    user.do("delete")
    user.do("delete")
    assert all(s.label != "G9L" for s in user.project.structures.values())
    user.settle()
    assert "Click the structure to regrade from" in user.window.toolbox.tool.hint


def test_what_no_hand_has_touched_stays_to_the_last_bit(user, strip):
    before = user.project
    now = as_it_is(user.facts, strip.steps, "invert")
    fill(user, strip.slope, "-2.5%")
    # as it was shown: rounded there, exact here
    fill(user, strip.slope, strip._exact[strip.slope][0])
    asked = strip.ask()
    assert asked.start == now.start
    assert asked.drops == now.drops
    assert asked.slope == now.slope if now.slope is not None else asked.end == now.end
    first = next(iter(strip.drops))
    fill(user, strip.drops[first], "0.1")
    assert strip.ask().drops == {**now.drops, first: 0.1}
    made = strip.made.project.pipes[strip.steps[0].pipe]
    was = before.pipes[strip.steps[0].pipe]
    assert made.invert_down == was.invert_down  # the walk goes up: its first level is held


def test_a_step_up_that_is_there_stays_until_its_own_field_says_otherwise(user):
    a, b = user.structure("S14"), user.structure("S17")
    lower, upper = user.pipe("S15", "S14"), user.pipe("S16", "S15")
    # its outlet lies 50 mm over its inlet
    risen = replace(lower, invert_up=upper.invert_down + 0.05)
    user.session.edit("Raise an end", lambda p, f: replace(p, pipes={**p.pipes, lower.id: risen}))
    user.session.select(structures=frozenset({a.id, b.id}))
    user.do("regrade")
    strip, s15 = user.window.acts("levels").strip, user.structure("S15").id
    assert strip.drops[s15].text() == "\u22120.050"
    fill(user, strip.slope, "-2.5%")
    assert strip.ask().drops[s15] == approx(-0.05)
    assert "+ drops \u22120.020" in strip.sum.text()  # 0.030 at S16
    made = strip.made.project.pipes
    assert made[upper.id].invert_down - made[lower.id].invert_up == approx(-0.05)
    fill(user, strip.drops[s15], "-0.06")
    assert "a drop is 0 or more" in strip.says.text()
    fill(user, strip.drops[s15], "0")
    assert strip.made.drops == approx(0.03)


def test_another_carried_line_keeps_what_can_be_kept(user, strip):
    first = next(iter(strip.drops))
    fill(user, strip.drops[first], "0.077")
    start = strip.ask().start
    strip.by.setCurrentIndex(strip.by.findData("crown"))
    strip.by.activated.emit(strip.by.currentIndex())
    assert strip.drops[first].text() == "0.077"
    inside = user.facts.pipes[strip.steps[0].pipe].inside
    assert strip.ask().start == approx(start + inside, abs=1e-12)


def test_pipes_that_would_rise_are_turned_on_request_and_what_breaks_is_named(user, strip):
    fill(user, strip.slope, "4%")  # from the lower end: falling the other way
    against = strip.made.against
    assert len(against) == 3
    assert strip.turned.isVisible()
    assert strip.turned.text() == "Turn 3 pipes"
    assert "greatest cover at P38" in strip.says.text()
    assert "P38, P39, P40 rise in flow direction." in strip.says.text()
    before = {k: user.project.pipes[k] for k in against}
    strip.turned.click()
    assert strip.made.against == ()
    assert all(strip.made.project.pipes[k].up == p.down for k, p in before.items())
    assert all(f.slope > 0 for k, f in user.session.state.shown.facts.pipes.items() if k in against)


def test_half_a_typed_level_turns_no_section_round(user, strip):
    first = [k for k, _ in user.session.state.look.run.structures]
    for text in ("4", "9", "90"):
        fill(user, strip.start, text)
        user.settle()
        assert [k for k, _ in user.session.state.look.run.structures] == first


def test_tab_goes_start_slope_end_drops_in_order(user, strip):
    strip.start.setFocus()
    seen = []
    for _ in range(5):
        seen.append(user.window.focusWidget())
        user.key(user.window.focusWidget(), Qt.Key.Key_Tab)
    assert seen == [
        strip.start,
        strip.slope,
        strip.end,
        strip.drop,
        next(iter(strip.drops.values())),
    ]


def test_a_drop_for_all_shows_at_each_and_what_was_there_can_be_typed_back(user, strip):
    first, second = list(strip.drops)[:2]
    was = strip.drops[first].text()
    fill(user, strip.drop, "0.08")
    assert [(strip.drops[k].text(), strip.drops[k].placeholderText()) for k in (first, second)] == [
        ("", "0.080")
    ] * 2
    fill(user, strip.drops[first], was)
    assert strip.ask().drops == {first: approx(float(was))}
    assert strip.made.drops == approx(float(was) + 0.08 * (len(strip.drops) - 1))
    strip.drop.selectAll()
    user.key(strip.drop, Qt.Key.Key_Backspace)
    assert strip.drops[first].text() == was
    assert strip.drops[second].text() != ""  # as it is again
