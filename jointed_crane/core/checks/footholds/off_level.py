"""Parts that stand above or below the line that they first stood on, or a mark."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.edits.placing.standing_on_keys import StandOnKeys
from jointed_crane.core.measures.standing import standing
from jointed_crane.core.model.scene import Part, Scene

NAME = "Off its level"
Floats = npt.NDArray[np.float64]


def find(rig: Rig) -> Iterator[Finding]:
    """Parts on footholds that stand still elsewhere than on their level."""
    for part in rig.scene.parts:
        off = standing(rig.scene, part.id, rig.film.frames).off_level() if part.footholds else None
        if off is not None:
            frame, height = off
            where = f"{abs(height):.3g} px {'above' if height > 0 else 'below'}"
            marks = (mark.name for mark in rig.scene.marks if mark.id == part.level)
            level = next(marks, "the line that it first stood on")
            is_mended = not part.locked and _is_nearer(rig.scene, part, rig.film.frames, height)
            mend = (StandOnKeys(part.id),) if is_mended else ()
            sentence = f"From frame {frame:g} on {part.name} stands up to {where} {level}."
            yield Finding(NAME, part.id, sentence, abs(height), "px", mend)


def _is_nearer(scene: Scene, part: Part, frames: Floats, height: float) -> bool:
    """Whether footholds on its turns bring a part nearer to its level than it comes now."""
    try:
        after = StandOnKeys(part.id).apply(scene)
    except RuleError:
        return False
    off = standing(after, part.id, frames).off_level()
    return off is None or abs(off[1]) < abs(height)
