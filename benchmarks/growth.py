"""A full check from 1,000 to 100,000 pipes."""

from collections.abc import Iterator
from math import log10

from benchmarks.measure import Figure, median_ms
from benchmarks.networks import network
from zumbert.analysis import analyse
from zumbert.checks import check


def growth() -> Iterator[Figure]:
    spent = []
    for size, times in ((1_000, 5), (100_000, 1)):  # the warm-up counts for the second
        project = network(size)
        spent.append(median_ms(lambda p=project: check(p, analyse(p)), times))
    yield Figure(
        "full check, exponent from 1k to 100k pipes",
        spent[1],
        spent[0],
        log10(spent[1] / spent[0]) / 2,
        1.15,
    )
