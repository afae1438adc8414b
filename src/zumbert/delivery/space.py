"""The view in space as a picture of any size, with no window."""

import io
import threading

import numpy as np

from zumbert.analysis.runline import Run
from zumbert.delivery.job import Job, Tell, quiet
from zumbert.delivery.png import PixelPlace, PngPen
from zumbert.drawing.marks import draw_marks
from zumbert.drawing.picture import Picture
from zumbert.drawing.style import Theme
from zumbert.errors import ReadError
from zumbert.space.context import release_context
from zumbert.space.eye import SpaceEye
from zumbert.space.over import cursor_marks, over
from zumbert.space.pen import SpacePen
from zumbert.space.scene import Scene, box, near_side, scene
from zumbert.space.wanted import InSpace, View

SIZE = (1600, 1000)  # pixels, where none is asked for
# pixels of a side that are drawn at once: a larger picture needs no more memory than that
TILE = 2048
MOST = 30_000  # pixels of a side


def space_png(
    job: Job,
    size: tuple[int, int] = SIZE,
    view: View | None = None,
    run: Run | None = None,
    wanted: InSpace | None = None,
    theme: Theme = "colour",
    tell: Tell = quiet,
) -> bytes:
    """The whole project as PNG, from one of the six views or from the south-east; with a run the
    ground is cut away along it.

    Raises SpaceError where there is no driver, ReadError for a size that no picture has.
    """
    tell(0.0, "Looking from there")
    wanted = wanted or InSpace(cut=run is not None, section=run is not None)
    picture = Picture(
        facts=job.facts, findings=job.findings, run=run, trenches=job.dug if wanted.dug else None
    )
    made = scene(picture, wanted)
    corners = box(made)
    tall = 700.0
    eye = SpaceEye(height=tall, width=tall * size[0] / max(1, size[1]), stretch=wanted.stretch)
    if len(corners):
        eye = SpaceEye(
            height=eye.height,
            width=eye.width,
            stretch=wanted.stretch,
            base=float(np.floor(corners[:, 2].min())),
        )
    eye = (eye if view is None else eye.looking(view)).fitted(corners)
    return space_image(picture, wanted, eye, size, theme, None, made, tell)


def space_image(
    picture: Picture,
    wanted: InSpace,
    eye: SpaceEye,
    size: tuple[int, int],
    theme: Theme,
    cursor: float | None = None,
    made: Scene | None = None,
    tell: Tell = quiet,
) -> bytes:
    """The view of an eye, as PNG of a size in pixels; drawn in tiles."""
    from PIL import Image

    wide, tall = size
    if not (1 <= wide <= MOST and 1 <= tall <= MOST):
        raise ReadError(
            f"A picture has 1 to {MOST} pixels a side, and {wide} x {tall} are asked for: give "
            "another size."
        )
    made = scene(picture, wanted) if made is None else made
    pen = SpacePen()
    try:
        pen.load(made)
        pen.look(theme, picture.pipes | picture.structures, None, near_side(made, eye.place))
        image = Image.new("RGB", size)
        tiles = [(x, y) for y in range(0, tall, TILE) for x in range(0, wide, TILE)]
        for i, (x, y) in enumerate(tiles):
            tell(i / len(tiles), "Drawing")
            w, h = min(TILE, wide - x), min(TILE, tall - y)
            raw = pen.draw(
                eye,
                (w, h),
                wanted.strength,
                True,
                (x / wide, y / tall, (x + w) / wide, (y + h) / tall),
            )
            image.paste(Image.frombytes("RGBA", (w, h), raw).convert("RGB"), (x, y))
    finally:
        pen.release()
        if threading.current_thread() is not threading.main_thread():
            release_context()  # this thread ends with its work
    marks = over(picture, made, eye) + cursor_marks(picture.run, picture.facts, cursor, eye)
    draw_marks(PngPen(image, theme), marks, PixelPlace(0.0, 0.0, tall / eye.height))
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()
