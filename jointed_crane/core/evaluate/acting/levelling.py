"""Ends of chains that keep their turn, whatever turns above them: like a foot that stays flat."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.bearings import product as product_in_space
from jointed_crane.core.geometry.plane import determinant, product, turned

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class EndPose:
    """Linear parts from what the first joint of a chain hangs on down to the part at its end, each of shape
    (2, 2, frames) where nothing leaves the plane of the stage, else (3, 3, frames), and what spins the art of joints.
    """

    above: Floats
    linear: list[Floats]
    spin: list[Floats]

    def below(self, turns: Floats) -> Floats:
        """The linear part of the end on the stage, its joints turned by radians, shape (joints, frames)."""
        result = self.above
        for place, linear in enumerate(self.linear):
            result = _product(result, _turned(linear, turns[place]) if place < len(turns) else linear)
            if place < len(self.spin):
                result = _product(result, self.spin[place])
        return result

    @cached_property
    def unturned(self) -> Floats:
        """The linear part of the end on the stage without any turn of its joints."""
        return self.below(np.empty((0, self.above.shape[-1])))

    def gone(self, turns: Floats) -> Floats:
        """How far turns of the joints, radians, shape (joints, frames), turn the end as the stage shows it, shape
        (frames,): those below what is mirrored go the other way round.
        """
        result, hangs_on = np.zeros(turns.shape[1:]), self.above
        for place, (linear, turn) in enumerate(zip(self.linear, turns, strict=False)):
            result = result + np.where(determinant(hangs_on[:2, :2]) < 0, -1.0, 1.0) * turn
            hangs_on = _product(hangs_on, linear)
            if place < len(self.spin):
                hangs_on = _product(hangs_on, self.spin[place])
        return result


@dataclass(frozen=True)
class Level:
    """The end of a chain as it lies whatever turns above it.

    Attributes
    ----------
    linear : array, shape (2, 2, frames) or (3, 3, frames), its linear part on the stage
    turned : array, shape (frames,), how far it turns for that on the stage from where it would lie, radians
    plain : array, shape (3, 3, frames), its plain rotation; None where nobody takes that over
    """

    linear: Floats
    turned: Floats
    plain: Floats | None = None


@dataclass(frozen=True)
class Levelling:
    """What keeps the end of a chain level: how all comes down to it, and its plain rotation where that is needed."""

    end: EndPose
    plain: EndPose | None = None

    def level(self, turns: Floats) -> Level:
        """How the end lies while joints turn by radians, shape (joints, frames), that it does not follow."""
        plain = None if self.plain is None else self.plain.unturned
        return Level(self.end.unturned, -self.end.gone(turns), plain)

    def going_on(self, known: Level, to: str, at: int, turns: Floats, held: Floats) -> Level:
        """The same from a frame on at which hands take the turns of the joints, or reaching does again: the end goes on
        from how it lies there, by hands with the joints.

        Parameters
        ----------
        at : the place of the frame among all
        turns : how far the joints turn from there on, radians, shape (joints, frames)
        held : how far they are turned there, shape (joints,)
        """
        by_hand = to == "turn"
        turned, plain = known.turned.copy(), known.plain
        turned[at:] -= 0.0 if by_hand else self.end.gone(turns - held[:, None])[at:]
        linear = _gone_on(known.linear, self.end.below(turns) if by_hand else self.end.unturned, at)
        if plain is not None and self.plain is not None:
            plain = _gone_on(plain, self.plain.below(turns) if by_hand else self.plain.unturned, at)
        return Level(linear, turned, plain)


def _gone_on(lies: Floats, going: Floats, at: int) -> Floats:
    """How an end lies that from one frame on goes as something else does, from how it lies there."""
    result = lies.copy()
    if np.linalg.det(going[..., at]):
        result[..., at:] = _product(going[..., at:], (np.linalg.inv(going[..., at]) @ lies[..., at])[..., None])
    result[..., at] = lies[..., at]
    return result


def _product(a: Floats, b: Floats) -> Floats:
    return product(a, b) if len(a) == 2 else product_in_space(a, b)


def _turned(matrix: Floats, angle: Floats) -> Floats:
    """A linear part turned by radians in the plane of what it hangs on."""
    return turned(matrix, angle) if len(matrix) == 2 else np.concatenate([turned(matrix[:2], angle), matrix[2:]])
