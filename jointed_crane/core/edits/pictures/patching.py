"""The edit that closes a joint whose two ends are of different radius."""

from __future__ import annotations

from dataclasses import dataclass

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.pictures.painting import PlaceInOrder
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.evaluate.pose_at_frame import pivot_at
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.measures.round_joints import round_joint
from jointed_crane.core.model.forms import Ellipse, Paint
from jointed_crane.core.model.scene import Scene


@dataclass(frozen=True)
class AddRoundPatch(Edit, kind="add_round_patch"):
    """Lay a round patch about the joint of a part, as large as the larger of its round ends, so that the joint looks
    closed at every angle. It hangs on the part, and is painted right behind whichever of both is in front.

    Parameters
    ----------
    fill : the colour of the limb at the joint, as #rrggbb
    """

    part: str
    id: str
    fill: str

    def label(self, scene: Scene) -> str:
        return f"Round patch at {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        ends = round_joint(scene, part)
        radius = 0.0 if ends is None else ends.round_radius
        if part.parent is None or radius <= 0:
            raise RuleError(
                f"Neither {part.name} nor a parent of it ends round about the joint, so no patch has a size. Nothing "
                "was changed; place its pivot in its round end first."
            )
        x, y, _ = (float(value) for value in pivot_at(scene, part.id, None))
        patch = Ellipse((0.0, 0.0), (radius, radius), Paint(fill=self.fill))
        name = free_name(f"{part.name} patch", (other.name for other in scene.parts))
        order = [other.id for other in scene.parts]
        front = max(order.index(part.id), order.index(part.parent))
        after = Join((self.id,), part.id).apply(AddShape(self.id, patch, name, (x, y)).apply(scene))
        return PlaceInOrder((self.id,), order[front - 1] if front else None).apply(after)
