"""Taking matrices apart: the nearest rotation, and rotation, shear and scale."""

from __future__ import annotations

import warnings

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.coordinates import Quaternion

Floats = npt.NDArray[np.float64]

_MIRROR = np.diag([-1.0, 1.0, 1.0])


def polar(linear: Floats) -> tuple[Floats, Floats]:
    """Rotation and stretch of a linear part: linear = rotation stretch (polar decomposition, Higham 1986).

    A mirrored part keeps its mirror in the stretch, so that the rotation is always a proper one.

    Parameters
    ----------
    linear : array, shape (..., 3, 3)
    """
    u, s, vt = np.linalg.svd(linear)
    rotation = u @ vt
    stretch = np.swapaxes(vt, -1, -2) @ (s[..., None] * vt)
    mirrored = np.linalg.det(linear) < 0
    if mirrored.any():
        rotation = np.where(mirrored[..., None, None], rotation @ _MIRROR, rotation)
        stretch = np.where(mirrored[..., None, None], _MIRROR @ stretch, stretch)
    return rotation, stretch


def rotation_shear_scale(linear: Floats, signs: Floats) -> tuple[Floats, Floats, Floats]:
    """A linear part as rotation @ K @ diag(scale), with K upper triangular and ones on its diagonal (QR).

    Exact for every linear part, also under skewed parents. The scale takes the given signs as far as the
    determinant allows; where it does not, x changes its sign.

    Parameters
    ----------
    linear : array, shape (3, 3)
    signs : array, shape (3,), +1 or -1

    Returns
    -------
    rotation : array, shape (3, 3), proper
    shear : array, shape (3,), the entries xy, xz, yz of K
    scale : array, shape (3,)
    """
    wanted = np.where(signs < 0, -1.0, 1.0)
    if np.prod(wanted) * np.linalg.det(linear) < 0:
        wanted[0] = -wanted[0]
    q, upper = np.linalg.qr(linear)
    flip = np.where(np.diag(upper) < 0, -1.0, 1.0) * wanted
    rotation, upper = q * flip, flip[:, None] * upper
    if np.linalg.det(rotation) < 0:  # only where a scale is zero: its column of Q is free
        free = int(np.argmin(np.abs(np.diag(upper))))
        rotation[:, free] = -rotation[:, free]
        upper[free] = -upper[free]
    scale = np.diag(upper).copy()
    with np.errstate(divide="ignore", invalid="ignore"):
        unit = upper / scale[None, :]
    shear = np.array([unit[0, 1], unit[0, 2], unit[1, 2]])
    return rotation, np.where(np.isfinite(shear), shear, 0.0), scale


def rotation_about(axis: Floats, degrees: float) -> Floats:
    """The turn about an axis of length 1, shape (3, 3) (Rodrigues' formula)."""
    x, y, z = axis
    across = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    angle = np.deg2rad(degrees)
    return np.asarray(np.eye(3) + np.sin(angle) * across + (1 - np.cos(angle)) * (across @ across))


def quaternion(rotation: Floats) -> Quaternion:
    """A rotation matrix of shape (3, 3) as (x, y, z, w)."""
    from scipy.spatial.transform import Rotation  # a third of a second to load, and most commands do without

    x, y, z, w = (float(value) for value in Rotation.from_matrix(rotation).as_quat())
    return (x, y, z, w)


def angle_about_z(orientation: Quaternion) -> float:
    """How far an orientation turns about z, radians, above -2 pi up to 2 pi: a quaternion and its negative lie alike a
    whole turn apart. Exact where it turns about z alone.
    """
    _, _, z, w = orientation
    return float(2 * np.arctan2(z, w))


def rotation_matrices(quaternions: Floats) -> Floats:
    """Unit quaternions of shape (..., 4) as rotation matrices of shape (..., 3, 3)."""
    x, y, z, w = np.moveaxis(quaternions / np.linalg.norm(quaternions, axis=-1, keepdims=True), -1, 0)
    rows = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
    return np.moveaxis(np.array(rows), (0, 1), (-2, -1))


def turns_of(linear: Floats, order: str, near: Floats) -> Floats:
    """The turns about x, y and z, degrees, that make a rotation in an order, as near as may be to some others: an
    angle and the whole turns beside it are alike, and so are the two ways of coming to a rotation by three turns.

    Parameters
    ----------
    linear : array, shape (3, 3), a rotation
    near : array, shape (3,), degrees
    """
    from scipy.spatial.transform import Rotation

    places = ["XYZ".index(letter) for letter in order]
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # where two axes fall together one of their angles is free, which is well
        first, middle, last = Rotation.from_matrix(linear).as_euler(order, degrees=True).tolist()
    known = near[places]
    ways = []
    for one in ((first, middle, last), (first + 180.0, 180.0 - middle, last + 180.0)):
        angles = np.array(one)
        if abs(np.cos(np.deg2rad(middle))) < 1e-7:  # only the sum, or the difference, of the outer ones counts
            sign = 1.0 if np.sin(np.deg2rad(middle)) > 0 else -1.0
            shared = (angles[0] + sign * angles[2]) - (known[0] + sign * known[2])
            shared -= 360.0 * np.round(shared / 360.0)
            angles[0], angles[2] = known[0] + shared / 2, known[2] + sign * shared / 2
        ways.append(angles - 360.0 * np.round((angles - known) / 360.0))
    best = min(ways, key=lambda angles: float(np.abs(angles - known).sum()))
    result = np.empty(3)
    result[places] = best
    return result
