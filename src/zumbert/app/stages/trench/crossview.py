"""The trench cross-section on the screen: at the shared cursor, with pinned ones beside it."""

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QResizeEvent, QShowEvent, QWheelEvent
from PySide6.QtWidgets import QPushButton

from zumbert.analysis.crosssection import CrossSection, cross_section, half_needed
from zumbert.analysis.sectionsteps import (
    SectionPlace,
    next_stop,
    place_on,
    run_distance,
    where_words,
)
from zumbert.analysis.trench import Trenches
from zumbert.app.guard import guarded
from zumbert.app.panels.rows import toggle_chip
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.views.layered import Clipped, Layer, Layered
from zumbert.drawing.crosssection import AXIS, crosssection_marks, levels_shown
from zumbert.drawing.marks import Stroke, Text, points
from zumbert.drawing.sight import SectionSight, round_ratio, scale_of
from zumbert.model.ids import PipeId

MOST = 3  # sections that are pinned at a time
STRETCH = (1.0, 2.0, 5.0)  # how much levels are drawn larger than offsets
ZOOM = 1.25
ROOMY = 700.0  # drawing units: in a narrower column the name of a section stands under the chips
SPARE = 6.0  # m of ground beyond what a section needs: most sights show no more


class Shown(NamedTuple):
    """One of the sections side by side."""

    cut: CrossSection
    sight: SectionSight
    box: QRectF
    name: str


@guarded
class CrossView(Layered):
    """Shows the section at the cursor. Arrow keys step along the run, Enter or a click pins, the
    wheel zooms, a drag moves.
    """

    to_plan = Signal()
    looked = Signal()

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        # the place that is shown: the last one that the cursor had
        self.at: SectionPlace | None = None
        self.scale: float | None = None  # drawing units a metre across; None: as it fits
        self.stretch = 0  # number in STRETCH
        self.moved = (0.0, 0.0)  # drawing units
        self._pan: QPointF | None = None
        self._panned = False
        self.setObjectName("cross-section")
        self.setAccessibleName("Trench cross-section")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 120)
        self.chips = {
            "scale": self._chip(
                "Cross-section 1:40", "cross scale", self.fit, "Fit the cross-section"
            ),
            "stretch": self._chip(
                "Levels as offsets",
                "cross stretch",
                self.next_stretch,
                "Draws levels larger than offsets",
            ),
            "pin": self._chip(
                "Pin",
                "cross pin",
                self.pin,
                "Keeps this section beside the one at the cursor (Shift+P)",
            ),
            "plan": self._chip(
                "Plan", "cross plan", self.to_plan.emit, "Shows the plan in its place"
            ),
        }
        self.unpins: list[QPushButton] = []

    def _chip(self, text: str, name: str, run: Callable[[], object], tip: str) -> QPushButton:
        chip = toggle_chip(text, name, False)
        chip.setParent(self)
        chip.setToolTip(tip)
        chip.clicked.connect(lambda _=False: run())
        return chip

    # -- what is shown -----------------------------------------------------------------------------

    def follow(self, old: State, new: State) -> None:
        """It goes to the place along the run that is pointed at."""
        if self.at is not None and self.at.pipe not in new.shown.project.pipes:
            self.at = None
        if not new.look.stage.digs or new.dug.trenches is None:
            return
        if (
            new.look.run is not old.look.run
            or new.at.cursor != old.at.cursor
            or new.dug.trenches is not old.dug.trenches
            or new.chosen.pipes != old.chosen.pipes
        ):
            self._follow(old, new)
        if len(new.look.sections) != len(old.look.sections):
            self.scale, self.moved = None, (0.0, 0.0)  # the columns are others
        if self.isVisible():
            self.refresh_chips()
            super().follow(old, new)

    def _follow(self, old: State, new: State) -> None:
        """Goes to the shared cursor; where that is nowhere, stays, or takes the middle of the
        pipe that is selected.
        """
        dug, run = new.dug.trenches, new.look.run
        if dug is None or run is None:
            self.at = None
            return
        if self.at is not None and (
            self.at.pipe not in dug.pipes or run_distance(dug, run, self.at.pipe, self.at.s) is None
        ):
            self.at = None
        found = place_on(dug, run, new.at.cursor) if new.at.cursor is not None else None
        if found is None and new.chosen.pipes != old.chosen.pipes and len(new.chosen.pipes) == 1:
            found = self._middle(next(iter(new.chosen.pipes)))
        self.at = found or self.at or (self._middle(run.reaches[0].pipe) if run.reaches else None)

    def _middle(self, pipe: PipeId) -> SectionPlace | None:
        s = self.session.state
        if s.dug.trenches is None or s.look.run is None or pipe not in s.dug.trenches.pipes:
            return None
        long = s.dug.trenches.facts.pipes[pipe].span.length
        at = run_distance(s.dug.trenches, s.look.run, pipe, long / 2)
        return None if at is None else SectionPlace(pipe, long / 2, at)

    @property
    def places(self) -> list[tuple[PipeId, float]]:
        """The sections that are shown: that at the cursor first."""
        dug, pinned = self.session.state.dug.trenches, self.session.state.look.sections
        at = [] if self.at is None else [(self.at.pipe, self.at.s)]
        return [c for c in (*at, *pinned) if dug is not None and c[0] in dug.pipes]

    def shown(self) -> list[Shown]:
        """The sections side by side, as they are drawn."""
        places = tuple(self.places)
        wide = self.width() / max(1, len(places))

        def side_by_side(s: State) -> list[Shown]:
            if s.dug.trenches is None:
                return []
            return [
                self._shown(s.dug.trenches, s, pipe, at, i * wide, wide)
                for i, (pipe, at) in enumerate(places)
            ]

        return self.kept(
            "sections",
            (places, self.scale, self.stretch, self.moved, self.size().toTuple()),
            side_by_side,
        )

    def _shown(
        self, dug: Trenches, s: State, pipe: PipeId, at: float, left: float, wide: float
    ) -> Shown:
        tall = float(self.height())
        need = half_needed(dug.pipes[pipe])
        cut = cross_section(dug, pipe, at, need + SPARE)
        low, high = levels_shown(dug, cut)
        stretch = STRETCH[self.stretch]
        scale = self.scale
        if scale is None:
            room = min(
                (wide - AXIS) / max(2 * need, 4.0), (tall - 96) / max(high - low, 1.0) / stretch
            )
            scale = scale_of(round_ratio(max(room, 1.0)))
        middle, dx, dy = (low + high) / 2, *self.moved
        sight = SectionSight(
            width=left + wide,
            height=tall,
            left=left + AXIS,
            x=-((wide - AXIS) / 2 + dx) / scale,
            z=middle - (tall / 2 - 8 - dy) / scale / stretch,
            sx=scale,
            sz=scale * stretch,
        )
        half = max(abs(sight.s_at(sight.left)), abs(sight.s_at(sight.width))) + 0.1
        if half > need + SPARE:
            cut = cross_section(dug, pipe, at, half)
        return Shown(cut, sight, QRectF(left, 0, wide, tall), self._name(s, pipe, at))

    def _name(self, s: State, pipe: PipeId, at: float) -> str:
        project = s.shown.project
        record, where = project.pipes[pipe], where_words(s.shown.facts, pipe, at)
        return (
            f"{project.structures[record.up].label} to {project.structures[record.down].label}, "
            f"{where}"
        )

    def layers(self) -> list[Layer]:
        from zumbert.drawing.marks import Fill

        wide, tall = self.width(), self.height()
        out: list[Layer] = [[Fill("paper", points((0, 0), (wide, 0), (wide, tall), (0, tall)))]]
        s = self.session.state
        if s.dug.trenches is None:
            return out
        for i, one in enumerate(self.shown()):
            marks = crosssection_marks(s.dug.trenches, one.cut, one.sight)
            if i:
                x, y = one.box.x(), one.box.height()
                marks.append(Stroke("soft", points((x, 0), (x, y))))
            under = one.box.width() < ROOMY  # then the chips take the first line
            name = one.name if under else f"{one.name}, facing down the flow"
            at = one.sight.width - 12, 45.0 if under else 25.0
            marks.append(Text("small", name, *at, "right", plate=True))
            out.append(Clipped(marks, one.box))
        if not self.places:
            words = "Lay a pipe with a trench, and its cross-section is shown here."
            out.append([Text("small", words, 100, 80)])
        return out

    def refresh_chips(self) -> None:
        """The chips tell scale, ratio and place."""
        shown, s = self.shown(), self.session.state
        if shown:
            self.chips["scale"].setText(f"Cross-section 1:{shown[0].sight.ratios[0]:.0f}")
        stretch = STRETCH[self.stretch]
        self.chips["stretch"].setText("1:1" if stretch == 1 else f"Levels ×{stretch:g}")
        self.chips["pin"].setText(
            "Pin"
            if self.at is None
            else f"Pin {where_words(s.shown.facts, self.at.pipe, self.at.s)}"
        )
        self.chips["pin"].setEnabled(self.at is not None and len(s.look.sections) < MOST)
        x = 14
        for chip in self.chips.values():
            chip.adjustSize()
            chip.move(x, 11)
            x += chip.width() + 6
        while len(self.unpins) < len(s.look.sections):
            i = len(self.unpins)
            self.unpins.append(
                self._chip("Unpin", f"unpin {i}", partial(self.unpin, i), "Takes this section away")
            )
        for i, chip in enumerate(self.unpins):
            at = i + 1 if self.at is not None else i
            chip.setVisible(i < len(s.look.sections))
            if at < len(shown):
                chip.adjustSize()
                chip.move(round(shown[at].box.x()) + 14, 36 if at == 0 else 11)

    # -- what is done ------------------------------------------------------------------------------

    def fit(self) -> None:
        """Shows the whole trench."""
        self.scale, self.moved = None, (0.0, 0.0)
        self._look()

    def next_stretch(self) -> None:
        """Levels as large as offsets, twice, five times, and as large again."""
        self.stretch = (self.stretch + 1) % len(STRETCH)
        self.scale = None
        self._look()

    def _look(self) -> None:
        self.refresh_chips()
        self.update()
        self.looked.emit()

    def step(self, forward: bool) -> None:
        """Goes to the next section along the run, or the one before."""
        s = self.session.state
        if s.dug.trenches is None or s.look.run is None:
            return
        at = next_stop(
            s.dug.trenches, s.look.run, None if self.at is None else self.at.run, forward
        )
        if at is not None:
            self.session.set(cursor=at)

    def pin(self) -> None:
        """Keeps the section that is shown beside the one at the cursor."""
        s = self.session.state
        if self.at is None or (self.at.pipe, self.at.s) in s.look.sections:
            return
        if len(s.look.sections) >= MOST:
            self.session.refused.emit(f"{MOST} sections are pinned: take one away first.")
            return
        self.session.set(sections=(*s.look.sections, (self.at.pipe, self.at.s)))

    def unpin(self, i: int) -> None:
        """Takes a pinned section away."""
        s = self.session.state
        self.session.set(sections=tuple(c for j, c in enumerate(s.look.sections) if j != i))

    # -- events ------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        s = self.session.state
        if s.dug.trenches is not None and self.at is None:
            self._follow(s, s)
        self.refresh_chips()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.refresh_chips()
        super().resizeEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        keys = (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
            Qt.FocusReason.ShortcutFocusReason,
        )
        self.ringed = event.reason() in keys
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.ringed = False
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self.ringed = False
        self._pan, self._panned = event.position(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pan is None or not event.buttons():
            return
        d = event.position() - self._pan
        if self._panned or abs(d.x()) + abs(d.y()) > 3:
            self._panned = True
            self._pan = event.position()
            self.scale = self.shown()[0].sight.sx if self.shown() else self.scale
            self.moved = (self.moved[0] + d.x(), self.moved[1] + d.y())
            self._look()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if (
            self._pan is not None
            and not self._panned
            and event.button() == Qt.MouseButton.LeftButton
        ):
            self.pin()
        self._pan = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if steps and self.shown():
            self._zoom(ZOOM**steps, event.position().x(), event.position().y())
            event.accept()

    def _zoom(self, factor: float, x: float, y: float) -> None:
        """Brings the drawing nearer about a place, within 1:2 and 1:1000."""
        one = next((o for o in self.shown() if o.box.left() <= x < o.box.right()), self.shown()[0])
        now = one.sight.sx
        scale = min(max(now * factor, scale_of(1000)), scale_of(2))
        k = scale / now
        dx, dy = self.moved
        cx, cy = (one.sight.left + one.sight.width) / 2, self.height() / 2 + 8
        self.moved = (x - cx - (x - cx - dx) * k, y - cy - (y - cy - dy) * k)
        self.scale = scale
        self._look()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Right, Qt.Key.Key_Left):
            self.step(key == Qt.Key.Key_Right)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.pin()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus) and self.shown():
            self._zoom(
                ZOOM if key == Qt.Key.Key_Plus else 1 / ZOOM, self.width() / 2, self.height() / 2
            )
        else:
            super().keyPressEvent(event)
