"""What views read is noted: they follow that and nothing else."""

import numpy as np
import pytest
from msgspec import Struct

from zumbert.app.reader import Reader
from zumbert.app.reading import Reading, alike, aside, changed, composed, derived, note
from zumbert.app.session import Session
from zumbert.app.stages.table import STAGES
from zumbert.edits.levels import set_invert
from zumbert.edits.roads import rename_road


class Small(Struct, frozen=True, eq=False, dict=True):
    """A state of three numbers."""

    a: int = 0
    b: int = 0
    c: int = 0

    @derived
    def even(self):
        return self.a % 2 == 0

    @composed
    def both(self):
        return [self.a, self.b]

    @composed
    def quietly(self):
        note(self, "even")
        return [aside(self).a]


def read(state, *names):
    reading = Reading(lambda: state)
    for name in names:
        getattr(reading, name)
    return reading.read


def test_a_part_that_is_read_is_noted_and_no_other():
    noted = read(Small(), "a")
    assert changed(noted, Small(a=1)) and not changed(noted, Small(b=1, c=1))


def test_what_follows_has_changed_where_it_is_another_value():
    noted = read(Small(), "even")
    assert changed(noted, Small(a=1)) and not changed(noted, Small(a=2))


def test_what_is_composed_has_changed_where_a_part_has():
    noted = read(Small(), "both")
    assert (
        changed(noted, Small(a=2)) and changed(noted, Small(b=1)) and not changed(noted, Small(c=1))
    )


def test_what_is_read_aside_counts_only_as_it_is_noted():
    noted = read(Small(), "quietly")
    assert changed(noted, Small(a=1)) and not changed(noted, Small(a=2, b=3))


def test_what_follows_is_worked_out_once_for_a_state():
    state = Small(a=1, b=2)
    assert state.both is state.both == [1, 2] and Small().both == [0, 0]
    reading = Reading(lambda: state)
    assert reading.both is state.both


def test_plain_values_are_compared_as_such_and_all_else_as_objects():
    one, other = np.ones(3), np.ones(3)
    assert alike(("a", (1, frozenset({2}))), ("a", (1, frozenset({2})))) and not alike(
        (1, 2), (1, 3)
    )
    assert (
        alike((one, 1), (one, 1))
        and not alike((one, 1), (other, 1))
        and not alike((one,), (one, one))
    )


class Shown(Reader):
    """A view that shows one thing."""

    def __init__(self, session, show):
        self.session, self.show, self.count = session, show, 0
        session.changed.connect(self.follow)
        self.refresh()

    def show_state(self):
        self.count += 1
        self.show(self.session.state)


def test_a_view_is_shown_again_when_what_it_read_has_changed(user):
    session = Session(user.project)
    names = Shown(session, lambda s: [r.road.name for r in s.roads.values()])
    cursor = Shown(session, lambda s: s.at.cursor)
    units = Shown(session, lambda s: session.units)
    session.point_at((1.0, 2.0), 3.0)
    assert (names.count, cursor.count, units.count) == (1, 2, 1)
    session.point_at((1.5, 2.0), 3.0)
    assert cursor.count == 2
    road = next(iter(session.state.roads))
    session.edit("Rename", lambda p, f: rename_road(p, road, "Moor Lane"))
    assert (names.count, cursor.count, units.count) == (2, 2, 1)
    pipe = next(iter(user.project.pipes))
    session.edit("Lower", lambda p, f: set_invert(p, pipe, "up", p.pipes[pipe].invert_up - 0.01))
    assert names.count == 2


def test_what_is_kept_is_made_again_when_what_it_was_made_from_has_changed(user):
    session, made, stages = Session(user.project, stages=STAGES), [], []
    own = [1]

    class Keeping(Reader):
        def __init__(self):
            self.session = session
            session.changed.connect(self.follow)

        def show_state(self):
            stages.append(self.session.state.look.stage.id)
            self.kept("it", (own[0],), lambda s: made.append(s.at.cursor))

    view = Keeping()
    view.refresh()
    assert made == [None]
    session.to_stage("flow")  # the view read it: it is shown again, with what it keeps
    assert stages[-1] == "flow" and made == [None]
    session.set(cursor=2.0)  # read for what is kept alone
    assert made == [None, 2.0] and len(stages) == 3
    own[0] = 2
    view.refresh()
    assert made == [None, 2.0, 2.0]


def test_an_exception_while_a_view_is_shown_leaves_nothing_noted(user):
    session = Session(user.project)
    view = Shown(session, lambda s: None)

    def fails(s):
        raise ValueError

    view.show = fails
    with pytest.raises(ValueError):
        view.refresh()
    assert session.state is session._state


def test_a_mouse_that_moves_shows_only_what_follows_it_again(user):
    user.look_at("S5", "S4")
    w, shown = user.window, []
    views = {
        "panel": w.side,
        "head": w.centre.head,
        "picker": w.head.picker,
        "line": w.head.state,
        "rail": w.rail,
    }
    views |= {"chips": w.chips, "foot": w.foot}
    for name, view in views.items():
        whole = view.show_state
        view.show_state = lambda name=name, whole=whole: (shown.append(name), whole())
    kept = [(k, v[2]) for view in (user.plan, user.section) for k, v in view._kept.items()]
    for i in range(5):
        user.move(user.section, 300 + i, 60)
        user.settle()
    assert set(shown) == {"foot"}
    # no picture is made anew
    assert [(k, v[2]) for view in (user.plan, user.section) for k, v in view._kept.items()] == kept
