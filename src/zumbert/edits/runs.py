"""Named runs."""

from collections.abc import Iterable

from msgspec.structs import replace

from zumbert.analysis.runline import RunKey
from zumbert.edits.records import free_name, with_one
from zumbert.errors import EditError
from zumbert.model.ids import RoadId, RunId, StructureId
from zumbert.model.project import Project, with_id
from zumbert.model.run import NamedRun


def name_run(project: Project, key: RunKey, name: str) -> tuple[Project, RunId]:
    """The project with the run of a key named. Raises EditError for a road, a run that has a
    name, or a name in use.
    """
    if key.kind not in ("run", "path"):
        raise EditError("A run of pipes can be kept: pick one first.")
    name = free_name(project.runs, name, None, "run")
    project, ident = with_id(project, "k")
    a, _, b = key.id.partition(" ")
    run = NamedRun(id=RunId(ident), name=name, a=StructureId(a), b=StructureId(b) if b else None)
    return replace(project, runs=with_one(project.runs, run.id, run)), run.id


def rename_run(project: Project, run: RunId, name: str) -> Project:
    """The project with a named run renamed. Raises EditError for an empty name, or one in use."""
    return _with(
        project, replace(project.runs[run], name=free_name(project.runs, name, run, "run"))
    )


def drop_run(project: Project, run: RunId) -> Project:
    """The project without a named run; its pipes stay."""
    return replace(project, runs={k: r for k, r in project.runs.items() if k != run})


def left_out(project: Project, key: RunKey) -> frozenset[StructureId]:
    """The structures that a long section leaves out; none for a run without a name."""
    if key.kind == "road":
        road = project.roads.get(RoadId(key.id))
        return frozenset() if road is None else road.without
    record = project.runs.get(RunId(key.id)) if key.kind == "named" else None
    return frozenset() if record is None else record.without


def leave_out(
    project: Project, key: RunKey, structures: Iterable[StructureId], out: bool
) -> Project:
    """The project with structures left out of the long section of a road or a named run, or
    shown again.
    """
    chosen = frozenset(structures)
    without = left_out(project, key) | chosen if out else left_out(project, key) - chosen
    if without == left_out(project, key):
        return project
    if key.kind == "road":
        road = replace(project.roads[RoadId(key.id)], without=without)
        return replace(project, roads=with_one(project.roads, road.id, road))
    return _with(project, replace(project.runs[RunId(key.id)], without=without))


def _with(project: Project, run: NamedRun) -> Project:
    if project.runs[run.id] == run:
        return project
    return replace(project, runs=with_one(project.runs, run.id, run))
