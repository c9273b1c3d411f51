"""What workers do for whoever sends a scene: one file of one way out, at once or beside everything else."""

from __future__ import annotations

import contextlib
import importlib
import io
import itertools
import os
import shutil
import sqlite3  # noqa: F401 - loaded where workers come from, so that none of them has to
import time
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats import bundle, excerpt  # noqa: F401 - so are these, which the writers load when they are asked
from jointed_crane.formats.lottie_out import animated as lottie  # noqa: F401
from jointed_crane.formats.svg_out import animated  # noqa: F401
from jointed_crane.sending.choices.base import SentFrames, WayChoices
from jointed_crane.sending.filling import Filling
from jointed_crane.sending.film import Sent
from jointed_crane.sending.forecast import Forecast, forecast
from jointed_crane.sending.frame_files import FrameFiles, Pixels, packed
from jointed_crane.store.assets import AssetStore
from jointed_crane.store.database import opened_at
from jointed_crane.store.faults import FULL
from jointed_crane.store.scenes import SceneStore
from jointed_crane.store.sendings import Sendings

with contextlib.suppress(ImportError):  # where the rasteriser does not run here, who asks for pictures is told
    importlib.import_module("jointed_crane.render.png")

#: How often it is looked whether a frame is drawn, s.
_LOOK = 0.02


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
    with _on_disk(), open(order.path, "wb") as file:
        choices.write(Sent(scene, assets.get, file))


def variant_sent(order: Order, choices: WayChoices, filling: Filling) -> None:
    """Write the file of the first row that fills the scene that is ordered."""
    engine = opened_at(order.library)
    assets = AssetStore(engine)
    with _on_disk(), open(order.path, "wb") as file:
        made = filling.variant(SceneStore(engine, assets).load(order.scene).scene, assets.get, 0)
        choices.write(Sent(made.scene, made.art, file))


def foretold(order: Order, choices: WayChoices) -> Forecast:
    """What it would come to."""
    engine = opened_at(order.library)
    assets = AssetStore(engine)
    return forecast(SceneStore(engine, assets).load(order.scene).scene, assets.get, choices)


@dataclass(frozen=True)
class BackgroundOrder:
    """What is sent beside everything else, from a scene as it once was.

    Attributes
    ----------
    sending : its id
    library : the address of the database that has it and its art
    folder : where its frames are kept until they are written
    """

    sending: str
    library: str
    folder: str

    @property
    def files(self) -> FrameFiles:
        """Its frames."""
        return FrameFiles(Path(self.folder))

    def sent(self, file: BinaryIO, is_drawn: bool) -> Sent:
        """What is sent; where it is drawn elsewhere, frames are taken as soon as they are there."""
        engine = opened_at(self.library)
        return Sent(
            Sendings(engine).scene(self.sending), AssetStore(engine).get, file, self._awaited if is_drawn else None
        )

    def _awaited(self, place: int) -> Pixels:
        while not self.files.has(place):
            time.sleep(_LOOK)
        return self.files.get(place)


def stretch_drawn(order: BackgroundOrder, choices: SentFrames, first: int, last: int) -> None:
    """Draw the frames from a place to another, both included, and keep them."""
    film = choices.film(order.sent(io.BytesIO(), is_drawn=False))
    with _on_disk():
        for place, pixels in enumerate(itertools.islice(film.frames(first), last - first + 1), start=first):
            order.files.put(place, packed(pixels))


def film_length(order: BackgroundOrder, choices: SentFrames) -> int:
    """How many frames it has; RuleError where it cannot be sent."""
    return choices.film(order.sent(io.BytesIO(), is_drawn=False)).count


def file_written(order: BackgroundOrder, choices: WayChoices, path: str) -> None:
    """Write the file of what is sent."""
    with _on_disk(), open(path, "wb") as file:
        choices.write(order.sent(file, is_drawn=True))


def row_written(order: BackgroundOrder, choices: WayChoices, filling: Filling, number: int, path: str) -> None:
    """Write the file of one row."""
    engine = opened_at(order.library)
    made = filling.variant(Sendings(engine).scene(order.sending), AssetStore(engine).get, number)
    with _on_disk():
        aside = f"{path}.part"
        with open(aside, "wb") as file:
            choices.write(Sent(made.scene, made.art, file))
        os.replace(aside, path)


def rows_packed(names: Sequence[str], paths: Sequence[str], path: str) -> None:
    """Put the files of rows into a zip, under their names; they are as small as they can be already."""
    with _on_disk(), zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as archive:
        for name, file in zip(names, paths, strict=True):
            with open(file, "rb") as source, archive.open(zipfile.ZipInfo(name), "w", force_zip64=True) as entry:
                shutil.copyfileobj(source, entry)


@contextlib.contextmanager
def _on_disk() -> Iterator[None]:
    """RuleError where the disk is full."""
    try:
        yield
    except OSError as error:
        if error.errno not in FULL:
            raise
        raise RuleError(
            "The disk has no room for what is sent. Nothing was sent, and what is stored is kept; make room and send "
            "it again."
        ) from None
