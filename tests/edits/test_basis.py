"""Where inverts are quoted changes numbers, never pipes."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, quoted_at
from zumbert.edits.basis import set_basis, set_network_basis
from zumbert.edits.change import set_type
from zumbert.edits.networks import add_network, set_network
from zumbert.edits.regrade import Regrade, regraded
from zumbert.edits.setup import with_settings

RUN = chain([(48.0, 47.5), (47.45, 46.95), (46.9, 46.4)])
NETWORK = next(iter(RUN.networks))


def line(project, pipe):
    """The invert of a barrel at its inner walls, whatever is quoted."""
    f = facts_of(project).pipes[pipe]
    return f.invert(f.span.reach_up), f.invert(f.span.length - f.span.reach_down)


def test_one_pipe_is_quoted_at_its_walls_and_lies_where_it_lay():
    made = set_basis(RUN, ["P2"], "walls")
    f = facts_of(made).pipes["P2"]
    # 47.450 to 46.950 over 50 m at centres is 1 %; the inner walls lie 0.6 m inside: 47.444 and
    # 46.956 over 48.8 m
    assert (f.pipe.invert_up, f.pipe.invert_down) == (approx(47.444), approx(46.956))
    assert (f.basis, f.slope) == (approx(48.8), approx(0.01))
    assert line(made, "P2") == approx(line(RUN, "P2"), abs=1e-12)
    assert made.pipes["P1"] is RUN.pipes["P1"]
    back = set_basis(made, ["P2"], None)
    assert (back.pipes["P2"].invert_up, back.pipes["P2"].invert_down) == (
        approx(47.45),
        approx(46.95),
    )
    assert set_basis(made, ["P2"], "walls") is made


@given(
    order=st.lists(
        st.tuples(
            st.sampled_from(["project", "network", "P1", "P2", "P3"]),
            st.sampled_from(["centres", "walls", None]),
        ),
        max_size=6,
    )
)
def test_no_order_of_switches_moves_a_pipe(order):
    made = RUN
    for what, basis in order:
        if what == "project":
            made = with_settings(made, replace(made.settings, invert_basis=basis or "centres"))
        elif what == "network":
            made = set_network_basis(made, NETWORK, basis)
        else:
            made = set_basis(made, [what], basis)
    for pipe in RUN.pipes:
        assert line(made, pipe) == approx(line(RUN, pipe), abs=1e-9)


def test_a_pipe_says_more_than_its_network_and_that_more_than_the_project():
    made = set_network_basis(set_basis(RUN, ["P1"], "centres"), NETWORK, "walls")
    facts = facts_of(made)
    assert [facts.pipes[k].quoted_from for k in ("P1", "P2")] == [0.0, approx(0.6)]
    made = with_settings(made, replace(made.settings, invert_basis="walls"))
    assert facts_of(made).pipes["P1"].quoted_from == 0.0


def test_another_network_quotes_a_pipe_its_own_way():
    made, other = add_network(RUN, "Other", NETWORK)
    made = set_network_basis(made, other, "walls")
    made = set_network(made, other, [], ["P3"])
    assert made.pipes["P3"].invert_up == approx(46.9 - 0.006)
    assert line(made, "P3") == approx(line(RUN, "P3"), abs=1e-12)


@pytest.mark.parametrize("basis", ["centres", "walls"])
def test_a_larger_chamber_shortens_its_pipes_on_either_basis(basis):
    project = quoted_at(RUN, basis)
    made = set_type(project, "S2", "manhole-1800")
    before, after = facts_of(project).pipes["P1"], facts_of(made).pipes["P1"]
    assert after.length("wall-plan") == approx(before.length("wall-plan") - 0.3)
    assert after.length("centre-plan") == before.length("centre-plan")
    assert after.basis == approx(before.basis - (0.3 if basis == "walls" else 0.0))


def test_a_regrade_over_both_bases_counts_each_pipe_by_its_own_length():
    made = set_basis(RUN, ["P2"], "walls")
    done = regraded(
        made, facts_of(made), Regrade(a="S1", b="S4", start=48.0, slope=0.01, drop=0.05)
    )
    # 50 + 48.8 + 50 m at 1 %, two drops of 0.050
    assert done.length == approx(148.8)
    assert done.project.pipes["P3"].invert_down == approx(48.0 - 1.488 - 0.1)
    assert facts_of(done.project).pipes["P2"].slope == approx(0.01, abs=1e-12)
