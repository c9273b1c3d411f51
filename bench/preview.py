"""The round trip of a drag's preview: one part of 200, over HTTP on loopback, through the real server."""

from __future__ import annotations

import http.client
import json
import re
import time
from dataclasses import replace

import numpy as np

from bench.scenes import crowd
from tests.browser.chromium import ServedLibrary

FRAME_OF_60_HZ = 1000 / 60


def round_trips(count: int = 300) -> tuple[float, float]:
    """p50 and p95 in ms of previews that turn one part of 200 a little further each time, at frame 100."""
    served = ServedLibrary()
    library = served.library
    (art,) = library.assets.put([("image/svg+xml", b"<svg/>")])
    kept = library.scenes.create(replace(crowd(200, art), id="crowd"))
    connection = http.client.HTTPConnection(served.address.removeprefix("http://"))
    connection.request("GET", "/")
    answer = connection.getresponse()
    token = re.search(r'csrf-token" content="([^"]+)"', answer.read().decode())
    assert token is not None
    cookie = answer.headers["Set-Cookie"].split(";")[0]
    headers = {"Content-Type": "application/json", "X-CSRFToken": token[1], "Cookie": cookie}
    times = []
    for step in range(count):
        edit = {"edit": "turn_by", "parts": ["p102"], "degrees": step * 0.7, "frame": 100}
        body = json.dumps({"version": kept.version, "frame": 100, "edits": [edit]})
        begin = time.perf_counter()
        connection.request("POST", "/api/scenes/crowd/preview", body, headers)
        answer = connection.getresponse()
        answer.read()
        times.append((time.perf_counter() - begin) * 1000)
        assert answer.status == 200
    connection.close()
    served.close()
    p50, p95 = np.percentile(times[20:], [50, 95])
    return float(p50), float(p95)
