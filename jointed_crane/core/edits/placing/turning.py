"""Edits that turn and scale several parts about one shared point, and the marks that can be such a point."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.constraints.constraining import without_constraints
from jointed_crane.core.edits.placing.poses import moved, scaled, turned
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.named_things import all_but, exchanged_for, the_one
from jointed_crane.core.edits.shared.setting_values import ValueEdit
from jointed_crane.core.edits.shared.turns_in_space import turned_about
from jointed_crane.core.edits.shared.values_on_screen import NewValue
from jointed_crane.core.edits.shared.way_back import (
    Aspect,
    aspect_at,
    brought,
    is_placed_by_constraints,
    turned_by,
    values_between,
)
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, pose_at
from jointed_crane.core.geometry.decomposition import rotation_about
from jointed_crane.core.hierarchy.tree import free_name, uppermost
from jointed_crane.core.measures.snapping import NO_SNAPPING, Snap, Snapping, nearest_on_stage
from jointed_crane.core.model.scene import Mark, Part, Scene
from jointed_crane.core.viewing.projection import on_ground, seen_from, steps_in_space
from jointed_crane.core.viewing.view import STAGE, View

Floats = npt.NDArray[np.float64]
#: A place in a view, the middle of the pivots, the pivot of the part picked last or of its parent, or a mark's id.
Centre = tuple[float, float] | Literal["shared centre", "last picked", "parent's pivot"] | str


def turning_centre(
    scene: Scene, part_ids: tuple[str, ...], about: Centre, frame: float | None, view: View = STAGE
) -> Floats:
    """Where several parts turn about together, px in space, shape (3,); a place of a view lies as deep as their
    middle.
    """
    unlocked(scene, part_ids)
    if about == "last picked":
        return pivot_at(scene, part_ids[-1], frame)
    if about == "parent's pivot":
        last = scene.part(part_ids[-1])
        if last.parent is None:
            raise RuleError(f"{last.name} has no parent to turn about. Nothing was changed; join it first.")
        return pivot_at(scene, last.parent, frame)
    if isinstance(about, str) and about != "shared centre":
        return np.array([*_mark(scene, about).place, 0.0])
    pose = pose_at(scene, frame)
    middle = np.asarray(pose.pivot[[pose.index[part_id] for part_id in part_ids], 0].mean(axis=0))
    if isinstance(about, str):
        return middle
    there = seen_from(middle, view)
    return middle + steps_in_space((about[0] - float(there[0]), about[1] - float(there[1])), middle, view)


def _carried(
    scene: Scene, parts: tuple[str, ...], centre: Floats, by: Floats, frame: float | None
) -> Iterator[tuple[Part, Floats]]:
    """The uppermost of the parts, each with the step, px in space, that brings its pivot where a linear map about a
    place takes it.
    """
    ids = uppermost(scene, _bodies(scene, [part.id for part in unlocked(scene, parts)], frame))
    pose = pose_at(scene, frame)
    arms = pose.pivot[[pose.index[part_id] for part_id in ids], 0] - centre
    yield from zip(map(scene.part, ids), arms @ by.T - arms, strict=True)


def _as_body(
    scene: Scene, part: Part, step: Floats, degrees: float, factor: float, frame: float | None
) -> Iterator[NewValue]:
    """What constraints place is turned, sized and moved by their numbers; RuleError where those cannot do it."""
    kinds: tuple[Aspect, ...] = ("size", "turn", "place")
    now = {kind: aspect_at(scene, part.id, frame, kind) for kind in kinds}
    wanted: dict[Aspect, np.ndarray] = {"place": now["place"] + step}
    if degrees:
        wanted["turn"] = now["turn"] + np.deg2rad(degrees)
    if factor != 1 and factor:
        wanted["size"] = now["size"] + np.log(abs(factor))
    turned_already = turned_by(scene, part, degrees, frame) if degrees else None
    order = {kind: wanted[kind] for kind in kinds if kind in wanted}
    after = brought(turned_already or scene, part.id, order, frame, "shown")
    yield from values_between(scene, after, frame)


def _bodies(scene: Scene, part_ids: Iterable[str], frame: float | None) -> list[str]:
    """The parts that are turned and scaled together: of one that is held between goals, those in its stead."""
    result: dict[str, None] = {}
    for part_id in part_ids:
        led = (one.led(frame) for one in scene.part(part_id).constraints if one.is_on)
        goals = next((goals for goals in led if len(goals) > 1), ())
        held = [goal.part for goal in goals if goal.part is not None and not scene.part(goal.part).locked]
        result.update(dict.fromkeys(held if held and len(held) == len(goals) else [part_id]))
    return list(result)


@dataclass(frozen=True)
class TurnAbout(ValueEdit, kind="turn_about"):
    """Turn parts by degrees as seen in a view about one point, as one body: a place of the view in px, "shared centre",
    "last picked", "parent's pivot" (of the last picked), or a mark by its id.

    Of parts that hang on each other only the uppermost are turned; the rest follow.
    """

    parts: tuple[str, ...]
    degrees: float
    about: Centre
    frame: float | None = None
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Turn {named(scene.part(part_id) for part_id in self.parts)} together"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        centre = turning_centre(scene, self.parts, self.about, self.frame, self.view)
        towards = -self.view.sight_of(centre)
        for part, step in _carried(scene, self.parts, centre, rotation_about(towards, self.degrees), self.frame):
            if is_placed_by_constraints(part):
                yield from _as_body(scene, part, step, self.degrees, 1.0, self.frame)
                continue
            yield from moved(scene, part, step, self.frame)
            if scene.depth:
                yield from turned_about(scene, part, towards, self.degrees, self.frame)
            else:
                yield from turned(scene, part, self.degrees, self.frame)


@dataclass(frozen=True)
class ScaleAbout(ValueEdit, kind="scale_about"):
    """Scale parts by one factor about one point, as one body; only the uppermost are scaled, the rest follow."""

    parts: tuple[str, ...]
    factor: float
    about: Centre
    frame: float | None = None
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Scale {named(scene.part(part_id) for part_id in self.parts)} together"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        centre = turning_centre(scene, self.parts, self.about, self.frame, self.view)
        factors = np.array([self.factor, self.factor, self.factor if scene.depth else 1.0])
        for part, step in _carried(scene, self.parts, centre, np.diag(factors), self.frame):
            if is_placed_by_constraints(part):
                yield from _as_body(scene, part, step, 0.0, self.factor, self.frame)
                continue
            yield from moved(scene, part, step, self.frame)
            yield from scaled(part, (self.factor, self.factor), self.frame)


@dataclass(frozen=True)
class AddMark(Edit, kind="add_mark"):
    """Place a mark on the stage, where its plane is seen at a place of a view, px; its name is made unique."""

    id: str
    place: tuple[float, float]
    name: str = "Mark"
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Add mark {self.name}"

    def apply(self, scene: Scene) -> Scene:
        name = free_name(self.name, (mark.name for mark in scene.marks))
        return replace(scene, marks=(*scene.marks, Mark(self.id, name, _on_plane(self.place, self.view))))


@dataclass(frozen=True)
class SetMark(Edit, kind="set_mark"):
    """Move or rename a mark; None keeps its place or name.

    A place is drawn to the nearest pivot, centre, eyelet or mark that `snapping` allows.
    """

    mark: str
    place: tuple[float, float] | None = None
    name: str | None = None
    snapping: Snapping = NO_SNAPPING
    frame: float | None = None
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return "Change a mark"

    def apply(self, scene: Scene) -> Scene:
        known = _mark(scene, self.mark)
        snap = self.snap(scene)
        place = snap.point if snap else known.place if self.place is None else _on_plane(self.place, self.view)
        changed = replace(known, place=place, name=(self.name or known.name).strip())
        return replace(scene, marks=exchanged_for(scene.marks, known, changed))

    def snap(self, scene: Scene) -> Snap | None:
        """The place the mark is drawn to, or None."""
        if self.place is None:
            return None
        return nearest_on_stage(scene, _on_plane(self.place, self.view), self.snapping, self.frame, self.mark)


@dataclass(frozen=True)
class DeleteMark(Edit, kind="delete_mark"):
    """Take a mark off the stage."""

    mark: str

    def label(self, scene: Scene) -> str:
        return f"Delete mark {_mark(scene, self.mark).name}"

    def apply(self, scene: Scene) -> Scene:
        left = all_but(scene.marks, _mark(scene, self.mark))
        scene = scene.with_parts(replace(part, level=None) for part in scene.parts if part.level == self.mark)
        return replace(
            without_constraints(scene, lambda goal: goal.at == "mark" and goal.named == self.mark), marks=left
        )


def _on_plane(place: tuple[float, float], view: View) -> tuple[float, float]:
    x, y, _ = on_ground(place, view).tolist()
    return x, y


def _mark(scene: Scene, mark_id: str) -> Mark:
    return the_one(scene.marks, mark_id, "mark on the stage")
