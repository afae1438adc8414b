"""Findings mended by another chamber, another flow, another place or another label."""

from math import ceil

import numpy as np

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.links import upstream
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Finding
from zumbert.edits.change import misfit, move_structure, set_outfall, set_type
from zumbert.edits.fix import Fix, Way
from zumbert.edits.join import deleted, split, turned
from zumbert.edits.labels import next_label, pipe_label, rename
from zumbert.edits.loose import attached, nearest_structure
from zumbert.edits.records import with_pipe
from zumbert.model.ids import PipeId
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

INTO_LAND = 0.01  # m that a structure is moved past the border


def _turn(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """A pipe that falls the wrong way, its flow turned round."""
    f = facts.pipes[finding.of_pipe]
    if f.slope is None or f.slope >= 0:
        return None
    return Fix("Turn the flow", project.units.slope(-f.slope), turned(project, facts, [f.pipe.id]))


def _turned(project: Project, facts: Facts, f: PipeFacts) -> Fix:
    made = turned(project, facts, [f.pipe.id])
    return Fix(
        f"Turn the flow of {f.pipe.label}",
        project.units.slope(None if f.slope is None else -f.slope),
        made,
    )


def _turn_an_outlet(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """Of several outlets the one that falls least, turned round."""
    out = [facts.pipes[k] for k in facts.live.outlets.get(finding.of_structure, ())]
    return _turned(project, facts, min(out, key=lambda g: g.slope or 0.0)) if out else None


def _turn_in_ring(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """The pipe of the ring that falls least, turned round."""
    start = finding.of_structure
    behind = upstream(project, facts.live, start)
    ring = {start}
    todo = [start]
    while todo:
        for key in facts.live.outlets.get(todo.pop(), ()):
            down = project.pipes[key].down
            if down in behind and down not in ring:
                ring.add(down)
                todo.append(down)
    own = [
        facts.pipes[k]
        for s in ring
        for k in facts.live.outlets.get(s, ())
        if project.pipes[k].down in ring
    ]
    return _turned(project, facts, min(own, key=lambda g: g.slope or 0.0)) if own else None


def _turn_to_outfall(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """Where the water stops, the inlet turned whose other end has a way out."""
    for key in facts.live.inlets.get(finding.of_structure, ()):
        made = turned(project, facts, [key])
        after = analyse(made, facts)
        if finding.of_structure not in after.stranded and not _gone_worse(facts, after):
            return _turned(project, facts, facts.pipes[key])
    return None


def _gone_worse(before: Facts, after: Facts) -> bool:
    return sum(after.stranded.values()) >= sum(before.stranded.values())


def _declare_outfall(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    label = project.structures[finding.of_structure].label
    return Fix(f"Declare {label} an outfall", "", set_outfall(project, finding.of_structure, True))


def _attach(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    loose = finding.structure
    found = None if loose is None else nearest_structure(facts, loose)
    if loose is None or found is None:
        return None
    label, far = project.structures[found[0]].label, project.units.long(found[1])
    return Fix(f"Attach it to {label}", f"{far} away", attached(project, facts, loose, found[0]))


def _larger_chamber(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """The smallest type of the same kind, offered for new work, in which the finding is gone."""
    key = finding.of_structure
    own = project.types[project.structures[key].type]
    others = [
        t
        for t in project.types.values()
        if t.allowed and t.kind == own.kind and t.key != own.key and t.inside > 0
    ]
    for kind in sorted(
        others, key=lambda t: (t.inside * (t.across or t.inside), t.across is not None)
    ):
        if misfit(project, facts, key, kind.key):
            continue
        made = set_type(project, key, kind.key)
        after = analyse(made, facts)
        if not list(rule_of(finding.rule).test(after, after.structures[key])):
            return Fix(f"Make it {kind.name}", project.units.long(kind.inside), made)
    return None


def _split(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """A pipe that is too long, with chambers at even distances in it, as many as it needs."""
    f, most = facts.pipes[finding.of_pipe], finding.limit or 0.0
    if most <= 0:
        return None
    parts = ceil(f.span.length / most - 1e-9)
    kinds = [project.types[project.structures[k].type] for k in (f.pipe.up, f.pipe.down)]
    kind = next((t for t in kinds if t.kind == "manhole"), None) or next(
        (
            t
            for t in project.types.values()
            if t.allowed and t.kind == "manhole" and (t.dn_max or 0.0) >= f.dn
        ),
        None,
    )
    if kind is None or parts < 2 or parts > 50:
        return None
    made, now = project, facts
    for i in range(parts - 1, 0, -1):  # from the lower end, so that the upper piece keeps the pipe
        done = split(made, now, f.pipe.id, f.span.length * i / parts, kind.key)
        made, now = done.project, analyse(done.project, now)
    word = f"a {kind.name.lower()}" if parts == 2 else f"{parts - 1} × {kind.name.lower()}"
    return Fix(f"Split it with {word}", project.units.long(f.span.length / parts), made)


def _remove(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    key = PipeId(finding.pipe or "")
    return Fix(
        f"Delete pipe {project.pipes[key].label}",
        "",
        deleted(project, facts, frozenset(), frozenset({key}))[0],
    )


def _fresh_label(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """The next free label in place of one that is taken."""
    if finding.pipe is not None:
        p = project.pipes[finding.pipe]
        label = pipe_label(project, p.up, p.down)
        return Fix(f"Call it {label}", "", with_pipe(project, p.id, label=label))
    s = project.structures[finding.of_structure]
    label = next_label(project, s.type, s.place)
    return Fix(f"Call it {label}", "", rename(project, s.id, label))


def _into_land(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """A structure outside the land, moved to the nearest place inside."""
    if finding.structure is None or facts.land is None:
        return None
    import shapely

    at = facts.places[finding.structure]
    if at.x is None or at.y is None:
        return None
    here = shapely.Point(at.x, at.y)
    border = shapely.get_coordinates(shapely.shortest_line(here, facts.land))[-1]
    way = border - np.array([at.x, at.y])
    far = float(np.hypot(*way))
    if far <= 0:
        return None
    x, y = (border + way / far * INTO_LAND).tolist()
    place: Anchored | Free = Free(x, y)
    own = project.structures[finding.structure].place
    if isinstance(own, Anchored):
        ch, off = (float(v) for v in facts.roads[own.road].alignment.project(x, y))
        place = Free(x, y) if ch != ch else Anchored(own.road, ch, off)
    label = project.structures[finding.structure].label
    made = move_structure(project, facts, finding.structure, place)
    return Fix(f"Shift {label} into the land", project.units.long(far + INTO_LAND), made)


NETWORK_FIXES: dict[str, Way] = {
    "turn": _turn,
    "turn_an_outlet": _turn_an_outlet,
    "turn_in_ring": _turn_in_ring,
    "turn_to_outfall": _turn_to_outfall,
    "declare_outfall": _declare_outfall,
    "attach": _attach,
    "larger_chamber": _larger_chamber,
    "split": _split,
    "remove": _remove,
    "fresh_label": _fresh_label,
    "into_land": _into_land,
}
