"""A data folder with the demo scenes, built once a run and copied for each test that wants them."""

from __future__ import annotations

import io
import sqlite3
import tempfile
from contextlib import closing
from functools import cache
from pathlib import Path

from heron_lock.build import build_demo
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.sending.film import Sent
from jointed_crane.sending.ways import WAYS
from jointed_crane.store.database import FILE_NAME
from jointed_crane.store.library import Library
from jointed_crane.web import JOBS
from jointed_crane.work.workers import Workers

#: The workers of all tests of one run.
WORKERS = Workers(modules=JOBS)


@cache
def _built() -> tempfile.TemporaryDirectory:
    folder = tempfile.TemporaryDirectory()
    build_demo(Library(Path(folder.name)))
    return folder


@cache
def _empty() -> tempfile.TemporaryDirectory:
    folder = tempfile.TemporaryDirectory()
    Library(Path(folder.name))
    return folder


def copy_empty(folder: Path) -> None:
    """Put an empty database into an empty data folder: its tables need not be made anew."""
    _copied(_empty(), folder)


def copy_demo(folder: Path) -> None:
    """Put the demo's database into an empty data folder, before it is opened."""
    _copied(_built(), folder)


def _copied(known: tempfile.TemporaryDirectory, folder: Path) -> None:
    source, target = Path(known.name) / FILE_NAME, folder / FILE_NAME
    with closing(sqlite3.connect(source)) as built, closing(sqlite3.connect(target)) as copy:
        built.backup(copy)


@cache
def demo_scenes() -> list[tuple[Scene, ArtSource]]:
    """The demo scenes, and where their art is."""
    library = Library(Path(_built().name))
    return [(library.scenes.load(card.id).scene, library.assets.get) for card in library.shelf.cards()]


def written(scene: Scene, art: ArtSource, way: str, **given: object) -> bytes:
    """What a way out makes of a scene, as it is chosen."""
    file = io.BytesIO()
    WAYS[way].chosen(given).write(Sent(scene, art, file))
    return file.getvalue()
