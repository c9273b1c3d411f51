"""Trigonometric polynomials of degree two, many at once, and where they vanish.

    f(t) = m + b sin t + c cos t + p sin 2t + q cos 2t

The square of a distance is one wherever something turns. By x = tan(t / 2 - pi / 4) they are fractions: (1 + x^2)^2 f
is a polynomial of degree four, which vanishes where f does.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.plane import Floats, cosine_and_sine, dot

Places = npt.NDArray[np.intp]
Which = npt.NDArray[np.bool_]

#: Polynomials are looked at so many equal shares of half a circle apart, at these angles.
SHARES = 12
ANGLES = np.linspace(0.0, np.pi, SHARES + 1)
_WAVES = (np.ones_like(ANGLES), np.sin(ANGLES), np.cos(ANGLES), np.sin(2 * ANGLES), np.cos(2 * ANGLES))
#: What, times m b c p q, gives the values at the looks, the derivative, and the polynomial of degree four, its constant
#: first.
_LOOKS = np.stack(_WAVES, axis=-1)
_DERIVATIVE = np.array([[0, 0, 0, 0, 0], [0, 0, -1, 0, 0], [0, 1, 0, 0, 0], [0, 0, 0, 0, -2], [0, 0, 0, 2, 0]], float)
_FRACTION = np.array([[1, 1, 0, 0, -1], [0, 0, -2, -4, 0], [2, 0, 0, 0, 6], [0, 0, -2, 4, 0], [1, -1, 0, 0, -1]], float)
#: So many steps are taken unwatched. They have arrived where the last one was this small: the next would be its cube.
_UNWATCHED, _ARRIVED = 3, 5e-6
#: Steps between ends that close in go on to this, so many at most.
_ENCLOSED, _CLOSING = 1e-9, 60


def values(terms: Floats, angles: Floats) -> Floats:
    """The values of polynomials, m b c p q, shape (5, points), each at an angle of its own, radians."""
    m, b, c, p, q = terms
    cosine, sine = cosine_and_sine(angles)
    return np.asarray(m + sine * (b + 2 * p * cosine) + cosine * c + q * (1 - 2 * sine * sine))


def looked(terms: Floats) -> Floats:
    """The values of polynomials at the looks, shape (looks, points)."""
    return np.asarray(_LOOKS @ terms)


def derivative(terms: Floats) -> Floats:
    """The derivatives of polynomials, shape (5, points)."""
    return np.asarray(_DERIVATIVE @ terms)


def squared_length(first: Floats, along: Floats, across: Floats) -> Floats:
    """|a + cos t x + sin t y|^2, of vectors of shape (2, points)."""
    pull, skew, twist = dot(first, along), dot(first, across), dot(along, across)
    spread = dot(across, across)
    difference = (dot(along, along) - spread) / 2
    return np.array([dot(first, first) + spread + difference, 2 * skew, 2 * pull, twist, difference])


def rises(terms: Floats) -> Iterator[tuple[Floats, Which]]:
    """All angles at which polynomials rise through 0 from one look to another, one of each at a time, and the points
    for which it is there.
    """
    is_above = looked(terms) > 0
    begins = ~is_above[:-1] & is_above[1:]
    count = begins.cumsum(axis=0)
    for number in range(1, int(count.max(initial=0)) + 1):
        at = begins & (count == number)
        is_there, result = at.any(axis=0), np.zeros(at.shape[1])
        look = at[:, is_there].argmax(axis=0)
        result[is_there] = between_looks(terms[:, is_there], look, look + 1)
        yield result, is_there


def between_looks(terms: Floats, low: Places, high: Places) -> Floats:
    """The angle between two looks, or the first or last there is, at which a polynomial rises through 0, as `rising`
    has it.
    """
    return rising(terms, ANGLES.take(low, mode="clip"), ANGLES.take(high, mode="clip"))


@np.errstate(divide="ignore", invalid="ignore", over="ignore")
def rising(terms: Floats, low: Floats, high: Floats) -> Floats:
    """Between two angles the one at which a polynomial rises through 0; where it does not, the first one if its values
    begin above 0, else the last. Radians from 0 to pi, arrays of shape (points,).
    """
    quartic = _FRACTION @ terms
    low, high = (np.tan(angle / 2 - np.pi / 4) for angle in (low, high))
    now = (low + high) / 2
    for _ in range(_UNWATCHED):
        value, rate, bend = _horner(quartic, now)
        before, following = now, _stepped(now, value, rate, bend)
        now = _within(following, low, high)
    # What lies at an end itself may be found the last digit beyond it.
    is_zero = (rate > 0) & (np.abs(following - now) <= _ENCLOSED)
    has_arrived = (np.abs(now - before) <= _ARRIVED) & (is_zero | (now == np.where(value < 0, high, low)))
    left = np.flatnonzero(~has_arrived)
    if len(left):
        now[left] = _enclosed(quartic.take(left, axis=1), low[left], high[left])
    return np.asarray(np.pi / 2 + 2 * np.arctan(now))


def _horner(quartic: Floats, at: Floats) -> tuple[Floats, Floats, Floats]:
    """The values of polynomials, their derivatives, and half their second ones, by Horner's scheme."""
    constant, first, second, third, fourth = quartic
    last = fourth * at
    value = third + last
    rate = value + last
    bend = rate + last
    value = second + value * at
    rate = value + rate * at
    bend = rate + bend * at
    value = first + value * at
    return constant + value * at, value + rate * at, bend


def _stepped(now: Floats, value: Floats, rate: Floats, bend: Floats) -> Floats:
    """One step to the nearer zero of a parabola (Cauchy's method); where it has none, twice a step of Newton's."""
    half = rate / 2
    root = np.sqrt(np.maximum(half * half - bend * value, 0.0))
    return np.asarray(now - value / (half + np.copysign(root, half)))


def _within(value: Floats, low: Floats, high: Floats) -> Floats:
    return np.asarray(np.minimum(np.maximum(value, low), high))


def _enclosed(quartic: Floats, low: Floats, high: Floats) -> Floats:
    """The zeros by steps that never leave what is known to enclose them."""
    at_low, at_high = (_horner(quartic, end)[0] for end in (low, high))
    is_outside, end = (at_low > 0) | (at_high < 0), np.where(at_low > 0, low, high)
    low, high = (np.where(is_outside, end, each) for each in (low, high))
    result = (low + high) / 2
    left, now = np.arange(len(result)), result
    for _ in range(_CLOSING):
        value, rate, bend = _horner(quartic, now)
        is_low = value < 0
        low, high = np.where(is_low, now, low), np.where(is_low, high, now)
        following = _stepped(now, value, rate, bend)
        # A step may lead to where the values fall through 0.
        is_near = (rate > 0) & (following >= low - _ENCLOSED) & (following <= high + _ENCLOSED)
        after = np.where(is_near, _within(following, low, high), (low + high) / 2)
        on = np.flatnonzero(np.abs(after - now) > _ENCLOSED)
        result[left] = after
        if not len(on):
            break
        quartic, left, now, low, high = quartic.take(on, axis=1), left[on], after[on], low[on], high[on]
    return result
