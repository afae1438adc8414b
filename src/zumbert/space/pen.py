"""The pen of what is seen in space: inks parts with OpenGL as an image, with no window and no
monitor. What has not changed is not sent again.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np

from zumbert.drawing.style import Theme
from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.mesh import corner_normals
from zumbert.space.context import Canvas, SpaceError, canvas, context
from zumbert.space.eye import WHOLE, SpaceEye
from zumbert.space.part import Key, SpacePart
from zumbert.space.register import Register, rgb
from zumbert.space.scene import Scene
from zumbert.space.shaders import (
    DASHED,
    FACES,
    HALO,
    HOVERED,
    LINES,
    PLAIN,
    ROW,
    SELECTED,
    SHADED,
    SHEET,
    WIDE,
)
from zumbert.space.store import FACE, LINE, Store

LARGEST = 16_384  # pixels of a side
LIGHT = np.array(
    [-0.45, 0.35, 0.82]
)  # where light comes from, as seen by the eye: left, up, behind
SHADE = {"light": 0.42, "dark": 0.5}  # what of a colour is lost where no light falls
HALOS = (
    (SELECTED, "halo", 5.0),
    (HOVERED, "ink", 2.5),
)  # bit, colour and width (drawing units); the last one lies on top
NEARER = 2e-4  # of the depth that lines lie before the surfaces that they are on
LAYERS = ("solid", "dug", "road", "sheet")
LAYER = {
    "trench": "dug",
    "pit": "dug",
    "road": "road",
    "ground": "sheet",
    "design": "road",
}  # of faces; all others are solid
KEPT = 3  # sizes of pictures that are kept ready
DUG = 0.5  # strength of what is dug


class SpacePen:
    """Keeps the parts on the side of the driver, and draws them."""

    def __init__(self) -> None:
        self.ctx = context()
        faces = self.ctx.program(vertex_shader=FACES, fragment_shader=SHADED)
        halo = self.ctx.program(vertex_shader=HALO, fragment_shader=PLAIN)
        lines = self.ctx.program(vertex_shader=LINES, geometry_shader=WIDE, fragment_shader=DASHED)
        sheet = self.ctx.program(vertex_shader=SHEET, fragment_shader=SHADED)
        self.faces, self.sheet, self.halo, self.lines = faces, sheet, halo, lines
        self.stores = {
            name: Store(self.ctx, FACE, {"faces": faces, "halo": halo, "sheet": sheet})
            for name in LAYERS
        }
        self.stores |= {name: Store(self.ctx, LINE, {"lines": lines}) for name in ("axis", "line")}
        self.origin: Array = np.zeros(3)  # what places are counted from, so that float32 keeps them
        self.register = Register()
        self._sent: dict[Key, SpacePart] = {}
        self._looks = self.ctx.texture((1, 1), 4), self.ctx.texture((1, 1), 4)
        self.looked: tuple[bytes, bytes] = (b"", b"")  # all looks as they were told last
        self._canvases: dict[tuple[int, int], Canvas] = {}  # by size, the last one last
        self._canvas: Canvas | None = None  # of the last picture with parts
        self._lit = np.zeros(0, bool)  # what is selected or pointed at, by number
        self._theme: Theme = "light"
        # how the last picture with parts was drawn: the eye, and how far
        self._view: tuple[SpaceEye, float] | None = None

    # -- what there is -----------------------------------------------------------------------------

    @property
    def sent(self) -> int:
        """Bytes of vertices that were sent so far."""
        return sum(s.sent for s in self.stores.values())

    def load(self, scene: Scene) -> None:
        """Takes a scene: sends the parts that are new or another, forgets those that are gone."""
        parts = scene.parts
        for key in [k for k in self._sent if k not in parts]:
            self._drop(key)
        fresh = [k for k, p in parts.items() if self._sent.get(k) is not p]
        if fresh and not self._sent:
            self.origin = _middle([parts[k] for k in fresh])
        for key in fresh:
            self._sent[key] = parts[key]
            self.register.put(key, parts[key])

    def _drop(self, key: Key) -> None:
        part = self._sent.pop(key)
        self.stores[_layer(part)].drop(self.register.drop(key))

    def _send(self, wanted: Mask) -> None:
        """Sends what is to be drawn and is not there yet, as it is now."""
        register = self.register
        for number in np.flatnonzero(wanted & ~register.sent[: len(wanted)]).tolist():
            part = register.owners[number]
            if part is not None:
                self.stores[_layer(part)].put(number, self._vertices(part, number))
            register.sent[number] = True
        for store in self.stores.values():
            store.flush()

    def _vertices(self, part: SpacePart, number: int) -> np.ndarray:
        if part.linear:
            out = np.zeros(len(part.xyz), LINE)
            out["place"] = part.xyz - self.origin
        else:
            mesh = part.mesh
            out = np.zeros(0 if mesh is None else mesh.faces.size, FACE)
            if mesh is not None:
                out["place"] = (mesh.vertices - self.origin)[mesh.faces.ravel()]
                out["normal"] = corner_normals(mesh).reshape(-1, 3)
        out["part"] = number
        return out

    # -- how it looks ------------------------------------------------------------------------------

    def look(
        self, theme: Theme, selected: frozenset[str], hovered: str | None, hidden: str = ""
    ) -> None:
        """Colours of a theme; what is selected and pointed at by id, and the side of the ground
        that is cut away.
        """
        looks, styles = self.register.looks(theme, selected, hovered, hidden)
        told = looks.tobytes(), styles.tobytes()
        self._theme = theme
        if told == self.looked:
            return
        size = ROW, len(looks) // ROW
        if self._looks[0].size != size:
            for old in self._looks:
                old.release()
            self._looks = self.ctx.texture(size, 4), self.ctx.texture(size, 4)
            for t in self._looks:
                t.filter = (self.ctx.NEAREST, self.ctx.NEAREST)
        for texture, raw in zip(self._looks, told, strict=True):
            texture.write(raw)
        self.looked = told
        self._lit = (looks[:, 3] & (SELECTED | HOVERED)) > 0

    # -- drawing -----------------------------------------------------------------------------------

    def draw(
        self,
        eye: SpaceEye,
        size: tuple[int, int],
        strength: float,
        fine: bool = False,
        window: tuple[float, float, float, float] = WHOLE,
    ) -> bytes:
        """The picture, or a window of it, as rows of RGBA, top first; so many pixels, the ground so
        strong. A fine one has smooth edges; of one that is not what lies under a pixel can be
        asked.
        """
        t, ctx = self._on(size), self.ctx
        seen, thick = self.register.bodies(eye, size[0] / eye.width / (window[2] - window[0]))
        self._send(self.register.needed(seen, thick))
        far = self.far(eye)
        paper = [v / 255 for v in rgb("paper", self._theme)]
        first = t.fine if fine else t.picked
        if not fine:
            self._view, self._canvas = (eye, far), t
            t.picked.clear(0, 0, 0, 0)  # no part
        plain = t.fine if fine else t.plain
        plain.use()
        plain.clear(*paper, 1.0, depth=1.0)
        for texture, unit in zip(self._looks, (0, 1), strict=True):
            texture.use(unit)
        self._uniforms(eye, far, window)
        ctx.enable(ctx.DEPTH_TEST | ctx.BLEND)
        ctx.depth_func = "<"
        first.use()
        self.faces["strength"] = 1.0
        self.stores["solid"].render("faces", None, thick)
        plain.use()
        self._axes(first, seen & ~thick)
        plain.use()
        self._halos(plain, thick)
        for name, how in (("dug", DUG), ("road", strength), ("sheet", strength)):
            if how > 0:
                to = first if how >= 1 else plain
                to.use()
                to.depth_mask = (
                    name != "road" or how >= 1
                )  # the ground shows through a road as the road through the ground
                self.sheet["strength"] = how
                self._sheets(name, seen)
                to.depth_mask = True
        plain.use()
        ctx.depth_func = "<="
        self.stores["line"].render("lines", ctx.LINES)
        if fine:
            ctx.copy_framebuffer(t.out, t.fine)
            return bytes(t.out.read(components=4))
        return bytes(t.plain.read(components=4))

    def _sheets(self, name: str, seen: Mask) -> None:
        """The parts of a layer one by one."""
        for number in self.stores[name].held(seen):
            *ink, bits = self.register.look(number)
            if bits:
                self.sheet["whole"] = tuple(v / 255 for v in ink)
                self.sheet["number"] = number + 1
                self.stores[name].render_one("sheet", number)

    def far(self, eye: SpaceEye) -> float:
        """How far ahead (m) what is drawn ends."""
        return max(self.register.farthest(eye), eye.distance) * 1.02 + 1.0

    def _uniforms(
        self, eye: SpaceEye, far: float, window: tuple[float, float, float, float]
    ) -> None:
        matrix = eye.matrix(self.origin, far, window).T.astype("f4").tobytes()
        axes = eye.axes
        for program in (self.faces, self.sheet, self.halo, self.lines):
            program["matrix"].write(matrix)
            if program is not self.sheet:
                program["looks"] = 0
        light = LIGHT[0] * axes[0] + LIGHT[1] * axes[1] - LIGHT[2] * axes[2]
        for program in (self.faces, self.sheet):
            program["light"] = tuple((light / np.linalg.norm(light)).tolist())
            program["eye"] = tuple((-axes[2]).tolist())
            program["shade"] = SHADE.get(self._theme, SHADE["light"])
        self.faces["stretch"] = self.sheet["stretch"] = self.halo["stretch"] = eye.stretch
        self.lines["styles"] = 1
        self.lines["nearer"] = NEARER
        self._units = eye.width * (window[2] - window[0]), eye.height * (window[3] - window[1])
        self.lines["size"] = self._units

    def _axes(self, first: Any, thin: Mask) -> None:
        """The axes of pipes that are too thin to be seen, over the halos of those that are
        selected or pointed at.
        """
        self.lines["nearer"] = 0.0
        lit = self._lit[: len(thin)] & thin
        for bit, role, wide in HALOS if lit.any() else ():
            self.lines["bit"], self.lines["wide"] = bit, wide
            self.lines["halo"] = (*[v / 255 for v in rgb(role, self._theme)], 0.75)
            self.stores["axis"].render("lines", self.ctx.LINES, lit)
        self.lines["bit"], self.lines["nearer"] = 0, NEARER / 10  # over its halo
        first.use()
        self.stores["axis"].render("lines", self.ctx.LINES, thin)
        self.lines["nearer"] = NEARER

    def _halos(self, plain: Any, thick: Mask) -> None:
        """Outlines of bodies that are selected or pointed at: grown, and the things themselves
        over that.
        """
        lit = self._lit[: len(thick)] & thick
        if not lit.any():
            return
        ctx = self.ctx
        ctx.enable(ctx.CULL_FACE)
        ctx.front_face, ctx.cull_face = "cw", "back"  # the picture is upside down
        plain.depth_mask = False
        for bit, role, wide in HALOS:
            self.halo["bit"] = bit
            self.halo["ink"] = (*[v / 255 for v in rgb(role, self._theme)], 0.75)
            self.halo["grow"] = tuple(2 * wide / v for v in self._units)
            self.stores["solid"].render("halo", None, lit)
        plain.depth_mask = True
        ctx.disable(ctx.CULL_FACE)
        ctx.depth_func = "<="
        self.stores["solid"].render("faces", None, lit)

    def _on(self, size: tuple[int, int]) -> Canvas:
        """Something to draw on, of a size in pixels; the last ones are kept."""
        found = self._canvases.pop(size, None)
        if found is None:
            if min(size) < 1 or max(size) > min(
                LARGEST, int(self.ctx.info["GL_MAX_RENDERBUFFER_SIZE"])
            ):
                raise SpaceError(
                    f"A picture of {size[0]} x {size[1]} pixels cannot be drawn at once "
                    "here: make it smaller."
                )
            while len(self._canvases) >= KEPT:
                self._canvases.pop(next(iter(self._canvases))).release()
            found = canvas(self.ctx, size)
        self._canvases[size] = found
        return found

    # -- what lies where ---------------------------------------------------------------------------

    def under(self, x: float, y: float, kinds: Sequence[str], reach: int = 0) -> SpacePart | None:
        """The part of some kinds that is seen at a drawing place of the last picture that was not
        fine, or nearest to it within so many pixels.
        """
        at = self._pixel(x, y)
        if at is None or self._canvas is None:
            return None
        wide, tall = self._canvas.size
        x0, y0, x1, y1 = (
            max(0, at[0] - reach),
            max(0, at[1] - reach),
            min(wide, at[0] + reach + 1),
            min(tall, at[1] + reach + 1),
        )
        seen = self.numbers((x0, y0, x1 - x0, y1 - y0))
        rows, columns = np.nonzero(seen >= 0)
        for i in np.argsort(
            (rows + y0 - at[1]) ** 2 + (columns + x0 - at[0]) ** 2, kind="stable"
        ).tolist():
            part = self.register.owners[int(seen[rows[i], columns[i]])]
            if part is not None and part.kind in kinds:
                return part
        return None

    def place_under(self, x: float, y: float) -> Array | None:
        """The place in stretched space under a drawing place of that picture; None where there
        is nothing.
        """
        at = self._pixel(x, y)
        if at is None or self._canvas is None or self._view is None:
            return None
        depth = float(
            np.frombuffer(
                self._canvas.plain.read(
                    viewport=(*at, 1, 1), attachment=-1, components=1, dtype="f4"
                ),
                "f4",
            )[0]
        )
        eye, far = self._view
        return None if depth >= 1.0 else eye.seen(x, y, eye.ahead(depth, far))

    def numbers(self, box: tuple[int, int, int, int] | None = None) -> np.ndarray:
        """The number of the part at each pixel of that picture, or of a box of it (left, top,
        width, height); rows from the top, -1 where there is none.
        """
        if self._canvas is None:  # there is no picture yet
            return np.zeros((0, 0), np.int64)
        at = box or (0, 0, *self._canvas.size)
        raw = self._canvas.picked.read(viewport=at, attachment=1, components=1, dtype="u4")
        return np.frombuffer(raw, "u4").reshape(at[3], at[2]).astype(np.int64) - 1

    def _pixel(self, x: float, y: float) -> tuple[int, int] | None:
        if self._view is None or self._canvas is None:
            return None
        eye, (wide, tall) = self._view[0], self._canvas.size
        at = int(x * wide / eye.width), int(y * tall / eye.height)
        return at if 0 <= at[0] < wide and 0 <= at[1] < tall else None

    def release(self) -> None:
        """Gives back what the driver holds."""
        for store in self.stores.values():
            store.release()
        for target in (
            *self._canvases.values(),
            *self._looks,
            self.faces,
            self.sheet,
            self.halo,
            self.lines,
        ):
            target.release()
        self._canvases, self._canvas = {}, None


def _layer(part: SpacePart) -> str:
    if part.linear:
        return "axis" if part.kind == "pipe" else "line"
    return LAYER.get(part.kind, "solid")


def _middle(parts: list[SpacePart]) -> Array:
    """A whole metre near the middle of some parts."""
    boxes = [p.box for p in parts if p.box.any()] or [np.zeros((2, 3))]
    return np.asarray(np.round(np.mean(boxes, axis=(0, 1))), float)
