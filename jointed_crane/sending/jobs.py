"""What workers do for whoever sends a scene: each function writes one file."""

from __future__ import annotations

import errno
import sqlite3  # noqa: F401 - loaded where workers come from, so that none of them has to
from collections.abc import Callable
from dataclasses import dataclass

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.bundle import bundle_bytes
from jointed_crane.formats.excerpt import excerpt
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.formats.svg_out.inlining import ArtSource
from jointed_crane.store.assets import AssetStore
from jointed_crane.store.database import opened_at
from jointed_crane.store.scenes import SceneStore


@dataclass(frozen=True)
class Order:
    """What is to be sent. The worker looks the scene up, so that whoever orders it need not hand it over.

    Attributes
    ----------
    scene : the scene's id
    library : the address of the database that has it and its art
    path : the file that it is written into
    """

    scene: str
    library: str
    path: str


def svg(order: Order, first: int, last: int) -> None:
    """One animated SVG of the frames from `first` to `last`."""
    _write(order, lambda scene, art: animated_svg(excerpt(scene, first, last), art))


def bundle(order: Order) -> None:
    """A zip of the scene and its art."""
    _write(order, bundle_bytes)


def _write(order: Order, made: Callable[[Scene, ArtSource], bytes]) -> None:
    engine = opened_at(order.library)
    assets = AssetStore(engine)
    data = made(SceneStore(engine, assets).load(order.scene).scene, assets.get)
    try:
        with open(order.path, "wb") as file:
            file.write(data)
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            raise
        raise RuleError(
            "The disk has no room for what is sent. Nothing was sent, and what is stored is kept; make room and send "
            "it again."
        ) from None
