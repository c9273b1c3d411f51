"""Which turns bring a point nearest to its goal as the stage shows it, where that is uneven: along an ellipse."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.geometry.plane import Floats, angle_of, applied, dot, square_to
from jointed_crane.core.geometry.trigonometric import Which, derivative, rises, squared_length


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
    """The turn of those at which it is least, shape (points,), radians; that which points there where none is."""
    found, least = angle_of(goals) - angle_of(vectors), np.full(vectors.shape[1], np.inf)
    for turn, is_there in nearest_turns(seen, vectors, goals):
        cosine, sine = np.cos(turn), np.sin(turn)
        off = applied(seen, cosine * vectors + sine * square_to(vectors)) - goals
        miss = np.where(is_there, dot(off, off), np.inf)
        is_nearer = miss < least
        found, least = np.where(is_nearer, turn, found), np.where(is_nearer, miss, least)
    return found
