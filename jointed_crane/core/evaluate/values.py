"""Channel values as they count: motion joined with rest, and the rotations made of them."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.packing.plan import Plan
from jointed_crane.core.evaluate.placement import rotation
from jointed_crane.core.geometry.fields import Entry, Matrix, entry
from jointed_crane.core.model.channels import CHANNELS, countable, joined
from jointed_crane.core.model.scene import Part
from jointed_crane.core.motion.channel import BARE
from jointed_crane.core.motion.curves import PackedCurves
from jointed_crane.core.motion.curves import values as curve_values

Floats = npt.NDArray[np.float64]


def effective(plan: Plan, motion: Floats) -> dict[str, Entry]:
    """Rest and motion joined, by channel; a channel nothing moves stays (parts, 1) or a plain number.

    Parameters
    ----------
    motion : array, shape (curves, frames), a motion value for each of the plan's curves
    """
    values = dict(plan.still)
    for keyed in plan.keyed:
        name, rest = keyed.name, plan.rest[keyed.name]
        moved = joined(CHANNELS[name], rest[keyed.rows], motion[keyed.curves])
        if len(keyed.rows) < len(plan.parts):
            full = np.repeat(rest, motion.shape[1], axis=1)
            full[keyed.rows] = moved
            moved = full
        values[name] = moved
    return values


def rotations(plan: Plan, values: dict[str, Entry], channel: str) -> Matrix:
    """R(turn) or R(spin): one rotation for each turn order in use, each part taking its own."""
    outcome = [(rows, rotation(values, channel, order)) for order, rows in plan.orders.items()]
    result = outcome[0][1]
    for rows, other in outcome[1:]:
        result = [[entry(np.where(rows, other[i][j], result[i][j])) for j in range(3)] for i in range(3)]
    return result


def with_rows(plan: Plan, value: Entry, channel: str, by_row: Mapping[int, float], is_at_rest: bool) -> Floats:
    """A channel's values at one frame with other ones in some rows: rest values or motion values."""
    full = alone(plan, value).copy()
    rows = np.fromiter(by_row, dtype=np.intp)
    news = np.fromiter(by_row.values(), dtype=np.float64)[:, None]
    full[rows] = news if is_at_rest else joined(CHANNELS[channel], plan.rest[channel][rows], news)
    return full


def alone(plan: Plan, value: Entry) -> Floats:
    """A channel's values with a row for each part: one column where nothing moves it, else one for each frame."""
    array = np.asarray(value)
    return np.broadcast_to(array, (len(plan.parts), array.shape[-1] if array.ndim else 1))


def motion_values(part: Part, name: str, frames: Floats) -> Floats:
    """A channel's own motion values at ascending frames, shape (frames,)."""
    curve = PackedCurves((countable(name, part.channels.get(name, BARE), part.rest_value(name)),))
    result: Floats = curve_values(curve, frames)[0]
    return result
