"""A long section of 2 km with 60 structures that is zoomed, and an end dragged among 10,000 pipes
over a large ground: each a whole frame, from the mouse event to the paint.
"""

import os
import tempfile
from collections.abc import Iterator
from time import perf_counter

from msgspec.structs import replace

from benchmarks.measure import Figure, frame_ms
from benchmarks.networks import network
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.project import Project
from zumbert.model.structure import Free


def long_run() -> Project:
    """One run of 60 structures, 2 km long."""
    project = network(100)
    structures, pipes = dict(project.structures), dict(project.pipes)
    first, second = StructureId("s0-49"), StructureId("s1-0")
    kept = [k for k in structures if k.startswith("s0-") and k != "s0-50"] + [
        StructureId(f"s1-{i}") for i in range(11)
    ]
    for i, key in enumerate(kept):
        s = structures[key]
        structures[key] = replace(
            s,
            place=Free(i * 34.0, 20.0 + (i % 3)),
            type=s.type if i < 59 else structures[StructureId("s0-50")].type,
        )
    joint = pipes[PipeId("p0-49")]
    pipes[PipeId("join")] = replace(joint, id=PipeId("join"), label="join", up=first, down=second)
    wanted = set(kept[:60])
    chosen = {k: p for k, p in pipes.items() if p.up in wanted and p.down in wanted}
    return replace(project, structures={k: structures[k] for k in kept[:60]}, pipes=chosen)


def section() -> Iterator[Figure]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()
    from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
    from PySide6.QtGui import QMouseEvent, QWheelEvent

    from zumbert.app.main import application
    from zumbert.app.theme import apply_theme
    from zumbert.app.window import Window
    from zumbert.drawing.handles import ring_places

    app = application()
    apply_theme(app, "light")

    window = Window(long_run())
    window.show()
    app.processEvents()
    view, none = window.section, Qt.MouseButton.NoButton

    def zoom(i: int) -> None:
        at = QPointF(500.0, 150.0)
        turn = QPoint(0, 30 if i % 20 < 10 else -30)
        app.sendEvent(
            view,
            QWheelEvent(
                at,
                view.mapToGlobal(at),
                QPoint(),
                turn,
                none,
                Qt.KeyboardModifier.NoModifier,
                Qt.ScrollPhase.NoScrollPhase,
                False,
            ),
        )
        view.repaint()

    shown = (
        len(window.session.state.look.run.structures)
        if window.session.state.look.run is not None
        else 0
    )
    yield Figure(
        f"zooming a section of 2 km, {shown} structures",
        (ours := frame_ms(zoom, 40)),
        None,
        ours,
        16.0,
    )
    window.session.open(network(200, run=200), None)
    app.processEvents()

    turns: list[float] = []

    def sharpen(i: int) -> None:
        view.zoomed(1.05 if i % 2 else 1 / 1.05, 500.0, 150.0, Qt.KeyboardModifier.NoModifier)
        view._settled()
        while view._making.active:
            t = perf_counter()
            view._making._go_on()
            # the first, as in `frame_ms`, pays for the plan of a project that was just opened
            if i:
                turns.append((perf_counter() - t) * 1000)

    yield Figure(
        "a section of 200 structures made anew", (ours := frame_ms(sharpen, 10)), None, ours, 160.0
    )
    longest = sorted(turns)[int(len(turns) * 0.98)]
    yield Figure("the same, what a notch waits for", longest, None, longest, 32.0)
    window.session.open(network(50), None)
    window.close()

    window = Window(network(10_000))
    window.show()
    window.session.to_stage("levels")
    app.processEvents()
    view, session = window.section, window.session
    pipe = (
        session.state.look.run.reaches[25].pipe
        if session.state.look.run is not None
        else PipeId("")
    )
    session.select(frozenset({pipe}))
    view.fit_pipe(pipe)
    app.processEvents()
    reach = next(r for r in session.state.look.run.reaches if r.pipe == pipe)
    x, y = ring_places(session.state.current.facts.pipes[pipe], reach, view.sight)["down"]
    left = Qt.MouseButton.LeftButton

    def send(
        kind: QEvent.Type, x: float, y: float, button: Qt.MouseButton, held: Qt.MouseButton
    ) -> None:
        at = QPointF(x, y)
        app.sendEvent(
            view,
            QMouseEvent(
                kind, at, view.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier
            ),
        )

    send(QEvent.Type.MouseMove, x, y, none, none)
    send(QEvent.Type.MouseButtonPress, x, y, left, left)

    def drag(i: int) -> None:
        send(QEvent.Type.MouseMove, x, y + 4 + i % 20, none, left)
        view.repaint()

    yield Figure(
        "an end dragged among 10,000 pipes, a frame", (ours := frame_ms(drag, 40)), None, ours, 16.0
    )
    assert session.state.previewing, "nothing was dragged"
    send(QEvent.Type.MouseButtonRelease, x, y, left, none)
    session.open(network(50), None)
    window.close()
