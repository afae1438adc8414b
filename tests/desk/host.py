"""The program as a user starts it, and a socket beside it that answers questions about its state.

`python -m tests.desk.host` starts programs on request (`serve`). Each question is a line of JSON
with an expression, the answer a line of JSON. Questions only look; hands are real keys and a real
mouse.
"""

import faulthandler
import gc
import json
import os
import signal
import socket
import sys
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, QSocketNotifier, Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QWidget

from tests.app.ready import demo_dug, known_trenches, known_value
from zumbert.analysis import analyse
from zumbert.app import netwatch
from zumbert.app import session as sessions
from zumbert.app.main import application, main
from zumbert.app.session import Session
from zumbert.app.window import Window
from zumbert.checks import check
from zumbert.drawing.handles import ring_places

faulty = []  # things with a fault put in: the thing, the name, and what stood there
firsts = {}  # of each session the value that its history begins with


def window():
    """The main window."""
    return next((w for w in QApplication.topLevelWidgets() if isinstance(w, Window)), None)


def at(widget, x, y):
    """The screen place of a place in a widget."""
    p = widget.mapToGlobal(QPoint(round(x), round(y)))
    return p.x(), p.y()


def middle(widget):
    """The screen place of the middle of a widget."""
    return at(widget, widget.width() / 2, widget.height() / 2)


def named(name):
    """The visible widget of a name or accessible name, in any window."""
    found = [
        w
        for w in QApplication.allWidgets()
        if w.isVisible() and name in (w.objectName(), w.accessibleName())
    ]
    return found[0] if found else None


def button(text):
    """The screen place of the visible button with a text, in the window that is in front."""
    front = QApplication.activePopupWidget() or QApplication.activeModalWidget() or window()
    from PySide6.QtWidgets import QAbstractButton

    for b in front.findChildren(QAbstractButton):
        if b.isVisible() and b.text().replace("&", "") == text:
            return middle(b)
    return None


def entry(text):
    """The screen place of an entry of the open menu that begins with a text."""
    menu = QApplication.activePopupWidget()
    for a in menu.actions() if menu is not None and hasattr(menu, "actions") else ():
        if a.text().replace("&", "").startswith(text):
            return at(menu, *menu.actionGeometry(a).center().toTuple())
    return None


def structure(label, view=None):
    """The screen place of a structure in a drawing (plan if not said)."""
    w = window()
    view = view or w.plan
    s = w.session.state.shown.project.structures
    key = next(k for k, r in s.items() if r.label == label)
    target = next((t for t in view.targets if t.id == key), None)
    return None if target is None else at(view, *np.mean(target.xy, axis=0))


def pipe(up, down):
    """The pipe between two structures."""
    p = window().session.state.shown.project
    names = {k: s.label for k, s in p.structures.items()}
    return next(r for r in p.pipes.values() if (names[r.up], names[r.down]) == (up, down))


def along(key, share, view=None):
    """The screen place of a share of the way along a pipe in a drawing."""
    view = view or window().plan
    target = next((t for t in view.targets if t.id == key), None)
    if target is None:
        return None
    a, b = target.xy[0], target.xy[-1]
    return at(view, *(a + (b - a) * share))


def in_space(kind, key):
    """The screen place of a part that is seen in space; None while the eye moves, or where it is
    not seen.
    """
    space = window().centre.space
    pen = None if space.settling.isActive() else space._asked()
    number = None if pen is None else pen.register.numbers.get((kind, key))
    y, x = np.nonzero(pen.numbers() == number) if number is not None else ((), ())
    if not len(x):
        return None
    i = int(np.argmin((x - np.median(x)) ** 2 + (y - np.median(y)) ** 2))
    return at(space, x[i], y[i])


def ring(name):
    """The screen place of a ring of the pipe in hand."""
    w = window()
    s = w.session.state
    if s.chosen.hand is None or s.look.run is None:
        return None
    reach = next((r for r in s.look.run.reaches if r.pipe == s.chosen.hand.pipe), None)
    if reach is None:
        return None
    places = ring_places(s.shown.facts.pipes[s.chosen.hand.pipe], reach, w.section.sight)
    return at(w.section, *places[name])


def focus():
    """The widget with the keyboard, by name or class."""
    f = QApplication.focusWidget()
    return "" if f is None else f.objectName() or f.accessibleName() or type(f).__name__


def told():
    """What the foot strip says."""
    return window().foot.hint.text()


def put_fault(place):
    """Puts a fault into a slot, a paint event, a thread or a timer of the program."""
    w = window()
    thing, name = {
        "slot": (w.centre, "fit"),
        "paint": (w.plan, "overlay"),
        "thread": (netwatch, "union"),
        "timer": (w.plan, "_sharpen"),
    }[place]
    faulty.append((thing, name, thing.__dict__.get(name)))
    setattr(thing, name, _fail)


def take_fault():
    """Takes the last fault out again."""
    thing, name, before = faulty.pop()
    if before is None:
        delattr(thing, name)
    else:
        setattr(thing, name, before)


def _fail(*_):
    raise KeyError("put here by a test")


def fresh_equal():
    """Why the facts and findings kept from step to step are not those of a computation anew;
    empty where they are.
    """
    v = window().session.state.current
    facts = analyse(v.project)
    for name in ("places", "pipes", "structures"):
        a, b = getattr(v.facts, name), getattr(facts, name)
        if set(a) != set(b):
            return f"{name}: other keys"
        for k in a:
            if not alike(a[k], b[k]):
                return f"{name} {k}: {a[k]!r} is not {b[k]!r}"
    kept, new = (sorted(repr(f) for f in found) for found in (v.findings, check(v.project, facts)))
    return "" if kept == new else f"findings: {set(kept) ^ set(new)}"


def alike(a, b):
    """Whether two values are the same to the last digit."""
    if a is b:
        return True
    if type(a) is not type(b):
        return False
    if isinstance(a, np.ndarray):
        return np.array_equal(a, b, equal_nan=a.dtype.kind == "f")
    names = getattr(a, "__struct_fields__", None) or getattr(a, "_fields", None)
    if names:
        return all(alike(getattr(a, n), getattr(b, n)) for n in names)
    if isinstance(a, dict):
        return a.keys() == b.keys() and all(alike(a[k], b[k]) for k in a)
    if isinstance(a, (list, tuple)):
        return len(a) == len(b) and all(map(alike, a, b))
    return repr(a) == repr(b)


def undone_to_the_start():
    """Undoes everything; whether the first value is back."""
    session = window().session
    while session.history.undo_name:
        session.undo()
    return session.state.current.project is firsts[session]


def _begun(self, project, path, begin=Session._start):
    begin(self, project, path)
    firsts[self] = self.state.current.project


def _answer(question):
    names = globals() | {"w": window(), "app": QApplication.instance(), "Qt": Qt, "np": np}
    w = names["w"]
    if w is not None:
        names |= {"s": w.session.state, "project": w.session.state.current.project}
    return eval(question, names)


def _serve(path, app):
    listener = socket.socket(socket.AF_UNIX)
    listener.bind(path)
    listener.listen()
    link, _ = listener.accept()
    lines = link.makefile("rwb", buffering=0)

    def asked():
        line = lines.readline()
        if not line:
            bell.setEnabled(False)
            return
        # within a dialog, too, that the events on their way open
        QTimer.singleShot(0, lambda: answer(line))
        QGuiApplication.sync()

    def answer(line):
        try:
            out = {"is": _answer(json.loads(line))}
            text = json.dumps(out, default=_plain)
        except Exception as e:
            text = json.dumps({"error": f"{type(e).__name__}: {e}"})
        lines.write(text.encode() + b"\n")

    bell = QSocketNotifier(link.fileno(), QSocketNotifier.Type.Read, app)
    bell.activated.connect(asked)
    return listener, link, lines, bell


def _plain(value):
    if isinstance(value, (np.ndarray, np.generic)):
        return value.tolist()
    if isinstance(value, (frozenset, set)):
        return sorted(value)
    if isinstance(value, QWidget):
        return value.objectName() or type(value).__name__
    return str(value)


def run(path, file):
    """Starts the program with a file, the demo or neither."""
    faulthandler.enable()
    faulthandler.register(signal.SIGUSR1)  # where it hangs, if it does
    Session._start = _begun
    app = application()
    parts = _serve(path, app)
    demo = file == ["demo"]
    code = main(Path(file[0]) if file and not demo else None, demo)
    del parts
    return code


def serve():
    """Starts programs on request, each a child that has every module already and knows the demo.

    A request is a line of JSON on standard input: socket, arguments, environment, and the file for
    what it writes; the answer is the child's number.
    """
    demo_dug()
    sessions.value, sessions.trenches = known_value, known_trenches
    gc.freeze()
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # nobody waits for the children here
    for line in sys.stdin:
        wanted = json.loads(line)
        child = os.fork()
        if child:
            print(child, flush=True)
            continue
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        os.environ.clear()
        os.environ.update(wanted["env"])
        out = os.open(wanted["said"], os.O_WRONLY | os.O_CREAT | os.O_TRUNC)
        for stream in (1, 2):
            os.dup2(out, stream)
        os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
        sys.argv[1:] = []
        code = run(wanted["socket"], wanted["arguments"])
        sys.stdout.flush()
        os._exit(code)


if __name__ == "__main__":
    serve()
