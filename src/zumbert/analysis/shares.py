"""Shares of flow where a structure has several outlets."""

from collections.abc import Mapping

from zumbert.analysis.changed import changed
from zumbert.analysis.flowfacts import Flows
from zumbert.analysis.links import Links, alive
from zumbert.analysis.pipes import PipeFacts
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.project import Project


def all_shares(project: Project, links: Links) -> dict[PipeId, float]:
    """The share of what leaves its structure that each pipe takes."""
    out: dict[PipeId, float] = {}
    for s, keys in links.outlets.items():
        if len(keys) > 1:
            out.update(shares_at(project, links, s))
        elif alive(project.pipes[keys[0]]):
            out[keys[0]] = 1.0
    return out


def reshared(
    project: Project, links: Links, facts: Mapping[PipeId, PipeFacts], old: Flows
) -> dict[PipeId, float]:
    """Shares where an invert or a share of one of several outlets changed."""
    touched = {
        facts[k].pipe.up
        for k in changed(old.facts, facts)[0]
        if len(links.outlets.get(facts[k].pipe.up, ())) > 1
    }
    if not touched:
        return old.shares
    out = old.shares.copy()
    for s in touched:
        out.update(shares_at(project, links, s))
    return out


def shares_at(project: Project, links: Links, at: StructureId) -> dict[PipeId, float]:
    """How what leaves a structure is shared among its outlets in use: as they say, the rest to the
    lowest that says nothing.

    Shares that add up to more than 1, or to less where all say something, are scaled to 1.
    """
    outlets = [project.pipes[p] for p in links.outlets.get(at, ()) if alive(project.pipes[p])]
    if len(outlets) < 2:
        return {p.id: 1.0 for p in outlets}
    said = {p.id: p.share for p in outlets if p.share is not None}
    total = sum(said.values())
    silent = [p for p in outlets if p.share is None]
    if total > 1.0 or (not silent and total > 0):
        return {p.id: said.get(p.id, 0.0) / total for p in outlets}
    lowest = min(silent or outlets, key=lambda p: p.invert_up)
    return {p.id: said.get(p.id, 0.0) + (1.0 - total if p is lowest else 0.0) for p in outlets}
