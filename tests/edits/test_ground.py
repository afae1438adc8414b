import numpy as np
import pytest

from tests.build import facts_of, grounded, road_project, the_road, v_project, with_structure
from zumbert.analysis import analyse
from zumbert.edits.ground import remove_background, remove_road, remove_surface, set_profile, set_role, show_layers
from zumbert.edits.setup import add_background
from zumbert.errors import EditError


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
    assert facts_of(remove_surface(p, design)).surfaces.design is None


def test_a_road_with_structures_on_it_is_not_taken_away():
    p = with_structure(road_project(), "M", 100.0, 1.0, road=True)
    with pytest.raises(EditError, match='M stand on "Quillerby Rise": delete or move them first'):
        remove_road(p, the_road(p))
    assert remove_road(road_project(), the_road(road_project())).roads == {}


def test_layers_and_profiles():
    p = add_background(road_project(), "survey", ("A",), np.zeros((1, 4)), np.zeros(1, int))
    key = next(iter(p.backgrounds))
    hidden = show_layers(p, key, frozenset({"A"}))
    assert hidden.backgrounds[key].off == {"A"}
    assert show_layers(hidden, key, frozenset({"A"})) is hidden
    assert remove_background(p, key).backgrounds == {}
    assert set_profile(p, the_road(p), None) is p
