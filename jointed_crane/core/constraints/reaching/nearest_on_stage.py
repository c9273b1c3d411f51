"""Which turns bring a point nearest to its goal as the stage shows it, where that is uneven: along an ellipse."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.geometry.plane import Floats, angle_of, applied, dot, solved, square_to, turned
from jointed_crane.core.geometry.trigonometric import Which, derivative, rises, squared_length

#: So many steps are taken at most; they have arrived where the last one is this share of the ellipse.
_STEPS, _MET = 40, 1e-15


def nearest_turns(seen: Floats, vectors: Floats, goals: Floats) -> Iterator[tuple[Floats, Which]]:
    """The turns t, radians, at which |L R(t) w - g| is less than just beside, one of each at a time, and the points for
    which it is there.

    Parameters
    ----------
    seen : array, shape (2, 2, points), L
    vectors : array, shape (2, points), w
    goals : array, shape (2, points), g
    """
    along, across = applied(seen, vectors), applied(seen, square_to(vectors))
    for begin, sign in ((0.0, 1.0), (np.pi, -1.0)):
        for turn, is_there in rises(derivative(squared_length(-goals, sign * along, sign * across))):
            yield begin + turn, is_there


def nearest_turn(seen: Floats, vectors: Floats, goals: Floats) -> Floats:
    """The turn at which |L R(t) w - g| is least of all, shape (points,), radians.

    L R(t) w runs along an ellipse. Seen from its middle along its axes a >= b, with the point in the first quadrant,
    the nearest place lies in that quadrant too: (a^2 x / (t + a^2), b^2 y / (t + b^2)), for the greatest t at which
    that is on the ellipse (D. Eberly 2011, from memory). Newton's method comes to it from below without passing it.
    """
    (p, q), (r, s) = seen
    size = dot(vectors, vectors)
    across, rows = p * r + q * s, (p * p + q * q, r * r + s * s)
    lean = np.arctan2(2 * across, rows[0] - rows[1]) / 2
    longer = (rows[0] + rows[1]) / 2 + np.hypot((rows[0] - rows[1]) / 2, across)
    a2 = size * longer
    with np.errstate(divide="ignore", invalid="ignore"):
        b2 = np.where(longer > 0, size * np.square(p * s - q * r) / longer, 0.0)
        x, y = turned(goals, -lean)
        place = np.copysign(_on_ellipse(np.abs(x), np.abs(y), a2, b2), np.array([x, y]))
    return angle_of(solved(seen, turned(place, lean))) - angle_of(vectors)


def _on_ellipse(x: Floats, y: Floats, a2: Floats, b2: Floats) -> Floats:
    """The nearest place on ellipses of squared half axes a2 >= b2, shape (2, points)."""
    a, b = np.sqrt(a2), np.sqrt(b2)
    ax, by = a * x, b * y
    t = np.maximum(by - b2, ax - a2)
    for _ in range(_STEPS):
        u, v = ax / (t + a2), by / (t + b2)
        u2, v2 = u * u, np.where(y > 0, v * v, 0.0)
        n = np.sqrt(u2 + v2)
        # 1 / n is nearly straight, and concave: the step ends before the place that is sought.
        step = np.nan_to_num(n * n * (n - 1) / (u2 / (t + a2) + np.where(v2 > 0, v2 / (t + b2), 0.0)))
        t = t + np.maximum(step, 0.0)
        if not (step > _MET * a2).any():
            break
    result = np.array([a2 * x / (t + a2), np.where(y > 0, b2 * y / (t + b2), 0.0)])
    # Deep inside on the longer axis the nearest place lies beside it, on either side alike.
    inner = (y == 0) & (a * x < a2 - b2)
    share = np.where(inner, a * x / (a2 - b2), 0.0)
    result = np.where(inner, np.array([a * share, b * np.sqrt(np.maximum(1 - share * share, 0.0))]), result)
    return np.asarray(np.nan_to_num(result))
