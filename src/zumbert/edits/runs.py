"""Runs that are named and kept."""

from msgspec.structs import replace

from zumbert.analysis.runs import RunKey
from zumbert.edits.records import free_name, with_one
from zumbert.errors import EditError
from zumbert.model.ids import RunId, StructureId
from zumbert.model.project import Project, with_id
from zumbert.model.run import KeptRun


def keep_run(project: Project, key: RunKey, name: str) -> tuple[Project, RunId]:
    """The project with the run of a key kept under a name. Raises EditError for a road, a kept run, or a taken name."""
    if key.kind not in ("run", "path"):
        raise EditError("A run of pipes can be kept: pick one first.")
    name = free_name(project.runs, name, None, "run")
    project, ident = with_id(project, "k")
    a, _, b = key.id.partition(" ")
    run = KeptRun(id=RunId(ident), name=name, a=StructureId(a), b=StructureId(b) if b else None)
    return replace(project, runs=with_one(project.runs, run.id, run)), run.id


def rename_run(project: Project, run: RunId, name: str) -> Project:
    """The project with a kept run of another name. Raises EditError for none, or one that is taken."""
    return _with(project, replace(project.runs[run], name=free_name(project.runs, name, run, "run")))


def drop_run(project: Project, run: RunId) -> Project:
    """The project without a kept run; its pipes stay."""
    return replace(project, runs={k: r for k, r in project.runs.items() if k != run})


def leave_out(project: Project, run: RunId, structure: StructureId, out: bool) -> Project:
    """The project with a structure left out of one long section, or shown in it again."""
    record = project.runs[run]
    without = record.without | {structure} if out else record.without - {structure}
    return _with(project, replace(record, without=without))


def _with(project: Project, run: KeptRun) -> Project:
    if project.runs[run.id] == run:
        return project
    return replace(project, runs=with_one(project.runs, run.id, run))
