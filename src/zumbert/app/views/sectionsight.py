"""The part of a run that the long section shows: fitted, kept in sight, at scales of its own."""

from collections.abc import Collection
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.runline import Run
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.views.view import DrawingView
from zumbert.drawing.levelrows import rows_height
from zumbert.drawing.sight import SectionSight, section_fitted

if TYPE_CHECKING:
    pass

GUTTER = 84.0
LEAST = 24.0  # m: no shorter a stretch is shown unless one zooms to it


class SectionSightView(DrawingView):
    """The long section without what is drawn in it."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        self.sight = SectionSight(width=800, height=280, left=GUTTER, x=0, z=0, sx=4, sz=30)
        # what was fitted last, while it was not moved since
        self._fitted: tuple[str | None] | None = None

    def _look(self, sight: SectionSight) -> None:
        """Another sight is shown."""
        raise NotImplementedError

    def close_cell(self) -> None:
        """Closes the field of a cell, with nothing done."""
        raise NotImplementedError

    def drawing_height(self) -> float:
        """Height of the drawing without the rows."""
        return max(60.0, self.height() - rows_height(self.session.state.section))

    def _refit(self) -> None:
        self.sight = replace(self.sight, width=float(self.width()), height=self.drawing_height())
        self.looked.emit()

    def resized(self) -> None:
        if self._fitted is not None:
            self._fit(*self._fitted)
        else:
            self._refit()
        self.close_cell()

    def fit(self) -> None:
        """Shows the whole run."""
        self._fit(None)

    def fit_pipe(self, pipe: str) -> None:
        """Shows one pipe with what is round it."""
        self._fit(pipe)

    def fit_selected(self) -> bool:
        """Shows all that is selected of the run; whether the sight is another for it."""
        s, before = self.session.state, self.sight
        if s.look.run is None:
            return False
        ends = [v for r in s.look.run.reaches if r.pipe in s.chosen.pipes for v in (r.up, r.down)]
        ends += [at for k, at in s.look.run.structures if k in s.chosen.structures]
        if not ends:
            return False
        self._fitted = None
        self._show_stretch(s.look.run, min(ends), max(ends))
        return self.sight != before

    def keep_in_sight(self, pipes: Collection[str], along: bool) -> None:
        """Shows pipes that are being laid at a useful scale; where they are well in sight nothing
        moves. Without `along` only the levels move: the columns are those of a plan that stays.
        """
        run = self.session.state.look.run
        reaches = [r for r in run.reaches if r.pipe in pipes] if run is not None else []
        if run is None or not reaches:
            return
        a, b = min(min(r.up, r.down) for r in reaches), max(max(r.up, r.down) for r in reaches)
        low, high = self._levels(run, a, b)
        x0, x1 = self.sight.x_of(a), self.sight.x_of(b)
        if not along:
            y0, y1, tall = self.sight.y_of(high), self.sight.y_of(low), self.sight.height
            if y0 < 4 or y1 > tall - 4:
                self._look(self.sight.panned(0.0, (tall - y0 - y1) / 2))
            return
        seen = x0 >= self.sight.left + 8 and x1 <= self.sight.width - 8 and x1 - x0 >= 60
        if not seen or self.sight.y_of(low) > self.sight.height - 4 or self.sight.y_of(high) < 4:
            self._fitted = None
            self._show_stretch(run, a, b)

    def _show_stretch(self, run: Run, a: float, b: float) -> None:
        """A stretch of the run with what is round it, and no nearer than one works."""
        pad = max(0.8 * (b - a), (LEAST - (b - a)) / 2)
        self._fit_to(run, a - pad, b + pad)

    def _fit(self, pipe: str | None) -> None:
        run = self.session.state.look.run
        if run is None:
            return
        self._fitted = (pipe,)
        reach = next((r for r in run.reaches if r.pipe == pipe), None)
        if reach is not None:
            self._show_stretch(run, *sorted((reach.up, reach.down)))
            return
        spare = max(0.0, LEAST - run.length) / 2
        self._fit_to(run, run.start - spare, run.start + run.length + spare)

    def _fit_to(self, run: Run, a: float, b: float) -> None:
        """A stretch of the run, with its levels."""
        self.sight = section_fitted(
            (a, b), self._levels(run, a, b), float(self.width()), self.drawing_height(), GUTTER
        )
        self.looked.emit()
        self.update()

    def _levels(self, run: Run, a: float, b: float) -> tuple[float, float]:
        """The lowest and highest level that matters on a stretch of the run."""
        facts = self.session.state.shown.facts
        reaches = [r for r in run.reaches if max(r.up, r.down) > a and min(r.up, r.down) < b]
        levels = [
            v
            for r in reaches
            for v in (facts.pipes[r.pipe].pipe.invert_up, facts.pipes[r.pipe].pipe.invert_down)
        ]
        levels += [v + 1.2 for v in levels]
        for key, at in run.structures:
            f = facts.structures[key]
            if a <= at <= b:
                levels += [v for v in (f.place.rim, f.sump_level, f.place.ground) if v is not None]
        return (min(levels), max(levels)) if levels else self._ground_range()

    def _ground_range(self) -> tuple[float, float]:
        run = self.session.state.look.run
        for line in (run.ground, run.design) if run is not None else ():
            if line is not None and not np.isnan(line.z).all():
                return float(np.nanmin(line.z)) - 2.5, float(np.nanmax(line.z)) + 0.5
        return 0.0, 5.0

    def show_distance(self, at: float) -> None:
        """Brings a distance along the run into sight, where it is not."""
        x, edge = self.sight.x_of(at), 60.0
        dx = max(0.0, self.sight.left + edge - x) or min(0.0, self.width() - edge - x)
        if dx:
            self._look(self.sight.panned(dx, 0.0))

    def world(self, x: float, y: float) -> tuple[float, float] | None:
        run = self.session.state.look.run
        if run is None or run.line is None or x < self.sight.left:
            return None
        wx, wy = run.line.point(self.sight.s_at(x), 0.0)
        return None if np.isnan(wx) else (float(wx), float(wy))

    def scales(self) -> tuple[float, float]:
        """Scale ratios along and up."""
        return self.sight.ratios

    def set_scale(self, axis: Literal["along", "up"], ratio: float) -> None:
        """Draws at a scale of 1:ratio along or up; where the ratio of both is kept the other
        goes along.
        """
        h, v = self.sight.ratios
        current = self.session.state.look.ratio_kept
        along = ratio if axis == "along" else h * ratio / v if current else None
        up = ratio if axis == "up" else v * ratio / h if current else None
        self._look(self.sight.scaled(along, up))
