"""Gestures and readings that these tests share."""

import numpy as np

from zumbert.app.views.view import SETTLE


def rest(user):
    """Nothing moves any more, and what lies where can be asked."""
    space = user.window.centre.space
    space.settling.setInterval(SETTLE)
    if space.settling.isActive():
        space.settling.start()
    user.bot.waitUntil(lambda: not space.settling.isActive())
    space.grab()


def seen_at(space, kind, key):
    """A drawing place at which a part is seen."""
    pen = space._asked()
    y, x = np.nonzero(pen.numbers() == pen.register.numbers[kind, key])
    assert len(x), "not seen"
    i = np.argmin((x - np.median(x)) ** 2 + (y - np.median(y)) ** 2)
    return int(x[i]), int(y[i])


def near(user, label):
    """Looks at a structure from near by."""
    space = user.window.centre.space
    user.session.select(structures=frozenset([user.structure(label).id]))
    space.fit_selected()
    rest(user)
    return user.structure(label).id
