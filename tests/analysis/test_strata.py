import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.analysis.test_trench_proof import kind, laid
from tests.build import facts_of, grounded
from zumbert.analysis.strata import through_boreholes
from zumbert.analysis.trench import trenches
from zumbert.analysis.uppers import ground_at
from zumbert.edits.setup import set_trench_type
from zumbert.model.digging import Digging, Stratum
from zumbert.model.trench import TrenchSize, TrenchType

GROUND = grounded([(-90, 50.0), (90, 50.0)])  # bottom of the trench 47.855, 1 m wide, 40 m long


def dug(project, strata=(), upper="existing", **digging):
    p = laid(project, kind(upper, width=1.0), b=(40.0, 0.0), up=48.0, down=48.0)
    return trenches(facts_of(replace(p, digging=Digging(strata=tuple(strata), **digging)))).pipes[
        "P"
    ]


def test_without_strata_all_is_general_and_under_a_rock_surface_rock():
    assert dug(GROUND).by_stratum == {"general": approx(40 * 2.145)}
    rock = grounded([(-90, 48.5), (90, 48.5)], "rock", GROUND)
    assert dug(rock).by_stratum == {"general": approx(40 * 1.5), "rock": approx(40 * 0.645)}


def test_layers_by_thickness_below_each_other():
    found = dug(
        GROUND,
        [
            Stratum(name="topsoil", thickness=0.3),
            Stratum(name="clay", thickness=1.0),
            Stratum(name="gravel"),
        ],
    )
    assert found.by_stratum == {
        "topsoil": approx(12.0),
        "clay": approx(40.0),
        "gravel": approx(40 * 0.845),
    }


def test_a_layer_under_a_surface_and_one_by_thickness_below_that():
    p = grounded([(-90, 49.0), (90, 49.0)], "rock", GROUND)
    key = list(p.surfaces)[1]
    found = dug(
        p,
        [
            Stratum(name="general"),
            Stratum(name="weathered rock", surface=key, thickness=0.5),
            Stratum(name="rock"),
        ],
    )
    assert found.by_stratum == {
        "general": approx(40.0),
        "weathered rock": approx(20.0),
        "rock": approx(40 * 0.645),
    }


def test_a_layer_that_would_lie_over_the_ground_begins_at_it():
    p = grounded([(-90, 51.0), (90, 51.0)], "rock", GROUND)
    assert dug(p).by_stratum == {"rock": approx(40 * 2.145)}


def test_where_a_layer_was_not_met_there_is_none_of_it():
    p = grounded([(20, 49.0), (90, 49.0)], "rock", GROUND)
    assert dug(p).by_stratum == {"general": approx(20 * 2.145 + 20), "rock": approx(20 * 1.145)}


def test_strata_below_a_formation():
    # the formation at 49.5 lies under the topsoil: none of that is left to dig
    p = grounded([(-90, 49.5), (90, 49.5)], "formation", GROUND)
    strata = [Stratum(name="topsoil", thickness=0.3), Stratum(name="general")]
    assert dug(p, strata, "lower").by_stratum == {"general": approx(40 * 1.645)}
    assert dug(p, strata, "formation").by_stratum == {"general": approx(40 * 1.645)}
    high = grounded([(-90, 50.5), (90, 50.5)], "formation", GROUND)
    assert dug(high, strata, "lower").by_stratum == {
        "topsoil": approx(12.0),
        "general": approx(40 * 1.845),
    }
    # dug from a formation over the ground the fill counts as the first layer, since it lies over
    # the next
    assert sum(dug(high, strata, "formation").by_stratum.values()) == approx(40 * 2.645)


def test_what_was_stripped_is_not_counted_as_topsoil():
    strata = [Stratum(name="topsoil", thickness=0.3), Stratum(name="general")]
    assert dug(GROUND, strata, stripped=0.2).by_stratum == {
        "topsoil": approx(4.0),
        "general": approx(40 * 1.845),
    }
    assert dug(GROUND, strata, stripped=0.4).by_stratum == {"general": approx(40 * 1.745)}


@given(
    st.lists(
        st.tuples(st.integers(0, 400), st.integers(0, 400), st.floats(40, 60)),
        min_size=3,
        max_size=9,
        unique_by=lambda p: p[:2],
    )
)
def test_boreholes_are_met_where_they_were_drilled(points):
    spread = np.array(points)[:, :2]
    if np.linalg.matrix_rank(spread - spread[0]) < 2:
        return  # on one line they span no surface of their own; the ring about them does
    tin = through_boreholes(tuple(points))
    x, y, z = np.array(points, float).T
    assert tin.level(x, y) == approx(z, abs=1e-6)
    far = tin.level(spread.mean(axis=0)[0] + 5000.0, spread.mean(axis=0)[1])
    assert z.min() - 1e-6 <= far <= z.max() + 1e-6


def test_the_ground_of_a_trench_row_is_that_which_the_pipe_lies_in():
    p = grounded([(-90, 48.5), (90, 48.5)], "rock", GROUND)
    p = laid(p, kind(), b=(40.0, 0.0), up=48.0, down=48.0)
    rows = (
        TrenchSize(dn=300.0, width=1.0),
        TrenchSize(dn=300.0, ground="rock", width=0.8, surround=0.1),
    )
    p = set_trench_type(p, TrenchType(id="", name="by ground", sizes=rows))
    found = trenches(facts_of(p))
    assert found.pipes["P"].dig.width == 0.8
    assert ground_at(found.world, facts_of(p).pipes["P"], 20.0) == "rock"
    shallow = replace(p, pipes={"P": replace(p.pipes["P"], invert_up=49.0, invert_down=49.0)})
    assert trenches(facts_of(shallow)).pipes["P"].dig.width == 1.0


def test_width_by_depth_goes_by_the_greatest():
    p = laid(
        GROUND, kind(width=((1.5, 0.9), (2.2, 1.1), (9.0, 1.4))), b=(40.0, 0.0), up=48.0, down=47.9
    )
    assert trenches(facts_of(p)).pipes["P"].dig.width == 1.4  # 2.145 to 2.245 deep
    assert (
        trenches(facts_of(replace(p, pipes={"P": replace(p.pipes["P"], invert_down=48.0)})))
        .pipes["P"]
        .dig.width
        == 1.1
    )


def test_beside_the_pipe():
    p = laid(GROUND, kind(side=0.3), b=(40.0, 0.0), up=48.0, down=48.0)
    assert trenches(facts_of(p)).pipes["P"].dig.width == approx(0.39 + 0.6)
