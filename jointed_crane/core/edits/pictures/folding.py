"""The edit that makes hinges of the edges at which flat panels lie together, and folds them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LONGEST_ID, MOST_FOLDED
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.constraints.levers_and_links import AddLever, SetLink
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.registering import AlignAxes
from jointed_crane.core.edits.placing.pivots import MovePivot
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.measures.snapping import panel_corners
from jointed_crane.core.model.levers import LEVER_CHANNELS, Axis, Lever, Link
from jointed_crane.core.model.scene import Inherits, Part, Scene
from jointed_crane.core.viewing.projection import carried, in_art, in_space

Floats = npt.NDArray[np.float64]
#: Edges shorter than this many times the tolerance are none.
_LEAST_EDGE = 4.0


@dataclass(frozen=True)
class Fold(Edit, kind="fold"):
    """Fold panels that lie flat beside each other at Rest: where edges of two lie together, within `tolerance` px on
    the stage, they become a hinge, with the pivot in its middle and the x axis along it.

    The first part stays as it is. The others hang on each other from there, edge by edge, and each is turned by `angle`
    degrees about its hinge, above 0 towards the viewer, or by its own of `angles`, one for each but the first. Six
    squares so become a box at 90 degrees. With a `lever`, the id of a new one, they stay flat and the lever folds them:
    at 0 they are flat, at 1 they are folded.
    """

    parts: tuple[str, ...]
    angle: float = 90.0
    tolerance: float = 1.0
    lever: str | None = None
    angles: tuple[float, ...] = ()

    def label(self, scene: Scene) -> str:
        return f"Fold {named(map(scene.part, self.parts))}"

    def apply(self, scene: Scene) -> Scene:
        panels = unlocked(scene, self.parts)
        self._ensure_panels(scene, panels)
        edges = {panel.id: _edges(scene, panel) for panel in panels}
        hinges = list(self._hinges(edges))
        left = [panel for panel in panels[1:] if panel.id not in {child for child, *_ in hinges}]
        if left:
            raise RuleError(
                f"No edge of {named(left)} lies on one of the others within {self.tolerance:g} px. "
                "Nothing was changed; lay the panels edge to edge."
            )
        angles = dict(zip(self.parts[1:], self.angles or [self.angle] * len(panels), strict=False))
        turns, scene = {}, replace(scene, depth=True)  # first: a panel may lie with its back up
        for child, parent, start, end in hinges:
            scene = self._hinged(scene, child, parent, start, end)
            turns[child] = _sign(scene, child) * angles[child]
        if self.lever is None:
            return scene.with_parts(_turned(scene.part(child), turn) for child, turn in turns.items())
        first = pivot_at(scene, self.parts[0], None)
        axis = Axis(low=0.0, high=1.0, neutral=0.0)
        scene = AddLever(self.lever, "Fold", Lever(axes=(axis,)), None, (float(first[0]), float(first[1]))).apply(scene)
        for child, turn in turns.items():
            link = Link(
                id=f"{self.lever}-{child}"[:LONGEST_ID], source=self.lever, channel=LEVER_CHANNELS[0], onto="turn.x",
                amount=turn,
            )  # fmt: skip
            scene = SetLink(child, link).apply(scene)
        return scene

    def _ensure_panels(self, scene: Scene, panels: list[Part]) -> None:
        if not (self.tolerance >= 0 and np.isfinite([self.angle, *self.angles]).all()):
            raise RuleError("The tolerance is a length of 0 px or more, and angles are numbers. Nothing was changed.")
        if self.angles and len(self.angles) != len(self.parts) - 1:
            raise RuleError(
                f"There are angles for {counted(len(self.angles), 'panel')}, and {len(self.parts) - 1} to fold. "
                "Nothing was changed; give one for all, or one for each but the first."
            )
        if len({panel.id for panel in panels}) < 2 or len(panels) > MOST_FOLDED:
            raise RuleError(f"2 panels and more are folded, {MOST_FOLDED} at most. Nothing was changed.")
        for panel in panels:
            if panel.bounds is None:
                raise RuleError(f"{panel.name} has no picture, so it has no edges. Nothing was changed.")
        for panel in panels[1:]:
            if panel.constraints or panel.inherits != Inherits():
                why = "is placed by constraints" if panel.constraints else "takes only some of its parent"
                raise RuleError(f"{panel.name} {why}, so it would not keep to its hinge. Nothing was changed.")
        for panel in panels:
            if not np.allclose(world_at(scene, panel.id, None)[2, [0, 1, 3]], 0.0, atol=1e-6):
                raise RuleError(f"{panel.name} lies in depth already. Nothing was changed; lay it flat first.")

    def _hinges(self, edges: dict[str, Floats]) -> Iterator[tuple[str, str, Floats, Floats]]:
        """For each panel but the first the one that it hangs on, and the ends of its own edge there, px on the stage;
        those nearest to the first come first.
        """
        waiting, left = [next(iter(edges))], list(edges)[1:]
        for parent in waiting:
            for child in list(left):
                met = self._met(edges[child], edges[parent])
                if met is not None:
                    left.remove(child)
                    waiting.append(child)
                    yield (child, parent, *met)

    def _met(self, own: Floats, others: Floats) -> tuple[Floats, Floats] | None:
        """The ends of the edge of a panel that lies on an edge of another, whichever way round it runs."""
        away = np.minimum(*(
            np.linalg.norm(own[:, None] - ends, axis=-1).max(axis=-1) for ends in (others[None], others[None, :, ::-1])
        ))  # fmt: skip
        lengths = np.linalg.norm(own[:, 1] - own[:, 0], axis=-1)
        # Of those that lie there the longest: corners that are cut off may be shorter than the tolerance.
        lengths[away.min(axis=1) > self.tolerance] = 0.0
        longest = int(lengths.argmax())
        return (own[longest, 0], own[longest, 1]) if lengths[longest] > _LEAST_EDGE * self.tolerance else None

    def _hinged(self, scene: Scene, child: str, parent: str, start: Floats, end: Floats) -> Scene:
        if scene.part(child).parent != parent:
            scene = Join((child,), parent).apply(scene)
        x, y = ((start + end) / 2).tolist()
        scene = MovePivot(child, (x, y), "stage").apply(scene)
        part = scene.part(child)
        first, last = in_art(world_at(scene, child, None), np.array([start, end]), part.name).tolist()
        scene = AlignAxes(child, "line", tuple(first), tuple(last)).apply(scene)
        # So that x turns outermost, about the axis as it lies on the parent.
        return scene.with_parts([replace(scene.part(child), turn_order="XYZ")])


def _edges(scene: Scene, panel: Part) -> Floats:
    """The edges of a panel on the stage, shape (edges, 2, 2): of its outline, or of its box where that is round."""
    ring = panel_corners(panel)
    assert ring is not None
    corners = in_space(world_at(scene, panel.id, None), ring)[:, :2]
    return np.stack([corners, np.roll(corners, -1, axis=0)], axis=1)


def _turned(part: Part, by: float) -> Part:
    """A panel turned about its hinge from how it lies flat, which may be half a turn: with its back up."""
    return part.with_rest({"turn.x": part.rest_value("turn.x") + by})


def _sign(scene: Scene, child: str) -> float:
    """Which way round a panel turns about its hinge for it to come towards the viewer."""
    part = scene.part(child)
    assert part.bounds is not None
    left, top, right, bottom = part.bounds
    tried = scene.with_parts([_turned(part, 30.0)])
    middle = carried(world_at(tried, child, None), np.array([(left + right) / 2, (top + bottom) / 2, 0.0]))
    return 1.0 if middle[2] > 0 else -1.0
