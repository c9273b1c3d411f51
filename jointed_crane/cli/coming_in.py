"""Bringing files in: artwork, and points that were followed."""

from __future__ import annotations

import importlib
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from jointed_crane.cli.group import card_of, data_option, library_of, main

if TYPE_CHECKING:
    from jointed_crane.formats.artwork import Coming
    from jointed_crane.formats.bundle import Bundle
    from jointed_crane.store.library import Library


@main.command("import", short_help="Bring artwork into a scene.")
@click.argument("files", nargs=-1, required=True, metavar="FILE...", type=click.Path(path_type=Path))
@click.option("--into", "name", required=True, metavar="NAME", help="The scene; it is made where there is none.")
@click.option(
    "--as",
    "coming",
    type=click.Choice(["part", "helper", "layers"]),
    help="Each file as one part, its layers under a helper, or its layers loose. Without it several files are one part "
    "each, and one file is its layers if any of them has a name.",
)
@data_option
def bring_in(files: tuple[Path, ...], name: str, coming: Coming | None, data: str | None) -> None:
    """Bring artwork into a scene: SVG drawings, PNG, JPEG or WebP pictures, and zips of them; or vector animation
    (Lottie JSON), alone, which makes a scene of its own.

    One drawing lies as it is drawn, and a scene that is made new for it takes its size; several lie beside each other
    in the middle of the stage. Either all files come in or none does.
    """
    from jointed_crane.core.basics.wording import counted
    from jointed_crane.formats.artwork import together
    from jointed_crane.formats.coming_in import Choices
    from jointed_crane.reading.bounds import READING
    from jointed_crane.reading.foreign_file import ForeignFile
    from jointed_crane.reading.several import as_chosen, drawings, is_json
    from jointed_crane.work.workers import Workers

    workers = Workers("fork")

    def read(job: str, given: object) -> Any:
        # The worker loads what it reads with while this process loads the library.
        return workers.do(READING, f"jointed_crane.reading.jobs:{job}", given, meanwhile=_load_library)

    choices = Choices(coming=coming)
    given = [ForeignFile(_bytes(file), file.name) for file in files]
    if len(given) == 1 and is_json(given[0]):
        _open(read("vector_animation", given[0]), name, library_of(data))
        return
    artwork = together(read("artwork", as_chosen(drawings(given, partial(read, "unpacked")), choices)))
    library = library_of(data)
    card = library.shelf.find(name)
    if card is None:
        entry = library.new_from(artwork, name)
        count = len(entry.scene.parts)
    else:
        known = library.scenes.load(card.id)
        change, ids = library.bring_in(card.id, known.version, artwork, choices)
        entry = library.scenes.commit(change)
        count = len(ids)
    for note in artwork.notes:
        click.echo(note, err=True)
    click.echo(f"Brought {counted(count, 'part')} into {entry.scene.name}.")


def _open(bundle: Bundle, name: str, library: Library) -> None:
    """Put a scene from a file on the shelf under a name that is free."""
    from jointed_crane.core.basics.errors import RuleError
    from jointed_crane.core.basics.wording import counted

    if library.shelf.find(name) is not None:
        raise RuleError(f"There is a scene called {name} already. Nothing was brought in; choose another name.")
    entry = library.open_bundle(replace(bundle, scene=replace(bundle.scene, name=name)))
    for note in bundle.notes:
        click.echo(note, err=True)
    click.echo(f"Brought {counted(len(entry.scene.parts), 'part')} into {name}.")


@main.command(short_help="Bring followed points in, each a helper with keys.")
@click.argument("files", nargs=-1, required=True, metavar="FILE...", type=click.Path(path_type=Path))
@click.option("--into", "name", required=True, metavar="NAME", help="The scene that they come into.")
@data_option
def track(files: tuple[Path, ...], name: str, data: str | None) -> None:
    """Bring followed points into a scene, each a helper with keys: CSV tables of frame, x and y in px on the
    stage, with a column part where a table holds several.

    Either all files come in or none does.
    """
    from jointed_crane.core.basics.wording import counted
    from jointed_crane.core.edits.time.bringing_tracks import BringTrack
    from jointed_crane.reading import jobs
    from jointed_crane.reading.bounds import READING
    from jointed_crane.reading.foreign_file import ForeignFile
    from jointed_crane.store.library import new_id
    from jointed_crane.work.workers import Workers

    library = library_of(data)
    entry = library.scenes.load(card_of(library.shelf.cards(), name).id)
    foreign = [ForeignFile(_bytes(file), file.name) for file in files]
    workers = Workers("fork")
    result = [one for file in foreign for one in workers.do(READING, jobs.tracks, file)]
    edits = [BringTrack(new_id(), one.name, one.points) for one in result]
    library.scenes.keep(entry.scene.id, entry.version, edits)
    click.echo(f"Brought {counted(len(edits), 'track')} into {name}.")


def _load_library() -> None:
    importlib.import_module("jointed_crane.store.library")


def _bytes(file: Path) -> bytes:
    from jointed_crane.core.basics.errors import RuleError

    try:
        return file.read_bytes()
    except OSError as error:
        raise RuleError(f"{file} cannot be read ({error.strerror}). Nothing was brought in.") from None
