"""The parameter of a cubic Bezier at a share of its span, for many points at once."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

#: A last Newton step below this size ends the search; the step after it would be its square.
_STEP = 3e-8
#: The slope from which on a step as small as that leaves its square as the error; below it the search goes on.
_STEEP = 1e-3
#: Points best stepped on together: few enough that the working arrays stay in the processor's nearest cache.
BLOCK = 16384


def bezier_parameter(share: Floats, a: Floats, b: Floats, c: Floats) -> Floats:
    """The u in 0 .. 1 with ((a u + b) u + c) u = share, for cubics that rise from 0 to 1.

    Halley's method starts at the share itself; after two steps and one of Newton's most handles that people shape have
    arrived. The others go on, and the few that lose their way start anew where they cannot.

    Parameters
    ----------
    share, a, b, c : arrays, shape (points,)
    """
    u, left = first_steps(share, a, b, c)
    on, points = u[left], [values[left] for values in (share, a, b, c)]
    lost = _not_arrived(on, *_step(on, *points))
    if len(lost):
        on[lost] = _from_safe_start(*(values[lost] for values in points))
    u[left] = np.clip(on, 0.0, 1.0)
    return u


def first_steps(share: Floats, a: Floats, b: Floats, c: Floats) -> tuple[Floats, npt.NDArray[np.intp]]:
    """Parameters as the first three steps from the share find them, and the places of those that have not arrived."""
    u = share.copy()
    left = _not_arrived(u, *_step(u, share, a, b, c))
    return np.clip(u, 0.0, 1.0, out=u), left


def _not_arrived(u: Floats, step: Floats, slope: Floats) -> npt.NDArray[np.intp]:
    """Points whose last step was not small, or where a small one says little because the cubic hardly rises; one that
    left 0 .. 1 on its way may have found another root.
    """
    return np.flatnonzero(~((np.abs(step) < _STEP) & (slope > _STEEP)) | (u < -_STEP) | (u > 1 + _STEP))


def _step(u: Floats, share: Floats, a: Floats, b: Floats, c: Floats) -> tuple[Floats, Floats]:
    """Two Halley steps on u in place, and one of Newton's; returns the last, by which one sees who has arrived.

    With f the distance from the share, Newton's step is f / f', Halley's f f' / (f' f' - f f'' / 2) (E. Halley 1694;
    the formula is from memory).
    """
    value, slope, bend, square = (np.empty_like(u) for _ in range(4))
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        for left in (2, 1, 0):
            np.multiply(a, u, out=square)
            np.add(square, b, out=value)  # a u + b
            np.add(square, value, out=slope)  # 2 a u + b
            if left:
                np.add(square, slope, out=bend)  # f'' / 2 = 3 a u + b
            value *= u
            value += c
            slope *= u
            slope += value
            value *= u
            value -= share
            if left:
                np.multiply(slope, slope, out=square)
                bend *= value
                square -= bend
                value *= slope
                slope, square = square, slope
            value /= slope
            u -= value
    return value, slope


def _from_safe_start(share: Floats, a: Floats, b: Floats, c: Floats) -> Floats:
    """The parameter wherever the steps from the share have lost their way."""
    with np.errstate(divide="ignore", invalid="ignore"):
        bend = b / (-3 * a)
    flat = np.flatnonzero((a > 0) & (bend >= 0) & (bend <= 1))
    other = np.flatnonzero(~((a > 0) & (bend >= 0) & (bend <= 1)))
    result = np.empty_like(share)
    result[flat] = _about_the_bend(*(values[flat] for values in (share, a, b, c, bend)))
    result[other] = _bounded(*(values[other] for values in (share, a, b, c)))
    return result


def _about_the_bend(share: Floats, a: Floats, b: Floats, c: Floats, bend: Floats) -> Floats:
    """The parameter of cubics that are flattest at an inflection between their ends, up to standing still there.

    Counted from the inflection they are a w^3 + p w = q with a, p >= 0, and nothing cancels out: where the curve of a
    channel goes straight up, a rounded frame is still told from its neighbours. Newton's method comes from beyond.
    """
    rise = share - ((a * bend + b) * bend + c) * bend
    slope = np.maximum((3 * a * bend + 2 * b) * bend + c, 0.0)
    q = np.abs(rise)
    with np.errstate(divide="ignore", invalid="ignore"):
        w = np.fmin(np.cbrt(q / a), q / slope)
        for _ in range(12):
            step = ((a * w * w + slope) * w - q) / (3 * a * w * w + slope)
            w = w - np.where(np.isfinite(step), step, 0.0)
    result: Floats = np.clip(bend + np.copysign(np.where(q > 0, w, 0.0), rise), 0.0, 1.0)
    return result


def _bounded(share: Floats, a: Floats, b: Floats, c: Floats) -> Floats:
    """Newton's method held between two bounds, halving them where a step would leave them or has no direction.

    It starts where it cannot overshoot: a tangent to a function that rises and bends one way meets the wanted height on
    the near side of the root. So a cubic that is steepest at its inflection (a < 0) starts there, every other starts
    from the end that lies beyond the root on its side of the inflection.

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
