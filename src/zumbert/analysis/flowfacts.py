"""Flows as facts of pipes and structures."""

from collections.abc import Mapping

from msgspec import Struct

from zumbert.analysis.links import Links
from zumbert.analysis.pipes import PipeFacts
from zumbert.hydraulics.depths import critical_depth
from zumbert.hydraulics.sections import Circle
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.structure import Structure


class PipeFlow(Struct, frozen=True):
    """The design flow of one pipe. Times in minutes, the rest in SI."""

    ca: float  # m², coefficient times area of all that drains to it
    tc: float  # min, time of concentration at its upper end
    intensity: float  # mm/h at tc, the climate factor in it; 0 without rain
    rain: float  # m³/s that the rain gives, the greatest of whole and parts
    passed: float  # m³/s of fixed inflows
    part: bool  # whether a part of the system gives more than the whole, since its time is shorter
    share: float  # of what leaves its upper structure
    full_velocity: float  # m/s; 0: it does not fall
    capacity: float  # m³/s at full bore
    depth_ratio: float  # depth over diameter; 1: it runs full
    velocity: float  # m/s
    travel: float  # min, along the pipe

    @property
    def flow(self) -> float:
        """Design flow, m³/s."""
        return self.rain + self.passed

    @property
    def used(self) -> float | None:
        """Design flow over full-bore flow; None where it does not fall."""
        return self.flow / self.capacity if self.capacity > 0 else None

    def critical_depth(self, inside: float) -> float:
        """Depth (m) at which its flow is critical, in a bore of an inside diameter (m)."""
        return critical_depth(Circle(inside), self.flow)


class NodeFlow(Struct, frozen=True):
    """The flow at a structure."""

    ca: float  # m²
    tc: float  # min
    rain: float  # m³/s, the greatest of whole and parts
    passed: float  # m³/s
    intensity: float  # mm/h at tc
    part: bool


class Drains(Struct, frozen=True):
    """The direct inflow to a structure: its areas' CA (m²) by their times of entry (min), the
    shortest first; fixed inflow.
    """

    own: tuple[tuple[float, float], ...] = ()
    inflow: float = 0.0  # m³/s


class Flows(Struct, frozen=True, kw_only=True, eq=False):
    """All design flows, with what they were made from."""

    pipes: dict[PipeId, PipeFlow]
    nodes: dict[StructureId, NodeFlow]
    looped: frozenset[PipeId]  # pipes in a ring, or down from one: they have no flow
    order: dict[StructureId, int]  # from the heads down
    catches: dict[StructureId, Drains]
    facts: Mapping[PipeId, PipeFacts]
    made_from: tuple[object, ...]  # what all of them hang on
    links: Links
    structures: Mapping[StructureId, Structure]
    shares: dict[PipeId, float]
