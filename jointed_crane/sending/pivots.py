"""Where the pivot of each frame of a film lies: that of a part, a mark, or the middle of the stage."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.evaluate.stretches import film as poses
from jointed_crane.sending.film import Film, part_named


def pivots_of(film: Film, name: str | None) -> list[tuple[float, float]]:
    """One for each frame, px of the frame. RuleError where no part and no mark has this name."""
    scene = film.sent.scene
    scale = np.array(film.size) / (scene.width, scene.height)
    mark = next((mark for mark in scene.marks if mark.name == name), None)
    part = None if name is None else part_named(scene, name)
    if name is None or mark is not None:
        place = np.array((scene.width / 2, scene.height / 2) if mark is None else mark.place[:2])
        places = np.repeat(place[None], film.count, axis=0)
    elif part is not None:
        row = scene.index[part.id]
        places = np.concatenate([pose.pivot[row, :, :2] for pose in poses(scene, np.array(film.numbers))])
    else:
        raise RuleError(f"{scene.name} has no part or mark called {name!r}. Nothing was sent; give the name of one.")
    return [(float(x), float(y)) for x, y in places * scale]
