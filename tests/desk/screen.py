"""A virtual screen with a window manager, and the programs on it."""

import json
import os
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path

from PySide6.QtGui import QImage
from Xlib import XK, X
from Xlib.display import Display
from Xlib.ext import xtest

HERE = Path(__file__).parent


PATIENCE = 30.0  # s that a state is waited for before the test fails


WIDE = 1280


TALL = 800


BUTTONS = {"left": 1, "middle": 2, "right": 3}


class Program:
    """A program that the host started: a child of its own, ended and asked about by its number."""

    def __init__(self, pid):
        self.pid = pid

    def poll(self):
        """None while it runs."""
        try:
            os.kill(self.pid, 0)
        except ProcessLookupError:
            return "ended"
        return None

    def send_signal(self, number):
        """Sends it a signal, if it is there."""
        with suppress(ProcessLookupError):
            os.kill(self.pid, number)

    def wait(self, patience=PATIENCE):
        """Waits until it is gone. Raises AssertionError."""
        until(self.poll, "the end of the program", patience)


class Host:
    """Starts programs from one process that has every module already: a second or two less for
    each.
    """

    def __init__(self):
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.desk.host"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            cwd=HERE.parent.parent,
            text=True,
        )

    def start(self, **wanted):
        """A program with a socket, arguments and an environment, and a file for what it writes."""
        self._process.stdin.write(json.dumps(wanted) + "\n")
        self._process.stdin.flush()
        return Program(int(self._process.stdout.readline()))

    def end(self):
        """The host goes; its programs have ended."""
        self._process.stdin.close()
        self._process.wait()
        self._process.stdout.close()


class Screen:
    """A virtual screen with a small window manager, and its keyboard and mouse."""

    def __init__(self):
        read, write = os.pipe()
        size = f"{WIDE}x{TALL}x24"
        self._server = subprocess.Popen(
            [
                "Xvfb",
                "-displayfd",
                str(write),
                "-screen",
                "0",
                size,
                "-nolisten",
                "tcp",
                "-noreset",
            ],
            pass_fds=(write,),
            stderr=subprocess.DEVNULL,
        )
        os.close(write)
        with os.fdopen(read) as f:
            self.name = f":{f.readline().strip()}"
        env = os.environ | {"DISPLAY": self.name}
        self._manager = subprocess.Popen(
            ["openbox", "--config-file", str(HERE / "openbox.xml"), "--sm-disable"],
            env=env,
            stderr=subprocess.DEVNULL,
        )
        self.display = Display(self.name)
        self._codes, self._down = self._keymap(), set()
        self.display.change_keyboard_control(
            auto_repeat_mode=X.AutoRepeatModeOff
        )  # a tap is a tap, however slow the machine
        root, atom = (
            self.display.screen().root,
            self.display.intern_atom("_NET_SUPPORTING_WM_CHECK"),
        )
        until(lambda: root.get_full_property(atom, X.AnyPropertyType), "a window manager")
        self.host = Host()

    def _keymap(self):
        """Key names to key code and whether Shift is needed."""
        out, d = {}, self.display
        low, high = d.display.info.min_keycode, d.display.info.max_keycode
        for shift in (1, 0):
            for code in range(low, high + 1):
                sym = d.keycode_to_keysym(code, shift)
                if sym:
                    out[sym] = (code, bool(shift))
        return out

    def _send(self, kind, detail=0, x=0, y=0):
        xtest.fake_input(self.display, kind, detail, x=x, y=y)
        self.display.sync()

    def key(self, name, down):
        """A key goes down or up."""
        (self._down.add if down else self._down.discard)(name)
        self._send(X.KeyPress if down else X.KeyRelease, self._codes[XK.string_to_keysym(name)][0])

    def hands_off(self):
        """Lets go of every key and button that a test that failed left down."""
        for name in sorted(self._down):
            self.key(name, False)
        for number in BUTTONS.values():
            self.button(number, False)

    def needs_shift(self, name):
        """Whether a key name is typed with Shift held."""
        return self._codes[XK.string_to_keysym(name)][1]

    def mouse(self, x, y):
        """The mouse goes to a place of the screen."""
        self._send(X.MotionNotify, x=round(x), y=round(y))

    def button(self, number, down):
        """A mouse button goes down or up; 4 and 5 are the wheel."""
        self._send(X.ButtonPress if down else X.ButtonRelease, number)

    def double(self, number):
        """A mouse button goes down, up and down again, timed by the server: two presses in one
        millisecond are no double click.
        """
        for kind in (X.ButtonPress, X.ButtonRelease, X.ButtonPress):
            xtest.fake_input(self.display, kind, number, time=20)
        self.display.sync()

    def picture(self, file):
        """Saves what the screen shows."""
        raw = self.display.screen().root.get_image(0, 0, WIDE, TALL, X.ZPixmap, 0xFFFFFFFF).data
        QImage(raw, WIDE, TALL, WIDE * 4, QImage.Format.Format_RGB32).save(str(file))

    def end(self):
        """The screen goes."""
        self.host.end()
        with suppress(Exception):
            self.display.close()
        for p in (self._manager, self._server):
            p.terminate()
            p.wait()


def until(state, what, patience=PATIENCE):
    """Waits for a state; its value. Fails when it does not come."""
    end, pause = time.monotonic() + patience, 0.005
    while True:
        found = state()
        if found:
            return found
        if time.monotonic() > end:
            raise AssertionError(f"did not come about: {what}")
        time.sleep(pause)
        pause = min(pause * 1.5, 0.05)  # who asks keeps others from their work
