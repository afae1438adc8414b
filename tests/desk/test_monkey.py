"""A monkey at the desk: random keys, clicks, drags, wheels, texts and menu picks; after it all
is as it must be.
"""

import json
import random
import time
from pathlib import Path

import pytest

from tests.amount import times
from tests.desk.desk import Ended

TEXTS = (
    "412.5 -3.6", "305 -6.5", "1:80", "1.25%", "+0.15", "40.5", "c0.9", "=S5 8", "d12 b35", "-",
    "abc", "r60 20 20", "0.0125", "99999", "S4", "1e9", "412.5 =", "z42", '"', "0+120 4",
)  # fmt: skip
KEYS = (
    "Return", "Escape", "Escape", "Tab", "BackSpace", "Delete", "Up", "Down", "Left", "Right", "F3",
    "F5", "F6", "F11", "F1", "Shift_L", "Alt_L", "space", "l", "g", "v", "r", "s", "f", "w", "o",
    "m", "p", "b", "t", "a", "e", "[", "]", "1", "Home", "End",
)  # fmt: skip
CHORDS = (
    "ctrl z", "ctrl z", "ctrl shift z", "ctrl a", "ctrl t", "ctrl k", "ctrl r", "ctrl j", "alt 1",
    "alt 2", "alt 3", "alt 3", "alt 4", "alt 5", "alt 6", "alt 7", "Next", "shift l", "alt m",
    "shift Tab", "ctrl c", "ctrl v", "ctrl comma", "F3", "shift F3", "ctrl 1", "ctrl 4",
)  # fmt: skip
# not without a file or a farewell
AWAY = ("Quit", "Open", "Save", "Import", "Export", "New project", "Welcome", "Read")


class Monkey:
    """Does one random thing after another; the seed says which."""

    def __init__(self, desk, seed):
        self.desk, self.dice = desk, random.Random(seed)

    def place(self):
        """A place of the window: mostly in the drawings, often on something that is there."""
        dice = self.dice
        if dice.random() < 0.6:
            # space too, once it was shown
            view = f"w.centre.views[{dice.randint(0, 5)} % len(w.centre.views)]"
            share = dice.random()
            at = self.desk.ask(
                f"(lambda v: (lambda t: at(v, *t[int({share} * len(t))].xy.mean(axis=0)) if "
                f"t else middle(v))(v.targets))({view})"
            )
            return [
                min(max(v + dice.randint(-3, 3), 2), most)
                for v, most in zip(at, (1277, 797), strict=True)
            ]
        return [dice.randint(2, 1277), dice.randint(2, 797)]

    def act(self):
        """One random thing."""
        desk, dice = self.desk, self.dice
        roll = dice.random()
        held = dice.choice(((), (), (), (), ("shift",), ("ctrl",), ("alt",)))
        if roll < 0.30:
            desk.click(*self.place(), held=held)
        elif roll < 0.34:
            desk.double(*self.place())
        elif roll < 0.48:
            self.drag(held)
        elif roll < 0.54:
            desk.wheel(*self.place(), dice.choice((-2, -1, 1, 2)))
        elif roll < 0.58:
            desk.click(*self.place(), button="right")
            desk.key(dice.choice(("Escape", "Down", "Escape")))
        elif roll < 0.76:
            desk.key(dice.choice(KEYS))
        elif roll < 0.86:
            desk.key(*dice.choice(CHORDS).split())
        elif roll < 0.96:
            desk.type(dice.choice(TEXTS))
            if dice.random() < 0.8:
                desk.key("Return")
        else:
            self.menu()

    def drag(self, held):
        """A drag, at times with a key or a wheel in its middle."""
        desk, dice = self.desk, self.dice
        a, b = self.place(), self.place()
        desk.drag(a, b, dice.randint(2, 6), held, release=False)
        if dice.random() < 0.15:
            desk.key(*dice.choice(("Delete", "ctrl z", "Escape", "Tab", "alt 2")).split())
        if dice.random() < 0.1:
            desk.wheel(*b, 1)
        desk.do("release", "left")

    def menu(self):
        """A pick by its words."""
        names = [n for n in self.desk.ask("list(w.commands())") if not n.startswith(AWAY)]
        self.desk.key("ctrl", "k")
        self.desk.enter(self.dice.choice(names).removesuffix(" …"))

    def out_of_files(self):
        """Dialogs of files, and menus, are left again."""
        while self.desk.ask(
            "app.activePopupWidget() is not None or app.activeModalWidget() is not None"
        ):
            if self.dice.random() < 0.4:
                self.desk.key(self.dice.choice(("Tab", "Down", "space")))
            self.desk.key("Escape")


def test_a_monkey_leaves_the_desk_in_order(desks, request):
    desk = desks("demo")
    seed, seconds = (
        request.config.getoption("--monkey-seed"),
        request.config.getoption("--monkey-seconds") or times(15, 600),
    )
    again = request.config.getoption("--monkey-events")
    desk.ask("setattr(w, 'quit', lambda: None)")
    try:
        if again:
            for line in Path(again).read_text().splitlines():
                desk.do(*json.loads(line))
        else:
            monkey, end = Monkey(desk, seed), time.monotonic() + seconds
            while time.monotonic() < end:
                monkey.act()
                monkey.out_of_files()
                if "Traceback" in desk.errors:
                    break
    except Ended as e:
        pytest.fail(f"seed {seed}: {e}")
    assert desk.alive, f"seed {seed}"
    assert "Traceback" not in desk.errors, f"seed {seed}: {desk.errors[-3000:]}"
    for _ in range(6):
        desk.key("Escape")
    assert desk.ask("fresh_equal()") == "", f"seed {seed}"
    assert desk.ask("undone_to_the_start()"), f"seed {seed}"
