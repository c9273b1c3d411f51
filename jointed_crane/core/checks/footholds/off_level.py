"""Parts that stand above or below the line that they first stood on, or a mark."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.edits.placing.standing_on_keys import StandOnKeys
from jointed_crane.core.measures.standing import standing
from jointed_crane.core.model.scene import Part, Scene

NAME = "Off its level"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts on footholds that stand still elsewhere than on their level."""
    for part in rig.scene.parts:
        off = standing(rig.scene, part.id, rig.film.frames).off_level() if part.footholds else None
        if off is not None:
            frame, height = off
            where = f"{abs(height):.3g} px {'above' if height > 0 else 'below'}"
            marks = (mark.name for mark in rig.scene.marks if mark.id == part.level)
            level = next(marks, "the line that it first stood on")
            mend = () if part.locked or not _can_stand(rig.scene, part) else (StandOnKeys(part.id),)
            sentence = f"From frame {frame:g} on {part.name} stands up to {where} {level}."
            yield Finding(NAME, part.id, sentence, abs(height), "px", mend)


def _can_stand(scene: Scene, part: Part) -> bool:
    """Whether footholds on its turns bring it nearer to its level."""
    frames = np.arange(float(scene.length))
    try:
        after = StandOnKeys(part.id).apply(scene)
    except RuleError:
        return False
    was, now = (standing(known, part.id, frames).off_level() for known in (scene, after))
    return was is not None and (now is None or abs(now[1]) < abs(was[1]))
