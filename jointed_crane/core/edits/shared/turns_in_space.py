"""How a part is turned about any line in space: by which turns about its own three axes."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.places import parent_linear
from jointed_crane.core.edits.shared.values_on_screen import NewValue, driven_values, value_on_screen
from jointed_crane.core.evaluate.placement import rotation
from jointed_crane.core.geometry.decomposition import rotation_about, rotation_matrices, turns_of
from jointed_crane.core.geometry.fields import stacked
from jointed_crane.core.measures.turning_rings import TurningRing, turning_rings
from jointed_crane.core.model.channels import TURN
from jointed_crane.core.model.scene import Part, Scene

Floats = npt.NDArray[np.float64]
#: A line lies along an axis where the sine between them is less than this.
_ALONG = 1e-12


def rings_of(scene: Scene, part: Part, frame: float | None) -> list[TurningRing]:
    """The circles on which a part turns about its pivot, as it is shown."""
    values = driven_values(scene, part, frame)
    above = parent_linear(scene, part, frame) @ rotation_matrices(np.array(part.orientation))
    return turning_rings(part, above, np.array([values[name] for name in TURN.names]))


def turned_about(scene: Scene, part: Part, axis: Floats, degrees: float, frame: float | None) -> Iterator[NewValue]:
    """The part turned about a line through its pivot, by the turns about its own axes that are nearest to those it has;
    where one of the circles on which it turns lies about that line by that one alone, whole turns included.

    Of a part with fixed turns only the free ones change, by as much of it as is about them: a hinge so turns about
    its one axis. A part whose parent is skewed turns as nearly as its own turns let it.

    Parameters
    ----------
    axis : array, shape (3,), a unit vector on the stage; degrees count from x towards y for z
    """
    free, rings = [name for name in TURN.names if name not in part.fixed], rings_of(scene, part, frame)
    about = next((ring for ring in rings if _lies_along(ring.axis, axis) and ring.channel in free), None)
    if about is not None:
        steps = {about.channel: degrees * float(np.sign(about.axis @ axis))}
    elif len(free) < len(TURN.names):
        steps = _steps_on_free(rings, free, axis * degrees)
    else:
        steps = _steps(scene, part, rotation_about(axis, degrees), frame)
    yield from _stepped(part, steps, frame)


def _lies_along(one: Floats, other: Floats) -> bool:
    return bool(one.any() and np.linalg.norm(np.cross(one, other)) < _ALONG)


def turned_by_rotation(scene: Scene, part: Part, turn: Floats, frame: float | None) -> Iterator[NewValue]:
    """The part turned about its pivot by a rotation in space, shape (3, 3), as `turned_about` does."""
    from scipy.spatial.transform import Rotation  # a third of a second to load, and most commands do without

    free = [name for name in TURN.names if name not in part.fixed]
    if len(free) < len(TURN.names):
        whole = np.rad2deg(Rotation.from_matrix(turn).as_rotvec())
        yield from _stepped(part, _steps_on_free(rings_of(scene, part, frame), free, whole), frame)
    else:
        yield from _stepped(part, _steps(scene, part, turn, frame), frame)


def _stepped(part: Part, steps: dict[str, float], frame: float | None) -> Iterator[NewValue]:
    for channel, by in steps.items():
        if abs(by) > 1e-12:
            yield part, channel, value_on_screen(part, channel, frame) + by


def _steps(scene: Scene, part: Part, turn: Floats, frame: float | None) -> dict[str, float]:
    u, sizes, vt = np.linalg.svd(parent_linear(scene, part, frame) @ rotation_matrices(np.array(part.orientation)))
    if not sizes[-1] > 1e-9 * max(float(sizes[0]), 1.0):
        raise RuleError(f"What {part.name} hangs on is scaled to nothing here. Nothing was changed.")
    above = u @ vt  # a mirror above turns it the other way round
    values = driven_values(scene, part, frame)
    now = stacked(rotation(values, "turn", part.turn_order), ())
    near = np.array([values[name] for name in TURN.names])
    wanted = turns_of(above.T @ turn @ above @ now, part.turn_order, near)
    return dict(zip(TURN.names, (wanted - near).tolist(), strict=True))


def _steps_on_free(rings: list[TurningRing], free: list[str], turn: Floats) -> dict[str, float]:
    """How far the free circles turn so that together they come nearest to a small turn (a vector along its axis)."""
    able = [ring for ring in rings if ring.channel in free]
    if not able:
        return {}
    axes = np.stack([ring.axis for ring in able], axis=1)
    steps = np.linalg.lstsq(axes, turn, rcond=1e-6)[0]
    return {ring.channel: float(step) for ring, step in zip(able, steps, strict=True)}
