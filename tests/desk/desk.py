"""A desk: a virtual screen with a window manager, the program on it, and two hands."""

import json
import os
import signal
import socket
import time
from contextlib import suppress

from tests.desk.screen import BUTTONS, PATIENCE, until

NAMES = {
    " ": "space", "+": "plus", "-": "minus", ".": "period", ",": "comma", "=": "equal",
    ":": "colon", "%": "percent",
    '"': "quotedbl", "'": "apostrophe", "(": "parenleft", ")": "parenright", "/": "slash",
    "_": "underscore", "[": "bracketleft", "]": "bracketright", "<": "less", ">": "greater",
    "&": "ampersand", ";": "semicolon",
}  # fmt: skip


class Ended(AssertionError):
    """The program is no longer there."""


class Desk:
    """The program on the screen, driven by hands; what they do is kept as a list."""

    def __init__(self, screen, home, *arguments, log=None):
        self.screen, self.home = screen, home
        self.faulty = (
            False  # whether a test puts a fault into the program, so that it writes a traceback
        )
        self.events = [] if log is None else log
        self._socket = home / "socket"
        with suppress(OSError):
            self._socket.unlink()
        env = {
            k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY")
        }
        for name in ("CONFIG", "STATE", "CACHE", "DATA"):
            env[f"XDG_{name}_HOME"] = str(home / name.lower())
        env |= {"DISPLAY": screen.name, "HOME": str(home), "QT_QPA_PLATFORM": "xcb"}
        self.said = home / f"errors-{len(list(home.glob('errors-*')))}"
        self.process = screen.host.start(
            socket=str(self._socket),
            arguments=list(map(str, arguments)),
            env=env,
            said=str(self.said),
        )
        self.link = socket.socket(socket.AF_UNIX)
        self.link.settimeout(PATIENCE)
        try:
            until(self._linked, "a program that answers")
            self._lines = self.link.makefile("rb")
            self.until("w is not None and w.isVisible() and app.activeWindow() is not None")
        except BaseException:
            self.kill()
            self.link.close()
            raise

    def _linked(self):
        if self.process.poll() is not None:
            raise Ended(self.errors)
        try:
            self.link.connect(str(self._socket))
        except OSError:
            return False
        return True

    # -- looking -----------------------------------------------------------------------------------

    @property
    def errors(self):
        """What the program wrote to standard error."""
        return self.said.read_text(errors="replace")

    @property
    def alive(self):
        """Whether the program runs."""
        return self.process.poll() is None

    def ask(self, question):
        """The value of an expression in the program, once it has taken every event so far."""
        try:
            self.link.sendall(json.dumps(question).encode() + b"\n")
            line = self._lines.readline()
        except OSError as e:
            line = b""
            if self.alive:
                self.process.send_signal(signal.SIGUSR1)
                time.sleep(0.5)
                raise AssertionError(f"no answer to {question}: {e}\n{self.errors[-3000:]}") from e
        if not line:
            with suppress(AssertionError):
                self.process.wait(5)
            raise Ended(
                f"the program ended ({self.process.poll()}) after "
                f"{self.events[-12:]}\n{self.errors[-3000:]}"
            )
        answer = json.loads(line)
        if "error" in answer:
            raise AssertionError(f"{question}: {answer['error']}")
        return answer["is"]

    def until(self, question):
        """Waits until an expression is true in the program; its value."""
        return until(lambda: self.ask(question), question)

    def asked(self, name=None):
        """Waits until a dialog, or the one of a name, has the keyboard: what is typed before it
        has goes elsewhere.
        """
        its = "" if name is None else f" and app.activeWindow().objectName() == {name!r}"
        self.until(
            "app.activeModalWidget() is not None and app.activeWindow() is "
            f"app.activeModalWidget(){its}"
        )

    def answered(self):
        """Waits until no dialog is open."""
        self.until("app.activeModalWidget() is None")

    def picture(self, file):
        """Saves what the screen shows."""
        self.screen.picture(file)

    # -- hands -------------------------------------------------------------------------------------

    def do(self, *event):
        """One thing that a hand does: kept, done, and taken by the program."""
        self._send(*event)
        if self.alive:
            self.ask("1")

    def _send(self, *event):
        """One thing that a hand does: kept and done."""
        self.events.append(event)
        kind, *values = event
        if kind == "mouse":
            self.screen.mouse(*values)
        elif kind in ("press", "release"):
            self.screen.button(BUTTONS.get(values[0], values[0]), kind == "press")
        elif kind in ("down", "up"):
            self.screen.key(values[0], kind == "down")

    def key(self, *names):
        """A key with the keys that are held with it: key("ctrl", "k"); plain signs as they are
        typed.
        """
        held = {"ctrl": "Control_L", "shift": "Shift_L", "alt": "Alt_L"}
        *more, last = [held.get(n, NAMES.get(n, n)) for n in names]
        if self.screen.needs_shift(last) and "Shift_L" not in more:
            more.append("Shift_L")
        for n in more:
            self.do("down", n)
        self.do("down", last)
        self.do("up", last)
        for n in reversed(more):
            self.do("up", n)

    def type(self, text):
        """A text, key by key."""
        for c in text:
            self.key(c)

    def enter(self, text):
        """A text and Return."""
        self.type(text)
        self.key("Return")

    def move(self, x, y, steps=1):
        """The mouse goes to a place, in as many steps as asked."""
        x0, y0 = next((e[1:] for e in reversed(self.events) if e[0] == "mouse"), (x, y))
        for i in range(1, steps + 1):
            self.do("mouse", round(x0 + (x - x0) * i / steps), round(y0 + (y - y0) * i / steps))

    def click(self, x, y, button="left", held=()):
        """Goes to a place, pixel by pixel at the end as a hand does, and clicks."""
        self.move(x - 3, y - 1)
        self.move(x, y, 3)
        keys = [{"ctrl": "Control_L", "shift": "Shift_L", "alt": "Alt_L"}[k] for k in held]
        for k in keys:
            self.do("down", k)
        self.do("press", button)
        self.do("release", button)
        for k in keys:
            self.do("up", k)

    def double(self, x, y):
        """A double click: the second does not wait until the program is done with the first,
        since no hand does.
        """
        self.move(x - 3, y - 1)
        self.move(x, y, 3)
        self.events += [("press", "left"), ("release", "left"), ("press", "left")]
        self.screen.double(BUTTONS["left"])
        self.do("release", "left")

    def drag(self, a, b, steps=8, held=(), release=True):
        """Press, move and let go."""
        keys = [{"ctrl": "Control_L", "shift": "Shift_L", "alt": "Alt_L"}[k] for k in held]
        self.move(*a)
        for k in keys:
            self.do("down", k)
        self.do("press", "left")
        self.move(a[0] + 1, a[1])
        self.move(*b, steps)
        if release:
            self.do("release", "left")
        for k in keys:
            self.do("up", k)

    def wheel(self, x, y, notches):
        """The wheel over a place; upward zooms in."""
        self.move(x, y)
        for _ in range(abs(notches)):
            self.do("press", 4 if notches > 0 else 5)
            self.do("release", 4 if notches > 0 else 5)

    def on(self, question):
        """Clicks the place that an expression gives."""
        self.click(*self.until(question))

    def action(self, text):
        """An action of the main menu, taken by its words in the finder."""
        self.key("ctrl", "k")
        self.until("focus() == 'finder'")
        self.enter(text)

    # -- the end -----------------------------------------------------------------------------------

    def kill(self):
        """The program ends without a word."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def end(self):
        """Ends the program; what it wrote to standard error."""
        if self.alive:
            self.process.send_signal(signal.SIGTERM)
            with suppress(AssertionError):
                self.process.wait(5)
            if self.alive:
                self.kill()
        self._lines.close()
        self.link.close()
        return self.errors
