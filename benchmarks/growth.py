"""A full check from 1,000 to 10,000 pipes."""

from collections.abc import Iterator
from math import log10

from benchmarks.measure import Figure, median_ms
from benchmarks.networks import network
from zumbert.analysis import analyse
from zumbert.checks import check


def growth() -> Iterator[Figure]:
    spent = []
    for size in (1_000, 10_000):
        project = network(size)
        spent.append(median_ms(lambda p=project: check(p, analyse(p)), 5 if size < 5_000 else 3))
    yield Figure("full check, exponent from 1k to 10k pipes", spent[1], spent[0], log10(spent[1] / spent[0]), 1.2)
