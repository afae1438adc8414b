import numpy as np
import pytest

from tests.build import drawn, facts_of, grounded, road_project, the_road, v_project, with_structure
from zumbert.analysis import analyse
from zumbert.edits.ground import leave_out_spikes, set_profile, set_role, show_layers, with_surface
from zumbert.edits.grounditems import GroundItem, moved, removed, set_strength, set_view
from zumbert.edits.setup import add_background, add_surface
from zumbert.errors import EditError
from zumbert.geometry.tin import Tin


def roles(project):
    return {s.name: s.role for s in project.surfaces.values()}


def test_one_surface_has_a_role_at_a_time_and_facts_follow():
    p = grounded([(-20, 29.5), (80, 29.5)], "design", v_project())
    facts = facts_of(p)
    design = next(k for k, s in p.surfaces.items() if s.role == "design")
    moved = set_role(p, design, "existing")
    assert roles(moved) == {"existing": "none", "design": "existing"}
    again = analyse(moved, facts)
    assert again.surfaces.existing is facts.surfaces.design  # the surface itself is not made again
    assert again.surfaces.design is None
    assert again.pipes["P1"].span.sources == ("existing",)
    assert set_role(p, design, "design") is p
    assert roles(set_role(p, design, "none")) == {"existing": "existing", "design": "none"}
    assert facts_of(removed(p, GroundItem("surface", design))).surfaces.design is None


def test_a_road_with_structures_on_it_is_not_taken_away():
    p = with_structure(road_project(), "M", 100.0, 1.0, road=True)
    with pytest.raises(EditError, match='M stand on "Quillerby Rise": delete or move them first'):
        removed(p, GroundItem("road", the_road(p)))
    assert removed(road_project(), GroundItem("road", the_road(road_project()))).roads == {}


def test_layers_and_profiles():
    p = add_background(road_project(), drawn("survey", ("A",), np.zeros((1, 4)), [0]))
    key = next(iter(p.backgrounds))
    hidden = show_layers(p, key, frozenset({"A"}))
    assert hidden.backgrounds[key].off == {"A"}
    assert show_layers(hidden, key, frozenset({"A"})) is hidden
    assert removed(p, GroundItem("background", key)).backgrounds == {}
    assert set_profile(p, the_road(p), None) is p


def test_things_are_faded_hidden_and_put_in_order():
    p = add_background(road_project(), drawn("a", ("A",), np.zeros((1, 4)), [0]))
    p = add_background(p, drawn("b", ("A",), np.zeros((1, 4)), [0]))
    first, second = (GroundItem("background", k) for k in p.backgrounds)
    assert list(moved(p, first, 1).backgrounds) == [second.id, first.id]
    assert moved(p, first, -1) is p
    assert set_strength(p, first, 0.4).backgrounds[first.id].strength == 0.4
    with pytest.raises(EditError, match="from 10 % to 100 %"):
        set_strength(p, first, 0.0)
    assert set_view(p, contours=0.25).settings.contours == 0.25
    assert set_view(p, contours=None) is p
    with pytest.raises(EditError, match="Contours are 0.01 m to 1000.00 m apart"):
        set_view(p, contours=0.0)


def test_a_spike_is_left_out_and_its_place_filled():
    x, y = np.meshgrid(np.arange(7.0), np.arange(5.0))
    z = 10 + 0.1 * x
    z[2, 3] += 30
    n = np.arange(35).reshape(5, 7)
    a, b, c, d = n[:-1, :-1].ravel(), n[:-1, 1:].ravel(), n[1:, 1:].ravel(), n[1:, :-1].ravel()
    faces = np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    p = add_surface(
        road_project(), "spiky", "none", np.column_stack([x.ravel(), y.ravel(), z.ravel()]), faces
    )
    key = list(p.surfaces)[-1]
    made, count = leave_out_spikes(p, key, 2.0)
    s = made.surfaces[key]
    tin = Tin(s.vertices, s.faces)
    assert (count, len(s.vertices)) == (1, 34)
    at = np.linspace(0.1, 5.9, 30)
    assert tin.level(at, np.full(30, 2.03)) == pytest.approx(10 + 0.1 * at)  # no hole, and no spike
    assert leave_out_spikes(made, key, 2.0) == (made, 0)
    corner = leave_out_spikes(add_spike(p, key, 0), key, 2.0)[0].surfaces[key]
    # at the edge the faces go
    assert np.isnan(Tin(corner.vertices, corner.faces).level(0.05, 0.05))


def add_spike(p, key, vertex):
    v = p.surfaces[key].vertices.copy()
    v[vertex, 2] += 30
    return with_surface(p, key, vertices=v)
