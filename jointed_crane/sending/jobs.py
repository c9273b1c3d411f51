"""What workers do for whoever sends a scene: one file of one way out."""

from __future__ import annotations

import contextlib
import errno
import importlib
import sqlite3  # noqa: F401 - loaded where workers come from, so that none of them has to
from collections.abc import Iterator
from dataclasses import dataclass
from typing import BinaryIO

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats import bundle, excerpt  # noqa: F401 - so are these, which the writers load when they are asked
from jointed_crane.formats.svg_out import animated  # noqa: F401
from jointed_crane.sending.choices import WayChoices
from jointed_crane.sending.film import Sent
from jointed_crane.store.assets import AssetStore
from jointed_crane.store.database import opened_at
from jointed_crane.store.scenes import SceneStore

with contextlib.suppress(ImportError):  # where the rasteriser does not run here, who asks for pictures is told
    importlib.import_module("jointed_crane.render.png")


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


def sent(order: Order, choices: WayChoices) -> None:
    """Write the file that is ordered, as it is chosen."""
    engine = opened_at(order.library)
    assets = AssetStore(engine)
    scene = SceneStore(engine, assets).load(order.scene).scene
    with writing_to(order.path) as file:
        choices.write(Sent(scene, assets.get, file))


@contextlib.contextmanager
def writing_to(path: str) -> Iterator[BinaryIO]:
    """A file to write into; RuleError where its disk is full."""
    try:
        with open(path, "wb") as file:
            yield file
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            raise
        raise RuleError(
            "The disk has no room for what is sent. Nothing was sent, and what is stored is kept; make room and send "
            "it again."
        ) from None
