"""A drawing on the screen: layers of marks, pan and zoom, and events for the tool in hand."""

from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPointF, Qt, QTimer, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QResizeEvent, QWheelEvent

from zumbert.analysis.facts import new_since
from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.reading import aside
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.tools.tool import MousePlace
from zumbert.app.views.pointedview import PointedView
from zumbert.drawing.marks import Target
from zumbert.drawing.targets import Targets
from zumbert.log import logger

if TYPE_CHECKING:
    from zumbert.app.entryline import EntryLine

ENTRY_KEYS = frozenset(
    "0123456789+-.,=:%c\u2212"
)  # a letter more begins an entry where the tool says so
ZOOM = 1.25
RANK = {
    "ring": 0, "rim": 0, "ip": 0, "radius": 0, "pvi": 0, "curve": 0, "bend": 0,
    "structure": 1, "pin": 1, "pipe": 2, "label": 3, "spot": 3, "service": 4, "road": 5, "land": 6,
}  # fmt: skip
SETTLE = 90  # ms after the last step of a zoom the drawing is made anew


@guarded
class DrawingView(PointedView):
    """Base of plan and long section: what lies where, and events for the tool in hand."""

    leads = False  # whether the long section follows what is picked here
    looked = Signal()  # the sight changed
    focused = Signal()  # the keyboard came here
    asked = Signal(float, float)  # a right click at a place, without a drag
    wanted = Signal(object)  # a pipe or structure was clicked twice: its id

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        self.still = Targets()  # what can be hit in the pixmaps
        self.shift = (0.0, 0.0)  # where those lie now
        self.live: list[Target] = []  # what can be hit in what is drawn each time
        # the value that edits are tried on, what they change
        self._tried: tuple[object, frozenset[str]] = (None, frozenset())
        self._pan: QPointF | None = None
        self._panned = False
        # of a press that becomes a click, or a drag of the drawing
        self._click: MousePlace | None = None
        self.settling = QTimer(self)  # while it runs one is zooming
        self.settling.setSingleShot(True)
        self.settling.setInterval(SETTLE)
        self.settling.timeout.connect(self._settled)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 120)

    @property
    def zooming(self) -> bool:
        """Whether a zoom is under way: what was drawn is stretched until it ends."""
        return self.settling.isActive()

    def _settled(self) -> None:
        """The zoom is over: all is drawn anew, sharp."""
        self._sharpen()
        self.looked.emit()
        self.look_again()

    def _sharpen(self) -> None:
        """Draws at the scale of now, so that what can be hit lies where it is seen."""
        if self.settling.isActive():
            self.settling.stop()
        self.repaint()

    def look_again(self) -> None:
        """The drawing has moved under the mouse: what the tool shows is of the place that lies
        there now.
        """
        if self.mouse is None or self.typing or self._pan is not None:
            return
        if not self.tool.in_hand:
            self.hover = self.hit(self.mouse.x, self.mouse.y)
        self.tell_place(self.mouse)
        self.move_tool(self.mouse, False)
        self.refresh_entry()
        self.update()

    @property
    def typing(self) -> bool:
        """Whether a text is being typed in the entry line."""
        return self.entry_made and self.entry.typing

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        keys = (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
            Qt.FocusReason.ShortcutFocusReason,
        )
        self.ringed = event.reason() in keys
        self.update()
        self.focused.emit()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.ringed = False
        self.update()

    def changing(self, s: State) -> frozenset[str]:
        """The things that a preview draws each time. While one edit is tried this only grows, so
        that the rest need not be redrawn.
        """
        s = aside(s)
        if not s.previewing:
            self._tried = (None, frozenset())
            return frozenset()
        current, before = self._tried
        pipes, structures = new_since(s.shown.facts, s.current.facts)
        found: frozenset[str] = frozenset([*pipes, *structures])
        if current is s.current:
            found |= before
        self._tried = (s.current, found)
        return found

    @property
    def drawing_bottom(self) -> float:
        """Where the drawing ends downwards."""
        return float(self.height())

    # -- what is where -----------------------------------------------------------------------------

    def hit(self, x: float, y: float) -> Target | None:
        """The target at a drawing place: rings before structures before pipes, and of each kind
        the nearest.
        """
        dx, dy = self.shift
        near = [*Targets(self.live).near(x, y), *self.still.near(x - dx, y - dy)]
        return min(near, key=lambda t: (RANK.get(t[0].kind, 9), t[1]))[0] if near else None

    def hit_current(self, x: float, y: float) -> Target | None:
        """The target at a place in the current project, whatever a preview shows there."""
        return self.hit(x, y)

    @property
    def targets(self) -> list[Target]:
        """All that can be hit, in drawing places of now."""
        return [*self.live, *(t._replace(xy=t.xy + self.shift) for t in self.still.all)]

    def world(self, x: float, y: float) -> tuple[float, float] | None:
        """X and y (m) under a drawing place; None where there is no such place."""
        return None

    # -- events ------------------------------------------------------------------------------------

    def _place(self, event: QMouseEvent) -> MousePlace:
        m = event.modifiers()
        return MousePlace(
            event.position().x(),
            event.position().y(),
            bool(m & Qt.KeyboardModifier.ShiftModifier),
            bool(m & Qt.KeyboardModifier.AltModifier),
            bool(m & Qt.KeyboardModifier.ControlModifier),
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        at = self._place(event)
        left = event.button() == Qt.MouseButton.LeftButton
        self._panned, self._click, self.ringed = False, None, False
        if self.zooming:
            self._sharpen()
        if left and self.typing:
            self.entry.give_up()  # the hand goes before what was typed
        logger.info(
            "Press in: %s%s",
            self.accessibleName(),
            f" on a {self.hover.kind}" if self.hover is not None else "",
        )
        if left and self.takes_clicks:
            self._click = at
        elif left and self.press_tool(at):
            self.refresh_entry()
            return
        self._pan = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = self._place(event)
        self.mouse = at
        if self._pan is not None and event.buttons():
            d = event.position() - self._pan
            if self._panned or abs(d.x()) + abs(d.y()) > 3:
                self._panned = True
                self._pan = event.position()
                self.panned(d.x(), d.y())
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
            return
        if not self.tool.in_hand:
            self.hover = self.hit(at.x, at.y)
            self._tell_pointed()
        self.tell_place(at)
        pressed = bool(event.buttons() & Qt.MouseButton.LeftButton)
        if pressed or not self.typing:  # a text that is typed holds against a mouse that passes
            self.move_tool(at, pressed)
        self.refresh_entry()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pan is not None:
            self._pan = None
            self.unsetCursor()
            click, self._click = self._click, None
            if not self._panned and event.button() == Qt.MouseButton.RightButton:
                self.asked.emit(event.position().x(), event.position().y())
            elif self._panned or event.button() != Qt.MouseButton.LeftButton:
                self.look_again()
            elif click is None or not self.press_tool(click):
                self.clicked_nothing()
            self.refresh_entry()
            return
        if event.button() == Qt.MouseButton.LeftButton:
            self.tool.release(self, self._place(event))
            self.refresh_entry()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        left = event.button() == Qt.MouseButton.LeftButton
        if left and self.tool.done():
            self.refresh_entry()
            self.update()
            return
        hit = self.hit(event.position().x(), event.position().y())
        if left and hit is not None and hit.kind in ("pipe", "structure") and not self.takes_clicks:
            self.tool.let_go()
            self.wanted.emit(hit.id)
        else:
            self.mousePressEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self.hover, self.mouse = None, None
        self._tell_pointed()
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if steps:
            self.settling.start()
            self.zoomed(ZOOM**steps, event.position().x(), event.position().y(), event.modifiers())
            self.look_again()
            event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if self.typing:
            self.entry.take_key(event)
        elif (
            key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus)
            and event.modifiers() & Qt.KeyboardModifier.ControlModifier
        ):
            factor = ZOOM if key == Qt.Key.Key_Plus else 1 / ZOOM
            self.zoomed(factor, self.width() / 2, self.height() / 2, Qt.KeyboardModifier.NoModifier)
            self.look_again()
        elif key in ARROWS and not event.modifiers():
            dx, dy = ARROWS[Qt.Key(key)]
            self.panned(-dx, -dy)
            self.look_again()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.tool.done():
            self.refresh_entry()
            self.update()
        elif key == Qt.Key.Key_Backspace and self.tool.backspace():
            self.refresh_entry()
        elif (
            event.text()
            and event.text().lower() in self.tool.keys
            and self.tool.key(event.text().lower())
        ):
            self.refresh_entry()
            self.update()
        elif self._types(event):
            pass
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        """A letter that begins or continues an entry takes precedence over a shortcut."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            letter = (
                event.text().lower()
                if not event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier
                else ""
            )
            begins = letter in self.tool.keys or (
                letter in self.tool.letters and self.tool.takes_entry()
            )
            if letter and (begins or self.typing):
                event.accept()
                return True
        return super().event(event)

    def _types(self, event: QKeyEvent) -> bool:
        text = event.text()
        if (
            len(text) != 1
            or text.lower() not in ENTRY_KEYS | self.tool.letters
            or not self.tool.takes_entry()
        ):
            return False
        self.entry.begin(text)
        return True

    @cached_property
    def entry(self) -> "EntryLine":
        """The entry line beside the cursor; made when it is first needed."""
        from zumbert.app.entryline import EntryLine

        return EntryLine(self, self)

    @property
    def entry_made(self) -> bool:
        """Whether there is an entry line yet."""
        return "entry" in self.__dict__

    def refresh_entry(self) -> None:
        """The entry line follows the tool."""
        if self.entry_made or self.tool.words() is not None:
            self.entry.follow()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.resized()
        super().resizeEvent(event)

    # -- for the kinds of view ---------------------------------------------------------------------

    @property
    def takes_clicks(self) -> bool:
        """Whether the tool takes clicks here: a drag then moves the drawing."""
        raise NotImplementedError

    def press_tool(self, at: MousePlace) -> bool:
        """Tells the tool of a press; whether it took it."""
        raise NotImplementedError

    def move_tool(self, at: MousePlace, pressed: bool) -> None:
        """Tells the tool where the mouse is."""
        raise NotImplementedError

    def resized(self) -> None:
        """The widget has another size."""

    def panned(self, dx: float, dy: float) -> None:
        """The drawing is moved with the hand."""

    def zoomed(self, factor: float, x: float, y: float, keys: Qt.KeyboardModifier) -> None:
        """The drawing is brought nearer about a place."""

    def fit(self) -> None:
        """Shows all of it."""

    def fit_selected(self) -> bool:
        """Shows what is selected; whether the sight is another for it."""
        return False

    def tell_place(self, at: MousePlace) -> None:
        """Tells the session what lies under the cursor."""


ARROWS = {  # the step of the eye, drawing units
    Qt.Key.Key_Left: (-40.0, 0.0),
    Qt.Key.Key_Right: (40.0, 0.0),
    Qt.Key.Key_Up: (0.0, -40.0),
    Qt.Key.Key_Down: (0.0, 40.0),
}
