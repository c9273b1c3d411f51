"""Keeping a part where it is shown while what places it changes."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.places import in_parent, own_linear, parent_linear
from jointed_crane.core.edits.shared.values_on_screen import driven_values
from jointed_crane.core.edits.shared.way_back import Aspect, aspect_at, brought, is_placed_by_constraints
from jointed_crane.core.evaluate.placement import rotation
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.evaluate.pose_at_frame import moved_pose, pivot_at, pose_of, world_at
from jointed_crane.core.geometry.decomposition import quaternion, rotation_shear_scale
from jointed_crane.core.geometry.fields import stacked
from jointed_crane.core.hierarchy.dependencies import waves
from jointed_crane.core.hierarchy.tree import descendants
from jointed_crane.core.model.scene import Inherits, Part, Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.viewing.projection import inverse_of, linear_of, origin_of

Floats = npt.NDArray[np.float64]
#: What stays on the stage while a part's own coordinates change.
Staying = Literal["art", "pivot"]
#: Parts that lie closer to their place than this share of their size have not moved.
_STILL = 1e-12


def brought_back(before: Scene, after: Scene, part_id: str, frame: float | None, kept: Staying = "art") -> Scene:
    """`after` with a part brought back, for all frames alike, so that its art, or the point it turns about, lies where
    `before` shows it.
    """
    zero: Aspect = "zero" if kept == "art" else "place"
    part = after.part(part_id)
    if not is_placed_by_constraints(part):
        return after.with_parts([part.with_rest_moved(_step_back(before, after, part_id, frame, zero))])
    if kept == "art":  # what constraints find stays, so that they have the less to make up for
        was, now = _unconstrained(before, part_id), _unconstrained(after, part_id)
        after = after.with_parts([part.with_rest_moved(_step_back(was, now, part_id, frame, zero))])
    kinds: tuple[Aspect, ...] = ("size", "turn", zero)
    wanted = {kind: aspect_at(before, part_id, frame, kind) for kind in kinds}
    return brought(after, part_id, wanted, frame, "throughout")


def _step_back(before: Scene, after: Scene, part_id: str, frame: float | None, kept: Aspect) -> Floats:
    """How far the part's own place has to go so that it lies where it was, px in its parent."""
    part = after.part(part_id)
    if kept == "zero":
        off = origin_of(world_at(before, part_id, frame)) - origin_of(world_at(after, part_id, frame))
    else:
        off = pivot_at(before, part_id, frame) - pivot_at(after, part_id, frame)
    return in_parent(after, part, off, frame)


def _unconstrained(scene: Scene, part_id: str) -> Scene:
    """The scene with the part lying where it would without the constraints that place it; its joints stay turned."""
    part = scene.part(part_id)
    if not is_placed_by_constraints(part):
        return scene
    left = tuple(one for one in part.constraints if one.turns_joints)
    return scene if left == part.constraints else scene.with_parts([replace(part, constraints=left)])


def kept_as_shown(before: Scene, after: Scene, frame: float | None, but: Collection[str] = ()) -> Scene:
    """`after` with every part that both scenes have lying where `before` shows it, but those that the edit is there to
    move; those first that others are placed from. RuleError, with a name, where no number brings one there.
    """
    was, now = _what_may_move(before, after, frame)
    kept = [after.parts[place].id for wave in waves(after.parts) for place in wave]
    kept = [part_id for part_id in kept if part_id in was and part_id in now and part_id not in but]
    for part_id in kept:
        if lies_elsewhere(was[part_id], now[part_id]):
            laid = _laid_as_shown(before, after, part_id, frame)
            again = _worlds(moved_pose(SceneChange(after, laid), frame))
            now |= {part_id: again[part_id] for part_id in again.keys() & now.keys()}
            after = laid
    moved = next((part_id for part_id in kept if lies_elsewhere(was[part_id], now[part_id], 100.0)), None)
    if moved is not None:
        raise RuleError(
            f"{after.part(moved).name} would not stay where it is: what it depends on is not left as it was. "
            "Nothing was changed; take its constraints off first."
        )
    return after


def refuse_moved(before: Scene, after: Scene, frame: float | None) -> None:
    """RuleError where a part that has a picture lies elsewhere than before."""
    was, now = _what_may_move(before, after, frame)
    pictured = [part for part in after.parts if part.drawings and part.id in was and part.id in now]
    moved = next((part for part in pictured if lies_elsewhere(was[part.id], now[part.id], 100.0)), None)
    if moved is not None:
        raise RuleError(f"{moved.name} would move by that. Nothing was changed; take its constraints off first.")


def _what_may_move(before: Scene, after: Scene, frame: float | None) -> tuple[dict[str, Floats], dict[str, Floats]]:
    """Where parts lie in both scenes: those that differ, and all that goes by them."""
    now = _worlds(moved_pose(SceneChange(before, after), frame))
    known = [part_id for part_id in now if part_id in before.index]
    was = pose_of(before, known, frame)
    return {part_id: was.world_of(part_id) for part_id in known}, now


def _worlds(pose: Pose) -> dict[str, Floats]:
    return {part_id: pose.world_of(part_id) for part_id in pose.index}


def lies_elsewhere(was: Floats, now: Floats, times: float = 1.0) -> bool:
    """Whether world matrices differ by more than rounding, or by so many times as much."""
    return bool(np.abs(was - now).max() > times * _STILL * max(1.0, float(np.abs(was).max())))


def _laid_as_shown(before: Scene, after: Scene, part_id: str, frame: float | None) -> Scene:
    """`after` with one part lying where `before` shows it, whatever constraints and links made of it there."""
    part = after.part(part_id)
    if is_placed_by_constraints(part):
        return brought_back(before, after, part_id, frame)
    values = driven_values(after, part, frame)
    spin = stacked(rotation(values, "spin", part.turn_order), ())
    motion = np.diag([_over(values[f"scale.{axis}"], part.rest_value(f"scale.{axis}")) for axis in "xyz"])
    linear = linear_of(world_at(before, part_id, frame)) @ spin.T @ inverse_of(motion, part)
    after = after.with_parts([_with_linear(part, values, inverse_of(parent_linear(after, part, frame), part) @ linear)])
    return after.with_parts([after.part(part_id).with_rest_moved(_step_back(before, after, part_id, frame, "zero"))])


def _over(value: float, rest: float) -> float:
    return value / rest if rest else 1.0


def rejoined(scene: Scene, part_ids: Sequence[str], parent_id: str | None, frame: float | None) -> Scene:
    """Parts on another parent, none of which hangs on another, lying exactly where they are shown, and all that hangs
    on them too.

    Parts below that take only some of a placement would notice how their parent's rotation and scale were taken
    apart; they are laid anew where they were.
    """
    after = scene.with_parts(replace(scene.part(part_id), parent=parent_id, seat=None) for part_id in part_ids)
    after = _laid(scene, after, part_ids, frame)
    for part_id in part_ids:
        after = with_partial_laid(scene, after, part_id, frame)
    return after


def with_partial_laid(before: Scene, after: Scene, part_id: str, frame: float | None) -> Scene:
    """`after` with the parts below one that inherit partly lying where `before` shows them."""
    if all(part.inherits == Inherits() for part in after.parts):
        return after
    partial = [below for below in descendants(after, part_id) if after.part(below).inherits != Inherits()]
    before_pose = after_pose = None  # looked at once for all that no constraint places
    for below in partial:
        if after.part(below).constraints:
            was, now = (world_at(_unconstrained(scene, below), below, frame) for scene in (before, after))
        else:
            before_pose = before_pose or pose_of(before, partial, frame)
            after_pose = after_pose or pose_of(after, partial, frame)
            was, now = before_pose.world_of(below), after_pose.world_of(below)
        if lies_elsewhere(was, now):
            after, after_pose = _laid(before, after, [below], frame), None
    return after


def _laid(before: Scene, after: Scene, part_ids: Sequence[str], frame: float | None) -> Scene:
    """`after` with some parts lying where `before` puts them before their constraints act, so that these find them
    there: local' = inverse(new parent world) world.

    The new local linear part is split by QR into rotation (which goes into O), shear and scale (into their rest
    values). The motion scale is left out of the split on both sides, so that a part keyed to nothing keeps its rest.
    """
    for scene in (before, after):  # all at once, before they are asked for one by one
        pose_of(scene, part_ids, frame)
    turned = []
    for part_id in part_ids:
        part, moved = before.part(part_id), after.part(part_id)
        values = driven_values(before, part, frame)
        for axis in "xyz":
            values[f"scale.{axis}"] = part.rest_value(f"scale.{axis}")
        own = own_linear(part, values)
        to_new_parent = inverse_of(parent_linear(after, moved, frame), part)
        turned.append(_with_linear(moved, values, to_new_parent @ parent_linear(before, part, frame) @ own))
    after = after.with_parts(turned)
    pose_of(after, part_ids, frame)
    steps = (
        _step_back(_unconstrained(before, part_id), _unconstrained(after, part_id), part_id, frame, "place")
        for part_id in part_ids
    )
    return after.with_parts(part.with_rest_moved(step) for part, step in zip(turned, steps, strict=True))


def _with_linear(part: Part, values: Mapping[str, float], linear: Floats) -> Part:
    """The part with a linear part in its parent, shape (3, 3), its motion scale left out, split into what rests."""
    inverse_of(linear, part)
    signs = np.sign([part.rest_value(f"scale.{axis}") for axis in "xyz"])
    turned, shear, scale = rotation_shear_scale(linear, signs)
    rest = {f"scale.{axis}": scale[i] for i, axis in enumerate("xyz")}
    for i, name in enumerate(("shear.xy", "shear.xz", "shear.yz")):
        rest[name] = shear[i] - (values[name] - part.rest_value(name))
    turn = stacked(rotation(values, "turn", part.turn_order), ())
    return replace(part, orientation=quaternion(turned @ turn.T)).with_rest(rest)
