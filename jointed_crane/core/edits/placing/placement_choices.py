"""Edits of how a part's placement is computed: turn order, spin centre, what it inherits, how a helper is drawn."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.model.scene import HelperForm, Inherits, PaintedBy, Scene, TurnOrder


@dataclass(frozen=True)
class SetPlacement(Edit, kind="set_placement"):
    """Change how a part's placement is computed: turn order, spin centre (px in art space), what it inherits.

    `painted_by` says in which order all that hangs on it is painted in depth. `size` (px) and `form` say how a helper
    is drawn, and nothing else: they never scale its children.

    None keeps one of them; `spin_about_art_centre` takes the spin centre back to the middle of the art.
    """

    part: str
    turn_order: TurnOrder | None = None
    spin_centre: Vector | None = None
    spin_about_art_centre: bool = False
    inherits: Inherits | None = None
    size: float | None = None
    form: HelperForm | None = None
    painted_by: PaintedBy | None = None

    def label(self, scene: Scene) -> str:
        return f"Change placement of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        return scene.with_parts(
            [
                replace(
                    part,
                    turn_order=self.turn_order or part.turn_order,
                    spin_centre=None if self.spin_about_art_centre else self.spin_centre or part.spin_centre,
                    inherits=self.inherits or part.inherits,
                    size=part.size if self.size is None else self.size,
                    form=self.form or part.form,
                    painted_by=self.painted_by or part.painted_by,
                )
            ]
        )
