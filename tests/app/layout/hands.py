"""Gestures and readings that these tests share."""


def on_road(user, ch, off):
    road = next(iter(user.facts.roads.values()))
    x, y = road.alignment.point(ch, off)
    return user.in_plan(float(x), float(y))


def middle_of(user, pipe):
    f = user.facts.pipes[pipe.id]
    return user.plan.drawn(*f.span.point(f.span.length / 2))
