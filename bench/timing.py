"""Taking times: the best of several runs, since everything else a machine does only adds to one; of two pieces of work
the middle of their ratios.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import median


def seconds(act: Callable[[], object], runs: int = 7) -> float:
    """The shortest time of several runs after one that warms up."""
    act()
    return min(_times(act, runs))


def ratio(act: Callable[[], object], against: Callable[[], object], runs: int = 60) -> float:
    """How long one piece of work takes over another that is run right after it, in the middle of many runs: a machine
    that changes its speed meanwhile changes it for both.
    """
    act(), against()
    return median(_times(act, 1)[0] / _times(against, 1)[0] for _ in range(runs))


def unsteadiness(runs: int = 200) -> tuple[float, float]:
    """How long the same piece of work takes at the median and at the 95th percentile, over its shortest time.

    What a machine does besides makes every figure of this run longer by as much.
    """
    times = sorted(_times(lambda: sum(number * number for number in range(100_000)), runs))
    return times[runs // 2] / times[0], times[runs * 95 // 100] / times[0]


def _times(act: Callable[[], object], runs: int) -> list[float]:
    found = []
    for _ in range(runs):
        begin = time.perf_counter()
        act()
        found.append(time.perf_counter() - begin)
    return found
