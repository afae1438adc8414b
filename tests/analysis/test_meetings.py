"""Pipes near to services and to each other: against brute force in space."""

import numpy as np
import pytest
from msgspec.structs import replace
from scipy.spatial import KDTree

from tests.build import chain, with_pipe, with_structure
from zumbert.analysis import analyse
from zumbert.analysis.clearance import axis, service_axis
from zumbert.edits.land import add_service
from zumbert.geometry.space import between_pieces
from zumbert.model.ids import PipeId
from zumbert.model.standard import Standard
from zumbert.model.structure import Free

SAMPLES = 400


def tangle(seed, pipes, services, room=0.4):
    """Pipes and services thrown into a box of 60 by 60 by 3 m; some pipes are curved, some share
    a structure.
    """
    rng = np.random.default_rng(seed)
    p = chain([(48.0, 47.5)])
    for i in range(pipes):
        a, b = rng.uniform(0, 60, 2), rng.uniform(0, 60, 2)
        p = with_structure(with_structure(p, f"U{i}", *a, kind="joint"), f"D{i}", *b, kind="joint")
        up = f"D{i - 1}" if i % 5 == 4 else f"U{i}"
        p = with_pipe(
            p,
            f"Q{i}",
            up,
            f"D{i}",
            rng.uniform(46, 49),
            rng.uniform(46, 49),
            rng.choice(["150", "300", "600"]),
        )
        if i % 4 == 3 and up == f"U{i}":
            mid = (a + b) / 2 + rng.uniform(-6, 6, 2)
            p = replace(
                p, pipes={**p.pipes, f"Q{i}": replace(p.pipes[PipeId(f"Q{i}")], through=Free(*mid))}
            )
    for _ in range(services):
        points = [
            (*rng.uniform(0, 60, 2), rng.uniform(46, 49)) for _ in range(int(rng.integers(2, 6)))
        ]
        p, _ = add_service(
            p, "water", points, None, float(rng.uniform(0.05, 0.4)), float(rng.uniform(0.1, 1.0))
        )
    key = next(iter(p.standards))
    return replace(p, standards={key: Standard(id=key, name="test", clearance_min=room)})


def by_force(p, facts):
    """Every pair, every piece: what is nearer than is asked for."""
    out = {}
    for k, f in facts.pipes.items():
        mine, r = axis(f), f.inside / 2 + f.wall
        for s in p.services.values():
            clear = between_pieces(mine, service_axis(s)).min() - r - s.size / 2
            if clear <= max(s.clearance, 0.4):
                out[k, s.id] = clear
        for m, g in facts.pipes.items():
            if m != k and not {f.pipe.up, f.pipe.down} & {g.pipe.up, g.pipe.down}:
                clear = between_pieces(mine, axis(g)).min() - r - g.inside / 2 - g.wall
                if clear <= 0.4:
                    out[k, m] = clear
    return out


# few are tried one by one, many by a tree
@pytest.mark.parametrize(("seed", "pipes"), [(1, 20), (2, 90), (3, 120)])
def test_what_is_found_is_what_brute_force_finds(seed, pipes):
    p = tangle(seed, pipes, 25)
    facts = analyse(p)
    found = {(k, m.other): m.clear for k, near in facts.meetings.items() for m in near}
    assert len(found) > 10
    assert found == pytest.approx(by_force(p, facts), abs=1e-9)


def test_the_place_is_where_they_are_nearest():
    p = tangle(4, 40, 20)
    facts = analyse(p)
    for k, near in facts.meetings.items():
        f = facts.pipes[k]
        for m in near:
            if m.service:
                s = p.services[m.other]
                place = np.array([[(*f.span.point(m.at), f.invert(m.at) + f.inside / 2)] * 2])
                far = (
                    between_pieces(place, service_axis(s)).min()
                    - f.inside / 2
                    - f.wall
                    - s.size / 2
                )
                # chords leave an arc by 5 mm
                assert far == pytest.approx(m.clear, abs=0.006 if f.span.arc is not None else 1e-9)


def test_no_two_places_on_both_axes_are_nearer():
    p = tangle(5, 30, 15)
    facts = analyse(p)
    t = np.linspace(0, 1, SAMPLES)[:, None]
    for k, near in facts.meetings.items():
        f = facts.pipes[k]
        along = np.concatenate([a + t * (b - a) for a, b in axis(f)])
        for m in near:
            other = service_axis(p.services[m.other]) if m.service else axis(facts.pipes[m.other])
            size = (
                p.services[m.other].size / 2
                if m.service
                else facts.pipes[m.other].inside / 2 + facts.pipes[m.other].wall
            )
            there = np.concatenate([a + t * (b - a) for a, b in other])
            least = KDTree(there).query(along)[0].min()
            assert m.clear <= least - f.inside / 2 - f.wall - size + 1e-9


def test_after_an_edit_only_what_came_near_or_went_is_looked_at_anew():
    p = tangle(6, 120, 25)
    facts = analyse(p)
    moved = replace(
        p, pipes={**p.pipes, "Q7": replace(p.pipes[PipeId("Q7")], invert_up=47.1, invert_down=47.2)}
    )
    kept, anew = analyse(moved, facts), analyse(moved)
    assert kept.meetings == anew.meetings
    assert kept.meetings != facts.meetings
    same = sum(kept.meetings[k] is facts.meetings.get(k) for k in kept.meetings)
    assert same > len(kept.meetings) / 3
