"""Facts: everything derived from a project. A fact is kept while the records that it comes from
are the same objects.
"""

from operator import eq
from typing import Any

from msgspec import Struct

from zumbert.analysis.areas import AreaFacts, areas
from zumbert.analysis.boxes import boxes
from zumbert.analysis.chambers import StructureFacts, structure_facts
from zumbert.analysis.flow import drains, flows
from zumbert.analysis.flowfacts import Flows, PipeFlow
from zumbert.analysis.land import allowed
from zumbert.analysis.links import Links, alive, links, live_links, namesakes, rings, stranded
from zumbert.analysis.meetings import Meeting, beside, lines, meetings, room
from zumbert.analysis.pipes import PipeFacts, pipe_facts
from zumbert.analysis.places import PlaceFacts, places
from zumbert.analysis.roads import RoadFacts, roads
from zumbert.analysis.spans import Span, spans
from zumbert.analysis.stages import Derived, Read, Stage, at_ends, derive, joined
from zumbert.analysis.surfaces import Surfaces, surfaces
from zumbert.model.display import Units
from zumbert.model.ids import AreaId, PipeId, RoadId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.structure import Free, Structure


class Facts(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """Derived values of one project, by id."""

    project: Project
    roads: dict[RoadId, RoadFacts]
    surfaces: Surfaces
    links: Links
    live: Links  # those of pipes that are not abandoned
    stranded: dict[StructureId, int]
    places: dict[StructureId, PlaceFacts]
    spans: dict[PipeId, Span]
    pipes: dict[PipeId, PipeFacts]
    structures: dict[StructureId, StructureFacts]
    rings: dict[StructureId, int]
    same_structure: dict[StructureId, StructureId]
    same_pipe: dict[PipeId, PipeId]
    meetings: dict[PipeId, tuple[Meeting, ...]]
    areas: dict[AreaId, AreaFacts]
    flows: Flows | None  # None: nothing drains to any structure
    pipe_flow: dict[PipeId, PipeFlow]
    land: Any  # the areas that work may lie in, as one; None: none is drawn
    made: Derived  # by stage, with what is new in these facts

    @property
    def units(self) -> Units:
        """How the project shows values."""
        return self.project.settings.units


# stages that findings of pipes are made from
OF_PIPES = ("pipes", "meetings", "same_pipe", "pipe_flow")
FLOWS_READ = ("pipes", "links", "drains", "project.rain", "project.settings", "project.sizes")
OF_STRUCTURES = ("structures", "stranded", "rings", "same_structure")


def analyse(project: Project, previous: Facts | None = None) -> Facts:
    """The facts of a project; with the facts of an earlier value, only what changed since is
    computed anew.

    Each fact depends on records alone, so the result is the same with and without `previous`.
    """
    made = derive(STAGES, project, None if previous is None else previous.made)
    return Facts(
        project=project,
        made=made,
        **{k: v for k, v in made.values.items() if k in Facts.__struct_fields__},
    )


def new_since(facts: Facts, old: Facts) -> tuple[list[PipeId], list[StructureId]]:
    """The pipes and structures whose facts or findings may not be what they were, those gone
    included.
    """
    pipes, structures = (
        dict.fromkeys(
            k for name in names for keys in facts.made.changes(name, old.made) for k in keys
        )
        for names in (OF_PIPES, OF_STRUCTURES)
    )
    return list(pipes), list(structures)


def _label(record: Pipe | Structure) -> object:
    return record.label


def _own_limits(pipe: Pipe) -> object:
    return pipe.limits


def _ends(pipe: Pipe) -> object:
    return pipe.up, pipe.down


def _runs(pipe: Pipe) -> object:
    """The fields of a pipe that decide where water runs through it."""
    return pipe.up, pipe.down, alive(pipe)


def _path(pipe: Pipe) -> object:
    """The fields of a pipe that decide its path in plan."""
    return pipe.up, pipe.down, pipe.through


def _drain(structure: Structure) -> object:
    """The fields of a structure that decide where water stops, and how a finding names it."""
    return structure.type, structure.label, structure.outfall


def _inflow(structure: Structure) -> object:
    return structure.inflow


def _there(record: object) -> object:
    """Nothing of a record: it counts that it is there."""
    return None


def _bases(now: Derived) -> object:
    """Where the networks quote inverts."""
    return {k: n.invert_basis for k, n in now.project.networks.items()}


def _places(now: Derived, keys: list[StructureId]) -> list[PlaceFacts]:
    return places([now.project.structures[k] for k in keys], now["roads"], now["surfaces"])


def _spans(now: Derived, keys: list[PipeId]) -> list[Span]:
    stands: dict[StructureId, PlaceFacts] = now["places"]
    pipes = [now.project.pipes[k] for k in keys]
    ways = [(stands[p.up], stands[p.down], _third(p, now["roads"])) for p in pipes]
    return spans(now.project, ways, now["surfaces"])


def _third(pipe: Pipe, road_facts: dict[RoadId, RoadFacts]) -> tuple[float, float] | None:
    """The place that a curved pipe passes; none beyond the end of its road."""
    place = pipe.through
    if place is None:
        return None
    if isinstance(place, Free):
        return place.x, place.y
    x, y = road_facts[place.road].alignment.point(place.chainage, place.offset)
    return None if x != x else (float(x), float(y))


def _pipes(now: Derived, keys: list[PipeId]) -> list[PipeFacts]:
    return pipe_facts(
        now.project, [now.project.pipes[k] for k in keys], [now["spans"][k] for k in keys]
    )


def _structures(now: Derived, keys: list[StructureId]) -> list[StructureFacts]:
    records, stands = now.project.structures, now["places"]
    return [
        structure_facts(now.project, records[k], stands[k], now["links"], now["pipes"])
        for k in keys
    ]


STAGES = (
    Stage(name="land", reads=(Read("project.land"),), make=lambda now,
          old: allowed(now.project.land)),
    Stage(name="roads", reads=(Read("project.roads"),), make=lambda now,
          old: roads(now.project, old or {})),
    Stage(name="surfaces", reads=(Read("project.surfaces"), Read("roads")),
          make=lambda now, old: surfaces(now.project, now["roads"], old)),
    Stage(name="links", reads=(Read("project.pipes", part=_ends),), make=lambda now,
          old: links(now.project)),
    Stage(name="live", reads=(Read("project.pipes", part=_runs),), make=lambda now,
          old: live_links(now.project)),
    Stage(name="stranded", reads=(Read("links"), Read("live"),
                                  Read("project.structures", part=_drain)),
          world=("project.types",),
          make=lambda now, old: stranded(now.project, now["links"], now["live"])),
    Stage(name="places", each="structures", reads=(Read("project.structures"),),
          world=("roads", "surfaces", "project.types"),
          make=_places, equal=eq),
    Stage(name="spans", each="pipes", reads=(Read("project.pipes", part=_path),
                                             Read("places", via=joined)),
          world=("roads", "surfaces", "project.types", "project.settings"), make=_spans),
    Stage(name="pipes", each="pipes", reads=(Read("project.pipes"), Read("spans")),
          world=("project.sizes", "project.settings", _bases), make=_pipes),
    Stage(name="structures", each="structures", reads=(Read("project.structures"), Read("places"),
                                                       Read("pipes", via=at_ends)),
          world=("project.types", "project.settings"), make=_structures),
    Stage(name="rings", reads=(Read("live"), Read("project.structures", part=_label)),
          make=lambda now, old: rings(now.project, now["live"])),
    Stage(name="same_structure", reads=(Read("project.structures", part=_label),),
          make=lambda now, old: namesakes(now.project.structures)),
    Stage(name="same_pipe", reads=(Read("project.pipes", part=_label),), make=lambda now,
          old: namesakes(now.project.pipes)),
    Stage(name="service_lines", reads=(Read("project.services"),), make=lambda now,
          old: lines(now.project)),
    Stage(name="room", reads=(Read("project.standards"), Read("project.pipes", part=_own_limits)),
          make=lambda now, old: room(now.project)),
    Stage(name="boxes", reads=(Read("pipes"),), make=boxes),
    Stage(name="meetings", each="pipes", reads=(Read("pipes", via=beside),),
          world=("service_lines", "room"), make=meetings),
    Stage(name="areas", reads=(Read("project.areas"), Read("project.area_kinds"), Read("roads"),
                               Read("places")),
          make=lambda now, old: areas(now.project, now["roads"], now["places"], old or {})),
    Stage(name="inflows", reads=(Read("project.structures", part=_inflow),),
          make=lambda now, old: {k: s.inflow for k, s in now.project.structures.items()
                                 if s.inflow}),
    Stage(name="drains", reads=(Read("areas"), Read("inflows"), Read("project.rain")),
          make=lambda now, old: drains(now.project, now["areas"], now["inflows"])),
    Stage(name="flows", reads=(Read("project.structures", part=_there), *map(Read, FLOWS_READ)),
          make=lambda now, old: flows(now.project, now["links"], now["pipes"], now["drains"], old)),
    Stage(name="pipe_flow", reads=(Read("flows"),), make=lambda now, old: now["flows"].pipes
          if now["flows"] is not None else {}),
)  # fmt: skip
