"""The pen in space: which part is seen at a pixel, what is sent, and pictures that agree."""

import sys

import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.space.test_scene import FACTS, PROJECT, picture, pipe_of
from zumbert.analysis.facts import analyse
from zumbert.edits.levels import set_invert
from zumbert.geometry.mesh import Mesh
from zumbert.space import context as contexts
from zumbert.space import pen as pens
from zumbert.space.context import SpaceError
from zumbert.space.eye import SpaceEye
from zumbert.space.part import PICKED, SpacePart
from zumbert.space.pen import SpacePen
from zumbert.space.scene import Scene, scene
from zumbert.space.wanted import InSpace

SIZE = (640, 400)
NONE = frozenset()


@pytest.fixture(autouse=True)
def released(monkeypatch):
    """What the pens of a test hold of the driver is given back when it ends."""
    made = []
    monkeypatch.setitem(globals(), "SpacePen", lambda: made.append(pens.SpacePen()) or made[-1])
    yield
    for pen in made:
        pen.release()


def drawn(made, eye, selected=NONE, hovered=None, strength=0.0, hidden="", fine=False, size=SIZE):
    pen = SpacePen()
    pen.load(made)
    pen.look("light", selected, hovered, hidden)
    raw = pen.draw(eye, size, strength, fine)
    return pen, np.frombuffer(raw, np.uint8).reshape(size[1], size[0], 4)[:, :, :3].astype(int)


def at(label, **more):
    """An eye that looks at a structure from near by."""
    p = next(s for s in FACTS.structures.values() if s.structure.label == label).place
    return SpaceEye(
        width=640.0, height=400.0, x=p.x, y=p.y, z=p.rim - 1.0, distance=14.0, base=40.0, **more
    )


def nearest_parts(made, eye, xy):
    """By geometry alone: the part that the ray through each place (n, 2) meets first, and how
    far ahead; "" for none.
    """
    solid = [
        (k, p)
        for k, p in made.parts.items()
        if p.mesh is not None and k[0] in ("pipe", "structure", "service", "section")
    ]
    way = eye.ray(xy[:, 0], xy[:, 1])
    best, name = np.full(len(xy), np.inf), np.array([""] * len(xy), dtype=object)
    for key, part in solid:
        corners = eye.stretched(part.mesh.vertices)
        near = passing(way, corners - eye.place)
        if not near.any():
            continue
        far = first_met(way[near], corners[part.mesh.faces] - eye.place, 0.02 * eye.distance)
        nearer = far < best[near]
        at = np.flatnonzero(near)[nearer]
        best[at], name[at] = far[nearer], " ".join(key)
    return name, best


def passing(way, corners):
    """Which rays (n, 3) from the origin come near enough to some corners to meet a face between
    them.
    """
    middle = corners.mean(axis=0)
    reach = np.linalg.norm(corners - middle, axis=1).max()
    return np.linalg.norm(np.cross(way, middle), axis=1) <= reach * 1.001 * np.linalg.norm(
        way, axis=1
    )


def first_met(way, p, least):
    """How far along each ray (n, 3) it meets the first of some triangles (m, 3, 3): Moeller and
    Trumbore 1997.
    """
    e1, e2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    h = np.cross(way[:, None], e2[None])
    det = (e1[None] * h).sum(axis=2)
    ok = np.abs(det) > 1e-14
    inv = np.where(ok, 1 / np.where(ok, det, 1.0), 0.0)
    s = -p[:, 0]
    u = (s[None] * h).sum(axis=2) * inv
    q = np.cross(s, e1)
    v = (way[:, None] * q[None]).sum(axis=2) * inv
    t = (e2 * q).sum(axis=1)[None] * inv
    hit = ok & (u >= 0) & (v >= 0) & (u + v <= 1) & (t > least)
    return np.where(hit, t, np.inf).min(axis=1)


@pytest.mark.parametrize("turn", [-30.0, 80.0, 200.0])
def test_the_part_at_a_pixel_is_the_one_that_geometry_says(turn):
    made = scene(picture(), InSpace(section=turn == 80.0))
    eye = at("S4", bearing=float(np.radians(turn)), tilt=0.35)
    pen, _ = drawn(made, eye)
    seen = pen.numbers()
    rng = np.random.default_rng(int(turn) % 100)
    many = times(300, 1000)
    pixels = np.column_stack([rng.integers(0, SIZE[0], many), rng.integers(0, SIZE[1], many)])
    name, _ = nearest_parts(made, eye, pixels + 0.5)
    shifted = [
        nearest_parts(made, eye, pixels + 0.5 + d)[0]
        for d in ((0.05, 0), (-0.05, 0), (0, 0.05), (0, -0.05))
    ]
    bodies = pen.register.bodies(eye)[1]
    keys = {i: " ".join(k) for k, i in pen.register.numbers.items()}
    # so thin there that their axes are drawn
    lines = {keys[i] for i in np.flatnonzero(~bodies).tolist()}
    compared = found = 0
    for i, (x, y) in enumerate(pixels.tolist()):
        there = keys.get(int(seen[y, x]), "")
        if any(other[i] != name[i] for other in shifted) or name[i] in lines or there in lines:
            continue  # an edge runs through the very middle of the pixel
        compared += 1
        found += name[i] != ""
        assert there == name[i], (x, y)
    assert compared > 0.97 * many and found > 0.15 * many


def test_the_place_under_a_pixel_lies_on_what_is_seen():
    made = scene(picture(), InSpace())
    eye = at("S4", tilt=0.5)
    pen, _ = drawn(made, eye, strength=1.0)
    ground = FACTS.surfaces.existing
    design = FACTS.surfaces.design
    hits = 0
    for x, y in ((50.5, 350.5), (600.5, 380.5), (320.5, 390.5), (100.5, 200.5)):
        place = pen.place_under(x, y)
        if place is not None:
            levels = [float(s.level(place[0], place[1])) for s in (ground, design)]
            hits += any(abs(z - place[2]) < 0.02 for z in levels)
            back = eye.drawn(eye.true(place))[0]
            assert back[:2] == approx([x, y], abs=1e-6)
    assert hits == 4
    assert drawn(Scene(parts={}, made={}), eye)[0].place_under(10, 10) is None


def test_only_what_changed_is_sent_again_and_only_what_is_seen_at_all():
    made = scene(picture(), InSpace())
    pen = SpacePen()
    eye = at("S4")

    def show(made, theme="light", selected=NONE):
        pen.load(made)
        pen.look(theme, selected, None)
        pen.draw(eye, SIZE, 0.4)

    show(made)
    first = pen.sent
    assert (
        0 < first < sum(28 * p.mesh.faces.size for p in made.parts.values() if p.mesh is not None)
    )
    show(made)
    assert pen.sent == first
    pipe = PROJECT.pipes[pipe_of("P5")]
    moved = scene(
        picture(analyse(set_invert(PROJECT, pipe.id, "down", pipe.invert_down - 0.1), FACTS)),
        InSpace(),
        made,
    )
    show(moved)
    thick = pen.register.bodies(eye)[1]
    numbers = pen.register.numbers
    changed = [
        p
        for k, p in moved.parts.items()
        if made.parts.get(k) is not p and not p.linear and thick[numbers[k]]
    ]
    assert pen.sent - first == sum(28 * p.mesh.faces.size for p in changed) < 0.1 * first
    before = pen.sent
    show(moved, "dark", frozenset([pipe.id]))
    assert pen.sent == before  # how things look is no vertex


def test_an_old_pen_and_a_new_one_draw_the_same():
    """Slots that were freed, filled and moved leave nothing behind."""
    made = scene(picture(), InSpace())
    pen = SpacePen()
    pen.load(made)
    wants = (
        InSpace(only="run"),
        InSpace(cut=True),
        InSpace(section=True),
        InSpace(only="selection"),
        InSpace(),
    )
    for wanted in wants:
        made = scene(picture(), wanted, made)
        pen.load(made)
        pen.look("light", NONE, None)
    eye = at("S4")
    raw = pen.draw(eye, SIZE, 0.4)
    _, fresh = drawn(made, eye, strength=0.4)
    assert np.array_equal(np.frombuffer(raw, np.uint8).reshape(400, 640, 4)[:, :, :3], fresh)


def test_coordinates_of_seven_digits_do_not_shake():
    """A cube far from the origin looks as it does at the origin, and moves by less than a
    twentieth of a pixel as the eye turns.
    """
    from tests.geometry.test_mesh import CUBE

    far = np.array([6_543_210.123, 3_456_789.456, 120.0])
    pictures, edges = [], []
    for off in (np.zeros(3), far):
        mesh = Mesh(CUBE.vertices + off, CUBE.faces)
        made = Scene(parts={("pipe", "a"): SpacePart("pipe", "a", "storm", mesh)}, made={})
        x, y, z = (off + 0.5).tolist()
        eye = SpaceEye(width=640.0, height=400.0, x=x, y=y, z=z, distance=6.0, base=z)
        pen, image = drawn(made, eye, fine=True)
        pictures.append(image)
        assert np.abs(pen.origin - off - 0.5).max() <= 0.5 + 1e-9
        corner = mesh.vertices[6]
        for turn in np.linspace(0, 0.01, 5).tolist():
            turned = replace(eye, bearing=eye.bearing + turn)
            clip = turned.matrix(pen.origin, 20.0).astype(np.float32) @ np.array(
                [*(corner - pen.origin), 1.0], np.float32
            )
            edges.append(
                np.abs(
                    (clip[:2] / clip[3] + 1) / 2 * [640, 400] - turned.drawn(corner)[0, :2]
                ).max()
            )
    # a sample of an edge here and there
    assert (np.abs(pictures[0] - pictures[1]).max(axis=2) > 2).mean() < 0.001
    assert max(edges) < 0.05


def test_a_picture_in_tiles_is_the_picture():
    made = scene(picture(), InSpace())
    pen = SpacePen()
    pen.load(made)
    pen.look("light", frozenset([pipe_of("P5")]), None)
    eye = at("S4")
    whole = np.frombuffer(pen.draw(eye, SIZE, 0.4), np.uint8).reshape(400, 640, 4)
    halves = [
        np.frombuffer(
            pen.draw(eye, (320, 400), 0.4, False, (x, 0.0, x + 0.5, 1.0)), np.uint8
        ).reshape(400, 320, 4)
        for x in (0.0, 0.5)
    ]
    off = np.abs(np.hstack(halves).astype(int) - whole).max(axis=2)
    assert (off > 8).mean() < 0.002  # edges may fall on the next pixel


def test_what_is_selected_has_a_halo_and_keeps_its_colour():
    made = scene(picture(), InSpace())
    eye = at("S4")
    key = next(k for k, s in PROJECT.structures.items() if s.label == "S4")
    pen, plain = drawn(made, eye)
    _, lit = drawn(made, eye, selected=frozenset([key]))
    seen = pen.numbers() == pen.register.numbers["structure", key]
    off = np.abs(lit - plain).max(axis=2) > 4
    ys, xs = np.nonzero(off & ~seen)
    assert (off & seen).mean() < 0.001 and len(xs) > 200
    own_y, own_x = np.nonzero(seen)
    assert (
        own_x.min() - 8 <= xs.min() and xs.max() <= own_x.max() + 8 and ys.max() <= own_y.max() + 8
    )
    red, green, blue = lit[off & ~seen].mean(axis=0)
    assert red > green > blue  # pale yellow
    _, pointed = drawn(made, eye, hovered=key)
    assert (np.abs(pointed - plain).max(axis=2) > 4).sum() < len(xs)  # a narrower outline


def test_a_half_of_the_ground_is_hidden_at_a_glance():
    made = scene(picture(), InSpace(cut=True))
    eye = at("S8", tilt=1.2)
    _, left = drawn(made, eye, strength=1.0, hidden="left")
    _, right = drawn(made, eye, strength=1.0, hidden="right")
    _, both = drawn(made, eye, strength=1.0)
    same_left, same_right = (np.abs(v - both).max(axis=2) <= 2 for v in (left, right))
    assert 0.2 < same_left.mean() < 0.8 and 0.2 < same_right.mean() < 0.8


def test_pipes_are_picked_through_ground_that_lets_them_be_seen():
    made = scene(picture(), InSpace())
    eye = at("S4", tilt=1.3)
    for strength, there in ((0.4, True), (1.0, False)):
        pen, _ = drawn(made, eye, strength=strength)
        seen = pen.numbers()
        kinds = {pen.register.owners[i].kind for i in np.unique(seen).tolist() if i >= 0}
        assert ("pipe" in kinds) is there, strength
    pen, _ = drawn(made, eye, strength=0.4)
    y, x = np.argwhere(
        np.isin(pen.numbers(), [n for k, n in pen.register.numbers.items() if k[0] == "pipe"])
    )[0].tolist()
    assert pen.under(x + 0.5, y + 0.5, PICKED).kind == "pipe"
    assert pen.under(x + 0.5, y + 0.5, ("land",)) is None and pen.under(-5, 3, PICKED) is None


def test_a_picture_made_on_another_thread_leaves_none_of_the_driver_behind():
    import threading

    from zumbert.delivery.space import space_image

    out = []
    made, eye = scene(picture(), InSpace()), at("S4")
    for _ in range(2):
        work = threading.Thread(
            target=lambda: out.append(
                space_image(picture(), InSpace(), eye, (64, 40), "colour", None, made)
            )
        )
        work.start()
        work.join()
    assert out[0] == out[1] and out[0][:4] == b"\x89PNG"
    assert drawn(made, eye)[1].any()  # that of this thread goes on


def test_both_themes_have_their_paper():
    made = Scene(parts={}, made={})
    for theme, paper in (("light", (251, 250, 245)), ("dark", (27, 35, 41))):
        pen = SpacePen()
        pen.load(made)
        pen.look(theme, NONE, None)
        assert tuple(pen.draw(SpaceEye(), (4, 4), 0.4)[:3]) == paper


def test_without_a_driver_one_sentence_tells_what_would_mend_it(monkeypatch):
    monkeypatch.setattr(contexts, "_THREAD", type(contexts._THREAD)())
    monkeypatch.setitem(sys.modules, "moderngl", None)
    with pytest.raises(SpaceError, match="install Mesa's"):
        SpacePen()


def test_a_picture_that_is_too_large_is_told():
    pen = SpacePen()
    pen.load(Scene(parts={}, made={}))
    pen.look("light", NONE, None)
    with pytest.raises(SpaceError, match="smaller"):
        pen.draw(SpaceEye(), (10**6, 10), 0.4)
