"""Makes the pictures of docs/screenshots anew from the demo: `.venv/bin/python
docs/make_screenshots.py [NAME…]`.
"""

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from zumbert.analysis.runline import RunKey
from zumbert.app.importdialog import ImportDialog
from zumbert.app.main import application
from zumbert.app.stages.layout.lay import LayTool
from zumbert.app.theme import apply_theme
from zumbert.app.window import Window
from zumbert.demo.make import FILES
from zumbert.demo.project import demo_project
from zumbert.drawing.handles import ring_places
from zumbert.edits.change import set_rim
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.land import add_service
from zumbert.edits.notes import add_pin, change_pin
from zumbert.edits.several import hold
from zumbert.model.project import new_project
from zumbert.model.structure import FixedRim

OUT = Path(__file__).parent / "screenshots"
APP = application()


def window() -> Window:
    """The demo at 1280 by 800."""
    apply_theme(APP, "light")
    w = Window(demo_project())
    w.show()
    settle(w)
    return w


def settle(w: Window) -> None:
    """Lets the window draw itself."""
    for _ in range(3):
        APP.processEvents()
        w.grab()


def keep(w: Window, name: str) -> None:
    """Writes a picture."""
    settle(w)
    w.grab().save(str(OUT / f"{name}.png"))
    print(OUT / f"{name}.png")


def move(view: QWidget, x: float, y: float, held: bool = False) -> None:
    """The mouse at a place of a view."""
    at = QPointF(round(x), round(y))
    buttons = Qt.MouseButton.LeftButton if held else Qt.MouseButton.NoButton
    APP.sendEvent(
        view,
        QMouseEvent(
            QEvent.Type.MouseMove,
            at,
            view.mapToGlobal(at),
            Qt.MouseButton.NoButton,
            buttons,
            Qt.KeyboardModifier.NoModifier,
        ),
    )
    APP.processEvents()


def pipe_between(w: Window, up: str, down: str) -> str:
    """A pipe by its ends."""
    names = {k: s.label for k, s in w.session.state.current.project.structures.items()}
    return next(
        k
        for k, p in w.session.state.current.project.pipes.items()
        if (names[p.up], names[p.down]) == (up, down)
    )


def hold_ring(w: Window, metres: float) -> None:
    """The lower end of the pipe in hand dragged up by metres, the button still down."""
    s = w.session.state
    reach = next(r for r in s.look.run.reaches if r.pipe == s.chosen.hand.pipe)
    x, y = ring_places(s.shown.facts.pipes[s.chosen.hand.pipe], reach, w.section.sight)["down"]
    move(w.section, x, y)
    QTest.mousePress(
        w.section,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
        QPoint(round(x), round(y)),
    )
    for i in range(1, 6):
        move(w.section, x + 4, y - metres * w.section.sight.sz * i / 5, True)


def levels() -> None:
    w = window()
    pipe = pipe_between(w, "S5", "S4")
    w.session.select(pipes=frozenset({pipe}))
    w.section.fit_pipe(pipe)
    settle(w)
    hold_ring(w, 0.05)
    keep(w, "levels")
    w.toolbox.tool.cancel()
    w.toggle_theme()
    settle(w)
    hold_ring(w, 0.05)
    keep(w, "levels-dark")
    w.toolbox.tool.cancel()
    w.toggle_theme()


def section() -> None:
    """The side road's run: a held invert, a fixed rim that is off, a pinned note, the road's
    profile.
    """
    w = window()
    s = w.session
    there = {x.label: x.id for x in s.state.current.project.structures.values()}
    pipe = pipe_between(w, "S15", "S14")
    s.show_run(RunKey("run", there["S17"]))
    s.edit("Pin", lambda p, f: add_pin(p, f, pipe, 12.0))
    s.edit(
        "Words",
        lambda p, f: change_pin(
            p, next(iter(p.pins)), fields=("chainage", "invert", "cover"), words={"invert": "IL"}
        ),
    )
    s.edit("Rim", lambda p, f: set_rim(p, there["S14"], FixedRim(f.places[there["S14"]].rim + 0.4)))
    s.edit("Hold", lambda p, f: hold(p, [], [pipe], "up", True))
    s.set(shows=s.state.look.shows | {"profile"})
    w.section.fit()
    w.section.zoomed(1.5, 300.0, 150.0, Qt.KeyboardModifier.NoModifier)
    w.section.panned(-260.0, 30.0)
    s.select(structures=frozenset({there["S14"]}), follow=False)
    keep(w, "section")


def layout() -> None:
    w = window()
    w.session.set(straight=False)
    w.toolbox.take("lay")
    assert isinstance(w.toolbox.tool, LayTool)
    w.session.set(way=replace(w.toolbox.tool.way, up=True))
    w.centre.setSizes([320, 410])
    w.plan.map = replace(w.plan.map, scale=3.7795, x=1670.0, y=905.0)
    settle(w)
    s9 = next(
        p
        for k, p in w.session.state.current.facts.places.items()
        if w.session.state.current.project.structures[k].label == "S9"
    )
    road = next(iter(w.session.state.current.facts.roads.values())).alignment
    places = [
        (s9.x, s9.y),
        *((float(x), float(y)) for x, y in (road.point(ch, -5.0) for ch in (296, 326))),
    ]
    for x, y in places:
        px, py = w.plan.drawn(x, y)
        move(w.plan, px, py)
        QTest.mouseClick(
            w.plan,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
            QPoint(round(px), round(py)),
        )
    move(w.plan, *w.plan.drawn(*(float(v) for v in road.point(352, -10.0))))
    w.section.fit()
    keep(w, "layout")


def tables() -> None:
    w = window()
    w.go_stage("layout")
    s = w.session.state.current.project.structures
    w.centre.toggle_tables()
    w.session.select(structures=frozenset(k for k, v in s.items() if v.label in ("S9", "S10")))
    keep(w, "tables")


def library() -> None:
    w = window()
    w.go_stage("layout")
    w.centre.toggle_tables()
    w.centre.tables.show_kind("types")
    keep(w, "library")


def checks() -> None:
    w = window()
    w.go_stage("checks")
    found = next(f for f in w.session.state.shown.findings if f.rule == "cover_min")
    w.going.to_finding(found)
    keep(w, "checks")


def standard() -> None:
    """The sheet of a standard, a limit being typed."""
    w = window()
    w.go_stage("checks")
    settle(w)
    w.side.panel.turn_to(2)
    settle(w)
    field = w.side.panel.standards.limits["cover_min"].field
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "1.1")
    keep(w, "standard")


def crossing() -> None:
    """A gas main over P5, drawn across the pipe."""
    w = window()
    facts = w.session.state.current.facts
    pipe = next(p.id for p in w.session.state.current.project.pipes.values() if p.label == "P5")
    (x, y), level = facts.spans[pipe].point(18.0), facts.pipes[pipe].invert(18.0)
    main = [(x - 4, y - 9, level + 0.55), (x + 4, y + 9, level + 0.6)]
    w.session.edit("Add G1", lambda p, f: add_service(p, "gas", main, "G1", 0.16, 0.3)[0])
    w.go_stage("checks")
    settle(w)
    w.side.panel.turn_to(1)
    settle(w)
    w.side.panel.rooms.rows[0].click()
    keep(w, "crossing")


def flow() -> None:
    """How full the pipes run, with one that is too small."""
    w = window()
    s = w.session
    w.go_stage("flow")
    s.set(straight=False)
    settle(w)
    w.plan.fit()
    pipe = next(k for k, p in s.state.current.project.pipes.items() if p.label == "P2")
    s.select(pipes=frozenset({pipe}))
    keep(w, "flow")


def trench() -> None:
    w = window()
    pipe = pipe_between(w, "S4", "S3")
    w.session.select(pipes=frozenset({pipe}))
    w.section.fit_pipe(pipe)
    w.go_stage("trench")
    run = w.session.state.look.run
    reach = next(r for r in run.reaches if r.pipe == pipe)
    w.session.set(cursor=reach.at(12.0, w.session.state.shown.facts.pipes[reach.pipe].span.length))
    s = w.session
    while (
        s.state.dug.net is None or s.state.dug.net[0] is not s.state.dug.trenches
    ):  # worked out beside
        QTest.qWait(20)
    QTest.qWait(200)
    keep(w, "trench")
    w.side.panel.show_page(1)
    keep(w, "trench-types")
    w.side.panel.show_page(0)
    w.centre.toggle_tables()
    w.centre.tables.show_kind("quantities")
    w.centre.tables.table.selectRow(1)
    keep(w, "quantities")


def plan() -> None:
    w = window()
    w.centre.straighten()
    w.centre.setSizes([430, 300])
    settle(w)
    w.plan.fit_map()
    s14 = next(k for k, s in w.session.state.current.project.structures.items() if s.label == "S14")
    w.session.select(structures=frozenset({s14}))
    keep(w, "plan")


def ground() -> None:
    w = window()
    w.centre.straighten()
    w.go_stage("ground")
    w.centre.setSizes([300, 430])
    road = next(iter(w.session.state.current.project.roads))
    w.session.pick(GroundItem("road", road), ("ip", 1))
    settle(w)
    w.plan.map = replace(w.plan.map, scale=1.8898, x=1580.0, y=905.0)
    w.section.fit()
    w.side.verticalScrollBar().setValue(330)
    keep(w, "ground")


def importing() -> None:
    w = window()
    w.session.open(new_project("New project"), None)
    folder = Path(tempfile.mkdtemp())
    (folder / "pegs.xyz").write_text(
        "\n".join(f"{i},{1400 + 9 * i},{880 + i % 7},{40 + 0.2 * i:.3f},EG" for i in range(1, 40))
    )
    w.exchange.import_paths(
        [FILES / "quillerby.xml", folder / "pegs.xyz", FILES / "land.csv", FILES / "services.csv"]
    )
    settle(w)
    dialog = next(d for d in w.findChildren(ImportDialog) if d.isVisible())
    dialog.resize(680, 640)
    APP.processEvents()
    dialog.grab().save(str(OUT / "import.png"))
    print(OUT / "import.png")
    dialog.reject()


def deliver() -> None:
    """A sheet of plan and long section, and chambers at 1:1."""
    w = window()
    w.go_stage("deliver")
    leaves = w.centre.of("deliver")._leaves(w.session.state).leaves
    w.session.set(leaf=next(leaf.place for leaf in leaves if leaf.sheet.kind == "plan-and-section"))
    QTest.qWait(200)
    keep(w, "deliver")
    w.session.set(leaf=next(leaf.place for leaf in leaves if leaf.sheet.kind == "chambers"))
    settle(w)
    w.centre.of("deliver").sheet.one_to_one()
    sheet = w.centre.of("deliver").sheet
    sheet.origin = QPointF(-330.0, -30.0)
    QTest.qWait(200)
    sheet._sharpen()
    keep(w, "chambers")


def space() -> None:
    """In space beside the plan: the ground cut away and in section along the run, a chamber
    selected, a pipe without cover.
    """
    w = window()
    w.centre.next_space()
    w.centre.next_space()
    w.centre.setSizes([440, 290])
    w.centre.top.setSizes([300, 588])
    settle(w)
    eye = w.centre.space
    s4 = next(
        p
        for k, p in w.session.state.current.facts.places.items()
        if w.session.state.current.project.structures[k].label == "S4"
    )
    w.session.set(space=replace(w.session.state.look.space, cut=True, section=True))
    w.session.select(
        structures=frozenset(
            k for k, v in w.session.state.current.project.structures.items() if v.label == "S4"
        )
    )
    settle(w)
    eye.look(
        replace(
            eye.eye, x=s4.x + 6.0, y=s4.y, z=s4.rim - 1.2, bearing=-0.5, tilt=0.3, distance=34.0
        )
    )
    QTest.qWait(1500)
    keep(w, "space")


if __name__ == "__main__":
    every = (
        levels,
        section,
        layout,
        tables,
        library,
        checks,
        standard,
        crossing,
        flow,
        trench,
        plan,
        ground,
        importing,
        deliver,
        space,
    )
    for make in (m for m in every if not sys.argv[1:] or m.__name__ in sys.argv[1:]):
        make()
