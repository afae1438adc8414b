"""How the network is looked at in space: turned, moved, brought nearer, walked along."""

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QApplication

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.views.view import DrawingView
from zumbert.geometry.elements import Array
from zumbert.space.eye import SpaceEye
from zumbert.space.over import cursor_place
from zumbert.space.pen import SpacePen
from zumbert.space.scene import Scene, box, corners
from zumbert.space.wanted import View

STEP = 2.0  # m along the run of a notch of the wheel; with Shift a tenth
# how the eye looks at a place along the run: m behind it, turned aside, tilted down
BEHIND, ASIDE, DOWN = 12.0, float(np.radians(15.0)), float(np.radians(4.0))
NEAR_PIPE = 8.0  # m about what is fitted when it is small


@guarded
class SpaceSightView(DrawingView):
    """The eye of the view in space, by mouse and keyboard."""

    travelled = Signal(float)  # along the run to a distance, m

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        self.eye = SpaceEye()
        self.scene: Scene | None = None
        self.along = False  # whether the wheel leads along the run
        self._space: SpacePen | None = None
        self._button = Qt.MouseButton.NoButton  # that went down last
        self._anchor: Array | None = None  # what a drag turns about, in stretched space
        self._zooms: tuple[float, float, Array] | None = None  # the pointer, what a zoom leads to

    def compose(self) -> SpacePen | None:
        """Brings the scene up to date."""
        return None

    def place_under(self, x: float, y: float) -> Array | None:
        """The place (3,), in stretched space, that is seen at a drawing place."""
        return None

    def _moves(self) -> None:
        """The eye is another from now on."""

    def look(self, eye: SpaceEye) -> None:
        """Another eye looks."""
        if eye != self.eye:
            self.eye = eye
            self._moves()
            self.looked.emit()
            self.update()

    def _toward(self, x: float, y: float) -> Array:
        """The point that a drag or zoom turns about: what is seen there, else as far
        away as what is looked at.
        """
        found = self.place_under(x, y)
        return self.eye.seen(x, y, self.eye.distance) if found is None else found

    def _measure(self) -> None:
        """The eye's picture is as large as the view."""
        if (self.eye.width, self.eye.height) != (self.width(), self.height()):
            self.eye = replace(
                self.eye, width=float(max(1, self.width())), height=float(max(1, self.height()))
            )

    def panned(self, dx: float, dy: float) -> None:
        """Turned about what was pressed on; with Shift, or with another button, moved with the
        mouse.
        """
        if self.scene is None:
            return
        about = self.eye.target if self._anchor is None else self._anchor
        shift = bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)
        if shift or (self._anchor is not None and self._button != Qt.MouseButton.LeftButton):
            ahead = float((about - self.eye.place) @ self.eye.axes[2])
            self.look(self.eye.panned(ahead, dx, dy))
        else:
            self.look(self.eye.orbited(about, dx, dy))

    def zoomed(self, factor: float, x: float, y: float, keys: Qt.KeyboardModifier) -> None:
        """Nearer to what is under the pointer; along the run, on or back."""
        if self.scene is None:
            return
        if self.along:
            step = STEP / 10 if keys & Qt.KeyboardModifier.ShiftModifier else STEP
            self.travel(step * np.log(factor) / np.log(1.25))
            return
        if self._zooms is None or self._zooms[:2] != (x, y):
            self._zooms = x, y, self._toward(x, y)
        self.look(self.eye.zoomed(self._zooms[2], factor))

    def fit(self) -> None:
        """Shows the network whole; where there is none, everything."""
        if self.scene is None:
            self.compose()
        if self.scene is not None:
            origin = None if self._space is None else self._space.origin
            self._measure()
            base = 0.0 if origin is None else float(origin[2])
            eye = replace(self.eye, base=base, stretch=self.session.state.look.space.stretch)
            self.look(eye.fitted(box(self.scene)))

    def fit_selected(self) -> bool:
        s = self.session.state
        parts = (
            []
            if self.scene is None
            else [
                p
                for p in self.scene.parts.values()
                if p.id in s.chosen.pipes or p.id in s.chosen.structures
            ]
        )
        boxes = [p.box for p in parts if p.kind in ("pipe", "structure")]
        if not boxes:
            return False
        low, high = np.min(boxes, axis=0)[0], np.max(boxes, axis=0)[1]
        half = np.maximum((high - low) / 2, [NEAR_PIPE / 2, NEAR_PIPE / 2, 1.0])
        before = self.eye
        self.look(self.eye.fitted(corners((low + high) / 2 - half, (low + high) / 2 + half)))
        return self.eye != before

    def look_from(self, view: View) -> None:
        """One of the six views."""
        self.along = False
        if self.scene is not None:
            self.look(self.eye.looking(view).fitted(box(self.scene)))

    def toggle_along(self) -> None:
        """The eye goes to pipe level at the shared cursor, and the wheel leads it along the run;
        again, and it is free.
        """
        self.along = not self.along
        s = self.session.state
        if self.along and s.look.run is not None:
            self._fit_run(
                s.at.cursor
                if s.at.cursor is not None
                else s.look.run.start + min(1.0, s.look.run.length / 2)
            )
        self.looked.emit()
        self.update()

    def travel(self, by: float) -> None:
        """On along the run by so many metres, or back."""
        run = self.session.state.look.run
        if run is None:
            return
        now = self.session.state.at.cursor
        at = (run.start if now is None else now) + by
        self._fit_run(float(np.clip(at, run.start, run.start + run.length)))

    def _fit_run(self, s: float) -> None:
        """The eye looks at a distance along the run, at pipe level, the way the run goes there."""
        run = self.session.state.look.run
        place = None if run is None else cursor_place(run, self.session.state.shown.facts, s)
        if run is None or run.line is None or place is None:
            return
        end = run.start + run.length
        a, b = max(run.start, min(s, end - 1.0)), min(end, max(s, run.start) + 1.0)
        (x0, y0), (x1, y1) = (
            tuple(float(v) for v in run.line.point(t, 0.0)) for t in (a, max(b, a + 0.01))
        )
        way = (
            float(np.arctan2(x1 - x0, y1 - y0))
            if (x0, y0) != (x1, y1) and x0 == x0 and x1 == x1
            else self.eye.bearing - ASIDE
        )
        x, y, axis, _ = place
        self.session.point_at((x, y), s)
        self.look(
            replace(self.eye, x=x, y=y, z=axis, bearing=way + ASIDE, tilt=DOWN, distance=BEHIND)
        )
        self.travelled.emit(s)
