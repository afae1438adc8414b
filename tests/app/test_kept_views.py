"""What every view keeps from before an edit shows what a view made from nothing shows: while the
edit is tried, when it is made, and when it is taken back.
"""

from collections import Counter
from itertools import product

import numpy as np
import pytest
import shiboken6
from msgspec.structs import replace
from PySide6.QtCore import QObject, QPoint, Signal
from PySide6.QtGui import QImage, QRegion
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QTableView, QWidget

from tests.amount import LONG, times
from tests.app.ready import DEMO
from tests.edits.made import BASE, EDITS, Maker, arguments, project_of
from tests.recorded.odd import odd
from zumbert.app.bars.head import RunPicker, StateLine
from zumbert.app.bars.planchips import PlanChips
from zumbert.app.bars.rail import Rail
from zumbert.app.bars.sectionhead import SectionHead
from zumbert.app.main import application
from zumbert.app.panels.sidepanel import SidePanel
from zumbert.app.views.planview import PlanView
from zumbert.app.views.sectionview import SectionView
from zumbert.checks import RULES
from zumbert.drawing.marks import texts_in
from zumbert.drawing.picture import Picture
from zumbert.drawing.plan import network
from zumbert.edits.levels import set_invert
from zumbert.edits.roads import rename_road
from zumbert.edits.standards import set_weight
from zumbert.errors import ZumbertError
from zumbert.model.display import Units

STATES = (
    "levels",
    "flow",
    "checks",
    "layout",
    "trench",
    "ground",
    "levels several",
    "layout structure",
)
EACH = 1 if LONG else 20
# each time: views forgot what follows from them alone
TELLING = {"rain.set_rain", "basis.set_basis"}
NAMES = sorted({*sorted(EDITS)[::EACH], *TELLING})
# without findings: what follows from an edit by them alone would hide what a view forgets
QUIET = BASE
for key, rule in product(BASE.standards, RULES):
    QUIET = set_weight(QUIET, key, rule, "off")
TRIES = 60
ROUNDED = 2  # of 255: layers that are laid over each other round their tones


def drawn(view):
    """The picture of a view, without what floats over it: (height, width, 4) tones."""
    out = QImage(view.size(), QImage.Format.Format_RGB32)
    view.render(out, QPoint(), QRegion(), QWidget.RenderFlag.DrawWindowBackground)
    return (
        np.frombuffer(out.constBits(), np.uint8).reshape(out.height(), out.width(), 4).astype(int)
    )


def told(root):
    """All that a widget says, by what it is called: texts, choices and cells that are shown."""
    out = []
    for w in root.findChildren(QWidget):
        if not w.isVisibleTo(root):
            continue
        name = (type(w).__name__, w.objectName() or w.accessibleName(), w.isEnabledTo(root))
        if isinstance(w, QComboBox):
            out.append((*name, w.currentText(), *(w.itemText(i) for i in range(w.count()))))
        elif isinstance(w, QAbstractButton):
            out.append((*name, w.text(), w.isChecked(), w.toolTip()))
        elif isinstance(w, (QLabel, QLineEdit)) and not isinstance(w.parent(), QComboBox):
            out.append((*name, w.text(), w.toolTip()))
        elif isinstance(w, QTableView) and w.model() is not None:
            m = w.model()
            out.append(
                (
                    *name,
                    *(
                        str(m.index(i, j).data())
                        for i in range(m.rowCount())
                        for j in range(m.columnCount())
                    ),
                )
            )
    return Counter(map(repr, out))


def said(chips):
    """What the chips over the plan say."""
    return {
        name: (b.text(), b.isChecked(), b.isVisibleTo(chips.plan))
        for name, b in chips.buttons.items()
    }


class Looking(QObject):
    """A session that is looked at once: what is made from it hears of nothing."""

    changed, refused = Signal(object, object), Signal(str)

    def __init__(self, session):
        super().__init__()
        self.session = session

    def __getattr__(self, name):
        return getattr(self.session, name)


class Views:
    """The views of a window, and the same made from nothing."""

    def __init__(self, window):
        self.window, self.session, self.pen = window, window.session, window.pen

    def anew(self):
        """Made from nothing now, as large and with the same sight."""
        w, s = self.window, Looking(self.session)
        section = SectionView(s, self.pen)
        plan = PlanView(s, self.pen, section)
        for fresh, kept in ((section, w.section), (plan, w.plan)):
            fresh.tool = w.toolbox.tool
            fresh.resize(kept.size())
        section.sight = w.section.sight
        plan.map, plan._middle = w.plan.map, w.plan._middle
        if s.state.previewing:
            plan._line = w.plan._line  # it holds its line while an edit is tried
        side = SidePanel(s, self.pen, lambda: w.toolbox.tool, w.stage_panel)
        side.resize(w.side.size())
        side.refresh()
        centre = w.centre
        head = SectionHead(s, section.scales, centre._switch, section.set_scale)
        head.resize(centre.head.size())
        picker, line = RunPicker(s, self.pen), StateLine(s, self.pen, lambda: None)
        rail = Rail(s, self.pen, w.stages, lambda stage: None)
        rail.resize(w.rail.size())
        chips = PlanChips(s, plan, w.chips.chips, w)
        chips.refresh()
        return {
            "section": section,
            "plan": plan,
            "panel": side,
            "head": head,
            "picker": picker,
            "line": line,
            "rail": rail,
        }, chips

    def shown(self):
        """Those of the window."""
        w = self.window
        return {
            "section": w.section,
            "plan": w.plan,
            "panel": w.side,
            "head": w.centre.head,
            "picker": w.head.picker,
            "line": w.head.state,
            "rail": w.rail,
        }

    def panel(self):
        """What the panel shows that one made from nothing does not, and the other way round."""
        session, w = Looking(self.session), self.window
        side = SidePanel(session, self.pen, lambda: w.toolbox.tool, w.stage_panel)
        side.resize(w.side.size())
        side.refresh()
        kept, new = told(w.side.panel), told(side.panel)
        shiboken6.delete(side)
        return [*(f"shows {x}" for x in kept - new), *(f"lacks {x}" for x in new - kept)]

    def differences(self, *but):
        """What a view of the window shows that one made from nothing does not; some views are
        passed over.
        """
        application().processEvents()
        out, (fresh, chips) = [], self.anew()
        try:
            if said(chips) != said(self.window.chips):
                out.append(f"chips say {said(self.window.chips)}, not {said(chips)}")
            for name, kept in self.shown().items():
                new = fresh[name]
                if name in but:
                    continue
                if name in ("panel", "head"):
                    a, b = (
                        told(kept.panel if name == "panel" else kept),
                        told(new.panel if name == "panel" else new),
                    )
                    out += [f"{name} shows {x}" for x in a - b] + [
                        f"{name} lacks {x}" for x in b - a
                    ]
                    continue
                a, b = drawn(kept), drawn(new)
                if a.shape != b.shape or np.abs(a - b).max() > ROUNDED:
                    out.append(f"{name} is painted otherwise")
        finally:
            for view in reversed(fresh.values()):
                shiboken6.delete(view)
        return out


def go(user, state, project):
    """To a stage, with something selected."""
    stage, *selected = state.split()
    pipe, structures = list(project.pipes)[1], list(project.structures)[1:3]
    user.in_stage(stage)
    user.session.select(
        frozenset(
            list(project.pipes)[:2] if selected == ["several"] else [] if selected else [pipe]
        ),
        frozenset(structures[:1] if selected == ["structure"] else []),
    )


def edited(session, name, rng):
    """What an edit makes of the project; None where it changes nothing."""
    current = session.state.current
    for _ in range(TRIES):
        try:
            made = project_of(
                EDITS[name](
                    **arguments(name, EDITS[name], Maker(current.project, current.facts, rng))
                )
            )
        except (ZumbertError, ValueError):
            continue
        if made is not None and made is not current.project:
            return made
    return None


@pytest.mark.parametrize("name", NAMES)
def test_what_views_keep_is_what_new_ones_show(user, name):
    session, views, place = user.session, Views(user.window), sorted(EDITS).index(name)
    wrong = []
    for k in range(times(1, 2 * len(STATES))):
        state, base = (
            STATES[(place + 3 * k) % len(STATES)],
            (BASE, QUIET)[(place // EACH + k // len(STATES)) % 2],
        )
        if session.state.current.project is not base:
            session.open(base, None)
            user.window.centre.show_all()
        go(user, state, base)
        project = edited(session, name, np.random.default_rng(sum(map(ord, name))))
        if project is None:
            return
        session.preview(project, told=True)
        # its lists wait until it is made
        wrong += [f"{state}, tried: {d}" for d in views.differences("panel")]
        session.apply(name, project, told=True)
        wrong += [f"{state}, made: {d}" for d in views.differences()]
        session.undo()
        wrong += [f"{state}, taken back: {d}" for d in views.differences()]
        session.redo()
        # with nothing tried before it
        wrong += [f"{state}, made again: {d}" for d in views.differences()]
        session.undo()
    assert not wrong, "\n".join(wrong)


@pytest.mark.parametrize(
    "base", [BASE, QUIET, odd(2), odd(4)], ids=["base", "quiet", "odd 2", "odd 4"]
)
def test_a_panel_that_is_turned_to_another_thing_is_a_new_one(user, base):
    session, views = user.session, Views(user.window)
    session.open(base, None)
    things = [({k}, ()) for k in base.pipes] + [((), {k}) for k in base.structures] + [((), ())] * 3
    order = np.random.default_rng(3).permutation(len(things))[: times(9, len(things))]
    for n, i in enumerate(order.tolist()):
        pipes, structures = things[i]
        session.select(frozenset(pipes), frozenset(structures))
        application().processEvents()
        assert views.panel() == [], (pipes, structures)
        if (pipes or structures) and n % 2:  # what is typed here is not for the next
            own = user.window.side.panel.own
            own.value.setText("1.1")
            own.reason.setText("agreed")
            own.rule.setCurrentIndex(2)
        if structures and not n % 3:
            name = user.window.side.panel.name
            name.setText("typed")
            name.setModified(True)


def test_a_panel_is_made_anew_in_other_units(user):
    views = Views(user.window)
    structure = list(user.project.structures)[3]
    for units in (Units(system="us"), Units()):
        user.session.select(frozenset(), frozenset({structure}))
        project = replace(user.project, settings=replace(user.project.settings, units=units))
        user.session.apply("Units", project)
        application().processEvents()
        assert views.panel() == []
        user.session.select(frozenset(), frozenset())


def test_the_keyboard_stays_in_its_field_and_its_light_goes_along(user):
    first, then = list(user.project.pipes)[2:4]
    user.session.select(frozenset({first}), frozenset())
    user.settle()
    field = user.window.side.panel.rows["invert_up"].field
    user.window.activateWindow()
    application().processEvents()
    field.setFocus()
    assert user.session.state.at.lit == (first, "up")
    user.session.select(frozenset({then}), frozenset())
    user.settle()
    assert field.hasFocus() and user.session.state.at.lit == (then, "up")
    user.fill(field, "+0.1")
    assert user.project.pipes[then].invert_up != DEMO.pipes[then].invert_up
    assert user.project.pipes[first] is DEMO.pipes[first]


@pytest.mark.parametrize(
    ("first", "then"),
    [("flow", "checks"), ("checks", "flow"), ("ground", "flow"), ("flow", "levels")],
)
def test_labels_keep_clear_of_what_lies_under_them_in_each_stage(user, first, then):
    user.session.open(BASE, None)
    user.window.centre.show_all()
    for stage in (first, then):
        go(user, stage, BASE)
        user.settle()
    assert Views(user.window).differences() == []


def test_after_an_edit_that_was_tried_its_fixes_are_offered(user):
    pipe = user.look_at("S5", "S4").id
    made = set_invert(user.project, pipe, "up", 42.6)  # its cover is too little now
    user.session.preview(made)
    user.session.apply("Raise", made)
    user.settle()
    assert any(b.buttons for b in user.window.side.panel.mends)
    assert Views(user.window).differences("section") == []  # the pointer is over it


def test_a_road_that_is_renamed_is_offered_by_its_new_name(user):
    pipes = list(user.project.pipes)[:2]
    user.session.select(frozenset(pipes), frozenset())
    road = list(user.project.roads)[1]
    user.session.edit("x", lambda p, f: rename_road(p, road, "Moor Lane"))
    user.settle()
    assert user.window.side.panel.copy_to.findText("Moor Lane") > 0
    assert Views(user.window).differences() == []


def test_what_is_tried_is_labelled_in_the_order_of_the_project(user):
    value, changed = (
        user.session.state.current,
        [*user.project.pipes, *user.project.structures][::3],
    )
    picture = Picture(facts=value.facts, findings=value.findings)
    marks = [
        network(picture, user.plan.map, (), frozenset(keys)).marks
        for keys in (changed, changed[::-1])
    ]
    assert [m.text for m in texts_in(marks[0])] == [m.text for m in texts_in(marks[1])]
