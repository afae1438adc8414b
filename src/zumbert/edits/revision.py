"""A revised road: structures follow its new course, and the consequences are reported."""

from math import hypot

from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.roads import pieces
from zumbert.checks import check
from zumbert.checks.sentences import sentence
from zumbert.edits.levels import slopes_kept
from zumbert.edits.roads import with_road
from zumbert.geometry.alignment import Alignment
from zumbert.model.display import counted
from zumbert.model.ids import RoadId
from zumbert.model.project import Project
from zumbert.model.road import Piece, RoadProfile
from zumbert.model.structure import Anchored, Free

TOLD = 12  # structures or findings that are named


def revised(
    project: Project,
    facts: Facts,
    road: RoadId,
    elements: tuple[Piece, ...],
    start: float,
    profiles: tuple[RoadProfile, ...],
) -> tuple[Project, list[str]]:
    """The project with a road's new course and profiles, and in sentences what moved and which
    findings are new.

    What is anchored to it keeps chainage and offset; what would stand beyond its new ends stays
    where it was, on no road. Profiles of a name that is there are replaced, others are added; the
    one in force stays in force by its name. Held slopes hold.
    """
    record, line = project.roads[road], Alignment(elements, start)
    made = tuple(
        next((n for n in profiles if (n.name, n.kind) == (p.name, p.kind)), p)
        for p in record.profiles
    )
    there = {(p.name, p.kind) for p in record.profiles}
    made += tuple(p for p in profiles if (p.name, p.kind) not in there)
    structures, loose = project.structures.copy(), list[str]()
    for key, s in project.structures.items():
        if isinstance(s.place, Anchored) and s.place.road == road:
            if not line.start - 1e-6 <= s.place.chainage <= line.end + 1e-6:
                at = facts.places[key]
                structures[key] = replace(s, place=Free(at.x or 0.0, at.y or 0.0))
                loose.append(s.label)
    record = replace(
        record,
        elements=elements,
        points=(),
        start=start,
        profiles=made,
        design=_in_force(record.design, made),
    )
    now = with_road(replace(project, structures=structures), record)
    held = [k for k, p in project.pipes.items() if p.hold_slope]
    now = slopes_kept(project, analyse(project), now, held) if held else now
    return now, [*_course(project, road, line), *_told(project, facts, now, record.name, loose)]


def _in_force(design: int | None, profiles: tuple[RoadProfile, ...]) -> int | None:
    if design is not None:
        return design
    return next((i for i, p in enumerate(profiles) if p.kind == "design"), None)


def _course(project: Project, road: RoadId, line: Alignment) -> list[str]:
    u, was = project.units, Alignment(pieces(project.roads[road]), project.roads[road].start)
    return [
        f'The road "{project.roads[road].name}" is replaced: {u.chainage(line.start)} to '
        f"{u.chainage(line.end)}, "
        f"{u.chainage(was.start)} to {u.chainage(was.end)} before."
    ]


def _told(project: Project, facts: Facts, now: Project, name: str, loose: list[str]) -> list[str]:
    u, after = project.units, analyse(now)
    moved: list[tuple[float, str]] = []
    for key, s in project.structures.items():
        a, b = facts.places[key], after.places[key]
        if a.x is None or a.y is None or b.x is None or b.y is None:
            continue
        far = hypot(b.x - a.x, b.y - a.y)
        if far > 0.0005:
            moved.append((far, f"{s.label} by {u.long(far)}"))
    moved.sort(reverse=True)
    notes = []
    if moved:
        notes.append(
            f"{counted(len(moved), 'structure')} moved with it: {_some([m for _, m in moved])}."
        )
    if loose:
        notes.append(
            f'Beyond the new ends of "{name}", left where they are on no road: {_some(loose)}.'
        )
    before = {f.key for f in check(project, facts)}
    new = [sentence(after, f) for f in check(now, after) if f.key not in before]
    if new:
        notes.append(f"{counted(len(new), 'finding')} new: {' '.join(new[:TOLD])}")
    return notes


def _some(words: list[str]) -> str:
    return ", ".join(words[:TOLD]) + (f" and {len(words) - TOLD} more" if len(words) > TOLD else "")
