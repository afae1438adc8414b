"""Four worked cases for each rule of levels: it passes, it fails, it is at its limit, it does
not apply.
"""

import pytest
from msgspec.structs import replace

from tests.build import chain, facts_of, grounded, with_pipe, with_structure
from tests.checks.test_rules import SOUND, with_standard
from zumbert.checks import check
from zumbert.model.ids import PipeId

TINY = 5e-7  # m: within a millionth of the limit


def run(up, down, size="300", **limits):
    """S1 to S2 to an outfall over level ground at 50.000, P2 going on 0.05 under P1."""
    p = chain([(up, down), (down - 0.05, down - 0.55)], size=size)
    return with_standard(p, **limits) if limits else p


def pair(down, up, sizes=("300", "300"), **limits):
    """An inlet that comes in at `down`, an outlet that leaves at `up`."""
    p = chain([(down + 0.5, down), (up, up - 0.5)])
    p = with_pipe(
        with_pipe(p, "P1", "S1", "S2", down + 0.5, down, sizes[0]),
        "P2",
        "S2",
        "S3",
        up,
        up - 0.5,
        sizes[1],
    )
    return with_standard(p, **limits) if limits else p


def abandoned(project):
    return replace(
        project, pipes={k: replace(p, status="abandoned") for k, p in project.pipes.items()}
    )


def joint(project):
    return with_structure(project, "S2", 50, kind="joint")


def rimmed(level, kind="manhole-1200"):
    return with_structure(SOUND, "S1", 0, rim=level, kind=kind)


def bare(project):
    """Off all ground, and without rims."""
    return replace(project, surfaces={})


AT = 50.0 - 0.345 - 0.9  # the invert under 0.90 m of cover
WALL = 0.6 * 0.01  # m that a pipe of 1 % has fallen where it leaves a chamber of 1.2 m
CASES = [
    # rule, of, passes, fails, at the limit, does not apply
    ("cover_min", "P1", run(48.5, 48.0), run(49.2, 48.7), run(AT + WALL + TINY, AT + WALL - 0.5),
     bare(run(49.2, 48.7))),
    ("cover_max", "P1", run(48.0, 47.5), run(43.0, 42.5), run(44.149 - TINY, 43.649 - TINY),
     bare(run(43.0, 42.5))),
    ("slope_min", "P1", run(48.0, 47.75), run(48.0, 47.83), run(48.0, 47.8 + TINY * 50),
     run(48.0, 48.2)),
    ("slope_max", "P1", run(48.5, 44.0), run(48.5, 43.4), run(48.5, 43.5 - TINY * 50),
     abandoned(run(48.5, 43.4))),
    ("adverse_fall", "P1", run(48.0, 47.5), run(48.0, 48.1), run(48.0, 48.0 + TINY * 50),
     abandoned(run(48.0, 48.1))),
    ("drop_min", "S2", pair(47.5, 47.45), pair(47.5, 47.49), pair(47.5, 47.48 + TINY),
     joint(pair(47.5, 47.5))),
    ("drop_max", "S2", pair(47.5, 47.0), pair(47.5, 46.85), pair(47.5, 46.9 - TINY),
     abandoned(pair(47.5, 46.85))),
    ("crowns", "S2", pair(47.5, 47.4), pair(47.5, 47.47, ("225", "300")),
     pair(47.5, 47.425 + TINY, ("225", "300")),
     pair(47.5, 47.47, ("225", "300"), crowns="off")),
    ("outlet_lowest", "S2", pair(47.5, 47.45), pair(47.5, 47.6), pair(47.5, 47.5 + TINY),
     abandoned(pair(47.5, 47.6))),
    ("size_order", "S2", pair(47.5, 47.4, ("225", "300")), pair(47.5, 47.575, ("300", "225")),
     pair(47.5, 47.4, ("300", "300")),
     abandoned(pair(47.5, 47.575, ("300", "225")))),
    ("chamber_depth", "S1", rimmed(50.0), rimmed(54.5), rimmed(54.0 + TINY), rimmed(60.0, "joint")),
    ("rim_on_surface", "S1", rimmed(50.02), rimmed(50.1), rimmed(50.05 + TINY), bare(rimmed(50.1))),
    ("rim_above_crowns", "S1", rimmed(48.4), rimmed(48.2), rimmed(48.301), rimmed(48.2, "joint")),
]  # fmt: skip


def broken(project, rule, of):
    return any(
        f.rule == rule and of in (f.pipe, f.structure) for f in check(project, facts_of(project))
    )


@pytest.mark.parametrize(
    ("rule", "of", "passes", "fails", "limit", "silent"), CASES, ids=[c[0] for c in CASES]
)
def test_it_passes_fails_holds_at_its_limit_and_does_not_apply(
    rule, of, passes, fails, limit, silent
):
    assert not broken(passes, rule, of)
    assert broken(fails, rule, of)
    assert not broken(limit, rule, of)
    assert not broken(silent, rule, of)


def test_just_beyond_each_limit_it_fails():
    assert broken(run(AT + WALL + 3e-6, AT + WALL - 0.5), "cover_min", "P1")
    assert broken(run(44.149 - 3e-6, 43.649 - 3e-6), "cover_max", "P1")
    assert broken(run(48.0, 47.8 + 2e-6 * 50), "slope_min", "P1")
    assert broken(pair(47.5, 47.48 + 2e-6), "drop_min", "S2")
    assert broken(pair(47.5, 46.9 - 2e-6), "drop_max", "S2")
    assert broken(pair(47.5, 47.425 + 2e-6, ("225", "300")), "crowns", "S2")
    assert broken(pair(47.5, 47.5 + 2e-6), "outlet_lowest", "S2")
    assert broken(rimmed(54.0 + 2e-6), "chamber_depth", "S1")
    assert broken(rimmed(50.05 + 2e-6), "rim_on_surface", "S1")


def test_a_limit_by_dn_holds_up_to_and_including_it():
    p = run(48.0, 47.75, "375", slope_min=((300.0, 0.02), (375.0, 0.004), (900.0, 0.03)))
    assert not broken(p, "slope_min", "P1")
    p = with_standard(p, slope_min=((300.0, 0.02), (374.0, 0.004), (900.0, 0.03)))
    assert broken(p, "slope_min", "P1")
    assert broken(
        with_standard(p, slope_min=((225.0, 0.001), (300.0, 0.02))), "slope_min", "P1"
    )  # beyond the last the last applies


def test_ground_that_is_known_over_a_part_is_judged_there():
    p = grounded([(-100, 50.0), (20, 50.0)])
    p = with_structure(with_structure(p, "S1", 0), "S2", 50, kind="outfall")
    p = with_pipe(p, "P1", "S1", "S2", 49.2, 48.7)
    assert broken(p, "cover_min", "P1")
    assert PipeId("P1") in p.pipes
