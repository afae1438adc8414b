"""After random edits the facts and findings kept from step to step equal those computed anew."""

from typing import NamedTuple

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.amount import times
from tests.build import facts_of
from zumbert.analysis import analyse
from zumbert.analysis.changed import changed
from zumbert.analysis.facts import Facts
from zumbert.analysis.runline import RunKey
from zumbert.analysis.trench import Trenches, trenches
from zumbert.checks import RULES, Findings, check
from zumbert.checks.sentences import sentence
from zumbert.demo.project import demo_project
from zumbert.edits.basis import set_basis, set_network_basis
from zumbert.edits.change import (
    move_structure,
    set_anchor,
    set_outfall,
    set_rim,
    set_rotation,
    set_size,
    set_type,
)
from zumbert.edits.decisions import decide, reopen
from zumbert.edits.join import curved, deleted, split, turned
from zumbert.edits.labels import rename, renumbered
from zumbert.edits.land import add_service
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import LayOptions
from zumbert.edits.levels import set_invert, set_slope, shift_pipe, shift_side
from zumbert.edits.networks import add_network, set_network
from zumbert.edits.records import with_one
from zumbert.edits.runs import leave_out
from zumbert.edits.setup import set_standard, set_trench_type
from zumbert.edits.several import hold, set_status
from zumbert.edits.standards import set_limit, set_own_limit, set_weight
from zumbert.errors import EditError
from zumbert.model.standard import Standard
from zumbert.model.structure import Anchored, FixedRim, Free
from zumbert.model.trench import TrenchSize

DEMO = demo_project()


def two_networks():
    """The demo with a network more, whose trenches have another working space, width and batter."""
    first = next(iter(DEMO.networks))
    project, other = add_network(DEMO, "Other", first)
    wide = replace(
        next(iter(DEMO.trench_types.values())),
        name="wide",
        working_space=0.9,
        sizes=(TrenchSize(width=1.6, batter=0.5),),
    )
    return set_trench_type(project, wide, [other]), other


TWO, OTHER = two_networks()


def random_edit(project, facts, rng):
    pipes, structures = list(project.pipes), list(project.structures)
    pipe, structure = pipes[rng.integers(len(pipes))], structures[rng.integers(len(structures))]
    end = "up" if rng.random() < 0.5 else "down"
    place = project.structures[structure].place
    kind = rng.integers(32)
    if kind == 0:
        return set_invert(project, pipe, end, project.pipes[pipe].invert_up + rng.normal(0, 0.3))
    if kind == 1:
        return shift_pipe(project, pipe, rng.normal(0, 0.3))
    if kind == 2:
        return set_slope(project, facts, pipe, rng.uniform(0.001, 0.12), end)
    if kind == 3 and isinstance(place, Anchored):
        moved = replace(
            place,
            chainage=min(419.0, max(0.0, place.chainage + rng.normal(0, 4))),
            offset=place.offset + rng.normal(),
        )
        return move_structure(project, facts, structure, moved)
    if kind == 3:
        return move_structure(
            project, facts, structure, Free(place.x + rng.normal(), place.y + rng.normal())
        )
    if kind == 4:
        return set_size(project, pipe, list(project.sizes)[rng.integers(9)])
    if kind == 5:
        return set_type(project, structure, list(project.types)[rng.integers(len(project.types))])
    if kind == 6 and len(structures) > 30:
        return deleted(project, analyse(project), frozenset({structure}), frozenset())[0]
    if kind == 7 and len(pipes) > 25:
        return deleted(project, analyse(project), frozenset(), frozenset({pipe}))[0]
    if kind == 8:
        road = next(iter(project.roads))
        way = LayOptions(network=next(iter(project.networks)), up=bool(rng.integers(2)))
        return lay(
            project,
            facts,
            [Anchored(road, rng.uniform(5, 415), rng.uniform(-8, 8))],
            way,
            structure,
        )[-1].project
    if kind == 9:
        return turned(project, facts, [pipe])
    if kind == 10:
        return set_rim(project, structure, FixedRim(rng.uniform(40, 50)))
    if kind == 11:
        return shift_side(project, facts, pipe, end, rng.normal(0, 0.1))
    if kind == 12 and rng.random() < 0.2:
        return set_standard(
            project, Standard(id="", name="other", cover_min=float(rng.uniform(0.5, 1.2)))
        )
    if kind == 13:
        return split(
            project, facts, pipe, facts.pipes[pipe].span.length * rng.uniform(0.2, 0.8), "joint"
        ).project
    if kind == 14:
        x, y = facts.pipes[pipe].span.point(facts.pipes[pipe].span.length / 2)
        return curved(project, facts, pipe, Free(x + rng.normal(0, 0.5), y + rng.normal(0, 0.5)))
    if kind == 15:
        road = list(project.roads)[rng.integers(len(project.roads))] if rng.random() < 0.5 else None
        return set_anchor(project, facts, structure, road)
    if kind == 16:
        return set_rotation(project, structure, float(rng.uniform(0, 6)))
    basis = ("centres", "walls", None)[rng.integers(3)]
    if kind == 17:
        return set_basis(project, [pipe], basis)
    if kind == 18:
        return set_network_basis(project, project.pipes[pipe].network, basis)
    if kind == 19:
        return hold(
            project, [], [pipe], ("up", "down", "slope")[rng.integers(3)], bool(rng.random() < 0.4)
        )
    if kind == 20:
        return leave_out(
            project, RunKey("road", next(iter(project.roads))), [structure], bool(rng.integers(2))
        )
    if kind == 21:
        network = OTHER if rng.random() < 0.5 else next(iter(project.networks))
        return set_network(project, network, [structure], [pipe] if rng.random() < 0.5 else [])
    if kind == 22:
        statuses = ("proposed", "existing", "abandoned")
        return set_status(
            project, [structure], [pipe] if rng.random() < 0.3 else [], statuses[rng.integers(3)]
        )
    if kind == 23:
        return rename(project, structure, f"X{rng.integers(1000)}")
    if kind == 24:
        return renumbered(project, facts, next(iter(project.networks)), bool(rng.integers(2)), 100)
    if kind == 25:
        return set_outfall(project, structure, bool(rng.integers(2)))
    if kind == 26:
        found = check(project, facts)
        return (
            decide(project, [found[rng.integers(len(found))] for _ in range(3)], "agreed", "AB")
            if found
            else project
        )
    if kind == 27:
        return reopen(project, list(project.decisions)[:1])
    if kind == 28:
        own = None if rng.random() < 0.5 else rng.uniform(0.1, 2.0)
        thing, rule = (pipe, "cover_min") if rng.random() < 0.5 else (structure, "drop_min")
        return set_own_limit(
            project,
            [thing],
            ("clearance" if rng.random() < 0.2 and thing == pipe else rule),
            own,
            "agreed",
        )
    if kind == 29:
        key = list(project.standards)[rng.integers(len(project.standards))]
        name = ("cover_min", "clearance_min", "cover_carriageway", "velocity_min")[rng.integers(4)]
        return set_limit(project, key, name, rng.uniform(0.1, 1.5))
    if kind == 30:
        rule = list(RULES)[rng.integers(len(RULES))]
        weight = ("breach", "caution", "off", None)[rng.integers(4)]
        return set_weight(
            project, list(project.standards)[rng.integers(len(project.standards))], rule, weight
        )
    if kind == 31:
        x, y = facts.places[structure].x, facts.places[structure].y
        level = rng.uniform(38, 48)
        points = [
            (x - 9, y - rng.uniform(0, 9), level),
            (x + 9, y + rng.uniform(0, 9), level + rng.normal(0, 0.3)),
        ]
        return add_service(project, "water", points, None, 0.2, rng.uniform(0.1, 0.6))[0]
    return project


def same_pipe(a, b):
    for name in ("pipe", "inside", "wall", "dn", "quoted_from", "basis", "slope", "cover"):
        assert getattr(a, name) == getattr(b, name), name
    for name in ("up", "down", "length", "bearing", "reach_up", "reach_down", "sources"):
        assert getattr(a.span, name) == getattr(b.span, name), name
    for name in ("ground", "design", "barrel"):
        p, q = getattr(a.span, name), getattr(b.span, name)
        assert (p is None) == (q is None)
        if p is not None:
            np.testing.assert_array_equal(p.s, q.s)
            np.testing.assert_array_equal(p.z, q.z)


def same_structure(a, b):
    for name in ("structure", "place", "lowest", "depth", "sump_level"):
        assert getattr(a, name) == getattr(b, name), name
    assert set(a.drops) == set(b.drops)


class Anew(NamedTuple):
    """Everything that is derived of a project, computed from nothing."""

    facts: Facts
    findings: Findings
    dug: Trenches


def anew(project):
    """What a project gives, computed from nothing."""
    facts = analyse(project)
    return Anew(facts, check(project, facts), trenches(facts))


def same(project, facts, findings, dug, made=None):
    """Holds what was kept against what is computed anew (`made`, where that is known already);
    the facts of that.
    """
    whole, found, new = made or anew(project)
    assert (facts.places, facts.stranded) == (whole.places, whole.stranded)
    for name in ("rings", "same_structure", "same_pipe", "meetings", "pipe_flow"):
        assert getattr(facts, name) == getattr(whole, name), name
    assert {k: (f.area, f.size, f.ca, f.entry) for k, f in facts.areas.items()} == {
        k: (f.area, f.size, f.ca, f.entry) for k, f in whole.areas.items()
    }
    assert set(facts.pipes) == set(whole.pipes) == set(project.pipes)
    assert set(facts.structures) == set(whole.structures) == set(project.structures)
    for k in project.pipes:
        same_pipe(facts.pipes[k], whole.pipes[k])
    for k in project.structures:
        same_structure(facts.structures[k], whole.structures[k])
    assert [(f, sentence(facts, f)) for f in findings] == [(f, sentence(whole, f)) for f in found]
    assert (findings.breaches, findings.cautions, findings.decided) == (
        found.breaches,
        found.cautions,
        found.decided,
    )
    for kept, others in ((dug.pipes, new.pipes), (dug.pits, new.pits)):
        assert kept.keys() == others.keys()
        for k, d in kept.items():
            names = [
                n
                for n in type(d).__struct_fields__
                if n not in ("pipe", "structure", "plot", "plan", "dig")
            ]
            assert [getattr(d, n) for n in names] == [getattr(others[k], n) for n in names], k
    for k, d in dug.made["digs"].items():
        assert replace(d, span=whole.spans[k]) == new.made["digs"][k], k
    return whole


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_random_edits(seed):
    rng = np.random.default_rng(seed)
    project, facts = TWO, analyse(TWO)
    findings, dug = check(project, facts), trenches(facts)
    past = []
    done = 0
    while done < times(30, 400):
        if past and rng.random() < 0.12:
            project = past.pop()  # an undo: an earlier value, against the facts of a later one
        else:
            try:
                edited = random_edit(project, facts, rng)
            except EditError:
                continue
            if edited is project:
                continue
            past.append(project)
            project = edited
        facts = analyse(project, facts)
        findings, dug = check(project, facts, findings), trenches(facts, dug)
        done += 1
        if done % 10 == 0:
            same(project, facts, findings, dug)


def test_what_did_not_change_is_the_same_object():
    facts = facts_of(DEMO)
    pipe = next(iter(DEMO.pipes))
    moved = analyse(set_invert(DEMO, pipe, "up", 39.0), facts)
    assert moved.spans is facts.spans
    assert moved.places is facts.places
    assert moved.links is facts.links
    changed = [k for k in facts.pipes if moved.pipes[k] is not facts.pipes[k]]
    assert changed == [pipe]
    assert sum(moved.structures[k] is not facts.structures[k] for k in facts.structures) == 2


@given(st.lists(st.integers(0, 9), max_size=6), st.integers(0, 9))
def test_what_is_remembered_of_one_record_is_what_comparing_tells(keys, key):
    old = {k: object() for k in keys}
    new = with_one(old, key, object())
    told = changed(old, new)
    assert told == ([key], [])
    with_one({}, 0, 1)  # another is remembered now: compared
    assert changed(old, new) == told
    assert changed(old, with_one(old, key, old[key])) == ([], []) if key in old else True


def test_what_is_near_follows_the_clearance_that_is_asked_for():
    facts, wide = analyse(TWO), TWO
    for key in TWO.standards:
        wide = set_limit(wide, key, "clearance_min", 3.0)
    anew = analyse(wide).meetings
    assert anew != facts.meetings
    assert analyse(wide, facts).meetings == anew
    assert analyse(TWO, analyse(wide, facts)).meetings == facts.meetings
