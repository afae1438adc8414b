"""Where a structure would be laid: what the cursor points at, and the snaps that draw it there."""

from typing import TYPE_CHECKING, Literal

import numpy as np

from zumbert.analysis.roads import nearest
from zumbert.app.tools.near import LINE, PLACE
from zumbert.app.tools.tool import MousePlace, Plan
from zumbert.edits.lay import ALONG, LayTarget, OnPipe
from zumbert.edits.loose import nearest_distance
from zumbert.edits.placesnaps import limit_snap, place_snap
from zumbert.geometry.strip import at_chainages
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, RoadId, StructureId
from zumbert.model.structure import Anchored, Free

if TYPE_CHECKING:
    from zumbert.app.value import Value

STEP = 0.05  # m that clicked places are rounded to

Mode = Literal["run", "alone", "join"]


def pointed_at(
    current: "Value", view: Plan, at: MousePlace, last: StructureId | None, mode: Mode
) -> tuple[LayTarget | None, str]:
    """A structure under the cursor, else chainage and offset on the nearest road, else x and y;
    and what drew it there.
    """
    world = view.world(at.x, at.y)
    if world is None:
        return None, ""
    pointing = _Pointing(current, last, at, view.sight.scale)
    hit = view.hit_current(at.x, at.y)
    if hit is not None and hit.kind == "structure":
        if hit.id == last:
            return None, ""
        return StructureId(hit.id), f"Join {current.project.structures[StructureId(hit.id)].label}"
    if mode == "join":
        return None, ""
    place = pointing.place(world) if hit is None else pointing.on_pipe(PipeId(hit.id), world)
    return place, pointing.snap


class _Pointing:
    """One place of the cursor, and the words of what it snaps to."""

    def __init__(
        self, current: "Value", last: StructureId | None, at: MousePlace, scale: float
    ) -> None:
        self.facts, self.project = current.facts, current.project
        self.last, self.free, self.scale = last, at.alt, scale  # free: without snaps
        self.snap = ""

    def place(self, world: tuple[float, float]) -> Anchored | Free:
        """Chainage and offset on the nearest road, else x and y."""
        caught = (
            None if self.free else place_snap(self.project, *world, PLACE / self.scale, own=False)
        )
        if caught is not None:  # exactly there: on a road its chainage and offset are not rounded
            self.snap = caught.what.capitalize()
            road, ch, off = self._nearest((caught.x, caught.y))
            return Free(caught.x, caught.y) if road is None else Anchored(road, ch, off)
        road, ch, off = self._nearest(world)
        if road is None:
            limit = None if self.free else limit_snap(self.project, *world, LINE / self.scale)
            self.snap = limit.what.capitalize() if limit is not None else ""
            x, y = world if limit is None else (limit.x, limit.y)
            return Free(round(x, 2), round(y, 2)) if limit is None else Free(x, y)
        step = 0.0 if self.free else STEP
        off = self._same_offset(road, off)
        if not self.snap and not self.free:
            off = self._beside(road, ch, off)
        limit = (
            None if self.free or self.snap else limit_snap(self.project, *world, LINE / self.scale)
        )
        if limit is not None:
            self.snap = limit.what.capitalize()
            on, ch, off = self._nearest((limit.x, limit.y))
            return Free(limit.x, limit.y) if on is None else Anchored(on, ch, off)
        if not self.free:
            before = self.snap
            ch = self._low_point(road, ch)
            ch = ch if self.snap != before else self._across(road, ch)
        exact = "across" in self.snap.lower() or "low point" in self.snap.lower()
        return Anchored(
            road,
            ch if exact else _rounded(ch, step * 10),
            off if self.snap else _rounded(off, step),
        )

    def on_pipe(self, pipe: PipeId, world: tuple[float, float]) -> OnPipe:
        """The place on a pipe under the cursor; square from the last structure where that is
        near.
        """
        f, last = (
            self.facts.pipes[pipe],
            None if self.last is None else self.facts.places[self.last],
        )
        self.snap, on = f"Into {f.pipe.label}", nearest_distance(f.span, *world)
        if last is not None and last.x is not None and last.y is not None and not self.free:
            square = nearest_distance(f.span, last.x, last.y)
            if abs(square - on) * self.scale < PLACE:
                self.snap = f"Square onto {f.pipe.label}"
                return OnPipe(pipe, square)
        return OnPipe(pipe, round(on, 2))

    def _across(self, road: RoadId, ch: float) -> float:
        """Near the last structure's chainage a place is square across the road from it."""
        last = None if self.last is None else self.project.structures[self.last]
        if last is None or not isinstance(last.place, Anchored) or last.place.road != road:
            return ch
        if abs(last.place.chainage - ch) * self.scale >= LINE:
            return ch
        word = f"Square across from {last.label}"
        self.snap = word if not self.snap else f"{self.snap}, {word.lower()}"
        return last.place.chainage

    def _nearest(self, world: tuple[float, float]) -> tuple[RoadId | None, float, float]:
        roads = self.facts.roads
        near = nearest(roads, np.array([world[0]]), np.array([world[1]]))
        ch, off = float(near.chainage[0]), float(near.offset[0])
        if ch != ch or abs(off) > ALONG:
            return None, 0.0, 0.0
        return list(roads)[int(near.road[0])], ch, off

    def _same_offset(self, road: RoadId, off: float) -> float:
        """Within a few units of the last structure's offset the run keeps it."""
        last = None if self.last is None else self.project.structures[self.last]
        if (
            self.free
            or last is None
            or not isinstance(last.place, Anchored)
            or last.place.road != road
        ):
            return off
        if abs(last.place.offset - off) * self.scale < PLACE:
            self.snap = f"Same offset as {last.label}"
            return last.place.offset
        return off

    def _beside(self, road: RoadId, ch: float, off: float) -> float:
        """Near the centre line or a kerb a place is exactly there."""
        strip = self.project.roads[road].strip
        lines = {"Centre line": 0.0}
        if strip is not None:
            at = at_chainages(strip.sections, np.array([ch]))
            lines |= {"Left kerb": -float(at["left"][0]), "Right kerb": float(at["right"][0])}
        name = min(lines, key=lambda n: abs(lines[n] - off))
        if abs(lines[name] - off) * self.scale >= LINE:
            return off
        self.snap = name
        return lines[name]

    def _low_point(self, road: RoadId, ch: float) -> float:
        """Near a low point of the road a place stands exactly at it."""
        profile = self.facts.roads[road].profile
        low = (
            [c for c, kind in profile.turning_points() if kind == "low"]
            if profile is not None
            else []
        )
        near = min(low, key=lambda c: abs(c - ch), default=None)
        if near is None or abs(near - ch) * self.scale >= PLACE:
            return ch
        self.snap = "Low point" if not self.snap else f"Low point, {self.snap.lower()}"
        return near


def _rounded(v: float, step: float) -> float:
    return round(round(v / step) * step, 6) if step else round(v, 3)


def place_text(place: Anchored | Free, u: Units) -> str:
    """A place as one would type it."""
    if isinstance(place, Anchored):
        return f"{u.coordinate(place.chainage)} {u.coordinate(place.offset)}"
    return f"{u.coordinate(place.x)},{u.coordinate(place.y)}"
