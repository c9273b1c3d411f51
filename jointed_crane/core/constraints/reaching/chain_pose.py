"""The joints of chains as hands turned them, and where their ends lie.

Everything lies in the space of the first joint's parent, which may itself be mirrored or skewed on the stage. Joint k
turns by d_k before its own linear part A_k, and what hangs on it is carried to v_k in its art:

    end = q + M_0 v_0 + ... + M_n v_n,   M_k = M_(k-1) S_(k-1) R(d_k) A_k
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.reaching.limb import Limb
from jointed_crane.core.geometry.plane import Floats, applied, length_of, product, square_to, turned


@dataclass(frozen=True)
class ChainPose:
    """Chains of equally many joints as hands turned them. Axes after the components are (chains, frames).

    Attributes
    ----------
    begins : array, shape (2, ...), q, where the first joint lies
    linear : array, shape (joints, 2, 2, ...), A_k
    spin : array, shape (joints, 2, 2, ...), S_k; None where nothing spins
    carried : array, shape (joints, 2, ...), v_k
    """

    begins: Floats
    linear: Floats
    spin: Floats | None
    carried: Floats

    def in_a_row(self) -> ChainPose:
        """The same with one axis after the components, (points,)."""
        joints = len(self.linear)
        return ChainPose(
            self.begins.reshape(2, -1),
            self.linear.reshape(joints, 2, 2, -1),
            None if self.spin is None else self.spin.reshape(joints, 2, 2, -1),
            self.carried.reshape(joints, 2, -1),
        )

    def of(self, points: int | npt.NDArray[np.intp]) -> ChainPose:
        """One of the chains, or some of the points in a row."""
        spin = None if self.spin is None else self.spin[:, :, :, points]
        return ChainPose(self.begins[:, points], self.linear[:, :, :, points], spin, self.carried[:, :, points])

    def turned(self, turns: Floats, stretch: Floats) -> ChainPose:
        """The chains with their joints turned, radians, shape (joints, ...), and their bones longer by a factor."""
        linear = np.stack([turned(own, turn) for own, turn in zip(self.linear, turns, strict=True)])
        return replace(self, linear=linear, carried=self.carried * stretch)

    def along(self, joint: int, stretch: Floats, keeps_area: bool) -> Floats:
        """What stretches the art of a joint along its bone, and makes it thinner if wished, shape (2, 2, ...)."""
        bone = self.carried[joint]
        length = length_of(bone)
        with np.errstate(divide="ignore", invalid="ignore"):
            unit = np.where(length > 0, bone / length, 0.0)
        square = square_to(unit)
        result = np.eye(2)[..., None] + (stretch - 1) * unit[:, None] * unit[None]
        if keeps_area:
            result = result + (1 / stretch - 1) * square[:, None] * square[None]
        return np.asarray(result, dtype=np.float64)

    @cached_property
    def above(self) -> list[Floats]:
        """M_(k-1) S_(k-1), what lies above each joint but the first, arrays of shape (2, 2, ...)."""
        result: list[Floats] = []
        for joint, linear in enumerate(self.linear[:-1]):
            own = product(result[-1], linear) if result else linear
            result.append(own if self.spin is None else product(own, self.spin[joint]))
        return result

    @cached_property
    def bones(self) -> list[Floats]:
        """The bones as they lie, M_k v_k, arrays of shape (2, ...), px."""
        below = [applied(*pair) for pair in zip(self.linear, self.carried, strict=True)]
        return [below[0], *(applied(*pair) for pair in zip(self.above, below[1:], strict=True))]

    @property
    def length(self) -> Floats:
        """How long the chains are when they are straight, px."""
        return np.asarray(sum(map(length_of, self.bones)))

    @property
    def limb(self) -> Limb:
        """The chains with one axis after the components, (points,)."""
        row = self.in_a_row()
        bones = np.stack([applied(*pair) for pair in zip(row.linear, row.carried, strict=True)])
        spin = (
            row.linear[:-1]
            if row.spin is None
            else [product(*pair) for pair in zip(row.linear[:-1], row.spin[:-1], strict=True)]
        )
        return Limb.of_matrices(bones, np.asarray(spin))

    def end(self, turns: Floats) -> tuple[Floats, Floats]:
        """Where the end lies from the first joint, shape (2, ...), and how fast a turn of each joint moves it, px a
        radian, shape (joints, 2, ...).

        Seen from where joint k turns, e_k = R(d_k) A_k (v_k + S_k e_(k+1)); a turn moves it square to itself.
        """
        turning = self.turned(turns, np.ones(1)) if turns.any() else self
        rates: list[Floats] = []
        beyond = np.zeros(self.begins.shape)
        for k in reversed(range(len(turns))):
            held = beyond if self.spin is None else applied(self.spin[k], beyond)
            beyond = applied(turning.linear[k], self.carried[k] + held)
            square = square_to(beyond)
            rates.append(applied(turning.above[k - 1], square) if k else square)
        return beyond, np.stack(rates[::-1])
