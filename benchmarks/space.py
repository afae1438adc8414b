"""Space: a frame while the eye moves over 100,000 triangles and 2,000 pipes, against the bare
library drawing the same buffers.
"""

from collections.abc import Callable, Iterator
from itertools import cycle
from typing import Any

import numpy as np
from msgspec.structs import replace

from benchmarks.measure import Figure, median_ms
from benchmarks.networks import network
from zumbert.analysis import analyse
from zumbert.analysis.facts import Facts
from zumbert.checks import check
from zumbert.checks.check import Findings
from zumbert.drawing.picture import Picture
from zumbert.edits.levels import set_invert
from zumbert.model.ids import PipeId, SurfaceId
from zumbert.model.project import Project
from zumbert.model.surface import Surface
from zumbert.space.context import context
from zumbert.space.eye import SpaceEye
from zumbert.space.pen import SpacePen
from zumbert.space.scene import Scene, box, scene
from zumbert.space.store import FACE, LINE
from zumbert.space.wanted import InSpace

SIZE = (444, 240)  # pixels of a frame while the eye moves: half as fine as a view of 888 x 480
STRENGTH = 0.4
WHOLE = """#version 330
in vec3 place; in vec3 normal; uniform mat4 matrix; out vec3 n;
void main() { n = normal; gl_Position = matrix * vec4(place, 1.0); }"""
PLAIN = """#version 330
in vec3 n; out vec4 colour;
void main() { colour = vec4(0.5 + 0.5 * n, 1.0); }"""


def space() -> Iterator[Figure]:
    project = _on_ground(network(2_000))
    facts = analyse(project)
    findings = check(project, facts)
    made = scene(Picture(facts=facts, findings=findings), InSpace(strength=STRENGTH))
    pen = SpacePen()
    pen.load(made)
    eye = SpaceEye(width=2.0 * SIZE[0], height=2.0 * SIZE[1]).fitted(box(made))
    frame = _frame(pen, facts, findings, made)
    turns = cycle(np.linspace(0, 60, 20).tolist())
    ours = median_ms(lambda: frame(eye.orbited(eye.target, next(turns), 0.0)), 15)
    bare = median_ms(_bare(pen, eye), 15)
    triangles = sum(
        len(p.mesh.faces) for p in made.parts.values() if p.mesh is not None and p.kind == "ground"
    )
    name = (
        f"a frame of space while the eye moves, {triangles} triangles and {len(facts.pipes)} "
        "pipes, against bare moderngl"
    )
    yield Figure(name, ours, bare, ours / bare, 2.0)
    dragged = _dragged(pen, facts, findings, made, eye)
    level = median_ms(dragged, 15)
    yield Figure(
        "the same while one level is dragged, against that frame", level, ours, level / ours, 1.2
    )


def _frame(
    pen: SpacePen, facts: Facts, findings: Findings, made: Scene
) -> Callable[[SpaceEye], object]:
    """One frame as the view makes it."""
    kept = [made]

    def frame(eye: SpaceEye) -> bytes:
        kept[0] = scene(
            Picture(facts=facts, findings=findings), InSpace(strength=STRENGTH), kept[0]
        )
        pen.load(kept[0])
        pen.look("light", frozenset(), None)
        return pen.draw(eye, SIZE, STRENGTH)

    return frame


def _dragged(
    pen: SpacePen, facts: Facts, findings: Findings, made: Scene, eye: SpaceEye
) -> Callable[[], object]:
    pipe = PipeId("p0-5")
    project = facts.project
    tried = cycle(
        [
            analyse(
                set_invert(project, pipe, "down", project.pipes[pipe].invert_down - 0.01 * i), facts
            )
            for i in range(1, 9)
        ]
    )
    kept = [made]

    def frame() -> bytes:
        kept[0] = scene(
            Picture(facts=next(tried), findings=findings, before=facts),
            InSpace(strength=STRENGTH),
            kept[0],
        )
        pen.load(kept[0])
        pen.look("light", frozenset(), None)
        return pen.draw(eye, SIZE, STRENGTH)

    return frame


def _bare(pen: SpacePen, eye: SpaceEye) -> Callable[[], object]:
    """The library alone: the same vertices, one plain program, the same pixels read back."""
    ctx: Any = context()
    program = ctx.program(vertex_shader=WHOLE, fragment_shader=PLAIN)
    arrays = [
        (ctx.vertex_array(program, [(store.buffer, how, *fields)]), store.used, mode)
        for kind, how, fields, mode in (
            (FACE, "3f 3f 4x", ("place", "normal"), ctx.TRIANGLES),
            (LINE, "3f 4x", ("place",), ctx.LINES),
        )
        for store in pen.stores.values()
        if store.kind is kind and store.buffer is not None
    ]
    canvas = ctx.framebuffer([ctx.texture(SIZE, 4)], ctx.depth_texture(SIZE))
    program["matrix"].write(eye.matrix(pen.origin, pen.far(eye)).T.astype("f4").tobytes())

    def draw() -> bytes:
        canvas.use()
        canvas.clear(1, 1, 1, 1, depth=1.0)
        ctx.enable(ctx.DEPTH_TEST)
        for array, n, mode in arrays:
            array.render(mode, vertices=n)
        return bytes(canvas.read(components=4))

    return draw


def _on_ground(project: Project) -> Project:
    """The network on a ground of 100,000 triangles."""
    places = analyse(project).places.values()
    xy = np.array([(p.x, p.y) for p in places if p.x is not None], float)
    low, high = xy.min(axis=0) - 20.0, xy.max(axis=0) + 20.0
    n = 225
    x, y = (
        v.ravel()
        for v in np.meshgrid(np.linspace(low[0], high[0], n), np.linspace(low[1], high[1], n))
    )
    top = max(p.rim for p in places if p.rim is not None)
    z = top + 0.3 * np.sin(x / 17.0) * np.cos(y / 23.0)
    i = np.arange(n * n).reshape(n, n)
    a, b, c, d = (v.ravel() for v in (i[:-1, :-1], i[:-1, 1:], i[1:, 1:], i[1:, :-1]))
    faces = np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]).astype(np.int32)
    ground = Surface(
        id=SurfaceId("ground"),
        name="Ground",
        role="existing",
        vertices=np.column_stack([x, y, z]),
        faces=faces,
    )
    return replace(project, surfaces={ground.id: ground})
