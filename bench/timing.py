"""Taking times: the best of several runs, since everything else a machine does only adds to one."""

from __future__ import annotations

import time
from collections.abc import Callable


def seconds(act: Callable[[], object], runs: int = 7) -> float:
    """The shortest time of several runs after one that warms up."""
    act()
    return min(_times(act, runs))


def ratio(act: Callable[[], object], against: Callable[[], object], runs: int = 40) -> float:
    """The shortest time of one piece of work over that of another, each run in turn with the other: a machine that
    changes its speed meanwhile changes it for both.
    """
    act(), against()
    pairs = [(*_times(act, 1), *_times(against, 1)) for _ in range(runs)]
    own, other = (min(times) for times in zip(*pairs, strict=True))
    return own / other


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
