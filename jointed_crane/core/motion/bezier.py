"""The parameter of a cubic Bezier at a share of its span, for many points at once."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

#: Newton steps below this size end the search; the step after it would be its square.
_STEP = 3e-8
#: The slope from which on a step as small as that leaves its square as the error; below it the search goes on.
_STEEP = 1e-3
#: Cells of an inverse table.
CELLS = 32


def bezier_parameter(
    share: Floats, a: Floats, b: Floats, c: Floats, near: Floats | None = None, *, steps: int = 3
) -> Floats:
    """The u in 0 .. 1 with ((a u + b) u + c) u = share, for cubics that rise from 0 to 1.

    With `near`, Newton's method starts there; the few points that have not arrived after some steps start anew.
    Without it (and for those) it starts where it cannot overshoot: a tangent to a function that rises and bends one
    way meets the wanted height on the near side of the root. So a cubic that is steepest at its inflection (a < 0)
    starts there, every other starts from the end that lies beyond the root on its side of the inflection.

    Parameters
    ----------
    share, a, b, c, near : arrays, shape (points,)
    """
    if near is None:
        return _from_safe_start(share, a, b, c)
    left = _not_arrived(near, _newton(near, share, a, b, c, steps))
    if len(left):  # most of these need a step or two more
        points = (share[left], a[left], b[left], c[left])
        on = near[left]
        lost = _not_arrived(on, _newton(on, *points, steps=4))
        if len(lost):
            on[lost] = _from_safe_start(*(values[lost] for values in points))
        near[left] = on
    return np.clip(near, 0.0, 1.0, out=near)


def _not_arrived(u: Floats, step: Floats) -> npt.NDArray[np.intp]:
    """Points whose last step was not small; one that left 0 .. 1 on its way may have found another root."""
    return np.flatnonzero(~(np.abs(step) < _STEP) | (u < -_STEP) | (u > 1 + _STEP))


def inverse_table(a: Floats, b: Floats, c: Floats) -> Floats:
    """The parameter at CELLS + 1 equal shares of each cubic, shape (cubics, CELLS + 1)."""
    shares = np.linspace(0, 1, CELLS + 1)
    points = [np.repeat(coefficient, CELLS + 1) for coefficient in (a, b, c)]
    return bezier_parameter(np.tile(shares, len(a)), *points).reshape(len(a), CELLS + 1)


def looked_up(table: Floats, rows: npt.NDArray[np.intp], share: Floats) -> Floats:
    """About the parameter at each share: straight between the entries of an inverse table."""
    scaled = share * CELLS
    cell = np.minimum(scaled.astype(np.intp), CELLS - 1)
    scaled -= cell
    cell += rows * (CELLS + 1)
    entries = table.reshape(-1)
    low = entries[cell]
    cell += 1
    high = entries[cell]
    high -= low
    high *= scaled
    high += low
    return high


def _from_safe_start(share: Floats, a: Floats, b: Floats, c: Floats) -> Floats:
    """Newton's method held between two bounds, halving them where a step would leave them or has no direction.

    Collapsed handles make cubics that stand still at an end or in the middle; there the slope is zero.
    """
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        bend = np.clip(np.nan_to_num(b / (-3 * a)), 0.0, 1.0)
    beyond = (((a * bend + b) * bend + c) * bend < share).astype(float)
    u = np.where(a < 0, bend, beyond)
    low, high = np.zeros_like(u), np.ones_like(u)
    result = u.copy()
    todo = np.arange(len(u))
    for _ in range(120):
        value = ((a * u + b) * u + c) * u - share
        low, high = np.where(value <= 0, u, low), np.where(value >= 0, u, high)
        slope = (3 * a * u + 2 * b) * u + c
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            wanted = u - value / slope
        is_within = (wanted >= low) & (wanted <= high)
        wanted = np.where(is_within, wanted, (low + high) / 2)
        step = np.abs(wanted - u)
        result[todo] = u = wanted
        enough = np.where(is_within & (slope > _STEEP), _STEP, _STEP * _STEP)
        left = np.flatnonzero((step > enough) & (value != 0))
        if len(left) == 0:
            break
        todo, u, low, high = todo[left], u[left], low[left], high[left]
        share, a, b, c = share[left], a[left], b[left], c[left]
    return np.clip(result, 0.0, 1.0)


def _newton(u: Floats, share: Floats, a: Floats, b: Floats, c: Floats, steps: int) -> Floats:
    """Newton steps on u in place; returns the last step."""
    value, slope = np.empty_like(u), np.empty_like(u)
    for _ in range(steps):
        np.multiply(a, u, out=slope)
        np.add(slope, b, out=value)
        slope += value
        value *= u
        value += c
        slope *= u
        slope += value
        value *= u
        value -= share
        with np.errstate(divide="ignore", invalid="ignore"):
            value /= slope
        u -= value
    return value
