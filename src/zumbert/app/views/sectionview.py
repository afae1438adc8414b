"""The long section on the screen, with its level rows."""

from functools import cached_property
from typing import TYPE_CHECKING, Any, NamedTuple

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QMouseEvent, QPixmap
from PySide6.QtWidgets import QMenu

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.reading import aside
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.tools.tool import MousePlace
from zumbert.app.views.layered import Clipped, Layer, Stretched
from zumbert.app.views.making import Making, Steps, inked
from zumbert.app.views.sectionsight import SectionSightView
from zumbert.drawing.handles import PipeHandle, handles, lit_end, lit_place
from zumbert.drawing.levelrows import ROW, pipe_rows, row_names, rows_shown
from zumbert.drawing.longsection import SectionMarks, section_marks, section_steps
from zumbert.drawing.marks import Cell, Fill, Mark, Target, points
from zumbert.drawing.picture import Part
from zumbert.drawing.sight import SectionSight
from zumbert.drawing.targets import Targets
from zumbert.edits.grounditems import set_view

if TYPE_CHECKING:
    from zumbert.app.views.celledit import CellEdit

GUTTER = 84.0
MANY_HOT = 10  # pipes in sight: where an edit changes more, all is drawn anew


class Sharp(NamedTuple):
    """A section that was made a slice at a time: what was read for it, how it is seen, and what
    that gives.
    """

    read: dict[str, Any]
    sight: SectionSight
    looks: tuple[Any, ...]
    marks: SectionMarks
    pixmap: QPixmap


@guarded
class SectionView(SectionSightView):
    """Draws the run of the session; its sight gives the straightened plan its columns."""

    sharp = Signal()  # a zoom is over, and all is drawn at the scale of now

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        self.cells: list[Cell] = []
        # the last pixmap, what it shows, and how
        self._drawn: tuple[QPixmap, object, SectionSight] | None = None
        self._live: list[Target] = []  # what can be hit of what an edit changes
        self._making = Making[Sharp](self, self._take_sharp)
        self.setAccessibleName("Long section with level rows")
        self.setObjectName("section")

    @cached_property
    def cell_edit(self) -> "CellEdit":
        """The field that opens in a cell of the rows; made when it is first needed."""
        from zumbert.app.views.celledit import CellEdit

        return CellEdit(self, self)

    def close_cell(self) -> None:
        """Closes the field, with nothing done."""
        if "cell_edit" in self.__dict__:
            self.cell_edit.close_edit()

    def take_cell(self) -> bool:
        """Takes what is typed into a cell; False where it is refused, and stays to be mended."""
        return "cell_edit" not in self.__dict__ or self.cell_edit.take()

    @property
    def drawing_bottom(self) -> float:
        return self.sight.height

    def layers(self) -> list[Layer]:
        s = self.session.state
        if self.sight.width != self.width() or self.sight.height != self.drawing_height():
            self._refit()
        now = aside(s)
        if (
            self.zooming
            and self._drawn is not None
            and self._drawn[1] is now.shown
            and self._drawn[0].size() == self._size()
        ):
            return self._stretched(self._drawn[0], self._drawn[2])
        hot = self._hot(now)
        if hot:
            return self._in_two(hot)
        made = self.kept(
            "marks", (self.sight,), lambda s: section_marks(s.section, self.sight, self._hand(s))
        )
        pixmap = self.layer("network", (made,), lambda _: made.drawing + made.rows, paper=True)
        self.still = self.kept("still", (made,), lambda _: Targets(made.targets))
        self.cells, self._live = made.cells, []
        self._drawn = pixmap, now.shown, self.sight
        return [(pixmap, 0.0, 0.0)]

    def _hand(self, s: State) -> PipeHandle | None:
        return s.chosen.hand if s.levelling else None

    @property
    def zooming(self) -> bool:
        return super().zooming or self._making.active

    def _settled(self) -> None:
        """All is drawn anew, a slice at a time between events: the next notch waits for none of
        it.
        """
        self._making.begin(self._steps())

    def _steps(self) -> Steps[Sharp]:
        with self.session.noted() as reading:
            picture, hand = self.session.state.section, self._hand(self.session.state)
        sight, looks = self.sight, self.looks
        made = yield from section_steps(picture, sight, hand)
        pixmap = self.blank(0, True)
        yield from inked(self.pen, pixmap, made.drawing + made.rows)
        return Sharp(reading.read, sight, looks, made, pixmap)

    def _take_sharp(self, made: Sharp) -> None:
        """Keeps the drawing as if it were made in one piece; where something else is wanted by now,
        that is made next.
        """
        self.keep("marks", (made.sight,), made.read, made.marks)
        self.keep("network", (made.marks, *made.looks), {}, made.pixmap)
        super()._settled()
        self.sharp.emit()

    def _sharpen(self) -> None:
        self._making.drop()
        super()._sharpen()

    def _hot(self, s: State) -> frozenset[str]:
        """The marks that a preview changes, if they are few and nothing moves in plan: the rest
        stays as drawn.
        """
        found = self.changing(s)
        a, b = s.shown.facts, s.current.facts
        if (
            not found
            or s.look.run is None
            or s.held.fresh
            or a.spans is not b.spans
            or a.places is not b.places
        ):
            return frozenset()
        begin, end = self.sight.s_at(self.sight.left), self.sight.s_at(self.sight.width)
        seen = (
            r for r in s.look.run.reaches if max(r.up, r.down) >= begin and min(r.up, r.down) <= end
        )
        return found if sum(r.pipe in found for r in seen) <= MANY_HOT else frozenset()

    def _in_two(self, hot: frozenset[str]) -> list[Layer]:
        """A pixmap of what stays, made once; the rest drawn over it each time."""
        sight = self.sight
        rest = self.kept(
            "rest",
            (hot, sight),
            lambda s: section_marks(s.resting, sight, self._hand(s), Part(hot, False)),
        )
        pixmap = self.layer("network", (rest,), lambda _: rest.drawing + rest.rows, paper=True)
        self.still = self.kept("still", (rest,), lambda _: Targets(rest.targets))
        live = self.kept(
            "live",
            (rest,),
            lambda s: section_marks(s.section, sight, self._hand(s), Part(hot, True), rest.labels),
        )
        self._live, self.cells = live.targets, rest.cells + live.cells
        self._drawn = None
        wide, tall, left = float(self.width()), sight.height, sight.left
        return [
            (pixmap, 0.0, 0.0),
            Clipped(live.drawing, QRectF(left, 0, wide - left, tall)),
            live.rows,
        ]

    def _size(self) -> QSize:
        return self.size() * self.devicePixelRatioF()

    def _stretched(self, pixmap: QPixmap, was: SectionSight) -> list[Layer]:
        """The last drawing, stretched to the scales of now: gutter as it is, drawing both ways,
        rows along.
        """
        now, wide, tall = self.sight, float(self.width()), float(self.height())
        kx, ky = now.sx / was.sx, now.sz / was.sz
        x, y = now.x_of(was.s_at(0.0)), now.y_of(was.z_at(0.0))
        paper = Fill("paper", points((0, 0), (wide, 0), (wide, tall), (0, tall)))
        return [
            [paper],
            Stretched(pixmap, x, y, kx, ky, QRectF(now.left, 0, wide - now.left, now.height)),
            Stretched(
                pixmap,
                x,
                0.0,
                kx,
                1.0,
                QRectF(now.left, now.height, wide - now.left, tall - now.height),
            ),
            Stretched(pixmap, 0.0, 0.0, 1.0, 1.0, QRectF(0, 0, now.left, tall)),
        ]

    @property
    def takes_clicks(self) -> bool:
        return self.tool.section_clicks

    def press_tool(self, at: MousePlace) -> bool:
        return self.tool.section_press(self, at)

    def move_tool(self, at: MousePlace, pressed: bool) -> None:
        self.tool.section_move(self, at, pressed)

    def overlay(self) -> list[Mark]:
        s = self.session.state
        live = handles(s.section, self._hand(s), s.at.cursor, self.sight)
        over = self.tool.section_over(self)
        self.live = live.targets + over.targets + self._live
        return (
            live.marks
            + over.marks
            + lit_end(s.section, s.at.lit, self.sight)
            + self.pointed_marks()
        )

    def panned(self, dx: float, dy: float) -> None:
        self._making.drop()
        self._look(self.sight.panned(dx, dy))

    def zoomed(self, factor: float, x: float, y: float, keys: Qt.KeyboardModifier) -> None:
        """Both scales, or with a free ratio lengths alone; Ctrl: lengths alone; Shift: levels
        alone.
        """
        shift, ctrl = (
            keys & Qt.KeyboardModifier.ShiftModifier,
            keys & Qt.KeyboardModifier.ControlModifier,
        )
        fx = 1.0 if shift else factor
        self._making.drop()
        fz = 1.0 if ctrl or not (shift or self.session.state.look.ratio_kept) else factor
        self._look(self.sight.zoomed(fx, fz, x, min(y, self.sight.height)))

    def _look(self, sight: SectionSight) -> None:
        self.sight, self._fitted = sight, None
        self.looked.emit()
        self.update()
        if "cell_edit" in self.__dict__ and self.cell_edit.cell is not None:
            self.repaint()  # lays out the cells where they are now
            self.cell_edit.follow()

    def tell_place(self, at: MousePlace) -> None:
        run = self.session.state.look.run
        place = self.world(at.x, at.y)
        cursor = self.sight.s_at(at.x) if run is not None and place is not None else None
        self.session.point_at(place, cursor)
        pipe = self.pipe_hovered
        reach = (
            next((r for r in run.reaches if r.pipe == pipe), None)
            if run is not None and pipe is not None
            else None
        )
        if reach is not None and pipe is not None and reach.up != reach.down:
            long = self.session.state.shown.facts.pipes[pipe].span.length
            self.pipe_tip(pipe, (self.sight.s_at(at.x) - reach.up) / (reach.down - reach.up) * long)
            return
        source = self.row_source(at.x, at.y)
        if source != self.toolTip():
            self.setToolTip(source)

    def row_source(self, x: float, y: float) -> str:
        """Which surface the levels of a row come from, where the cursor is over its head."""
        s = self.session.state
        if x >= self.sight.left or y < self.sight.height or s.look.run is None:
            return ""
        rows = rows_shown(s.picture)
        i = int((y - self.sight.height) // ROW)
        role = {"Ground": "existing", "Design": "design"}.get(rows[i][0]) if i < len(rows) else None
        return "" if role is None else f"{rows[i][0]}: {s.shown.facts.surfaces.name(role)}"

    def cell_at(self, x: float, y: float) -> Cell | None:
        """The cell of the level rows under a place."""
        for c in self.cells:
            x0, y0, w, h = c.box
            if x0 <= x < x0 + w and y0 <= y < y0 + h:
                return c
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x, y = event.position().x(), event.position().y()
        if "cell_edit" in self.__dict__:
            self.cell_edit.take()
        if y >= self.sight.height and event.button() == Qt.MouseButton.LeftButton:
            cell = self.cell_at(x, y)
            if cell is not None:
                self._press_cell(cell)
                return
        super().mousePressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Over the heads of the rows: which rows are shown, and in which order."""
        if event.pos().x() < self.sight.left and event.pos().y() >= self.sight.height:
            self.rows_menu(event.pos().y()).popup(event.globalPos())

    def rows_menu(self, y: float) -> QMenu:
        """The menu for the row at a height, and for all rows."""
        menu = QMenu(self)
        picture = self.session.state.picture
        shown = [r[0] for r in (*rows_shown(picture), *pipe_rows(picture))]
        i = int((y - self.sight.height) // ROW)
        now = list(picture.facts.project.settings.rows or row_names(usual=True))
        if 0 <= i < len(shown):
            at = now.index(shown[i])
            for text, to in ((f"Move {shown[i]} up", at - 1), (f"Move {shown[i]} down", at + 1)):
                moved = now.copy()
                moved.insert(max(0, to), moved.pop(at))
                menu.addAction(text).triggered.connect(
                    lambda _=False, rows=moved: self._set_rows(rows)
                )
            menu.addSeparator()
        for name in row_names():
            action = menu.addAction(name)
            action.setCheckable(True)
            action.setChecked(name in now)
            rows = [n for n in now if n != name] if name in now else [*now, name]
            action.triggered.connect(lambda _=False, rows=rows: self._set_rows(rows))
        menu.addSeparator()
        menu.addAction("The usual rows").triggered.connect(lambda _=False: self._set_rows([]))
        return menu

    def _set_rows(self, rows: list[str]) -> None:
        self.session.edit(
            "Choose the rows under the section", lambda p, f: set_view(p, rows=tuple(rows))
        )
        self._refit()
        self.update()

    def _press_cell(self, cell: Cell) -> None:
        """A click selects what the cell belongs to and, where it can be edited, opens it."""
        facts = self.session.state.shown.facts
        if cell.id in facts.pipes:
            self.session.select(pipes=frozenset({cell.id}), follow=False)
        elif cell.id in facts.structures:
            self.session.select(structures=frozenset({cell.id}), follow=False)
        if cell.field.startswith("pivot "):
            self.session.set_pivot("up" if cell.field.endswith("up") else "down")
        elif cell.field:
            self.cell_edit.begin(cell)

    def follow(self, old: State, new: State) -> None:
        """Another run is shown whole; a value that is edited is brought into sight."""
        if (
            old.look.run_key != new.look.run_key
            or (old.look.run is None) != (new.look.run is None)
            or old.file.path is not new.file.path
        ):
            self.close_cell()
            self.cells, self.live, self.still = (
                [],
                [],
                Targets(),
            )  # what was drawn is of another run
            self.fit()
        elif new.at.lit is not None and new.at.lit != old.at.lit:
            self._show_lit()
        super().follow(old, new)

    def _show_lit(self) -> None:
        """Brings the end whose value is edited into sight, where it is not."""
        at = lit_place(self.session.state.picture, self.session.state.at.lit, self.sight)
        if at is None:
            return
        edge, left, wide, tall = 24.0, self.sight.left, float(self.width()), self.sight.height
        dx = max(0.0, left + edge - at[0]) or min(0.0, wide - edge - at[0])
        dy = max(0.0, edge - at[1]) or min(0.0, tall - edge - at[1])
        if dx or dy:
            self.panned(dx, dy)

    def box(self, cell: Cell) -> QRectF:
        """The box of a cell as a rectangle."""
        return QRectF(*cell.box)


__all__: list[Any] = ["GUTTER", "SectionView"]
