"""The part of the world that the plan shows: a map, or straightened over the long section; moved,
zoomed and fitted.
"""

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import Qt

from zumbert.analysis.runline import RunKey
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.views.sectionview import SectionView
from zumbert.app.views.view import DrawingView
from zumbert.drawing.sight import UNITS_PER_METRE, MapSight, StraightSight, fitted, scale_of
from zumbert.geometry.alignment import Alignment

BEYOND = 120.0  # m that a straightened plan goes on past both ends of its line
REACH = 70.0  # m to each side of a straightened run
WORKING = (100.0, 600.0)  # ratios of scales at which one works on a single thing


class PlanSightView(DrawingView):
    """The plan without what is drawn on it."""

    def __init__(self, session: Session, pen: Pen, section: SectionView) -> None:
        super().__init__(session, pen)
        self.section = section
        self.map = MapSight(width=800, height=300, x=0, y=0, scale=4)
        self._middle = 0.5  # share of the height at which offset 0 lies
        self._straight: StraightSight | None = None
        # run and value, its line, and that carried on
        self._line: tuple[object, Alignment, Alignment] | None = None
        # what is in sight while a tool places things
        self._stays: tuple[RunKey, StraightSight] | MapSight | None = None
        section.looked.connect(self.update)
        section.sharp.connect(self._after_section)

    @property
    def sight(self) -> MapSight | StraightSight:
        """The sight of now."""
        s = self.session.state
        if not s.look.straight or isinstance(self._stays, MapSight):
            return self.map
        if self._stays is not None:
            key, sight = self._stays
            return self._straightened(sight.line, None if s.look.run_key == key else sight)
        if s.line is None:
            self._line = None  # a project that is closed is let go
            return self.map
        kept, of = self._line, (s.look.run_key, s.current)
        # while an edit is tried what is dragged stays under the pointer
        if kept is None or kept[0] != of or not s.previewing:
            same = kept is not None and kept[1] is s.line
            kept = of, s.line, kept[2] if kept is not None and same else s.line.carried_on(BEYOND)
            self._line = kept
        return self._straightened(kept[2], None)

    def _after_section(self) -> None:
        """A straightened plan is made anew after the long section, in a turn of its own: a notch
        between them is not kept waiting by both.
        """
        if isinstance(self.sight, StraightSight):
            self.settling.start()

    def stay(self, on: bool) -> None:
        """While a tool places things the plan stays as it is, whatever the long section shows of
        what is placed.
        """
        self._stays = None
        s, now = self.session.state, self.sight
        if on and isinstance(now, StraightSight) and s.look.run_key is not None:
            self._stays = s.look.run_key, now
        elif on:
            self._stays = self.map

    def _straightened(self, line: Alignment, alone: StraightSight | None) -> StraightSight:
        """Over the long section, or (alone) where it was while that shows something else."""
        sec, kept = self.section.sight, self._straight
        first, scale, left = (
            (sec.x, sec.sx, sec.left) if alone is None else (alone.first, alone.scale, alone.left)
        )
        middle = self.height() * self._middle
        if (
            kept is not None
            and kept.line is line
            and kept.first == first
            and kept.scale == scale
            and kept.width == self.width()
            and kept.height == self.height()
            and kept.middle == middle
        ):
            return kept
        radii = [e.radius for e in line.elements if hasattr(e, "radius")]
        self._straight = StraightSight(
            width=float(self.width()),
            height=float(self.height()),
            line=line,
            first=first,
            left=left,
            scale=scale,
            middle=middle,
            reach=min([REACH, *(0.9 * r for r in radii)]),
        )
        if self._stays is not None and not isinstance(self._stays, MapSight):
            self._stays = self._stays[0], self._straight
        return self._straight

    @property
    def _apart(self) -> RunKey | None:
        """The run along which a straightened plan stays while the long section shows something
        else.
        """
        key = self._stays[0] if isinstance(self._stays, tuple) else None
        return key if key != self.session.state.look.run_key else None

    def resized(self) -> None:
        self.map = replace(self.map, width=float(self.width()), height=float(self.height()))
        self.looked.emit()

    def fit(self) -> None:
        """Shows roads and network whole; straightened, the run whole."""
        if isinstance(self.sight, StraightSight):
            self._middle = 0.5
            self.section.fit()
            return
        self.fit_map()

    def fit_selected(self) -> bool:
        """Shows all that is selected; whether the sight is another for it."""
        s, before = self.session.state, self.sight
        spans = [s.current.facts.spans[p] for p in s.chosen.pipes]
        places = [s.current.facts.places[k] for k in s.chosen.structures] + [
            e for f in spans for e in (f.up, f.down)
        ]
        xy = np.array([(p.x, p.y) for p in places if p.x is not None], float)
        if not len(xy):
            return False
        if isinstance(before, StraightSight):
            return self.section.fit_selected()
        low, high = xy.min(axis=0), xy.max(axis=0)
        middle, half = (low + high) / 2, np.maximum((high - low) / 2, 15.0)
        low, high = middle - half, middle + half
        self.map = fitted(
            tuple(low.tolist()), tuple(high.tolist()), float(self.width()), float(self.height())
        )
        self.update()
        self.looked.emit()
        return self.map != before

    def fit_map(self) -> None:
        """Fits the plan that is not straightened."""
        s = self.session.state
        xy = [(p.x, p.y) for p in s.shown.facts.places.values() if p.x is not None]
        boxes = [np.array(xy, float)] if xy else []
        boxes += [
            np.column_stack(r.alignment.point(r.alignment.polyline(20.0)))
            for r in s.shown.facts.roads.values()
        ]
        if not boxes and s.shown.facts.surfaces.existing is not None:
            x0, y0, x1, y1 = s.shown.facts.surfaces.existing.extents
            boxes.append(np.array([(x0, y0), (x1, y1)]))
        if boxes:
            whole = np.vstack(boxes)
            low, high = np.nanmin(whole, axis=0), np.nanmax(whole, axis=0)
            self.map = fitted(tuple(low), tuple(high), float(self.width()), float(self.height()))
            self.update()
            self.looked.emit()

    def panned(self, dx: float, dy: float) -> None:
        sight = self.sight
        if isinstance(sight, StraightSight):
            self._middle = float(np.clip(self._middle + dy / max(1, self.height()), -1.0, 2.0))
            if (key := self._apart) is not None:
                self._stays = (key, replace(sight, first=sight.first - dx / sight.scale))
            else:
                self.section.panned(dx, 0.0)
        else:
            self.map = self.map.panned(dx, dy)
        self.update()
        self.looked.emit()

    def zoomed(self, factor: float, x: float, y: float, keys: Qt.KeyboardModifier) -> None:
        sight = self.sight
        if isinstance(sight, StraightSight) and (key := self._apart) is not None:
            scale = float(np.clip(sight.scale * factor, 0.05, 2000))
            at = sight.first + (x - sight.left) / sight.scale
            self._stays = key, replace(sight, first=at - (x - sight.left) / scale, scale=scale)
        elif isinstance(sight, StraightSight):
            self.section.zoomed(factor, x, self.section.sight.height / 2, keys)
        else:
            self.map = self.map.zoomed(factor, x, y)
        self.update()
        self.looked.emit()

    def scale_ratio(self) -> float:
        """The scale as 1:ratio."""
        return UNITS_PER_METRE / self.sight.scale

    def world(self, x: float, y: float) -> tuple[float, float] | None:
        wx, wy = self.sight.to_world(np.array([[x, y]]))[0]
        return None if np.isnan(wx) or np.isnan(wy) else (float(wx), float(wy))

    def drawn(self, x: float, y: float) -> tuple[float, float] | None:
        """The drawing place of a world place, None where it is not in the plan."""
        px, py = self.sight.to_drawing(np.array([[x, y]]))[0]
        return None if np.isnan(px) else (float(px), float(py))

    def show_place(self, x: float, y: float) -> None:
        """Moves so that a world place is in sight."""
        at, sight = self.drawn(x, y), self.sight
        wide, tall = self.width(), self.height()
        inside = at is not None and 40 < at[0] < wide - 40 and 40 < at[1] < tall - 40
        if inside:
            return
        if isinstance(sight, MapSight):
            self.map = replace(self.map, x=x, y=y)
        elif at is not None and not 40 < at[1] < tall - 40:
            self._middle = float(
                np.clip(self._middle + (tall / 2 - at[1]) / max(1, tall), -1.0, 2.0)
            )
        self.update()
        self.looked.emit()

    def show_box(self, low: tuple[float, float], high: tuple[float, float]) -> None:
        """Shows a part of the world (m) at a working scale; one that holds already is kept."""
        x, y = (low[0] + high[0]) / 2, (low[1] + high[1]) / 2
        if isinstance(self.sight, StraightSight):
            self.show_place(x, y)
            return
        fit = fitted(low, high, float(self.width()), float(self.height()))
        most = min(fit.scale, scale_of(WORKING[0]))
        now = self.map.scale
        scale = (
            now
            if min(most, scale_of(WORKING[1])) <= now <= most
            else max(min(most, scale_of(250)), min(most, now))
        )
        self.map = replace(self.map, x=x, y=y, scale=scale)
        self.update()
        self.looked.emit()
