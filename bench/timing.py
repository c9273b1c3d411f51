"""Taking times: the best of several runs, since everything else a machine does only adds to one."""

from __future__ import annotations

import time
from collections.abc import Callable


def seconds(act: Callable[[], object], runs: int = 7) -> float:
    """The shortest time of several runs after one that warms up."""
    act()
    found = []
    for _ in range(runs):
        begin = time.perf_counter()
        act()
        found.append(time.perf_counter() - begin)
    return min(found)
