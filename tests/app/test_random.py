"""Random layout edits through the session, with undo and redo between them."""

from collections import Counter

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.amount import times
from zumbert.app.session import Session
from zumbert.app.stages.layout.gully import first_gully_way
from zumbert.demo.project import demo_project
from zumbert.edits.basis import set_basis, set_network_basis
from zumbert.edits.change import set_anchor, set_cover, set_next_slope, set_outfall
from zumbert.edits.gullies import pair
from zumbert.edits.join import bent, copied, curved, deleted, placed, split, turned
from zumbert.edits.labels import rename, renumbered, set_label_at
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import LayOptions
from zumbert.edits.library import set_record, without_record
from zumbert.edits.loose import all_attached, attached
from zumbert.edits.networks import set_network
from zumbert.edits.several import hold, moved, set_sizes, set_status, set_types
from zumbert.model.structure import Anchored, Free

DEMO = demo_project()
MOST = 120  # structures: deletions are more likely above


def some(rng, keys, most=4):
    keys = list(keys)
    return [
        keys[i]
        for i in rng.choice(
            len(keys), size=min(len(keys), int(rng.integers(1, most + 1))), replace=False
        )
    ]


def random_layout(project, facts, rng, gullies):
    """One edit of the stage Layout."""
    road = list(project.roads)[rng.integers(len(project.roads))]
    network = next(iter(project.networks))
    a, b = some(rng, project.structures, 1)[0], some(rng, project.structures, 1)[0]
    pipe = some(rng, project.pipes, 1)[0]
    long = facts.pipes[pipe].span.length
    x, y = facts.pipes[pipe].span.point(long / 2)
    near = Free(x + rng.normal(0, 2), y + rng.normal(0, 2))
    place = Anchored(road, rng.uniform(0, facts.roads[road].alignment.end), rng.uniform(-9, 9))
    kind = list(project.types)[rng.integers(len(project.types))]
    several = some(rng, project.structures)
    edits = (
        lambda: (
            lay(project, facts, [place], LayOptions(network=network, up=bool(rng.integers(2))), a)[
                -1
            ].project
        ),
        lambda: lay(project, facts, [b], LayOptions(network=network), a)[-1].project,
        lambda: placed(project, facts, kind, place, network).project,
        lambda: split(project, facts, pipe, rng.uniform(0, long), kind).project,
        lambda: bent(project, facts, pipe, near, kind).project,
        lambda: curved(project, facts, pipe, near),
        lambda: pair(project, facts, road, place.chainage, gullies).project,
        lambda: turned(project, facts, some(rng, project.pipes)),
        lambda: copied(project, facts, some(rng, project.pipes, 2), None, rng.uniform(-6, 6))[0],
        lambda: attached(project, facts, a, b),
        lambda: deleted(project, facts, frozenset(several), frozenset())[0],
        lambda: deleted(project, facts, frozenset(), frozenset(some(rng, project.pipes, 2)))[0],
        lambda: moved(project, facts, several, rng.normal(), rng.normal()),
        lambda: set_types(project, several, kind).project,
        lambda: (
            set_sizes(
                project,
                some(rng, project.pipes),
                list(project.sizes)[rng.integers(len(project.sizes))],
            ).project
        ),
        lambda: set_status(
            project, several, [pipe], ("proposed", "existing", "abandoned")[rng.integers(3)]
        ),
        lambda: hold(
            project,
            several,
            [pipe],
            ("size", "up", "down", "slope")[rng.integers(4)],
            bool(rng.integers(2)),
        ),
        lambda: set_basis(
            project, some(rng, project.pipes), ("centres", "walls", None)[rng.integers(3)]
        ),
        lambda: set_network_basis(project, network, ("centres", "walls", None)[rng.integers(3)]),
        lambda: set_next_slope(project, facts, a, rng.uniform(0.004, 0.05)),
        lambda: set_network(project, network, several, [pipe]),
        lambda: set_anchor(project, facts, a, road if rng.random() < 0.6 else None),
        lambda: set_outfall(project, a, bool(rng.integers(2))),
        lambda: rename(project, a, f"X{rng.integers(50)}"),
        lambda: set_label_at(
            project, a, (rng.normal(0, 30), rng.normal(0, 30)) if rng.random() < 0.7 else None
        ),
        lambda: set_cover(project, a, (rng.normal(0, 0.2), 0.0)),
        lambda: set_record(project, "types", kind, "allowed", "yes" if rng.integers(2) else "no"),
        lambda: without_record(
            project, "sizes", list(project.sizes)[rng.integers(len(project.sizes))]
        ),
        lambda: all_attached(project, facts, 5.0),
        lambda: (
            lay(
                project,
                facts,
                [place],
                LayOptions(network=network, level=rng.uniform(38, 50), edge="outer"),
                a,
            )[-1].project
        ),
        lambda: renumbered(project, facts, network, up=bool(rng.integers(2))),
    )
    if len(project.structures) > MOST and rng.random() < 0.5:
        return edits[10]()
    if len(project.pipes) < 15:
        return edits[0]()
    return edits[rng.integers(len(edits))]()


def sound(project):
    """No loose pipe, no doubled label, no key under another name."""
    for k, p in project.pipes.items():
        assert p.id == k
        assert p.up in project.structures
        assert p.down in project.structures
        assert p.up != p.down
    for records in (project.structures, project.pipes):
        doubles = [
            label for label, n in Counter(r.label for r in records.values()).items() if n > 1
        ]
        assert not doubles
    assert all(s.id == k for k, s in project.structures.items())


@given(seed=st.integers(0, 2**32))
@settings(max_examples=times(1, 10), deadline=None)
@pytest.mark.usefixtures("qapp")
def test_random_layout_edits_undo_and_redo(seed):
    rng = np.random.default_rng(seed)
    session = Session(DEMO)
    first = session.state.current.project
    done, many = 0, times(150, 1000)
    while done < many:
        roll = rng.random()
        if roll < 0.08:
            session.undo()
        elif roll < 0.14:
            session.redo()
        else:
            gullies = first_gully_way(session)
            session.edit("Change", lambda p, f, g=gullies: random_layout(p, f, rng, g))
        done += 1
        sound(session.state.current.project)
    last = session.state.current.project
    steps = len(session.history.undo_names)
    assert steps > many * 0.3
    for _ in range(steps):
        session.undo()
    assert session.state.current.project is first
    for _ in range(steps):
        session.redo()
    assert session.state.current.project is last
