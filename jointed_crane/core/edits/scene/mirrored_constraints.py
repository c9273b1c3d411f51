"""What becomes of constraints on a limb that is copied mirrored: their sides and numbers turned round, or a refusal."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.edits.placing.settling import with_motion_changed
from jointed_crane.core.edits.scene.mirrored_goals import root_of
from jointed_crane.core.edits.shared.changed_links import turned_round
from jointed_crane.core.edits.shared.mirroring import turned_numbers, turns_round
from jointed_crane.core.evaluate.evaluation import evaluate
from jointed_crane.core.hierarchy.chains import whole_chain
from jointed_crane.core.model.scene import Inherits, Part, Scene
from jointed_crane.core.viewing.projection import linear_of

Floats = npt.NDArray[np.float64]
#: A mirror that turns an axis by more than this, as a share of its length, leans against it.
_LEANS = 1e-9
#: Frames of a film at which it is looked whether one leans, evenly over it.
_MOST_FRAMES = 120


def with_sides_swapped(
    scene: Scene, original: Part, copy: Part, mirrors: Mapping[str, Floats], reflection: Floats
) -> Part:
    """A copy whose constraints turn the other way round where the reflection does that; what turns by itself in a space
    that it takes over only partly is left to `with_own_turned`.

    Parameters
    ----------
    mirrors : arrays, shape (4, 4), the reflection in the space of the parent of each root, by its id
    reflection : array, shape (3, 3), that of the limb on the stage
    """

    def is_swapped(one: Constraint) -> bool:
        first = _first_joint(scene, original, one)
        if first is not None and first in mirrors:
            # What it turns in is not mirrored itself: it goes the other way round where the mirror stands on its plane.
            return bool(mirrors[first][2, 2] > 0)
        return turns_round(one, reflection) and (first is None or scene.part(first).inherits == Inherits())

    pairs = zip(original.constraints, copy.constraints, strict=True)
    part = replace(copy, constraints=tuple(own.mirrored() if is_swapped(one) else own for one, own in pairs))
    # A reflection across a line in the direction t begins with cos 2t, sin 2t.
    twice = float(np.rad2deg(np.arctan2(reflection[1, 0], reflection[0, 0])))
    for name, is_on_stage in turned_numbers(part, reflection):
        about = twice if is_on_stage else 0.0
        part = part.with_rest({name: about - part.rest_value(name)}) if name in part.rest or about else part
        part = with_links_onto(with_motion_changed(part, name, over=-1.0), name)
    return part


def with_own_turned(scene: Scene, part: Part, copy: Part, mirror: Floats) -> Part:
    """A copy that turns by itself in a space that it takes over only partly, mirrored by `mirror`, shape (3, 3).
    RuleError where that leans against the plane in which it turns.
    """
    constraints = []
    for one, own in zip(part.constraints, copy.constraints, strict=True):
        if _first_joint(scene, part, one) == part.id:
            if _leans_against_plane(mirror):
                raise _leaning(one, part, "the plane of what it hangs on")
            own = own.mirrored() if mirror[2, 2] > 0 else own
        constraints.append(own)
    return replace(copy, constraints=tuple(constraints))


def with_links_onto(part: Part, name: str) -> Part:
    """The part with what links add to a channel turned round."""
    links = tuple(turned_round(link, source=False, target=link.onto == name) for link in part.links)
    return replace(part, links=links) if links else part


def refuse_leaning(scene: Scene, originals: Sequence[Part], mirrors: Mapping[str, Floats]) -> None:
    """Raise RuleError where a constraint goes by an axis of the stage, or a chain by the plane of what the limb hangs
    on, that a mirror neither holds nor turns round at some frame: what turns about it then knows no reflection.
    """
    ruled = [(part, one) for part in originals for one in part.constraints]
    if not any(one.heading is not None or one.turns_joints for _, one in ruled):
        return
    frames = np.unique(np.linspace(0, scene.length - 1, min(scene.length, _MOST_FRAMES)).round())
    pose = evaluate(scene, frames)
    for part, one in ruled:
        root = root_of(scene, part, mirrors)
        mirror = mirrors[root.id][:3, :3]
        if one.heading is not None:
            above = np.eye(3)[None] if root.parent is None else linear_of(pose.world[pose.index[root.parent]])
            leans = _leans(above, mirror, one.heading)
            if leans.any():
                when = f" at frame {frames[leans.argmax()]:.0f}"
                raise _leaning(one, part, f"the {'xyz'[one.heading]} of the stage", when)
        elif _first_joint(scene, part, one) == root.id and _leans_against_plane(mirror):
            raise _leaning(one, part, "the plane of what it hangs on")


def _leans_against_plane(mirror: Floats) -> bool:
    """Whether a mirror, shape (3, 3), neither stands on the plane z = 0 of the space that it is in nor lies in it."""
    return bool(abs(abs(mirror[2, 2]) - 1) > _LEANS)


def _leans(above: Floats, mirror: Floats, axis: int) -> npt.NDArray[np.bool_]:
    """At which frames a mirror in the space of a parent, shape (3, 3), neither holds an axis of the stage nor turns it
    round; `above` are linear parts, shape (frames, 3, 3), of which those that have vanished show no mirror.
    """
    there = np.abs(np.linalg.det(above)) > _LEANS * np.abs(above).max(axis=(1, 2)) ** 3
    across = np.linalg.solve(np.where(there[:, None, None], above, np.eye(3)), np.eye(3)[axis][:, None])
    kept = (above @ (mirror @ across))[:, axis, 0]
    return np.asarray(there & (np.abs(np.abs(kept) - 1) > _LEANS), dtype=np.bool_)


def _first_joint(scene: Scene, part: Part, one: Constraint) -> str | None:
    """The uppermost joint that a constraint turns, by its id; None where it turns none."""
    if not one.turns_joints:
        return None
    return next(iter(whole_chain({each.id: each for each in scene.parts}, part, one)), None)


def _leaning(one: Constraint, part: Part, words: str, when: str = "") -> RuleError:
    return RuleError(
        f"{one.name} of {part.name} goes by {words}, against which the mirror leans{when}: no copy would lie as its "
        f"reflection. Nothing was changed; keep {part.name} as keys first, or mirror it where its parent lies straight."
    )
