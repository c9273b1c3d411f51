"""The edit that turns what a constraint does into keys."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Constraint, of_kind
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.edits.constraints.constraining import constraint_of, without_stray_numbers
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.inverse_placement import PLACING, placing_values, refuse_depth
from jointed_crane.core.evaluate.pose_at_frame import narrowed
from jointed_crane.core.evaluate.stretches import corners_of, in_stretches
from jointed_crane.core.evaluate.values import motion_values
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.hierarchy.chains import chains_of
from jointed_crane.core.hierarchy.dependencies import dependencies_of
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.fitting import ensure_followable, fitted
from jointed_crane.core.viewing.projection import on_stage

Floats = npt.NDArray[np.float64]
#: A channel that would differ from its own course by less, as a share of what it may stray, keeps it.
_STILL = 1e-4
#: How often finer keys are tried where the first ones stray farther than the tolerance, each time by half.
_TRIES = 6


@dataclass(frozen=True)
class KeepAsKeys(Edit, kind="keep_as_keys"):
    """Put keys in the place of a constraint, as few as keep all corners of the art within a tolerance, px on the stage,
    at every quarter of a frame. Constraints of the part that act before it are kept as keys with it; a reach is kept in
    the turns of its joints.
    """

    part: str
    constraint: str
    tolerance: float = 0.1

    def label(self, scene: Scene) -> str:
        part = scene.part(self.part)
        return f"Keep {constraint_of(part, self.constraint).name} of {part.name} as keys"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = constraint_of(part, self.constraint)
        if not self.tolerance > 0:
            raise RuleError("The tolerance is a length above 0 px. Nothing was changed.")
        if known.turns_joints:
            names = list(dict.fromkeys((*chains_of(scene.parts)[part.id, known.id], part.id)))
            for reach in of_kind([known], Reach):
                _refuse_placed_joints(scene, reach, names[:-1])
            kept = {name: [one for one in scene.part(name).constraints if one is not known] for name in names}
            acting = _with(scene, {name: [known] if name == part.id else [] for name in names})
        else:
            names = [part.id]
            gone, later = _until(part.constraints, known)
            kept = {part.id: later}
            acting = _with(scene, {part.id: gone})
        _refuse_other_chains(scene, known, names)
        parts = unlocked(scene, names)
        for one in parts:
            refuse_depth(one)
        bare = _with(scene, {name: [] for name in names})
        film = _Film(scene, acting, parts)
        tolerance = self.tolerance / (2 * len(parts))
        for _ in range(_TRIES):
            keyed = bare.with_parts(film.keyed(one, tolerance) for one in parts)
            if film.farthest_off(keyed) <= self.tolerance:
                break
            tolerance /= 2
        else:
            raise RuleError(f"No keys follow {known.name} of {part.name} so closely. Nothing was changed.")
        return scene.with_parts(
            without_stray_numbers(replace(keyed.part(name), constraints=tuple(kept[name]))) for name in names
        )


@dataclass
class _Film:
    """What is to be kept as keys: a scene in which the constraint acts alone."""

    scene: Scene
    acting: Scene
    parts: list[Part]

    def __post_init__(self) -> None:
        names = [part.id for part in self.parts]
        self.alone = narrowed(self.acting, names)
        sources = [self.scene.part(name) for name in dependencies_of(self.acting).with_sources(names)]
        every = [frame for part in sources for channel in part.channels.values() for frame in channel.frames]
        self.first, self.last = min([0.0, *every]), max([self.scene.length - 1.0, *every])
        count = max(len(self.parts) * len(PLACING), len(self.alone.parts))
        ensure_followable((self.last - self.first) * count)
        self.grid = np.arange(self.first, self.last + 0.25, 0.25)
        self.corners = corners_of(sources, self.first, self.last)
        self.known: dict[tuple[str, bytes], dict[str, Floats]] = {}
        self.turns = {part.id: self._whole_turns(part) for part in self.parts}

    def _values(self, part: Part, frames: Floats) -> dict[str, Floats]:
        key = (part.id, frames.tobytes())
        if key not in self.known:
            result = [
                placing_values(self.alone, part, stretch) for stretch in in_stretches(frames, len(self.alone.parts))
            ]
            self.known[key] = {name: np.concatenate([values[name] for values in result]) for name in PLACING}
        return self.known[key]

    def _whole_turns(self, part: Part) -> Floats:
        """The turn at each frame of the grid as it goes on, whole turns counted from those the part has by hand."""
        turns = np.rad2deg(np.unwrap(np.deg2rad(self._values(part, self.grid)["turn.z"])))
        by_hand = motion_values(part, "turn.z", self.grid[:1])[0]
        result: Floats = turns + 360 * np.round((by_hand - turns[0]) / 360)
        return result

    def course(self, part: Part, name: str) -> Callable[[Floats], Floats]:
        """The values that a channel of a part is to take."""

        def values(frames: Floats) -> Floats:
            result = self._values(part, frames)[name]
            if name == "turn.z":
                near = np.interp(frames, self.grid, self.turns[part.id])
                result = result + 360 * np.round((near - result) / 360)
            return result

        return values

    def keyed(self, part: Part, tolerance: float) -> Part:
        """The part with keys on what places it, where that is not what it does by itself."""
        radius = max(1.0, float(np.linalg.norm(_corners_of(part) - np.array(part.pivot[:2]), axis=-1).max()))
        radius = max(radius, *(self._reach(other) for other in self.parts))
        amounts = {"turn.z": np.rad2deg(tolerance / radius), "scale.x": tolerance / radius}
        amounts |= {"scale.y": amounts["scale.x"], "shear.xy": amounts["scale.x"]}
        after = replace(part, constraints=(), footholds=())
        for name in PLACING:
            course = self.course(part, name)
            amount = amounts.get(name, tolerance)
            off = np.abs(course(self.grid) - motion_values(part, name, self.grid)).max()
            if part.footholds or off > _STILL * amount:
                keys = fitted(course, self.first, self.last, amount, self.corners)
                after = after.with_channel(name, Channel(keys))
        return after

    def _reach(self, part: Part) -> float:
        """How far the art of a part goes from its parent's pivot, px: what a turn above it is felt by."""
        above = np.array(self.scene.part(part.parent).pivot[:2]) if part.parent else np.zeros(2)
        rest = np.array([part.rest_value("move.x"), part.rest_value("move.y")])
        own = np.linalg.norm(_corners_of(part) - np.array(part.pivot[:2]), axis=-1).max()
        return float(np.linalg.norm(rest - above) + own) if len(self.parts) > 1 else 0.0

    def farthest_off(self, keyed: Scene) -> float:
        """How far corners of the parts lie from where they should be, px on the stage."""
        most, kept = 0.0, narrowed(keyed, self.turns)
        for stretch in in_stretches(self.grid, len(self.alone.parts)):
            wanted, result = (evaluate(scene, stretch) for scene in (self.alone, kept))
            for part in self.parts:
                corners = _corners_of(part)
                there, here = (on_stage(pose.world[pose.index[part.id]], corners) for pose in (wanted, result))
                most = max(most, float(np.abs(np.linalg.norm(there - here, axis=-1)).max()))
        return most


def _corners_of(part: Part) -> Floats:
    """The corners of the art, or the pivot where there is none, px in art space, shape (4, 2)."""
    if part.bounds is None:
        return np.repeat([part.pivot[:2]], 4, axis=0)
    return box_corners(part.bounds)


def _until(constraints: tuple[Constraint, ...], known: Constraint) -> tuple[list[Constraint], list[Constraint]]:
    """Those that act until one and with it, and those that are left; a reach turns other parts and is left."""
    at = constraints.index(known)
    gone: list[Constraint] = [one for one in constraints[: at + 1] if not one.turns_joints]
    return gone, [one for one in constraints if not any(one is other for other in gone)]


def _with(scene: Scene, constraints: dict[str, list[Constraint]]) -> Scene:
    return scene.with_parts(replace(scene.part(name), constraints=tuple(ones)) for name, ones in constraints.items())


def _refuse_other_chains(scene: Scene, known: Constraint, names: list[str]) -> None:
    chains = chains_of(scene.parts)
    for part in scene.parts:
        for one in part.constraints:
            if one.turns_joints and one is not known and one.is_on:
                shared = [scene.part(joint).name for joint in chains[part.id, one.id] if joint in names]
                turned = f"turns {shared[0]} too" if shared else ""
                if turned or part.id in names:
                    raise RuleError(
                        f"{one.name} of {part.name} {turned or f'reaches with {part.name}'}. Nothing was changed; keep "
                        "that as keys first, or take it off."
                    )


def _refuse_placed_joints(scene: Scene, known: Reach, joints: list[str]) -> None:
    """An end that keeps its own turn keeps it whatever else places its joints, which no keys of its own would."""
    placed = next((name for name in joints if any(one.is_on for one in scene.part(name).constraints)), None)
    if known.keeps_turn and placed is not None:
        raise RuleError(
            f"{scene.part(placed).name} has constraints of its own. Nothing was changed; keep those as keys first."
        )
