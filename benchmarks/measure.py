"""Timing, and a line a figure."""

import gc
import statistics
import time
from collections.abc import Callable
from typing import Any, NamedTuple


class Figure(NamedTuple):
    """One figure: ours and the peer's or floor's in the same unit, and the ratio or value that
    must not be passed.
    """

    name: str
    ours: float
    floor: float | None
    ratio: float
    goal: float
    unit: str = "ms"

    @property
    def ok(self) -> bool:
        return self.ratio <= self.goal

    def line(self) -> str:
        peer = (
            f"{self.floor:10.3f} {self.unit}"
            if self.floor is not None
            else f"{'–':>10} {'':{len(self.unit)}}"
        )
        state = "ok" if self.ok else "over"
        return (
            f"{self.name:44} {self.ours:10.3f} {self.unit} {peer}  {self.ratio:8.4f}  goal "
            f"{self.goal:8.4f}  {state}"
        )


def median_ms(run: Callable[[], Any], times: int) -> float:
    """Median time of a call, ms, after one warm-up; the collector rests meanwhile."""
    run()
    gc.collect()
    gc.disable()
    try:
        spent = []
        for _ in range(times):
            t = time.perf_counter()
            run()
            spent.append((time.perf_counter() - t) * 1000)
    finally:
        gc.enable()
    return statistics.median(spent)


def frame_ms(step: Callable[[int], None], times: int) -> float:
    """Median time of a step in a window, ms, the first left out; what it leaves to be painted is
    painted unmeasured.
    """
    from zumbert.app.main import application

    app, spent = application(), []
    for i in range(times + 1):
        t = time.perf_counter()
        step(i)
        spent.append((time.perf_counter() - t) * 1000)
        app.processEvents()
    return statistics.median(spent[1:])
