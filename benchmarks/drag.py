"""One dragged invert in a network of 10,000 pipes: edit, facts and findings."""

from collections.abc import Iterator

from benchmarks.measure import Figure, median_ms
from benchmarks.networks import network
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.edits.levels import set_invert


def drag() -> Iterator[Figure]:
    project = network(10_000)
    facts = analyse(project)
    findings = check(project, facts)
    pipe = list(project.pipes)[5_000]
    level = project.pipes[pipe].invert_up
    steps = iter(range(10**9))

    def dragged() -> None:
        moved = set_invert(project, pipe, "up", level + 0.001 * (next(steps) % 100 + 1))
        check(moved, analyse(moved, facts), findings)

    def whole() -> None:
        moved = set_invert(project, pipe, "up", level + 0.001 * (next(steps) % 100 + 1))
        check(moved, analyse(moved))

    ours, full = median_ms(dragged, 60), median_ms(whole, 3)
    yield Figure("drag of an invert, 10,000 pipes", ours, None, ours, 10.0)
    yield Figure("  the same against a full recompute", ours, full, ours / full, 1 / 50)
