"""A plan with 5,000 structures in sight of the mouse: hover and pick (the event, without its
paint), and a structure that is dragged, a whole frame; it stands in a run that the long section
does not show.
"""

import os
import tempfile
from collections.abc import Iterator

from benchmarks.measure import Figure, frame_ms
from benchmarks.networks import network


def plan() -> Iterator[Figure]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()
    from PySide6.QtCore import QEvent, QPointF, Qt
    from PySide6.QtGui import QMouseEvent

    from zumbert.app.main import application
    from zumbert.app.theme import apply_theme
    from zumbert.app.window import Window

    app = application()
    apply_theme(app, "light")
    window = Window(network(4_900))  # 98 runs of 51 structures
    window.show()
    window.session.set(stage=window.session.stages["layout"], straight=False)
    view = window.plan
    view.fit_map()
    app.processEvents()
    project, places = (
        window.session.state.current.project,
        window.session.state.current.facts.places,
    )
    keys = list(project.structures)
    one = keys[len(keys) // 2]

    def send(
        kind: QEvent.Type, x: float, y: float, button: Qt.MouseButton, held: Qt.MouseButton
    ) -> None:
        at = QPointF(x, y)
        event = QMouseEvent(
            kind, at, view.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier
        )
        app.sendEvent(view, event)

    none, left = Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton

    def seen(i: int) -> tuple[float, float]:
        p = places[keys[(i * 37) % len(keys)]]
        return view.drawn(p.x, p.y) or (0.0, 0.0)

    def hover(i: int) -> None:
        send(QEvent.Type.MouseMove, *seen(i), none, none)

    def pick(i: int) -> None:
        view.hit(*seen(i))

    yield Figure("hover over 5,000 structures", (ours := frame_ms(hover, 60)), None, ours, 4.0)
    yield Figure("pick among 5,000 structures", (ours := frame_ms(pick, 60)), None, ours, 4.0)
    x, y = view.drawn(places[one].x, places[one].y) or (0.0, 0.0)
    send(QEvent.Type.MouseMove, x, y, none, none)
    send(QEvent.Type.MouseButtonPress, x, y, left, left)

    def drag(i: int) -> None:
        send(QEvent.Type.MouseMove, x + 8 + i % 20, y + 5, none, left)
        view.repaint()

    yield Figure(
        "a structure dragged among 5,000, a frame", (ours := frame_ms(drag, 40)), None, ours, 16.0
    )
    send(QEvent.Type.MouseButtonRelease, x, y, left, none)
    window.session.open(network(50), None)  # nothing unsaved to ask about
    window.close()
