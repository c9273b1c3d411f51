"""The round trips of a drag's previews among 200 parts, over HTTP on loopback, through the real server."""

from __future__ import annotations

import http.client
import itertools
import json
import re
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from bench.real_server import serving

FRAME_OF_60_HZ = 1000 / 60
#: So long the server still starts its reader and looks through its art, beside what it is asked, seconds.
_STARTING = 2.0


TURN_ONE = "turn one of 200 parts"
_ALL = [f"p{number}" for number in range(200)]
#: What a hand does, as the edit after so many steps of it.
DRAGS: dict[str, Callable[[int], dict[str, object]]] = {
    TURN_ONE: lambda step: {"edit": "turn_by", "parts": ["p102"], "degrees": step * 0.7},
    "turn all 200": lambda step: {"edit": "turn_by", "parts": _ALL, "degrees": step * 0.7},
    "turn all 200 about one centre": lambda step: {
        "edit": "turn_about", "parts": _ALL, "degrees": step * 0.7, "about": "shared centre",
    },
    "a pivot snapped among 200": lambda step: {
        "edit": "move_pivot", "part": "p102", "point": [300 + step * 0.5, 90 + step * 0.3], "unit": "stage",
        "snapping": {"within": 9, "to": ["nine points", "pivots", "eyelets", "marks", "edges", "grid"]},
    },
}  # fmt: skip


def lever_drag(step: int) -> dict[str, object]:
    """The edit of a hand that drags a lever beside 200 parts, one of which it drives, after so many steps of it."""
    return {"edit": "set_values", "parts": ["lever"], "values": {"lever.x": step % 90 / 90}}


def goal_drag(step: int) -> dict[str, object]:
    """The edit of a hand that drags one of ten hands that reach, among 40 constraints, after so many steps of it."""
    return {"edit": "lead", "parts": ["p3"], "by": [step * 0.4, step * 0.3]}


@dataclass(frozen=True)
class RoundTrips:
    """Times of previews, ms, and the median of how many times as long one takes as the refusal asked for after it: the
    machine's speed swings by half, the same server's answer to a body that it refuses swings with it.
    """

    p50: float
    p95: float
    over_refused: float


#: Four views as the bench shows them.
VIEWS: list[dict[str, object]] = [
    {"side": "stage"}, {"side": "top"}, {"side": "right"}, {"side": "free", "yaw": 35, "pitch": 20},
]  # fmt: skip


def plane_drag(step: int) -> dict[str, object]:
    """The edit of a hand that turns one of 200 planes in space, after so many steps of it."""
    return {"edit": "turn_by", "parts": ["p5"], "degrees": step * 0.7, "about": "y"}


def round_trips(
    edit: Callable[[int], dict[str, object]],
    count: int = 200,
    parts: int = 200,
    scene: str = "",
    views: Sequence[dict[str, object]] = (),
) -> RoundTrips:
    """Previews of a drag among so many parts at frame 100, once the server has started; in another scene than their
    crowd where one is named, and with what views see of it where any are.
    """
    with serving(parts, is_deep=scene == "planes") as address:
        ask = _asking(address, f"/api/scenes/{scene or f'crowd-{parts}'}/preview")
        started = time.perf_counter() + _STARTING
        times: list[float] = []
        refused: list[float] = []
        for step in itertools.count():
            if len(times) == count:
                break
            own = ask([{**edit(step), "frame": 100}], 200, views)
            other = ask([{"edit": "refused"}], 422, ())
            if time.perf_counter() > started:
                times.append(own)
                refused.append(other)
    p50, p95 = np.percentile(times, [50, 95])
    return RoundTrips(float(p50), float(p95), float(np.median(np.array(times) / refused)))


_Ask = Callable[[list[dict[str, object]], int, Sequence[dict[str, object]]], float]


def _asking(address: str, path: str) -> _Ask:
    """What asks the server for a preview over one connection and gives the time it takes, ms."""
    connection = http.client.HTTPConnection(address.removeprefix("http://"))
    connection.request("GET", "/")
    answer = connection.getresponse()
    token = re.search(r'csrf-token" content="([^"]+)"', answer.read().decode())
    assert token is not None
    cookie = answer.headers["Set-Cookie"].split(";")[0]
    headers = {"Content-Type": "application/json", "X-CSRFToken": token[1], "Cookie": cookie}

    def ask(edits: list[dict[str, object]], status: int, views: Sequence[dict[str, object]]) -> float:
        body = json.dumps({"version": 1, "frame": 100, "edits": edits, "views": [*views]})
        begin = time.perf_counter()
        connection.request("POST", path, body, headers)
        answer = connection.getresponse()
        said = answer.read()
        assert answer.status == status, said
        return (time.perf_counter() - begin) * 1000

    return ask
