"""How parts lie in space: rotations whose x is the way the art's own x goes, and whose z is on the side of its front.

Components come first, shapes (3, 3, parts, frames).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.fields import rotation, stacked
from jointed_crane.core.geometry.plane import length_of

Floats = npt.NDArray[np.float64]
#: What leans out of the plane of the stage by less lies in it.
_LEVEL = 1e-12
#: The sine of the angle between the axes of a part below which its plane has become a line.
VANISHED = 1e-9


def bearings_of(linear: Floats) -> Floats:
    """The bearings of linear parts: x along their first column, z across the first two on the side of the third, so
    that what is mirrored in its plane lies as its own x says, and what is flattened to a line as the third column says;
    the identity for what has no size.
    """
    front = linear[:, 2]
    with np.errstate(divide="ignore", invalid="ignore"):
        x = linear[:, 0] / length_of(linear[:, 0])
        across = np.cross(x, linear[:, 1], axis=0)
        is_line = length_of(across) <= VANISHED * length_of(linear[:, 1])
        z = np.where(is_line, front - (front * x).sum(axis=0) * x, across)
        z = z / length_of(z)
    # Where all three have come to lie in one plane, whatever the last digit says.
    z = z * np.where((z * front).sum(axis=0) < -VANISHED * length_of(front), -1.0, 1.0)
    result = np.stack([x, np.cross(z, x, axis=0), z], axis=1)
    return np.where(np.isfinite(result).all(axis=(0, 1)), result, np.eye(3)[..., None, None])


def are_level(bearings: Floats, front: float = 1.0) -> npt.NDArray[np.bool_]:
    """Which bearings are turned about z alone, shape (parts, frames); with a `front` of -1, which of them lie in the
    plane of the stage with their front away from who sees it.
    """
    off = np.abs(bearings - np.array([0.0, 0.0, front])[:, None, None, None])
    result: npt.NDArray[np.bool_] = off[:, 2].max(axis=0) <= _LEVEL
    return result


def plane_of(linear: Floats) -> Floats:
    """Two axes that span the plane of one linear part, shape (3, 3), its front towards who sees them x to the right and
    y down, shape (3, 2); those of the stage for what lies in it.
    """
    bearings = bearings_of(linear[..., None, None])
    return np.eye(3)[:, :2] if are_level(bearings).all() else np.asarray(bearings[:, :2, 0, 0])


def product(a: Floats, b: Floats) -> Floats:
    """One after the other: a b."""
    result: Floats = np.einsum("ij...,jk...->ik...", *np.broadcast_arrays(a, b))
    return result


def back(bearings: Floats) -> Floats:
    """The rotations backwards."""
    return np.swapaxes(bearings, 0, 1)


def of_turns(x: Floats, y: Floats, z: Floats) -> Floats:
    """Rotations by turns about x, then the turned y, then the z that comes of both, radians."""
    matrices = (stacked(rotation(axis, angle), angle.shape) for axis, angle in enumerate((x, y, z)))
    turns = [np.moveaxis(each, (-2, -1), (0, 1)) for each in matrices]
    return product(product(turns[0], turns[1]), turns[2])


def by_a_share(bearings: Floats, share: Floats) -> Floats:
    """A share of rotations, the shortest way."""
    if (share == 1).all():
        return bearings
    return _by_vectors(_vectors(bearings, np.broadcast_shapes(bearings.shape[2:], share.shape)) * share)


def mean(bearings: Floats, weights: Floats) -> Floats:
    """The mean of bearings, shape (goals, 3, 3, parts, frames): from the one nearest to their weighted sum (its polar
    part) on by the weighted mean of the shortest ways to them. About one axis that is the mean of the angles.
    """
    about = _nearest((weights[:, None, None] * bearings).sum(axis=0))
    ways = np.stack([_vectors(product(back(about), each), about.shape[2:]) for each in bearings])
    return product(about, _by_vectors((weights[:, None] * ways).sum(axis=0)))


def _nearest(total: Floats) -> Floats:
    """The rotations nearest to matrices, shape (3, 3, ...)."""
    u, _, v = np.linalg.svd(np.moveaxis(total, (0, 1), (-2, -1)))
    sign = np.linalg.det(u @ v)[..., None]
    u = np.concatenate([u[..., :2], u[..., 2:] * sign[..., None]], axis=-1)
    return np.moveaxis(u @ v, (-2, -1), (0, 1))


def _vectors(bearings: Floats, shape: tuple[int, ...]) -> Floats:
    """The shortest ways that rotations go, as vectors along their axes, radians, shape (3, *shape)."""
    from scipy.spatial.transform import Rotation  # a third of a second to load, and most commands do without

    whole = np.moveaxis(np.broadcast_to(bearings, (3, 3, *shape)), (0, 1), (-2, -1)).reshape(-1, 3, 3)
    return np.asarray(Rotation.from_matrix(whole).as_rotvec().T.reshape(3, *shape))


def _by_vectors(vectors: Floats) -> Floats:
    """The rotations that go by vectors, radians, shape (3, ...)."""
    from scipy.spatial.transform import Rotation

    matrices = Rotation.from_rotvec(vectors.reshape(3, -1).T).as_matrix()
    return _first(matrices, vectors.shape[1:])


def _first(matrices: Floats, shape: tuple[int, ...]) -> Floats:
    return np.moveaxis(matrices.reshape(*shape, 3, 3), (-2, -1), (0, 1))
