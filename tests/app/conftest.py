"""The real window, offscreen, with the demo; driven by mouse and keyboard."""

import gc
import sys
import traceback

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QCursor, QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMessageBox

from tests.app.ready import kept, known_quantities, known_trenches, known_value, paint, shown
from zumbert.app import session as sessions
from zumbert.app.main import application
from zumbert.delivery import job
from zumbert.drawing.handles import ring_places
from zumbert.drawing.longsection import section_marks


@pytest.fixture(scope="session", autouse=True)
def started(qapp):
    """Every test of the window needs the application."""


@pytest.fixture
def errors(monkeypatch):
    """An exception in a slot or a paint event fails the test."""
    seen = []
    monkeypatch.setattr(sys, "excepthook", lambda *e: seen.append(e))
    yield seen
    assert not seen, "".join(traceback.format_exception(*seen[0]))


class Driver:
    """A user at the window."""

    def __init__(self, window, qtbot):
        self.window, self.bot = window, qtbot
        self.session, self.plan, self.section = window.session, window.plan, window.section
        self.refusals = []
        window.session.refused.connect(self.refusals.append)

    @property
    def project(self):
        return self.session.state.current.project

    @property
    def shown(self):
        return self.session.state.shown.project

    @property
    def facts(self):
        return self.session.state.current.facts

    def in_section(self):
        """All marks of the long section."""
        s = self.session.state
        made = section_marks(s.section, self.section.sight, s.chosen.hand if s.levelling else None)
        return made.drawing + made.rows

    def settle(self):
        paint(self.window)

    def pipe(self, up, down):
        names = {k: s.label for k, s in self.project.structures.items()}
        return next(
            p for p in self.project.pipes.values() if (names[p.up], names[p.down]) == (up, down)
        )

    def structure(self, label):
        return next(s for s in self.project.structures.values() if s.label == label)

    def look_at(self, up, down):
        """Selects a pipe by a click in the section, having brought it into sight."""
        self.settle()
        pipe = self.pipe(up, down)
        self.section.fit_pipe(pipe.id)
        self.settle()
        x, y = self.along(pipe.id, 0.3)
        self.click(self.section, x, y)
        self.settle()
        assert self.session.state.chosen.pipes == {pipe.id}, (
            x,
            y,
            self.section.sight,
            self.session.state.look.run_key,
        )
        return pipe

    def along(self, pipe, share):
        """The drawing place of a pipe's axis in the section."""
        target = next(t for t in self.section.targets if t.id == pipe)
        a, b = target.xy
        return tuple(a + (b - a) * share)

    def ring(self, name):
        s = self.session.state
        reach = next(r for r in s.look.run.reaches if r.pipe == s.chosen.hand.pipe)
        return ring_places(s.shown.facts.pipes[s.chosen.hand.pipe], reach, self.section.sight)[name]

    def in_plan(self, x, y):
        place = self.plan.drawn(x, y)
        assert place is not None
        return place

    def move(self, view, x, y, held=False, keys=Qt.KeyboardModifier.NoModifier):
        at = QPointF(round(x), round(y))
        buttons = Qt.MouseButton.LeftButton if held else Qt.MouseButton.NoButton
        event = QMouseEvent(
            QEvent.Type.MouseMove, at, view.mapToGlobal(at), Qt.MouseButton.NoButton, buttons, keys
        )
        application().sendEvent(view, event)

    def press(self, view, x, y, keys=Qt.KeyboardModifier.NoModifier):
        self.move(view, x, y)
        QTest.mousePress(view, Qt.MouseButton.LeftButton, keys, QPoint(round(x), round(y)))

    def release(self, view, x, y, keys=Qt.KeyboardModifier.NoModifier):
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, keys, QPoint(round(x), round(y)))
        self.settle()

    def click(self, view, x, y, keys=Qt.KeyboardModifier.NoModifier):
        self.press(view, x, y, keys)
        self.release(view, x, y, keys)

    def drag(self, view, a, b, keys=Qt.KeyboardModifier.NoModifier, release=True):
        self.press(view, *a, keys)
        for t in np.linspace(0, 1, 6)[1:].tolist():
            self.move(view, a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, True, keys)
        if release:
            self.release(view, *b, keys)

    def drag_ring(self, name, metres, **more):
        """Drags a ring up by metres."""
        x, y = self.ring(name)
        self.drag(self.section, (x, y), (x, y - metres * self.section.sight.sz), **more)

    def type(self, widget, text):
        QTest.keyClicks(widget, text)

    def key(self, widget, key, keys=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(widget, key, keys)
        self.settle()

    def enter(self, text):
        """A text typed with a tool in hand over the plan, and Enter."""
        self.type(self.plan, text)
        self.key(self.plan.entry.field, Qt.Key.Key_Return)

    def fill(self, field, text):
        """A text typed over what a field holds, and Enter."""
        field.setFocus()
        field.selectAll()
        self.type(field, text)
        self.key(field, Qt.Key.Key_Return)

    def wheel(self, view, x, y, steps, keys=Qt.KeyboardModifier.NoModifier):
        at = QPointF(x, y)
        event = QWheelEvent(
            at,
            view.mapToGlobal(at),
            QPoint(),
            QPoint(0, 120 * steps),
            Qt.MouseButton.NoButton,
            keys,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        application().sendEvent(view, event)
        self.settle()

    def in_stage(self, stage):
        """By a click on the rail, where the test did not begin there."""
        if self.session.state.look.stage.id != stage:
            self.window.rail.buttons[stage].click()
            self.settle()

    def do(self, action):
        """An action, as its shortcut or menu would run it."""
        self.window.actions_[action].trigger()
        self.settle()


@pytest.fixture
def user(qtbot, errors, monkeypatch):
    monkeypatch.setattr(QMessageBox, "exec", lambda self: pytest.fail("a question was asked"))
    QCursor.setPos(QPoint(4000, 4000))  # not where the test before left it
    if kept:
        return Driver(kept[0], qtbot)
    window = shown()
    qtbot.addWidget(window, before_close_func=lambda w: setattr(w.files, "may_leave", lambda: True))
    return Driver(window, qtbot)


@pytest.fixture(autouse=True)
def known_demo(monkeypatch):
    """The demo is worked out already, and its trenches and quantities once they were asked for."""
    monkeypatch.setattr(sessions, "value", known_value)
    monkeypatch.setattr(sessions, "trenches", known_trenches)
    monkeypatch.setattr(job, "full_quantities", known_quantities)


@pytest.fixture(autouse=True)
def windows_go():
    """What a test has opened is gone when it ends: else each window stays, and is restyled with all
    others. Collected in the middle of another test, in a thread's time, the rest of a window can
    bring Qt down.
    """
    yield
    if not kept:
        application().sendPostedEvents(None, QEvent.Type.DeferredDelete)
        gc.collect()
