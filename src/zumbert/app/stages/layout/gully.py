"""Gullies on both sides of a road with their leads: a click or a typed chainage sets a pair."""

from contextlib import suppress
from html import escape
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.roads import nearest
from zumbert.app.told import told
from zumbert.app.tools.tool import ClickTool, MousePlace, Plan, Words, road_shown
from zumbert.edits.gullies import GulliesSet, GullyWay, pair, spaced
from zumbert.edits.layoptions import first_way
from zumbert.edits.typed import named_road
from zumbert.errors import EditError
from zumbert.model.display import counted
from zumbert.model.ids import RoadId, SizeKey, TypeKey
from zumbert.model.project import size_words

if TYPE_CHECKING:
    from zumbert.app.session import Session

ALONG = 20.0  # m: within this of a road the tool shows a pair


def first_gully_way(session: "Session") -> GullyWay:
    """How gullies are set to begin with: the first gully of the catalogue, leads of the smallest
    pipe, joints.
    """
    project = session.state.current.project
    kinds = [t.key for t in project.types.values() if t.kind == "gully" and t.allowed]
    joints = [t.key for t in project.types.values() if t.kind == "joint"]
    allowed = [s for s in project.sizes.values() if s.allowed] or list(project.sizes.values())
    lead = min((s for s in allowed if s.material == allowed[0].material), key=lambda s: s.dn).key
    return GullyWay(
        type=kinds[0] if kinds else next(iter(project.types)),
        lead=lead,
        way=replace(first_way(project), up=False),
        joint=joints[0] if joints else None,
    )


class GullyTool(ClickTool):
    """ready -near a road-> a pair shown with its leads -click-> set. Esc puts the tool down."""

    kind = "gullies"
    places = True
    keys = frozenset("lrb")
    hint = (
        "Click beside the road to set a pair with its leads, or type its chainage (and offset). "
        "L or R: one side. Esc: put down."
    )

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.way = first_gully_way(session)
        self.sides: tuple[int, ...] = (-1, 1)
        self.made: GulliesSet | None = None
        self.at: tuple[RoadId, float] | None = None
        self._why = ""

    def plan_move(self, view: Plan, at: MousePlace, pressed: bool) -> None:
        world = view.world(at.x, at.y)
        roads = self.session.state.current.facts.roads
        found = None
        if world is not None and roads:
            near = nearest(roads, np.array([world[0]]), np.array([world[1]]))
            ch, off = float(near.chainage[0]), float(near.offset[0])
            if ch == ch and abs(off) <= ALONG:
                step = 0.1 if at.alt else 0.5
                found = list(roads)[int(near.road[0])], round(round(ch / step) * step, 3)
        self.look(found)

    def look(self, at: tuple[RoadId, float] | None) -> None:
        """Shows what a click would set."""
        self.at, self.made = at, None
        current = self.session.state.current
        if at is None:
            self.session.preview(None)
            return
        try:
            self.made = pair(current.project, current.facts, *at, self.way, self.sides)
        except EditError as e:
            self._why = str(e)
            self.session.preview(None)
            return
        self._show(self.made)

    def _show(self, made: GulliesSet) -> None:
        self._why = ""
        self.session.preview(made.project, frozenset([*made.gullies, *made.pipes]))

    def clicked(self) -> bool:
        self._take()
        return True

    def _take(self) -> bool:
        if self.made is None or self.at is None:
            if self._why:
                self.session.refused.emit(self._why)
            return False
        made, self.made = self.made, None
        labels = [made.project.structures[k].label for k in made.gullies]
        self.session.apply(f"Set {' and '.join(labels)}", made.project)
        if made.alone:
            self.session.refused.emit(
                f"{', '.join(made.alone)}: nothing to join within "
                f"{self.session.units.long(self.way.reach)}."
            )
        return True

    def along(
        self, road: RoadId, begin: float, end: float, spacing: float, low: bool
    ) -> GulliesSet:
        """Shows gullies along a road. Raises EditError where there can be none."""
        current = self.session.state.current
        self.at = self.made = None
        made = spaced(
            current.project, current.facts, road, begin, end, spacing, self.way, self.sides, low
        )
        self._show(made)
        return made

    def take_along(self, road: RoadId, made: GulliesSet) -> None:
        """Takes gullies along a road as one undo step."""
        name = self.session.state.current.project.roads[road].name
        self.session.apply(
            f"Set {counted(len(made.gullies), 'gully', 'gullies')} along {name}", made.project
        )

    def takes_entry(self) -> bool:
        return True

    def road(self) -> RoadId | None:
        """The road of a typed chainage: the one pointed at, the one shown, else the first."""
        return road_shown(self.session)

    def _look_at(self, text: str) -> None:
        """Shows the pair at a typed chainage, and offset if one is typed. Raises EditError."""
        u, before = self.session.units, self.way
        text, road = named_road(text, self.session.state.current.project, self.road())
        parts = text.split()
        try:
            if road is None or len(parts) not in (1, 2):
                raise EditError('Type a chainage, or chainage and offset: "412.5 2.8".')
            if len(parts) == 2:
                self.way = replace(self.way, offset=abs(u.typed(parts[1])))
            self.look((road, u.typed_chainage(parts[0])))
        finally:
            self.way = before

    def typed(self, text: str) -> None:
        with suppress(EditError):
            self._look_at(text)

    @told(False)
    def entry(self, text: str) -> bool:
        self._look_at(text)
        return self._take()

    def key(self, text: str) -> bool:
        sides = {"l": (-1,), "r": (1,), "b": (-1, 1)}.get(text)
        if sides is None:
            return False
        self.sides = (-1, 1) if self.sides == sides else sides
        self.look(self.at)
        return True

    def cancel(self) -> bool:
        self.made, self.at = None, None
        self.session.preview(None)
        return False

    def ends(self) -> None:
        self.cancel()

    def words(self) -> Words | None:
        if self.at is None:
            return None
        if self.made is None:
            return Words(
                "No gully here", self.session.units.coordinate(self.at[1]), "", (escape(self._why),)
            )
        u, shown = self.session.units, self.session.state.shown
        labels = [self.made.project.structures[k].label for k in self.made.gullies]
        lines = []
        for key in self.made.pipes:
            f = shown.facts.pipes.get(key)
            if f is not None:
                to = shown.project.structures[f.pipe.down].label
                lines.append(
                    f"<b>{u.long(f.span.length)}</b> to {escape(to)} at {u.slope(f.slope)}"
                )
        if self.made.alone:
            lines.append(f"{escape(', '.join(self.made.alone))}: nothing in reach to join")
        on = (
            f"on {shown.project.roads[self.at[0]].name}"
            if len(shown.project.roads) > 1
            else "chainage, offset"
        )
        return Words(f"{' and '.join(labels)} at", u.coordinate(self.at[1]), on, tuple(lines[:2]))

    def set(self, **values: object) -> None:
        """Replaces how gullies are set."""
        self.way = replace(self.way, **values)


def sizes_of(session: "Session") -> list[tuple[SizeKey, str]]:
    """The allowed pipe sizes with their words."""
    project = session.state.current.project
    return [(s.key, size_words(project, s)) for s in project.sizes.values() if s.allowed]


def gully_types(session: "Session") -> list[tuple[TypeKey, str]]:
    """Types of gullies with their words."""
    return [
        (t.key, t.name)
        for t in session.state.current.project.types.values()
        if t.kind == "gully" and t.allowed
    ]
