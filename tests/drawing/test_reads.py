"""What a drawing says that it is made from is all that it reads of the facts."""

from itertools import product

import pytest
from msgspec import Struct
from msgspec.structs import replace

from tests.app.ready import DEMO
from tests.edits.made import BASE
from tests.recorded.odd import odd
from zumbert.analysis import Facts, analyse
from zumbert.analysis.runlist import run_keys
from zumbert.analysis.runs import run
from zumbert.analysis.trench import trenches
from zumbert.checks import check
from zumbert.drawing.groundplan import base, ground_targets, seen_on_ground
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import MapSight, SectionSight
from zumbert.model.project import Project

SIGHT = SectionSight(width=1200.0, height=400.0, left=84.0, x=0.0, z=30.0, sx=3.0, sz=10.0)
WIDE = MapSight(width=1500.0, height=1500.0, x=1500.0, y=900.0, scale=1.5)
SHOWS = frozenset({"legal", "cover", "services", "profile", "flow", "trench", "bands"})
PROJECTS = [DEMO, BASE, odd(2), odd(4)]


class Watched:
    """A record whose parts are told when they are read: those that are dicts by key, if that is
    how they are read.
    """

    def __init__(self, of, read):
        self.of, self.read = of, read

    def __getattr__(self, name):
        value = getattr(self.of, name)
        if isinstance(value, (Facts, Project)):
            return Watched(value, self.read)
        if name in ("pipes", "structures", "pipe_flow", "by_pipe", "by_structure"):
            return Keyed(value, name, self.read)
        if not callable(value) and name != "units":
            self.read.append((name, value))
        return value


class Keyed(dict):
    """A dict that tells which of its values are read."""

    def __init__(self, of, name, read):
        super().__init__(of)
        self.name, self.read = name, read

    def __getitem__(self, key):
        value = super().__getitem__(key)
        self.read.append((f"{self.name}[{key}]", value))
        return value

    def get(self, key, default=None):
        if key not in self:
            return default
        return self[key]

    def values(self):
        self.read.append((self.name, self))
        return super().values()

    def items(self):
        self.read.append((self.name, self))
        return super().items()


def declared(parts):
    """The parts, and the records that these facts are of."""
    out = {id(p) for p in parts}
    return out | {
        id(getattr(p, n))
        for p in parts
        for n in ("pipe", "structure", "span", "place")
        if isinstance(p, Struct) and hasattr(p, n)
    }


def undeclared(read, parts):
    known = declared(parts)
    return {
        name
        for name, value in read
        if id(value) not in known and not isinstance(value, (bool, int, float, str, type(None)))
    }


@pytest.mark.parametrize("project", PROJECTS)
@pytest.mark.parametrize("areas", [False, True])
def test_ground_roads_and_areas(project, areas):
    facts, read = analyse(project), []
    watched = Watched(facts, read)
    base(watched, WIDE, 0.0, areas)
    ground_targets(watched, WIDE)
    assert len({name for name, _ in read}) > 5
    assert undeclared(read, seen_on_ground(facts, areas)) == set()


@pytest.mark.parametrize("project", PROJECTS)
def test_the_long_section(project):
    facts = analyse(project)
    findings, dug = check(project, facts), trenches(facts)
    with_trenches = facts.places, project.digging  # trenches are made anew with each of these
    for key, trenched in product(run_keys(project, facts), (None, dug)):
        shown, read = run(facts, key), []
        if shown is None:
            continue
        watched = Watched(facts, read)
        picture = Picture(
            facts=watched, findings=findings, run=shown, shows=SHOWS, trenches=trenched
        )
        section_marks(picture, replace(SIGHT, x=shown.start))
        flows = (facts.pipe_flow.get(r.pipe) for r in shown.reaches)
        assert len(read) > 20
        assert (
            undeclared(read, [*shown.made, *flows, *(with_trenches if trenched else ())]) == set()
        )
