"""The motion of a scene as plain JSON and as a table (RFC 4180), for other programs.

Lengths are px on the stage, x to the right, y down, z towards the viewer; times are seconds. A matrix is the first
three rows of a 4 x 4 one, row by row, from a part's art to the stage, acting on column vectors.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from typing import BinaryIO, Literal

import numpy as np

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_WRITTEN
from jointed_crane.core.evaluate import Pose
from jointed_crane.core.evaluate.stretches import film
from jointed_crane.core.model.scene import Scene

What = Literal["matrices", "pivots"]
#: What is told of a part at a frame, by what is asked for.
COLUMNS: dict[What, tuple[str, ...]] = {
    "matrices": tuple(f"m{row}{column}" for row in (1, 2, 3) for column in (1, 2, 3, 4)),
    "pivots": ("x", "y", "z"),
}


def write_json(scene: Scene, span: tuple[int, int], what: What, file: BinaryIO) -> None:
    """One document: the scene's size and rate, its parts, and by frame what is asked of each part in their order."""
    head = {
        "scene": scene.name,
        "size": [scene.width, scene.height],
        "rate": list(scene.fps),
        "units": {"length": "px", "time": "s", "opacity": "0 to 1"},
        "columns": ["opacity", "shown", *COLUMNS[what]],
        "parts": [
            {
                "name": part.name,
                "parent": None if part.parent is None else scene.part(part.parent).name,
                "kind": part.kind,
            }
            for part in scene.parts
        ],
    }
    file.write(json.dumps(head, indent=1)[:-2].encode() + b',\n "frames": [')
    for place, (pose, column) in enumerate(_columns(scene, span)):
        values = [
            [opacity, shown, *numbers]
            for opacity, shown, numbers in zip(
                pose.opacity[:, column].tolist(),
                pose.shown[:, column].tolist(),
                _numbers(pose, column, what),
                strict=True,
            )
        ]
        frame = int(pose.frames[column])
        told = {"frame": frame, "time": float(frame / scene.rate), "parts": values}
        file.write((",\n  " if place else "\n  ").encode() + json.dumps(told).encode())
    file.write(b"\n ]\n}\n")


def write_csv(scene: Scene, span: tuple[int, int], what: What, file: BinaryIO) -> None:
    """A line for each part at each frame, under a line of names. Pivots can be read in again as tracks."""
    text = io.TextIOWrapper(file, encoding="utf-8", newline="", write_through=True)
    table = csv.writer(text)
    table.writerow(["frame", "time", "part", "opacity", "shown", *COLUMNS[what]])
    for pose, column in _columns(scene, span):
        frame = int(pose.frames[column])
        lead = [frame, float(frame / scene.rate)]
        opacities, shown = pose.opacity[:, column].tolist(), pose.shown[:, column].tolist()
        for row, numbers in enumerate(_numbers(pose, column, what)):
            table.writerow([*lead, scene.parts[row].name, opacities[row], int(shown[row]), *numbers])
    text.detach()


def _columns(scene: Scene, span: tuple[int, int]) -> Iterator[tuple[Pose, int]]:
    """The pose and the column in it of each frame, a stretch at a time. RuleError where that is too much to be told."""
    count = span[1] - span[0] + 1
    if count * len(scene.parts) > MOST_WRITTEN:
        raise RuleError(
            f"{len(scene.parts)} parts would be told on each of {count} frames; {MOST_WRITTEN // len(scene.parts)} "
            "frames can be sent at once. Nothing was sent; send a span of frames."
        )
    done = 0
    for pose in film(scene, np.arange(span[0], span[1] + 1.0)):
        for column in range(len(pose.frames)):
            yield pose, column
            done += 1
            progress.tell(done, count, "frames")


def _numbers(pose: Pose, column: int, what: What) -> list[list[float]]:
    values = pose.pivot[:, column] if what == "pivots" else pose.world[:, column, :3].reshape(-1, 12)
    result: list[list[float]] = values.tolist()
    return result
