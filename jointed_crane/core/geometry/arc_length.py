"""Points along cubic Beziers by the length of the way there.

Lengths are integrals of the speed, by Gauss and Legendre's rule with five points on each of some pieces of each curve
(Abramowitz and Stegun 1964, 25.4.30, weights as NumPy computes them); the point at a length is found from there by
Newton's method.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

_NODES, _WEIGHTS = (np.asarray(values) for values in np.polynomial.legendre.leggauss(5))
_NODES, _WEIGHTS = (_NODES + 1) / 2, _WEIGHTS / 2
#: Pieces of each curve: as few as give the length within this share of it, and no more than so many.
_PRECISE, _MOST_PIECES = 1e-8, 128
_STEPS = 6
#: So many ends of pieces are looked at together.
_LOOKED_AT = 4_000_000
#: Places nearer to each other than this share of the way are one: a corner's, or the end and the beginning of a round.
MET = 1e-10


@dataclass(frozen=True)
class Way:
    """Curves one behind the other, at some frames.

    Attributes
    ----------
    controls : array, shape (frames, curves, 4, 2) in the plane or (frames, curves, 4, 3) in space, px
    pieces : into how many pieces each curve is cut
    """

    controls: Floats
    pieces: int

    @cached_property
    def _steps(self) -> Floats:
        """Differences of control points, by which curves have their speed, shape (frames, curves, 3, 2 or 3)."""
        return 3 * np.diff(self.controls, axis=2)

    @cached_property
    def _ends(self) -> Floats:
        """How long the way is to the end of each piece, shape (frames, curves * pieces)."""
        starts = np.arange(self.pieces) / self.pieces
        u = (starts[:, None] + _NODES / self.pieces).reshape(-1)
        basis = np.stack([(1 - u) ** 2, 2 * u * (1 - u), u * u], axis=-1)
        speeds = np.linalg.norm(np.einsum("uk,fcki->fcui", basis, self._steps), axis=-1)
        lengths = speeds.reshape(*speeds.shape[:2], self.pieces, len(_NODES)) @ _WEIGHTS / self.pieces
        return np.cumsum(lengths.reshape(len(lengths), -1), axis=-1)

    @property
    def length(self) -> Floats:
        """How long the whole way is, px, shape (frames,)."""
        return self._ends[:, -1]

    def at(self, lengths: Floats) -> tuple[Floats, Floats]:
        """The points so far along the way, and the directions of the way there, not of unit length.

        Parameters
        ----------
        lengths : array, shape (..., frames), px from the beginning

        Returns
        -------
        points, directions : arrays, shape (..., frames, 2 or 3)
        """
        rows = lengths.reshape(-1, lengths.shape[-1])
        at_once = max(1, _LOOKED_AT // max(self._ends.size, 1))
        result = [self._at(rows[at : at + at_once]) for at in range(0, len(rows), at_once)]
        shape = (*lengths.shape, self.controls.shape[-1])
        points, directions = (np.concatenate(each).reshape(shape) for each in zip(*result, strict=True))
        return points, directions

    def _at(self, rows: Floats) -> tuple[Floats, Floats]:
        """The same for lengths of shape (rows, frames)."""
        frames, lengths = np.tile(np.arange(rows.shape[1]), len(rows)), rows.reshape(-1)
        met = lengths - MET * self.length[frames]  # at a corner rounding does not choose the side
        piece = np.minimum((self._ends[frames] < met[:, None]).sum(axis=1), self._ends.shape[1] - 1)
        before = np.where(piece > 0, self._ends[frames, np.maximum(piece - 1, 0)], 0.0)
        whole = self._ends[frames, piece] - before
        curve, start = piece // self.pieces, (piece % self.pieces) / self.pieces
        rest = np.clip(lengths - before, 0.0, whole)
        steps, controls = self._steps[frames, curve], self.controls[frames, curve]
        with np.errstate(divide="ignore", invalid="ignore"):
            gone = np.where(whole > 0, rest / whole, 0.0) / self.pieces
            for _ in range(_STEPS):
                off = self._length_of(steps, start, gone) - rest
                ahead = off / np.linalg.norm(_velocity(steps, start + gone), axis=-1)
                gone = np.clip(gone - np.where(np.isfinite(ahead), ahead, 0.0), 0.0, 1 / self.pieces)
        u = (start + gone)[:, None]
        a, b, c, d = np.moveaxis(controls, 1, 0)
        points = (1 - u) ** 3 * a + 3 * (1 - u) ** 2 * u * b + 3 * (1 - u) * u * u * c + u**3 * d
        return points, _direction(steps, controls, start + gone)

    @staticmethod
    def _length_of(steps: Floats, start: Floats, span: Floats) -> Floats:
        """The length of a bit of each curve, shape (frames,)."""
        u = start[:, None] + span[:, None] * _NODES
        basis = np.stack([(1 - u) ** 2, 2 * u * (1 - u), u * u], axis=-1)
        speeds = np.linalg.norm(np.einsum("fuk,fki->fui", basis, steps), axis=-1)
        result: Floats = speeds @ _WEIGHTS * span
        return result


def pieces_of(curves: Floats) -> int:
    """Into how many pieces each of some curves, shape (curves, 4, 2), is cut for its length to be precise."""
    pieces = 1
    length = Way(curves[None], pieces).length[0]
    while pieces < _MOST_PIECES:
        finer = Way(curves[None], 2 * pieces).length[0]
        if abs(finer - length) <= _PRECISE * finer:
            break
        pieces, length = 2 * pieces, finer
    return pieces


def _velocity(steps: Floats, u: Floats) -> Floats:
    u = u[:, None]
    result: Floats = (1 - u) ** 2 * steps[:, 0] + 2 * u * (1 - u) * steps[:, 1] + u * u * steps[:, 2]
    return result


def _direction(steps: Floats, controls: Floats, u: Floats) -> Floats:
    """The velocity, or where a curve stands still, at an end whose handle has collapsed, the way to its other end."""
    result = _velocity(steps, u)
    size = np.abs(steps).max(axis=(1, 2))
    stands = np.abs(result).max(axis=-1) <= 1e-9 * size
    if stands.any():
        inner = _velocity(steps, np.where(u < 0.5, u + 1e-4, u - 1e-4))
        result = np.where(stands[:, None], inner, result)
    return result
