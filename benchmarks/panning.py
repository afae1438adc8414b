"""Panning over a surface of 300,000 triangles with a drawing of 100,000 segments: milliseconds a
frame.
"""

import os
import statistics
import tempfile
import time
from collections.abc import Iterator

import numpy as np

from benchmarks.measure import Figure
from benchmarks.surfaces import irregular
from zumbert.edits.setup import add_background, add_surface
from zumbert.model.background import Background
from zumbert.model.ids import BackgroundId
from zumbert.model.project import new_project


def panning() -> Iterator[Figure]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()
    from msgspec.structs import replace

    from zumbert.app.main import application
    from zumbert.app.theme import apply_theme
    from zumbert.app.window import Window

    vertices, faces = irregular(150_000)
    rng = np.random.default_rng(5)
    a = rng.uniform(0, vertices[:, 0].max(), (100_000, 2))
    segments = np.hstack([a, a + rng.uniform(-9, 9, a.shape)])
    project = add_surface(new_project("large"), "Ground", "existing", vertices, faces)
    project = add_background(
        project,
        Background(
            id=BackgroundId(""),
            name="survey",
            layers=("0",),
            segments=segments,
            layer=np.zeros(len(segments), np.int32),
        ),
    )
    app = application()
    apply_theme(app, "light")
    window = Window(project)
    window.show()
    app.processEvents()
    window.plan.map = replace(
        window.plan.map, scale=3.78, x=float(vertices[:, 0].mean()), y=float(vertices[:, 1].mean())
    )
    window.plan.repaint()
    spent = []
    for i in range(60):
        t = time.perf_counter()
        window.plan.panned(9.0 * (-1) ** (i // 20), 4.0)
        window.plan.repaint()
        spent.append((time.perf_counter() - t) * 1000)
    window.close()
    ours = statistics.median(spent)
    yield Figure("panning over 300k triangles, 100k segments", ours, None, ours, 16.0)
