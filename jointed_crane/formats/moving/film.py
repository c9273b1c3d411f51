"""What a sent scene shows over all its frames, looked at in stretches: a long film takes no more memory than a short
one, and what it writes.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_WRITTEN
from jointed_crane.core.evaluate import Pose
from jointed_crane.core.evaluate.stretches import film
from jointed_crane.core.model.scene import Part, Scene

Floats = npt.NDArray[np.float64]


@dataclass
class SentFilm:
    """A scene over its frames from 0 to its length, the last the first again.

    Attributes
    ----------
    places : the places of parts that are written frame by frame, each as it is written, by id
    drawings : the number of the drawing that a sent part shows at each frame, array of shape (frames,), by id
    seen : the parts that are shown and not fully clear at some frame
    orders : from which frame on parts are painted in which order, ids from back to front
    shaped : the parts whose shapes move, by their ids
    """

    places: dict[str, list[Any]] = field(default_factory=dict)
    drawings: dict[str, npt.NDArray[np.int16]] = field(default_factory=dict)
    seen: set[str] = field(default_factory=set)
    orders: list[tuple[int, list[str]]] = field(default_factory=list)
    shaped: dict[str, Part] = field(default_factory=dict)


def film_of(
    scene: Scene,
    only: Collection[str] | None = None,
    baked: Collection[str] = (),
    written_as: Callable[[Floats], Any] = np.asarray,
) -> SentFilm:
    """Look at all frames of a scene; `only` are the parts that may be sent, all unless told, and `baked` those whose
    places are written frame by frame, as `written_as` makes them of a matrix, where they are sent or something sent
    hangs on them. RuleError where that is too much to be written.
    """
    pictured = [part for part in scene.parts if part.is_sent and part.drawings and (only is None or part.id in only)]
    written = [part_id for part_id in _carrying(scene, pictured, baked) if part_id in baked]
    if len(written) * scene.length > MOST_WRITTEN:
        raise RuleError(
            f"{len(written)} parts would be written on each of {scene.length} frames; {MOST_WRITTEN // len(written)} "
            "frames can be sent at once. Nothing was sent; send a span of frames."
        )
    result = SentFilm(places={part_id: [] for part_id in written})
    shown: dict[str, list[npt.NDArray[np.int16]]] = {part.id: [] for part in pictured}
    for pose in film(scene, np.arange(scene.length + 1.0)):
        frames = pose.frames
        for part_id in written:
            result.places[part_id] += map(written_as, pose.world[pose.index[part_id]])
        for part in pictured:
            shown[part.id].append(pose.drawing[pose.index[part.id]].astype(np.int16))
            if pose.is_ever_seen(part.id):
                result.seen.add(part.id)
        _put_orders(result, pose, int(frames[0]), scene.length)
        progress.tell(min(int(frames[-1]) + 1, scene.length), scene.length, "frames")
        result.shaped.update(pose.shaped)
    result.drawings = {part_id: np.concatenate(numbers) for part_id, numbers in shown.items()}
    return result


def _carrying(scene: Scene, sent: Iterable[Part], baked: Collection[str]) -> set[str]:
    """The parts that are sent, and what they hang on up to the first that is written frame by frame."""
    result: set[str] = set()
    for part in sent:
        above: Part | None = part
        while above is not None and above.id not in result:
            result.add(above.id)
            above = scene.part(above.parent) if above.parent and above.id not in baked else None
    return result


def _put_orders(film: SentFilm, pose: Pose, first: int, length: int) -> None:
    """Put down where the painting order of a stretch changes."""
    changes = np.flatnonzero(np.any(np.diff(pose.order, axis=1) != 0, axis=0)) + 1
    for column in (0, *changes.tolist()):
        painting = pose.painting(column)
        is_new = not film.orders or film.orders[-1][1] != painting
        if is_new and first + column < length:
            film.orders.append((first + column, painting))
