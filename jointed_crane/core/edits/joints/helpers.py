"""Edits of helpers: adding one above parts, and taking a scale off one again."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import number_channel
from jointed_crane.core.edits.constraints.constraining import without_stray_numbers
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.staying import kept_as_shown, rejoined
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.hierarchy.tree import free_name, uppermost
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import in_art_space, on_ground
from jointed_crane.core.viewing.view import STAGE, View

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class AddHelper(Edit, kind="add_helper"):
    """Add a part without a picture. It becomes the parent of `over`, which stay where they are shown; of parts that
    hang on each other only of the uppermost.

    It stands at `place` (px of a view, on the plane of the stage) or, without one, in the middle of the pivots of
    `over`.
    """

    id: str
    over: tuple[str, ...] = ()
    place: tuple[float, float] | None = None
    name: str = "Helper"
    frame: float | None = None
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Add helper {self.name}"

    def apply(self, scene: Scene) -> Scene:
        if self.id in scene.index:
            raise RuleError(f"A part with the id {self.id!r} is in the scene already. Nothing was changed.")
        picked = [part.id for part in unlocked(scene, self.over)] if self.over else []
        children = [scene.part(part_id) for part_id in uppermost(scene, picked)]
        parents = {part.parent for part in children}
        parent = parents.pop() if len(parents) == 1 else None
        place = self._middle(scene, children) if self.place is None else on_ground(self.place, self.view)
        world = world_at(scene, parent, self.frame)
        helper = Part(
            id=self.id, name=free_name(self.name, (p.name for p in scene.parts)), kind="helper", parent=parent
        )
        at = in_art_space(world, place, helper)
        helper = helper.with_rest({"move.x": at[0], "move.y": at[1], "move.z": at[2]})
        after = replace(scene, parts=(*scene.parts, helper))
        after = rejoined(after, [child.id for child in children], self.id, self.frame)
        if len(children) == 1 and self.place is None:
            after = _with_reaches_taken(after, children[0].id, self.id)
        return kept_as_shown(scene, after, self.frame)

    def _middle(self, scene: Scene, children: list[Part]) -> Floats:
        if not children:
            return np.array([scene.width / 2, scene.height / 2, 0.0])
        return np.asarray(np.mean([pivot_at(scene, part.id, self.frame) for part in children], axis=0))


@dataclass(frozen=True)
class UnscaleHelper(Edit, kind="unscale_helper"):
    """Bring a helper's rest scale to 1 while the parts on it stay where they lie at rest."""

    part: str

    def label(self, scene: Scene) -> str:
        return f"Unscale {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        before = scene
        children = [child.id for child in scene.children.get(part.id, ())]
        seats = {child: scene.part(child).seat for child in children}
        for child in children:
            scene = rejoined(scene, [child], part.parent, None)
        scene = scene.with_parts([part.with_rest({f"scale.{axis}": 1.0 for axis in "xyz"})])
        for child in children:
            scene = rejoined(scene, [child], part.id, None)
        after = scene.with_parts(replace(scene.part(child), seat=seat) for child, seat in seats.items())
        return kept_as_shown(before, after, None, but=(part.id,))


def _with_reaches_taken(scene: Scene, part_id: str, helper_id: str) -> Scene:
    """What reached with a part reaches with the helper that lies on its pivot above it: no joint is added between."""
    part, helper = scene.part(part_id), scene.part(helper_id)
    taken = tuple(one for one in part.constraints if one.turns_joints and not one.turned()[1])
    if not taken:
        return scene
    own = {number_channel(one.id, number) for one in taken for number in one.numbers()}
    helper = replace(
        helper,
        constraints=taken,
        rest={**helper.rest, **{name: value for name, value in part.rest.items() if name in own}},
        channels={name: channel for name, channel in part.channels.items() if name in own},
        links=tuple(link for link in part.links if link.onto in own),
    )
    left = replace(part, constraints=tuple(one for one in part.constraints if one not in taken))
    return scene.with_parts([without_stray_numbers(left), helper])
