"""The round trips of a drag's previews among 200 parts, over HTTP on loopback, through the real server."""

from __future__ import annotations

import http.client
import itertools
import json
import re
import time
from collections.abc import Callable

import numpy as np

from bench.real_server import serving

FRAME_OF_60_HZ = 1000 / 60
#: So long the server still starts its reader and looks through its art, beside what it is asked, seconds.
_STARTING = 2.0


_ALL = [f"p{number}" for number in range(200)]
#: What a hand does, as the edit after so many steps of it.
DRAGS: dict[str, Callable[[int], dict[str, object]]] = {
    "turn one of 200 parts": lambda step: {"edit": "turn_by", "parts": ["p102"], "degrees": step * 0.7},
    "turn all 200": lambda step: {"edit": "turn_by", "parts": _ALL, "degrees": step * 0.7},
    "turn all 200 about one centre": lambda step: {
        "edit": "turn_about", "parts": _ALL, "degrees": step * 0.7, "about": "shared centre",
    },
    "a pivot snapped among 200": lambda step: {
        "edit": "move_pivot", "part": "p102", "point": [300 + step * 0.5, 90 + step * 0.3], "unit": "stage",
        "snap_within": 9, "snap_to": ["nine points", "pivots", "eyelets", "marks", "edges", "grid"],
    },
}  # fmt: skip


def goal_drag(step: int) -> dict[str, object]:
    """The edit of a hand that drags one of ten hands that reach, among 40 constraints, after so many steps of it."""
    return {"edit": "lead", "parts": ["p3"], "by": [step * 0.4, step * 0.3]}


def round_trips(
    edit: Callable[[int], dict[str, object]], count: int = 200, parts: int = 200, scene: str = ""
) -> tuple[float, float]:
    """p50 and p95 in ms of previews of a drag among so many parts at frame 100, once the server has started; in another
    scene than their crowd where one is named.
    """
    times = []
    with serving(parts) as address:
        connection = http.client.HTTPConnection(address.removeprefix("http://"))
        connection.request("GET", "/")
        answer = connection.getresponse()
        token = re.search(r'csrf-token" content="([^"]+)"', answer.read().decode())
        assert token is not None
        cookie = answer.headers["Set-Cookie"].split(";")[0]
        headers = {"Content-Type": "application/json", "X-CSRFToken": token[1], "Cookie": cookie}
        started = time.perf_counter() + _STARTING
        for step in itertools.count():
            if len(times) == count:
                break
            body = json.dumps({"version": 1, "frame": 100, "edits": [{**edit(step), "frame": 100}]})
            begin = time.perf_counter()
            connection.request("POST", f"/api/scenes/{scene or f'crowd-{parts}'}/preview", body, headers)
            answer = connection.getresponse()
            said = answer.read()
            if begin > started:
                times.append((time.perf_counter() - begin) * 1000)
            assert answer.status == 200, said
        connection.close()
    p50, p95 = np.percentile(times, [50, 95])
    return float(p50), float(p95)
