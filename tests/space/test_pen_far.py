"""Pipes seen from far away are lines; what is out of sight is not drawn."""

import numpy as np

from tests.build import facts_of
from tests.space.test_pen import at, drawn
from tests.space.test_scene import PROJECT, picture, pipe_of
from zumbert.space.eye import SpaceEye
from zumbert.space.part import PICKED
from zumbert.space.pen import SpacePen
from zumbert.space.scene import box, scene
from zumbert.space.wanted import InSpace


def test_from_far_away_pipes_are_lines_that_can_be_picked_and_near_by_bodies():
    made = scene(picture(), InSpace())
    pipe = pipe_of("P5")
    far = SpaceEye(width=640.0, height=400.0, base=40.0).fitted(box(made, ("ground",)))
    pen, _ = drawn(made, far)
    axis, body = pen.register.numbers["axis", pipe], pen.register.numbers["pipe", pipe]
    assert (pen.numbers() == axis).any() and not (pen.numbers() == body).any()
    y, x = np.argwhere(pen.numbers() == axis)[0].tolist()
    part = pen.under(x + 0.5, y + 0.5, PICKED, 3)
    assert (part.kind, part.id) == ("pipe", pipe)
    pen, _ = drawn(made, at("S4"))
    assert not (pen.numbers() == pen.register.numbers["axis", pipe]).any()
    assert (pen.numbers() == pen.register.numbers["pipe", pipe]).any()


def test_a_pipe_that_is_selected_far_away_has_a_halo_along_its_line():
    made = scene(picture(), InSpace())
    pipe = pipe_of("P5")
    far = SpaceEye(width=640.0, height=400.0, base=40.0).fitted(box(made, ("ground",)))
    pen, plain = drawn(made, far)
    _, lit = drawn(made, far, selected=frozenset([pipe]))
    ys, xs = np.nonzero(np.abs(lit - plain).max(axis=2) > 4)
    own_x = np.nonzero(pen.numbers() == pen.register.numbers["axis", pipe])[1]
    assert len(xs) > 2 * len(own_x) > 0
    assert own_x.min() - 9 <= xs.min() and xs.max() <= own_x.max() + 9
    red, green, blue = lit[ys, xs].mean(axis=0)
    assert red > green > blue


def test_parts_out_of_sight_are_left_out_and_none_that_is_seen():
    made = scene(picture(), InSpace())
    pen = SpacePen()
    pen.load(made)
    for eye in (
        at("S4"),
        at("S8", tilt=1.5),
        at("S2", tilt=-0.4),
        SpaceEye(width=640.0, height=400.0).fitted(box(made)),
    ):
        seen, _ = pen.register.bodies(eye)
        for key, part in made.parts.items():
            xy = eye.drawn(part.xyz)
            inside = (xy[:, 0] > 0) & (xy[:, 0] < 640) & (xy[:, 1] > 0) & (xy[:, 1] < 400)
            assert seen[pen.register.numbers[key]] or not inside.any(), key
        assert seen.sum() <= len(made.parts)
    assert pen.register.bodies(at("S4"))[0].sum() < 0.9 * len(made.parts)


def test_an_eye_that_is_fitted_sees_the_network():
    made = scene(picture(facts_of(PROJECT)), InSpace())
    pen, _ = drawn(made, SpaceEye(width=640.0, height=400.0, base=40.0).fitted(box(made)))
    kinds = {pen.register.owners[i].kind for i in np.unique(pen.numbers()).tolist() if i >= 0}
    assert {"pipe", "structure"} <= kinds
