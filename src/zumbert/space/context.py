"""The OpenGL context and the canvas that pictures of space are drawn on, without a window."""

from threading import local
from typing import Any, NamedTuple

from zumbert.errors import ZumbertError

SAMPLES = 4  # of a pixel of a fine picture
_THREAD = local()


class SpaceError(ZumbertError):
    """Nothing can be drawn in space here."""


def context() -> Any:
    """The one OpenGL context of this thread. Raises SpaceError where there is no driver."""
    made = getattr(_THREAD, "context", None)
    if made is None:
        try:
            import moderngl

            how: Any = {"backend": "egl", "libgl": "libGL.so.1", "libegl": "libEGL.so.1"}
            made = moderngl.create_context(standalone=True, **how)
        except Exception as e:  # what a driver lacks is told in as many ways as there are drivers
            raise SpaceError(
                "The view in space needs OpenGL 3.3 by EGL, and no driver for it was found: "
                "install Mesa's "
                "(libegl1 and libgl1-mesa-dri), then start again."
            ) from e
        if made.version_code < 330:
            raise SpaceError(
                "The view in space needs OpenGL 3.3; this driver has "
                f"{made.version_code / 100:g}: install a newer one."
            )
        _THREAD.context = made
    return made


def release_context() -> None:
    """Gives back the context of this thread, where it has one; what was drawn with is gone with
    it.
    """
    made = getattr(_THREAD, "context", None)
    if made is not None:
        made.release()
        _THREAD.context = None


class Canvas(NamedTuple):
    """The target of drawing: a picture, the parts at its pixels, depths; and the same without the
    parts.
    """

    size: tuple[int, int]
    picked: Any
    plain: Any
    fine: Any  # several samples a pixel
    out: Any  # of those the mean

    def release(self) -> None:
        """Gives it back, with what it is drawn into: a framebuffer leaves its attachments."""
        for frame in self[1:]:
            for made in (*frame.color_attachments, frame.depth_attachment, frame):
                if made is not None:
                    made.release()


def canvas(ctx: Any, size: tuple[int, int]) -> Canvas:
    """The canvas of a size."""
    image, ids, depth = (
        ctx.texture(size, 4),
        ctx.texture(size, 1, dtype="u4"),
        ctx.depth_texture(size),
    )
    fine = ctx.framebuffer(
        [ctx.renderbuffer(size, 4, samples=SAMPLES)], ctx.depth_renderbuffer(size, samples=SAMPLES)
    )
    out = ctx.framebuffer([ctx.renderbuffer(size, 4)])
    return Canvas(
        size, ctx.framebuffer([image, ids], depth), ctx.framebuffer([image], depth), fine, out
    )
