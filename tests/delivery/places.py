"""Where the texts of a page lie on its paper, and long runs to draw."""

from msgspec.structs import replace

from tests.build import grounded, with_pipe, with_structure
from zumbert.delivery.paper import windows_of
from zumbert.drawing.labels import corners, overlap, text_box
from zumbert.drawing.marks import Faded, Inset, Text
from zumbert.edits.sheets import add_sheet, change_sheet


def texts_on(marks, ox=0.0, oy=0.0, k=1.0, box=None):
    """Texts with their corners in units of the page; those that are cut away are left out."""
    out = []
    for m in marks:
        if isinstance(m, Inset):
            x, y = ox + k * m.x, oy + k * m.y
            inner = (x, y, x + k * m.width, y + k * m.height)
            if box is not None:
                inner = (
                    max(inner[0], box[0]),
                    max(inner[1], box[1]),
                    min(inner[2], box[2]),
                    min(inner[3], box[3]),
                )
            out += texts_on(m.marks, x, y, k * m.scale, inner)
        elif isinstance(m, Faded):
            out += texts_on(m.marks, ox, oy, k, box)
        elif isinstance(m, Text):
            x0, y0, x1, y1 = text_box(m)
            at = (ox + k * x0, oy + k * y0, ox + k * x1, oy + k * y1)
            if box is None or (
                at[0] < box[2] and at[2] > box[0] and at[1] < box[3] and at[3] > box[1]
            ):
                out.append((m, tuple((ox + k * x, oy + k * y) for x, y in corners(m)), at, box))
    return out


def overlapping(texts):
    """Pairs of texts that lie over each other."""
    found = []
    for i, (a, shape, box, _) in enumerate(texts):
        for b, other, boxed, _ in texts[i + 1 :]:
            near = (
                box[0] < boxed[2] and boxed[0] < box[2] and box[1] < boxed[3] and boxed[1] < box[3]
            )
            if near and overlap(shape, other):
                found.append((a.text, b.text))
    return found


def long_job(length=3000.0, spacing=60.0, fall=0.01, scale=500.0, up=100.0):
    """A run of so many metres, falling to the right, with a sheet of plan and long section along
    it.
    """
    n = round(length / spacing)
    p = grounded([(-50.0, 60.0), (length + 50.0, 60.0 - fall * (length + 100.0))])
    for i in range(n + 1):
        p = with_structure(p, f"M{i}", i * spacing, kind="outfall" if i == n else "manhole-1200")
    for i in range(n):
        a = 60.0 - fall * (i * spacing + 50) - 2.0
        p = with_pipe(p, f"P{i}", f"M{i}", f"M{i + 1}", a, a - fall * spacing)
    p, key = add_sheet(p, "plan-and-section")
    return change_sheet(p, key, scale=scale, up=up, overlap=20.0), key


def window_on(page, kind):
    """The first box of a page whose sight is of a kind, and that sight."""
    return next((m, w.sight) for w, m in windows_of(page.marks) if isinstance(w.sight, kind))


def with_delivery(project, **values):
    return replace(project, delivery=replace(project.delivery, **values))
