"""A chain of bones in the plane as complex numbers, which say in a few operations where its end lies and how it moves.

Seen from its first joint the end lies at e_0, with

    e_k = b_k + C_k e_(k+1),   e_(n-1) = b_(n-1)

where b_k is bone k as it lies in what its joint hangs on, and C_k carries the space in which the next joint turns. A
linear map of the plane is C z = p z + q conj(z): it keeps angles where q is 0, and mirrors where |q| > |p|.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.plane import Floats, shortest

Complexes = npt.NDArray[np.complex128]


@dataclass(frozen=True, eq=False)
class Limb:
    """Chains of equally many joints; axes are (joints, points).

    Attributes
    ----------
    bones : array, shape (joints, points), b_k
    keeping, mirroring : arrays, shape (joints - 1, points), p and q of C_k
    """

    bones: Complexes
    keeping: Complexes
    mirroring: Complexes

    @classmethod
    def of_matrices(cls, bones: Floats, carrying: Floats) -> Limb:
        """Chains by bones, shape (joints, 2, points), and what carries the space of the next, shape (joints - 1, 2, 2,
        points).
        """
        (a, b), (c, d) = carrying[:, 0].swapaxes(0, 1), carrying[:, 1].swapaxes(0, 1)
        return cls(bones[:, 0] + 1j * bones[:, 1], (a + d + 1j * (c - b)) / 2, (a - d + 1j * (c + b)) / 2)

    def of(self, points: npt.NDArray[np.intp]) -> Limb:
        """Some of the chains."""
        return Limb(self.bones[:, points], self.keeping[:, points], self.mirroring[:, points])

    def turned(self, turns: Floats) -> Limb:
        """The chains with joints turned, radians, shape (joints, points)."""
        by = np.exp(1j * turns)
        return Limb(by * self.bones, by[:-1] * self.keeping, by[:-1] * self.mirroring)

    def bent(self, bends: Floats) -> Limb:
        """The chains with all joints but the first turned, radians, shape (joints - 1, points)."""
        return self.turned(np.concatenate([np.zeros_like(bends[:1]), bends]))

    @cached_property
    def ends(self) -> list[Complexes]:
        """Where the end lies seen from each joint, e_k."""
        result = [self.bones[-1]]
        for bone, keeping, mirroring in zip(self.bones[-2::-1], self.keeping[::-1], self.mirroring[::-1], strict=True):
            result.append(bone + keeping * result[-1] + mirroring * result[-1].conj())
        return result[::-1]

    @property
    def end(self) -> Complexes:
        """Where the end lies seen from the first joint, shape (points,)."""
        return self.ends[0]

    @property
    def rates(self) -> Floats:
        """How fast |e_0| grows as each joint but the first turns, a radian, shape (joints - 1, points)."""
        pull, result = _unit(self.end), []
        for keeping, mirroring, end in zip(self.keeping, self.mirroring, self.ends[1:], strict=True):
            pull = keeping.conj() * pull + mirroring * pull.conj()
            result.append((pull * end.conj()).imag)
        return np.stack(result)

    @property
    def senses(self) -> Floats:
        """In which sense turning a joint but the first turns its bone: -1 below what is mirrored, shape (joints - 1,
        points).
        """
        turned: Floats = np.where(np.abs(self.mirroring) > np.abs(self.keeping), -1.0, 1.0)
        return np.asarray(np.cumprod(turned, axis=0), dtype=np.float64)

    def bends(self, sides: Floats) -> Floats:
        """How far joints but the first are turned from where all bones lie on one line, radians towards sides, 1
        clockwise of the line to the end, shape (joints - 1, points).
        """
        turns, straight = self.straightened
        return np.asarray(sides * straight.senses * shortest(turns[1:]))

    @cached_property
    def straightened(self) -> tuple[Floats, Limb]:
        """How far joints turn for all bones to lie along the x axis, one after the other, radians, shape (joints,
        points), and the chains so turned; nothing below what has vanished turns.
        """
        along = np.ones_like(self.bones[0])
        turns = []
        for place, bone in enumerate(self.bones):
            turns.append(np.angle(along * bone.conj() + 0.0))
            if place < len(self.keeping):
                by = np.exp(1j * turns[-1])
                keeping, mirroring = by * self.keeping[place], by * self.mirroring[place]
                sense = np.sign(np.abs(keeping) - np.abs(mirroring))
                along = _unit(sense * (keeping.conj() * along - mirroring * along.conj()))
        result = np.stack(turns)
        return result, self.turned(result)

    @cached_property
    def of_length_one(self) -> tuple[Floats, Limb]:
        """How long the chains are, shape (points,), and they as large as 1, what carries each next joint as large as 1
        too: the same however large a chain and the art of its parts are.
        """
        sizes = np.abs(self.keeping) + np.abs(self.mirroring)
        carried = np.cumprod(sizes, axis=0)
        bones = np.concatenate([self.bones[:1], self.bones[1:] * carried])
        length = np.abs(bones).sum(axis=0)
        by, each = _inverse(length), _inverse(sizes)
        return length, Limb(
            *(numbers.astype(np.complex128) for numbers in (bones * by, self.keeping * each, self.mirroring * each))
        )


def _unit(vectors: Complexes) -> Complexes:
    result: Complexes = vectors * _inverse(np.abs(vectors))
    return result


def _inverse(sizes: Floats) -> Floats:
    """1 / size, and 0 of nothing."""
    return np.divide(1.0, sizes, out=np.zeros_like(sizes), where=sizes > 0)
