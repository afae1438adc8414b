"""The project in space on the screen: an image in a plain widget, so that it works with no
graphics card and from afar.
"""

from contextlib import nullcontext
from typing import Any

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPixmap

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.reading import alike
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.tools.tool import MousePlace
from zumbert.app.views.layered import Layer, Stretched
from zumbert.app.views.spacesight import SpaceSightView
from zumbert.app.views.view import ARROWS
from zumbert.app.work import waiting
from zumbert.drawing.marks import Fill, Mark, Target, Text, points
from zumbert.drawing.picture import Picture
from zumbert.geometry.elements import Array
from zumbert.space.context import SpaceError
from zumbert.space.over import cursor_marks, over
from zumbert.space.part import PICKED
from zumbert.space.pen import SpacePen
from zumbert.space.scene import Scene, near_side, scene

QUALITIES = ("rough", "plain", "fine")
REACH = 6.0  # drawing units from a thing within which it is pointed at
MANY = 1500  # pipes: the first look at so many takes a moment
LINE = 16.0  # drawing units between the lines of a sentence


@guarded
class SpaceView(SpaceSightView):
    """Looks at the project in space. Drag turns about what is under the pointer, with Shift it
    moves; the wheel zooms to it.

    rest -eye or project changes-> moving (half as fine, so that it follows the hand) -nothing more
    comes-> rest; -something is pointed at or selected-> plain (without smooth edges) -nothing more
    comes-> rest.
    """

    leads = True
    sized = Signal()

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        self.trouble = ""  # why nothing can be drawn
        self.moving = False  # whether the eye or the project is another from frame to frame
        self._fitted = False
        self._picture: tuple[tuple[Any, ...], QPixmap] | None = None
        self._known: tuple[Any, ...] = ()  # what the last picture that can be asked was drawn from
        self.setAccessibleName("View in space")
        self.setObjectName("space")

    @property
    def hint(self) -> str:
        """The hint: what the mouse does."""
        if self.along:
            return (
                "Wheel: along the run, Shift a little. Drag to look about, Shift+F3 to leave the "
                "run."
            )
        return (
            "Drag to turn about what is under the pointer, Shift to move, wheel to zoom to it. "
            "Click a structure or a pipe."
        )

    # -- what is drawn -----------------------------------------------------------------------------

    @property
    def pen_in_space(self) -> SpacePen | None:
        """The pen, made when it is first needed; None where there is no driver, which is told in
        the picture.
        """
        if self._space is None and not self.trouble:
            try:
                self._space = SpacePen()
                self.destroyed.connect(
                    self._space.release
                )  # what the driver holds goes with the view
            except SpaceError as e:
                self.trouble = str(e)
        return self._space

    def compose(self) -> SpacePen | None:
        """Brings the scene up to date, and sends what of it has changed."""
        space, s = self.pen_in_space, self.session.state
        if space is None:
            return None
        self.scene = self.kept(
            "scene", (), lambda s: self._loaded(space, s)
        )  # the mouse alone asks for nothing new
        if not self._fitted:
            self._fitted = True
            self.fit()
        item = frozenset([s.chosen.item.id]) if s.chosen.item is not None else frozenset()
        space.look(
            self.pen.theme,
            s.chosen.pipes | s.chosen.structures | item,
            s.at.pointed,
            near_side(self.scene, self.eye.place),
        )
        return space

    def _loaded(self, space: SpacePen, s: State) -> Scene:
        with waiting() if self.scene is None and len(s.shown.facts.pipes) > MANY else nullcontext():
            made = scene(self._pictured(s), s.look.space, self.scene)
            space.load(made)
        return made

    def _pictured(self, s: State) -> Picture:
        """The things in sight; with the trenches in every stage, where they are asked for."""
        if s.look.space.dug and s.dug.trenches is None:
            return replace(s.picture, trenches=self.session.dug(s.shown.facts))
        return s.picture

    def _pixels(self, rough: bool) -> tuple[int, int]:
        ratio = self.devicePixelRatioF() * (0.5 if rough else 1.0)
        return max(1, round(self.width() * ratio)), max(1, round(self.height() * ratio))

    def layers(self) -> list[Layer]:
        self._measure()
        space, s = self.compose(), self.session.state
        paper: list[Mark] = [
            Fill(
                "paper",
                points(
                    (0, 0), (self.width(), 0), (self.width(), self.height()), (0, self.height())
                ),
            )
        ]
        if space is None:
            return [[*paper, *self._told()]]
        if self.scene is None:
            return []
        how = "fine" if not self.settling.isActive() else "rough" if self.moving else "plain"
        key = (
            self.scene.parts,
            self.eye,
            self.size().toTuple(),
            self.devicePixelRatioF(),
            space.looked,
            s.look.space.strength,
            how,
        )
        if self._picture is None or not (alike(self._picture[0], key) or self._finer(key)):
            size = self._pixels(how == "rough")
            raw = space.draw(self.eye, size, s.look.space.strength, how == "fine")
            image = QImage(raw, *size, 4 * size[0], QImage.Format.Format_RGBX8888)
            pixmap = QPixmap.fromImage(image)
            self._picture = key, pixmap
            if how != "fine":
                self._known = key[:-1] if how == "plain" else ()
        pixmap = self._picture[1]
        wide, tall = float(self.width()), float(self.height())
        return [
            Stretched(
                pixmap,
                0.0,
                0.0,
                wide / pixmap.width(),
                tall / pixmap.height(),
                QRectF(0, 0, wide, tall),
            )
        ]

    def _finer(self, key: tuple[Any, ...]) -> bool:
        """Whether the picture that there is shows the same, and finer: it is not made rough
        again.
        """
        if self._picture is None:
            return False
        had, now = (QUALITIES.index(k[-1]) for k in (self._picture[0], key))
        return had >= now and alike(self._picture[0][:-1], key[:-1])

    def _told(self) -> list[Mark]:
        """Why there is nothing to see, in lines."""
        words, lines = self.trouble.split(), [""]
        for word in words:
            if len(lines[-1]) + len(word) > max(20, (self.width() - 40) // 7):
                lines.append("")
            lines[-1] = f"{lines[-1]} {word}".strip()
        y = self.height() / 2 - LINE * len(lines) / 2
        return [
            Text("small", t, self.width() / 2, y + i * LINE, "middle") for i, t in enumerate(lines)
        ]

    def overlay(self) -> list[Mark]:
        s = self.session.state
        if self.scene is None or self.trouble:
            return []
        seen, eye = self.scene, self.eye
        told = self.kept("over", (seen, eye), lambda s: over(s.picture, seen, eye, s.at.pointed))
        return told + cursor_marks(s.look.run, s.shown.facts, s.at.cursor, self.eye)

    def follow(self, old: State, new: State) -> None:
        """It is drawn rough while it follows the hand."""
        if not self.isVisible():
            return
        if old.shown is not new.shown or old.look.space is not new.look.space:
            self._moves()
        elif (
            old.at.pointed != new.at.pointed
            or old.chosen.pipes is not new.chosen.pipes
            or old.chosen.structures is not new.chosen.structures
        ):
            self.settling.start()
        if old.look.space.stretch != new.look.space.stretch:
            self.eye = self.eye.heightened(new.look.space.stretch)
        if old.file.path is not new.file.path and old.current is not new.current:
            self._fitted = False
        super().follow(old, new)

    def _moves(self) -> None:
        """It follows the hand, and is drawn fine when that rests."""
        self.moving = True
        self.settling.start()

    def _sharpen(self) -> None:
        self.settling.stop()
        self.moving, self._zooms = False, None
        self.update()

    def picture(self, wide: int) -> QImage:
        """The view as it is, drawn fine, so many pixels wide."""
        from zumbert.delivery.space import space_image

        s = self.session.state
        size = wide, max(1, round(wide * self.height() / max(1, self.width())))
        return QImage.fromData(
            space_image(
                self._pictured(s), s.look.space, self.eye, size, self.pen.theme, s.at.cursor
            )
        )

    # -- what is where -----------------------------------------------------------------------------

    def _asked(self) -> SpacePen | None:
        """The pen with a picture of now that tells what lies where; None while the eye moves."""
        space, s = self._space, self.session.state
        if space is None or self.scene is None:
            return None
        key = (
            self.scene.parts,
            self.eye,
            self.size().toTuple(),
            self.devicePixelRatioF(),
            space.looked,
            s.look.space.strength,
        )
        if not alike(self._known, key):
            space.draw(self.eye, self._pixels(False), s.look.space.strength)
            self._known = key
        return space

    def hit(self, x: float, y: float) -> Target | None:
        """The thing at a drawing place: pipes and structures; in the stage Ground services,
        roads and land too.
        """
        space = None if self.moving else self._asked()
        kinds = PICKED if self.session.state.look.stage.picks == "ground" else ("pipe", "structure")
        part = (
            None
            if space is None
            else space.under(x, y, kinds, round(REACH * self.devicePixelRatioF()))
        )
        if part is None:
            return None
        return Target(part.kind, part.id, np.array([[x, y]]), 0.0)

    def place_under(self, x: float, y: float) -> Array | None:
        """The place in stretched space that is seen there; None where there is nothing."""
        space = self._asked()
        return None if space is None else space.place_under(x, y)

    def world(self, x: float, y: float) -> tuple[float, float] | None:
        place = None if self.moving else self.place_under(x, y)
        return None if place is None else (float(place[0]), float(place[1]))

    def tell_place(self, at: MousePlace) -> None:
        if not self.along:  # then the cursor is where the eye looks
            self.tell_world(self.world(at.x, at.y))

    # -- moving ------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._measure()
        if self._space is not None and self.scene is not None:
            self._anchor = self._toward(event.position().x(), event.position().y())
        self._button = event.button()
        super().mousePressEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Goes to the thing in all drawings."""
        hit = self.hit(event.position().x(), event.position().y())
        if (
            event.button() == Qt.MouseButton.LeftButton
            and hit is not None
            and hit.kind in ("pipe", "structure")
        ):
            self.wanted.emit(hit.id)
        else:
            self.mousePressEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        self._anchor = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        turn = ARROWS.get(Qt.Key(event.key()))
        plain = not event.modifiers() & ~(
            Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier
        )
        if turn is not None and plain and not self.typing:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.look(self.eye.panned(self.eye.distance, *turn))
            else:
                self.look(self.eye.orbited(self.eye.target, *turn))
            return
        super().keyPressEvent(event)

    # -- along the run -----------------------------------------------------------------------------

    # -- events ------------------------------------------------------------------------------------

    @property
    def takes_clicks(self) -> bool:
        return True

    def press_tool(self, at: MousePlace) -> bool:
        return self.tool.space_press(self, at)

    def move_tool(self, at: MousePlace, pressed: bool) -> None:
        """No tool has anything to show in space."""

    def resized(self) -> None:
        self._moves()
        self.sized.emit()

    def hideEvent(self, event: QEvent) -> None:
        self.settling.stop()
        self.moving = False
