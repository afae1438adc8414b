"""Facts of a pipe: lengths, slope and cover."""

from collections.abc import Sequence
from math import hypot

from msgspec import Struct

from zumbert.analysis.cover import Cover, Top, covers
from zumbert.analysis.spans import Span
from zumbert.geometry.line import Line
from zumbert.model.pipe import Pipe
from zumbert.model.project import LengthBasis, Project, inside_and_wall, invert_basis, nominal


class PipeFacts(Struct, frozen=True, kw_only=True, eq=False):
    """Everything derived for a pipe. Distances (m) run along the plan path from the upstream
    reference point.
    """

    pipe: Pipe
    span: Span
    inside: float  # m
    wall: float  # m
    dn: float  # mm
    quoted_from: float  # m, where invert_up is quoted
    basis: float  # m, plan length between the quoted inverts
    slope: float | None  # fraction, positive falling in flow direction; None: no length
    cover: Cover | None

    @property
    def outside_height(self) -> float:
        """From invert to outside top, m."""
        return self.inside + self.wall

    def invert(self, s: float) -> float:
        """Invert at a distance, m above datum; the quoted line carried on beyond its ends."""
        return self.pipe.invert_up - (self.slope or 0.0) * (s - self.quoted_from)

    @property
    def top(self) -> Top:
        """The outside top."""
        return Top(self.pipe.invert_up + self.outside_height, self.quoted_from, self.slope or 0.0)

    def length(self, basis: LengthBasis) -> float:
        """One of the four lengths, m; a pipe without a barrel has wall lengths of 0."""
        plan = self.span.length if basis.startswith("centre") else max(0.0, self.span.wall)
        return (
            plan
            if basis.endswith("plan") or not plan
            else hypot(plan, self.pipe.invert_up - self.pipe.invert_down)
        )


def pipe_facts(project: Project, pipes: Sequence[Pipe], spans: Sequence[Span]) -> list[PipeFacts]:
    """Facts of pipes over their spans, in their order; all computed together."""
    rough = [_without_cover(project, p, s) for p, s in zip(pipes, spans, strict=True)]
    covered = [f for f in rough if f.span.barrel is not None and f.slope is not None]
    barrels: list[Line] = [f.span.barrel for f in covered if f.span.barrel is not None]
    found = dict(zip(map(id, covered), covers(barrels, [f.top for f in covered]), strict=True))
    return [_with_cover(f, found.get(id(f))) for f in rough]


def _without_cover(project: Project, pipe: Pipe, span: Span) -> PipeFacts:
    walls = invert_basis(project, pipe) == "walls"
    inside, wall = inside_and_wall(project, pipe)
    basis = max(0.0, span.wall) if walls else span.length
    return PipeFacts(
        pipe=pipe,
        span=span,
        inside=inside,
        wall=wall,
        dn=nominal(project, pipe),
        quoted_from=span.reach_up if walls else 0.0,
        basis=basis,
        slope=(pipe.invert_up - pipe.invert_down) / basis if basis > 1e-9 else None,
        cover=None,
    )


def _with_cover(f: PipeFacts, cover: Cover | None) -> PipeFacts:
    if cover is None:
        return f
    return PipeFacts(
        pipe=f.pipe,
        span=f.span,
        inside=f.inside,
        wall=f.wall,
        dn=f.dn,
        quoted_from=f.quoted_from,
        basis=f.basis,
        slope=f.slope,
        cover=cover,
    )
