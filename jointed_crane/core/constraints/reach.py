"""Reach: how far the joints of a chain turn so that its end comes to a goal.

Everything lies in the space of the first joint's parent, which may itself be mirrored or skewed on the stage. Joint k
turns by d_k before its own linear part A_k, and what hangs on it is carried to v_k in its art:

    end = q + M_0 v_0 + ... + M_n v_n,   M_k = M_(k-1) S_(k-1) R(d_k) A_k
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.placed import Floats, angle_of, length_of, rotated, shortest
from jointed_crane.core.constraints.uneven_bones import uneven_bones

#: An end this near its goal has arrived, as a share of the length of the chain; and the steps it takes at most.
NEAR = 1e-12
_STEPS = 100
#: Where joints with ranges are stuck, the search begins anew: from joints bent alike, and to and fro, radians.
_OTHER_STARTS = ((1.0, 1.0), (-1.0, -1.0), (1.0, -1.0), (-1.0, 1.0), (2.2, 2.2), (-2.2, -2.2))
#: No step turns a joint farther than this, radians.
_FARTHEST_STEP = 0.5
#: An end stays short after so many steps none of which brought it nearer than this share of what it missed before.
_NEARER, _VAIN_STEPS = 0.97, 5
#: A chain that is straight on its way to the goal is bent by so much first, radians: straight bones give no direction.
_BIAS = 0.05


@dataclass(frozen=True)
class ChainPose:
    """Chains of equally many joints as hands turned them. Leading axes are (chains, frames).

    Attributes
    ----------
    begins : array, shape (..., 2), q, where the first joint lies
    linear : array, shape (joints, ..., 2, 2), A_k
    spin : array, shape (joints, ..., 2, 2), S_k
    carried : array, shape (joints, ..., 2), v_k
    """

    begins: Floats
    linear: Floats
    spin: Floats
    carried: Floats

    def in_a_row(self) -> ChainPose:
        """The same with one leading axis, (points,)."""
        joints = len(self.linear)
        return ChainPose(
            self.begins.reshape(-1, 2),
            self.linear.reshape(joints, -1, 2, 2),
            self.spin.reshape(joints, -1, 2, 2),
            self.carried.reshape(joints, -1, 2),
        )

    def of(self, points: npt.NDArray[np.intp]) -> ChainPose:
        """Some of the points in a row."""
        return ChainPose(self.begins[points], self.linear[:, points], self.spin[:, points], self.carried[:, points])

    def of_chain(self, place: int) -> ChainPose:
        """One chain, its leading axis (frames,)."""
        return ChainPose(self.begins[place], self.linear[:, place], self.spin[:, place], self.carried[:, place])

    def turned(self, turns: Floats, stretch: Floats) -> ChainPose:
        """The chains with their joints turned, radians, shape (joints, ...), and their bones longer by a factor."""
        return replace(self, linear=rotated(self.linear, turns), carried=self.carried * stretch[..., None])

    def along(self, joint: int, stretch: Floats, keeps_area: bool) -> Floats:
        """What stretches the art of a joint along its bone, and makes it thinner if wished, shape (..., 2, 2)."""
        bone = self.carried[joint]
        length = length_of(bone)[..., None]
        with np.errstate(divide="ignore", invalid="ignore"):
            unit = np.where(length > 0, bone / length, 0.0)
        square = np.stack([-unit[..., 1], unit[..., 0]], axis=-1)
        found = np.eye(2) + (stretch - 1)[..., None, None] * unit[..., :, None] * unit[..., None, :]
        if keeps_area:
            found = found + (1 / stretch - 1)[..., None, None] * square[..., :, None] * square[..., None, :]
        return np.asarray(found, dtype=np.float64)

    def bones(self, turns: Floats) -> tuple[Floats, Floats]:
        """The bones with the joints turned, shape (joints, ..., 2), and the sense in which each joint's turn turns its
        own: -1 where what lies above it is mirrored, shape (joints, ...).

        Parameters
        ----------
        turns : array, shape (joints, ...), radians
        """
        found, senses = [], []
        for above, own, carried in zip(*self._down(turns), self.carried, strict=True):
            senses.append(np.where(_determinant(above) < 0, -1.0, 1.0))
            found.append(_applied(own, carried))
        return np.stack(found), np.stack(senses)

    def end(self, turns: Floats) -> tuple[Floats, Floats]:
        """Where the end lies from the first joint, shape (..., 2), and how fast a turn of each joint moves it, px a
        radian, shape (joints, ..., 2).

        Seen from where joint k turns, e_k = R(d_k) A_k (v_k + S_k e_(k+1)); a turn moves it square to itself.
        """
        above, _ = self._down(turns)
        rates: list[Floats] = []
        beyond = np.zeros(self.begins.shape)
        for k in reversed(range(len(turns))):
            held = self.carried[k] + _applied(self.spin[k], beyond)
            cosine, sine = np.cos(turns[k]), np.sin(turns[k])
            x, y = np.moveaxis(_applied(self.linear[k], held), -1, 0)
            beyond = np.stack([cosine * x - sine * y, sine * x + cosine * y], axis=-1)
            square = np.stack([-beyond[..., 1], beyond[..., 0]], axis=-1)
            rates.append(_applied(above[k], square))
        return beyond, np.stack(rates[::-1])

    def _down(self, turns: Floats) -> tuple[list[Floats], list[Floats]]:
        """M_(k-1) S_(k-1), what lies above each joint, and M_k."""
        above, own = [np.broadcast_to(np.eye(2), self.linear.shape[1:])], []
        for turn, linear, spin in zip(turns, self.linear, self.spin, strict=True):
            own.append(_product(above[-1], rotated(linear, turn) if turn.any() else linear))
            above.append(_product(own[-1], spin))
        return above[:-1], own


def _applied(matrices: Floats, vectors: Floats) -> Floats:
    """Matrices, shape (..., 2, 2), on vectors, shape (..., 2)."""
    found: Floats = matrices[..., 0] * vectors[..., :1] + matrices[..., 1] * vectors[..., 1:]
    return found


def _product(a: Floats, b: Floats) -> Floats:
    """Products of matrices, shape (..., 2, 2), which NumPy multiplies one by one."""
    found = np.empty(np.broadcast_shapes(a.shape, b.shape))
    for i in range(2):
        for j in range(2):
            found[..., i, j] = a[..., i, 0] * b[..., 0, j] + a[..., i, 1] * b[..., 1, j]
    return found


def _inverse(matrices: Floats, determinant: Floats) -> Floats:
    """Inverses of matrices, shape (..., 2, 2), whose determinants are known; the identity where there is none."""
    found = np.empty(matrices.shape)
    has_one = np.abs(determinant) > 0
    by = 1 / np.where(has_one, determinant, 1.0)
    for i in range(2):
        for j in range(2):
            own = matrices[..., 1 - i, 1 - i] if i == j else -matrices[..., i, j]
            found[..., i, j] = np.where(has_one, own * by, float(i == j))
    return found


def _determinant(matrices: Floats) -> Floats:
    found: Floats = matrices[..., 0, 0] * matrices[..., 1, 1] - matrices[..., 0, 1] * matrices[..., 1, 0]
    return found


@dataclass(frozen=True)
class Aim:
    """What chains are to reach, and how. Leading axes are (chains, frames).

    Attributes
    ----------
    linear, origin : arrays, shapes (..., 2, 2) and (..., 2), where what the first joints hang on lies on the stage
    goals : array, shape (..., 2), px on the stage
    bends : array, shape (chains, 1), 1 where the joint lies clockwise of the line to the goal on the stage, else -1
    soft : array, the share of the whole length over which the end slows down before it is straight; 0 reaches exactly
    stretch : array, how many times their length bones may become
    weight : array, by which share the joints turn
    low, high : arrays, shape (joints, ...), how far each joint may turn, radians
    """

    linear: Floats
    origin: Floats
    goals: Floats
    bends: Floats
    soft: Floats
    stretch: Floats
    weight: Floats
    low: Floats
    high: Floats

    def of(self, place: int) -> Aim:
        """What one chain is to reach, its leading axis (frames,)."""
        by_joint = {name: getattr(self, name)[:, place] for name in ("low", "high")}
        rest = {name: values[place] for name, values in vars(self).items() if name not in by_joint}
        return Aim(**rest, **by_joint)


@dataclass(frozen=True)
class Reached:
    """How far the joints of chains turn, radians, shape (joints, ...), and how many times their length bones become."""

    turns: Floats
    stretch: Floats

    def of(self, place: int) -> Reached:
        """One of the chains."""
        return Reached(self.turns[:, place], self.stretch[place])


def reached(chain: ChainPose, aim: Aim, held: float = 1.0) -> Reached:
    """How far each joint turns from where hands turned it, and how far bones stretch.

    Two bones are solved by the law of cosines, bending on the side that is asked for, or, where the second turns below
    an unevenly scaled part, by finding the one angle that is left. Longer chains and joints at the end of their ranges
    step by damped least squares (C. Wampler 1986, from memory) from there, or from the pose of the hands. An end out of
    reach comes as near as it can.

    Parameters
    ----------
    held : how many times their own length the bones of `chain` are already
    """
    determinant = _determinant(aim.linear)
    can_turn = np.abs(determinant) > 0
    goal = _applied(_inverse(aim.linear, determinant), aim.goals - aim.origin)
    bends = aim.bends * np.where(determinant < 0, -1.0, 1.0)
    bones, senses = chain.bones(np.zeros(chain.linear.shape[:-2]))
    goal, stretch = _approached(chain.begins, goal, length_of(bones).sum(axis=0) / held, aim)
    stretch = np.where(can_turn, 1 + aim.weight * (stretch - 1), 1.0) / held
    if not (stretch == 1).all():
        chain, bones = replace(chain, carried=chain.carried * stretch[..., None]), bones * stretch[..., None]
    turns = turns_to_reach(chain, goal, bends, aim.low, aim.high, (bones, senses))
    return Reached(np.where(can_turn, aim.weight * turns, 0.0), stretch)


def turns_to_reach(
    chain: ChainPose, goal: Floats, bends: Floats, low: Floats, high: Floats, known: tuple[Floats, Floats] | None = None
) -> Floats:
    """How far each joint turns, radians, shape (joints, ...), for an end to come to its goal.

    Parameters
    ----------
    goal : array, shape (..., 2), px in the space of the first joint's parent
    bends : array, 1 where the joint lies clockwise of the line to the goal in that space, else -1
    low, high : arrays, shape (joints, ...), how far each joint may turn, radians
    known : the bones and senses of the chain as hands turned it, where they are known
    """
    count = len(chain.linear)
    bones, senses = known or chain.bones(np.zeros(chain.linear.shape[:-2]))
    lengths = length_of(bones)
    points = goal.shape[:-1]
    bends = np.broadcast_to(bends, points)
    if count != 2:
        start = _bent(chain, bones, senses, goal, bends)
    else:
        start = np.empty((2, *points))
        first, towards = _product(chain.linear[0], chain.spin[0]), goal - chain.begins
        even = _is_even(first)
        for at, is_even in ((even, True), (~even, False)):
            if is_even and at.any():
                start[:, at] = _two_bones(bones[:, at], senses[:, at], lengths[:, at], towards[at], bends[at])
            elif at.any():
                second = _applied(chain.linear[1][at], chain.carried[1][at])
                start[:, at] = uneven_bones(bones[0][at], first[at], second, towards[at], bends[at])
    start, low, high = (values.reshape(count, -1) for values in (start, low, high))
    turns = np.clip(start, low, high)
    left = np.arange(turns.shape[1]) if count > 2 else np.flatnonzero((turns != start).any(axis=0))
    if len(left):
        of = (low[:, left], high[:, left])
        turns[:, left] = _searched(chain.in_a_row().of(left), turns[:, left], goal.reshape(-1, 2)[left], *of)
    return turns.reshape(count, *points)


def _searched(chain: ChainPose, start: Floats, goal: Floats, low: Floats, high: Floats) -> Floats:
    """Turns found by steps, begun anew where joints with ranges are stuck; axes (joints, points)."""
    is_ranged = (np.isfinite(low) | np.isfinite(high)).any(axis=0)
    turns, miss = _stepped(chain, start, goal, low, high)
    for even, odd in _OTHER_STARTS:
        stuck = np.flatnonzero((miss > 0) & is_ranged)
        if not len(stuck):
            break
        other = np.where((np.arange(len(start)) % 2 == 0)[:, None], even, odd)
        at, of = chain.of(stuck), (low[:, stuck], high[:, stuck])
        found, left = _stepped(at, np.clip(np.broadcast_to(other, (len(start), len(stuck))), *of), goal[stuck], *of)
        is_nearer = left < miss[stuck]
        turns[:, stuck[is_nearer]], miss[stuck[is_nearer]] = found[:, is_nearer], left[is_nearer]
    return turns


def _approached(begins: Floats, goal: Floats, length: Floats, aim: Aim) -> tuple[Floats, Floats]:
    """Where the end goes, and how far bones stretch to come to the goal.

    In the last share of the length the end lags behind: its distance nears the whole length without ever coming to it,
    d' = L - s exp(-(d - (L - s)) / s); common practice, no source. Bones stretch by d / d', so that the end is on its
    goal all the same as long as they may.
    """
    towards = goal - begins
    distance, zone = length_of(towards), aim.soft * length
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        drawn = length - zone * np.exp(-(distance - (length - zone)) / zone)
        is_soft = (zone > 0) & (distance > length - zone)
        near = np.where(is_soft, drawn, np.minimum(distance, length))
        stretch = np.where(near > 0, np.clip(distance / near, 1.0, np.maximum(aim.stretch, 1.0)), 1.0)
        factor = np.where(is_soft, stretch * drawn / distance, 1.0)
    # A bone that is stretched to its goal is straight, whatever the last digit says.
    factor = np.where(~is_soft & (stretch > 1), 1 + 1e-12, factor)
    return begins + towards * factor[..., None], stretch


def _is_even(linear: Floats) -> npt.NDArray[np.bool_]:
    """Whether linear parts keep angles, mirrored or not, within what their digits can tell."""
    a, b, c, d = (linear[..., i, j] for i in range(2) for j in range(2))
    size = a * a + b * b + c * c + d * d
    off = np.minimum(np.hypot(a - d, b + c), np.hypot(a + d, b - c))
    return np.asarray(off * off <= 1e-26 * size, dtype=np.bool_)


def _two_bones(bones: Floats, senses: Floats, lengths: Floats, towards: Floats, bends: Floats) -> Floats:
    """The law of cosines, its angles by the area of the triangle (W. Kahan 1986, from memory), which stay exact where
    it is nearly flat. A goal out of reach leaves the bones straight, or folded, and pointing at it.
    """
    first, second = lengths
    distance = np.clip(length_of(towards), np.abs(first - second), first + second)
    whole = bones.sum(axis=0)
    direction = np.where(length_of(towards) > 0, angle_of(towards), angle_of(whole))
    is_flat = (length_of(towards) >= first + second) | (length_of(towards) <= np.abs(first - second))
    # Folded, the longer bone points at the goal and the shorter one back.
    is_folded = is_flat & (length_of(towards) < first + second)
    at_first = np.where(is_flat, np.where(is_folded & (first < second), np.pi, 0.0), _angle(first, distance, second))
    at_goal = np.where(is_flat, np.where(is_folded & (first >= second), np.pi, 0.0), _angle(second, distance, first))
    turn = shortest(direction + bends * at_first - angle_of(bones[0]))
    of_second = shortest(direction - bends * at_goal - angle_of(bones[1]))
    return np.stack([senses[0] * turn, senses[1] * shortest(of_second - turn)])


def _angle(a: Floats, b: Floats, opposite: Floats) -> Floats:
    """The angle between two sides of a triangle, radians."""
    least, middle, most = np.sort(np.stack([a, b, opposite]), axis=0)
    area = (most + (middle + least)) * (least - (most - middle)) * (least + (most - middle)) * (most + (middle - least))
    found: Floats = np.arctan2(np.sqrt(np.maximum(area, 0)), a * a + b * b - opposite * opposite)
    return found


def _bent(chain: ChainPose, bones: Floats, senses: Floats, goal: Floats, bends: Floats) -> Floats:
    """Turns to begin with: none, but a straight chain turns to its goal, and is bent a little where that is nearer."""
    turns = np.zeros(chain.linear.shape[:-2])
    whole, towards = bones.sum(axis=0), goal - chain.begins
    length = length_of(bones).sum(axis=0)
    if len(turns) == 1:
        turns[0] = shortest(angle_of(towards) - angle_of(whole))
        return turns
    is_straight = length_of(whole) > (1 - 1e-4) * length
    is_out = length_of(towards) >= length
    heading = shortest(angle_of(towards) - angle_of(whole))
    turns[0] = np.where(is_straight & ~is_out, heading + bends * _BIAS * (len(turns) - 1) / 2, 0.0)
    turns[1:] = np.where(is_straight & ~is_out, -senses[1:] * bends * _BIAS, 0.0)
    # Out of reach every bone points at the goal.
    pointing = shortest(angle_of(towards) - angle_of(bones))
    single = np.diff(pointing, axis=0, prepend=0.0) * senses
    return np.where(is_out, shortest(single), turns)


def _stepped(chain: ChainPose, start: Floats, goal: Floats, low: Floats, high: Floats) -> tuple[Floats, Floats]:
    """Steps of damped least squares within the ranges, until every end has arrived or the steps have run out.

    Returns
    -------
    turns, miss : arrays, shapes (joints, points) and (points,); how far each end is from where it could be at best, 0
        where it has arrived
    """
    length = length_of(chain.bones(start)[0]).sum(axis=0)
    beyond = np.maximum(length_of(goal - chain.begins) - length, 0.0)  # by so much a goal is out of reach
    best, best_miss = start.copy(), np.full(len(goal), np.inf)
    turns, left, in_vain = start, np.arange(len(goal)), np.zeros(len(goal), dtype=int)
    for _ in range(_STEPS):
        end, rates = chain.end(turns)
        miss = goal - chain.begins - end
        distance = length_of(miss)
        short = np.where(distance <= NEAR * length + beyond, 0.0, distance)
        is_better = short < best_miss[left]
        in_vain = np.where(short < _NEARER * best_miss[left], 0, in_vain + 1)
        best[:, left[is_better]] = turns[:, is_better]
        best_miss[left[is_better]] = short[is_better]
        after = _step(turns, rates, miss, length, low, high)
        on = np.flatnonzero((short > 0) & (in_vain < _VAIN_STEPS))
        if not len(on):
            break
        turns, left, in_vain = after[:, on], left[on], in_vain[on]
        chain, goal, low, high = chain.of(on), goal[on], low[:, on], high[:, on]
        length, beyond = length[on], beyond[on]
    return best, best_miss


def _step(turns: Floats, rates: Floats, miss: Floats, length: Floats, low: Floats, high: Floats) -> Floats:
    """One step of turns; a joint at the end of its range turns back alone."""
    pull = np.einsum("kpi,pi->kp", rates, miss)
    is_free = ~(((turns <= low) & (pull < 0)) | ((turns >= high) & (pull > 0)))
    columns = rates * is_free[..., None]
    normal = np.einsum("kpi,kpj->pij", columns, columns)
    normal += (1e-2 * length_of(miss) * length + 1e-300)[:, None, None] * np.eye(2)
    step = np.einsum("kpi,pi->kp", columns, _solved(normal, miss))
    largest = np.abs(step).max(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        step = step * np.where(largest > _FARTHEST_STEP, _FARTHEST_STEP / largest, 1.0)
    found: Floats = np.clip(turns + step, low, high)
    return found


def _solved(normal: Floats, right: Floats) -> Floats:
    """The solution of two equations each, shape (..., 2)."""
    a, b, c, d = (normal[..., i, j] for i in range(2) for j in range(2))
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.stack([d * right[..., 0] - b * right[..., 1], a * right[..., 1] - c * right[..., 0]], axis=-1)
        found = found / (a * d - b * c)[..., None]
    return np.where(np.isfinite(found), found, 0.0)
