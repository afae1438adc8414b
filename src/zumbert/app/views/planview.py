"""The plan on the screen: a map, or straightened over the long section."""

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPixmap

from zumbert.app.pen import Pen
from zumbert.app.reading import aside
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.tools.tool import MousePlace
from zumbert.app.value import Value
from zumbert.app.views.layered import Layer, Stretched
from zumbert.app.views.plansight import PlanSightView
from zumbert.app.views.sectionview import SectionView
from zumbert.drawing.groundplan import base, ground_targets, item_halo
from zumbert.drawing.labels import Box, Labels, text_box
from zumbert.drawing.marks import Fill, Mark, Stroke, Target, points, texts_in
from zumbert.drawing.picture import Picture
from zumbert.drawing.plan import PlanMarks, end_lit, end_place, halos, lifted, network, north_arrow
from zumbert.drawing.plantrenches import trench_outlines
from zumbert.drawing.scalebar import scale_bar
from zumbert.drawing.sight import MapSight, StraightSight
from zumbert.drawing.targets import Targets
from zumbert.edits.grounditems import GroundItem

MARGIN = 256  # drawing units that a map is drawn beyond the view


class PlanView(PlanSightView):
    """Draws the plan. Straightened, its columns are those of the long section."""

    leads = True

    def __init__(self, session: Session, pen: Pen, section: SectionView) -> None:
        super().__init__(session, pen, section)
        self._under: list[Box] = []  # of the texts of ground and roads
        self._live: list[Target] = []  # of what a preview draws anew
        self._away: frozenset[str] = frozenset()  # what a preview changes: it is not in the pixmap
        # and how it was seen
        self._drawn: tuple[QPixmap, QPixmap, object, MapSight | StraightSight] | None = None
        self._still = PlanMarks([], [], frozenset())
        self._wide: MapSight | None = None  # the sight that ground and roads were drawn for
        self._offset = (0.0, 0.0)
        self.setAccessibleName("Plan")
        self.setObjectName("plan")

    def follow(self, old: State, new: State) -> None:
        """The long section keeps what is laid in sight; the plan brings an end that is edited
        into its own.
        """
        if new.held.fresh and old.look.run is not new.look.run:
            self.section.keep_in_sight(
                new.held.fresh, not isinstance(self.sight, StraightSight) or self._apart is not None
            )
        if new.at.lit is not None and new.at.lit != old.at.lit:
            self._show_lit()
        super().follow(old, new)

    def _show_lit(self) -> None:
        """Brings the end whose value is edited into sight on a map, where it is not; a
        straightened plan follows its section.
        """
        s, sight, edge = self.session.state, self.sight, 40.0
        x, y = end_place(s.shown.facts, s.at.lit, sight)
        if x != x or not isinstance(sight, MapSight) or self._stays is not None:
            return
        dx = max(0.0, edge - x) or min(0.0, sight.width - edge - x)
        dy = max(0.0, edge - y) or min(0.0, sight.height - edge - y)
        if dx or dy:
            self.panned(dx, dy)

    def layers(self) -> list[Layer]:
        """Ground and roads; halos; the network as it is kept; what of it a preview changes, and
        what is looked at.
        """
        s, sight = self.session.state, self.sight
        now, picture = aside(s), s.plan
        rough = self._rough(now, sight)
        if rough is not None:
            return rough
        base = self._base(sight)
        wide, under = (
            self._wide or sight,
            self._under,
        )  # labels keep clear of the texts that lie under them
        new = self._away = self.changing(s)
        still = self.kept(
            "marks",
            (new, wide, under),
            lambda s: network(_picture(s.current), wide, under, None, new),
        )
        self._still, self.still = (
            still,
            self.kept("still", (still,), lambda _: Targets(still.targets)),
        )
        pixmap = self.layer(
            "network", (still,), lambda _: still.marks, MARGIN if self._wide is not None else 0
        )
        live = (
            network(picture, sight, (), new, under=self._texts())
            if new
            else PlanMarks([], [], frozenset())
        )
        self._drawn = (base[0], pixmap, now.shown, wide)
        self.shift = self._offset
        self._live = live.targets
        hover = self.hover.id if self.hover is not None and self.hover.kind == "structure" else None
        over = [
            *self._tints(s, picture, sight),
            *self._trenches(sight),
            *lifted(picture, sight, hover, still.named | live.named),
        ]
        a, b = now.shown.facts, now.current.facts
        if new and a.spans is b.spans and a.places is b.places:
            flat = self.kept(
                "flat",
                (base[0], pixmap, self._offset),
                lambda s: self._flat(base, pixmap, halos(s.plan, sight)),
            )
            return [(flat, 0.0, 0.0), live.marks + over]
        return [base, halos(picture, sight), (pixmap, *self._offset), live.marks + over]

    def _tints(self, s: State, picture: Picture, sight: MapSight | StraightSight) -> list[Mark]:
        """How full the pipes are, where flows are shown."""
        if "flow" not in s.seen:
            return []
        from zumbert.drawing.flowmarks import tints

        return tints(picture, sight)

    def _trenches(self, sight: MapSight | StraightSight) -> list[Mark]:
        """The outlines of trenches and pits, where they are shown."""

        def outlines(s: State) -> list[Mark]:
            if s.dug.trenches is None or "trench" not in s.seen:
                return []
            return trench_outlines(
                s.dug.trenches, None if s.dug.net is None else s.dug.net[1], sight
            )

        return self.kept("trenches", (sight,), outlines)

    def _flat(
        self, base: tuple[QPixmap, float, float], network: QPixmap, halos: list[Mark]
    ) -> QPixmap:
        """Ground, halos and network as one: while an edit moves nothing in plan they stay as
        they are.
        """
        ratio = self.devicePixelRatioF()
        out = QPixmap(self.size() * ratio)
        out.setDevicePixelRatio(ratio)
        painter = QPainter(out)
        try:
            painter.drawPixmap(QPointF(*base[1:]), base[0])
            self.pen.ink(painter, halos)
            painter.drawPixmap(QPointF(*self._offset), network)
        finally:
            painter.end()
        return out

    def _texts(self) -> Labels:
        """All texts in the pixmaps, where those lie now."""
        still, under, (dx, dy) = self._still, self._under, self._offset

        def placed(_: State) -> Labels:
            boxes = [*under, *(text_box(t) for t in texts_in(still.marks))]
            return Labels([(a + dx, b + dy, c + dx, d + dy) for a, b, c, d in boxes])

        return self.kept("texts", (still, under, dx, dy), placed)

    def _rough(self, s: State, sight: MapSight | StraightSight) -> list[Layer] | None:
        """While one zooms: what was drawn, stretched to the scale of now; None where that cannot
        stand for it.
        """
        zooming = self.zooming or (self.section.zooming and isinstance(sight, StraightSight))
        if not zooming or self._drawn is None or self._drawn[2] is not s.shown:
            return None
        base, network, _, was = self._drawn
        if (
            isinstance(sight, StraightSight)
            and isinstance(was, StraightSight)
            and was.line is sight.line
        ):
            k = sight.scale / was.scale
            x = sight.left + (was.first - was.left / was.scale - sight.first) * sight.scale
            y = sight.middle - was.middle * k
        elif isinstance(sight, MapSight) and isinstance(was, MapSight) and was.turn == sight.turn:
            k = sight.scale / was.scale
            x, y = sight.to_drawing(was.to_world(np.zeros((1, 2))))[0].tolist()
        else:
            return None
        wide, tall = float(self.width()), float(self.height())
        box = QRectF(0, 0, wide, tall)
        paper = Fill("paper", points((0, 0), (wide, 0), (wide, tall), (0, tall)))
        return [[paper], Stretched(base, x, y, k, k, box), Stretched(network, x, y, k, k, box)]

    def _base(self, sight: MapSight | StraightSight) -> tuple[QPixmap, float, float]:
        """Ground and roads. A map is drawn wider than the view, so that panning moves the
        picture as it is.
        """
        if isinstance(sight, StraightSight):
            self._wide = None
            self._offset = (0.0, 0.0)
            return (
                self.layer("base", (sight,), lambda s: self._drawn_base(s, sight), paper=True),
                0.0,
                0.0,
            )
        wide = self._wide
        at = None if wide is None else self._shift(sight, wide)
        if wide is None or at is None:
            wide = replace(sight, width=sight.width + 2 * MARGIN, height=sight.height + 2 * MARGIN)
            at = (-float(MARGIN), -float(MARGIN))
            self._wide = wide
        pixmap = self.layer("base", (wide,), lambda s: self._drawn_base(s, wide), MARGIN, True)
        self._offset = at
        return pixmap, *at

    def _shift(self, sight: MapSight, wide: MapSight) -> tuple[float, float] | None:
        """Where the wide picture lies under the view now; None where it does not cover it, or
        has another scale.
        """
        if (sight.scale, sight.turn) != (
            wide.scale,
            wide.turn,
        ) or wide.width != sight.width + 2 * MARGIN:
            return None
        if wide.height != sight.height + 2 * MARGIN:
            return None
        x, y = sight.to_drawing(np.array([[wide.x, wide.y]]))[0]
        x, y = round(x - wide.width / 2), round(y - wide.height / 2)
        return (float(x), float(y)) if -2 * MARGIN <= x <= 0 and -2 * MARGIN <= y <= 0 else None

    def _drawn_base(self, s: State, sight: MapSight | StraightSight) -> list[Mark]:
        margin = 0.0 if isinstance(sight, StraightSight) else float(MARGIN)
        marks = base(s.ground, sight, margin, "flow" in s.seen)
        under = [text_box(t) for t in texts_in(marks)]
        if under != self._under:
            self._under = under
        return marks

    def hit_current(self, x: float, y: float) -> Target | None:
        """Structures before pipes, as they are kept: a preview is no target of the tool that
        makes it.
        """
        away, sight = self._away, self.sight

        def hidden(s: State) -> Targets:  # what a preview lies over
            return Targets(network(_picture(s.current), sight, (), away).targets if away else ())

        dx, dy = self.shift
        near = [
            *self.kept("hidden", (away, sight), hidden).near(x, y),
            *self.still.near(x - dx, y - dy),
        ]
        near = [t for t in near if t[0].kind in ("structure", "pipe")]
        return min(near, key=lambda t: (t[0].kind != "structure", t[1]))[0] if near else None

    def clicked_nothing(self) -> None:
        """Where areas are picked, a click inside one picks it."""
        s, at = self.session.state, self.mouse
        if (
            s.look.stage.picks == "areas"
            and at is not None
            and (world := self.world(at.x, at.y)) is not None
        ):
            from zumbert.drawing.flowmarks import area_at

            found = area_at(s.current.facts, *world)
            if found is not None:
                self.session.pick(GroundItem("area", found))
                return
        super().clicked_nothing()

    @property
    def takes_clicks(self) -> bool:
        return self.tool.plan_clicks

    def press_tool(self, at: MousePlace) -> bool:
        return self.tool.plan_press(self, at)

    def move_tool(self, at: MousePlace, pressed: bool) -> None:
        self.tool.plan_move(self, at, pressed)

    def overlay(self) -> list[Mark]:
        sight = self.sight
        at = (self.mouse.x, self.mouse.y) if self.mouse is not None else None
        marks = list(north_arrow(sight, self.width() - 24.0, 24.0, at))
        marks += scale_bar(sight.scale, 16.0, self.height() - 14.0, self.session.units, plate=True)
        s = self.session.state
        if s.look.stage.picks == "ground" and s.chosen.item is not None:
            marks += item_halo(s.ground, s.chosen.item.kind, s.chosen.item.id, sight)
        if "flow" in s.seen:
            marks += self._flow_over(s, sight)
        over = self.tool.plan_over(self)
        self.live = [*over.targets, *self._live, *self._things(s, sight)]
        return (
            marks
            + over.marks
            + end_lit(s.plan.facts, s.at.lit, sight)
            + self._cursor(sight)
            + self.pointed_marks()
        )

    def _flow_over(self, s: State, sight: MapSight | StraightSight) -> list[Mark]:
        """The key of the tints, and the outline of the area that is selected."""
        from zumbert.drawing.flowmarks import area_halo, tint_key

        halo = (
            area_halo(s.ground, s.chosen.item.id, sight)
            if s.chosen.item is not None and s.chosen.item.kind == "area"
            else []
        )
        return halo + tint_key(s.plan.facts, self.width() - 10.0, self.height() - 10.0)

    def _things(self, s: State, sight: MapSight | StraightSight) -> list[Target]:
        """The targets of the ground: in its stage alone, kept until something of it
        changes.
        """
        if s.look.stage.picks == "areas":
            from zumbert.drawing.flowmarks import area_targets

            return self.kept("areas", (sight,), lambda s: area_targets(s.ground, sight))
        if s.look.stage.picks != "ground":
            return []
        return self.kept("ground", (sight,), lambda s: ground_targets(s.ground, sight))

    def _cursor(self, sight: MapSight | StraightSight) -> list[Mark]:
        """The shared cursor: a line over the straightened plan, a short bar across the run on a
        map.
        """
        s = self.session.state
        if s.at.cursor is None or s.line is None:
            return []
        if isinstance(sight, StraightSight):
            x = self.section.sight.x_of(s.at.cursor)
            return [Stroke("cursor", points((x, 0), (x, self.height())))]
        off = 18 / sight.scale
        ends = np.column_stack(s.line.point(np.full(2, s.at.cursor), np.array([-off, off])))
        return [] if np.isnan(ends).any() else [Stroke("cursor", sight.to_drawing(ends))]

    def tell_place(self, at: MousePlace) -> None:
        self.tell_world(self.world(at.x, at.y))


def _picture(value: Value) -> Picture:
    """A value with nothing selected in it."""
    return Picture(facts=value.facts, findings=value.findings)
