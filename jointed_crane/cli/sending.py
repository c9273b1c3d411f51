"""Sending scenes out; the options are those of the ways out."""

from __future__ import annotations

import contextlib
import io
import signal
import sys
import tempfile
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from operator import methodcaller
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from jointed_crane.cli.group import data_option, farm_option, found, main

if TYPE_CHECKING:
    from jointed_crane.core.edits.pictures.drawings import Fit
    from jointed_crane.core.model.scene import Scene
    from jointed_crane.sending.choices.base import WayChoices
    from jointed_crane.sending.film import Sent
    from jointed_crane.store.scenes import Entry, SceneStore

#: How often it is looked whether a scene has changed, s.
_LOOK = 0.3


class _Sending(click.Command):
    """A command whose options are those of the ways out, looked up when somebody asks for them."""

    def get_params(self, ctx: click.Context) -> list[click.Parameter]:
        """The command's own options, then those of all ways, then help."""
        *own, told = super().get_params(ctx)
        return [*own, *self._of_ways, told]

    @cached_property
    def _of_ways(self) -> list[click.Parameter]:
        from jointed_crane.sending.ways import WAYS

        words = "; ".join(f"{way.name}: {way.words}, {way.use}" for way in WAYS.values())
        result: list[click.Parameter] = [
            click.Option(["--as", "form"], type=click.Choice(list(WAYS)), required=True, help=f"{words}.")
        ]
        models = [way.choices.model_json_schema(by_alias=False).get("properties", {}) for way in WAYS.values()]
        for name, field in {name: field for model in models for name, field in model.items()}.items():
            ways = ", ".join(way.name for way in WAYS.values() if name in way.choices.model_fields)
            kind = _kind_of(field)
            words = f"{field.get('description', name).capitalize()} ({ways})."
            flags = {"is_flag": True} if kind is bool else {}
            result.append(click.Option([f"--{name.replace('_', '-')}", name], type=kind, help=words, **flags))
        return result


def _kind_of(field: dict[str, Any]) -> Any:
    """What a field of a model's JSON schema is typed as: one of a few words, a number, or words."""
    if "enum" in field:
        return click.Choice(field["enum"])
    kinds = {"boolean": bool, "integer": int, "number": float, "string": str}
    said = [field.get("type"), *(one.get("type") for one in field.get("anyOf", ()))]
    return next(kind for word, kind in kinds.items() if word in said)


@main.command(cls=_Sending, short_help="Send a scene out, as an SVG that plays, a picture or a zip.")
@click.argument("name")
@click.option("--to", "target", type=click.Path(path_type=Path), required=True, metavar="FILE")
@click.option("--span", metavar="NAME", help="A span of the scene by its name, instead of first and last.")
@click.option(
    "--table",
    type=click.Path(path_type=Path, dir_okay=False, exists=True),
    metavar="CSV",
    help="Send a file for each row of a table: cells by the names of parts (words of a text, value of a lever, picture "
    "of anything else) or 'Part: fill', 'Part: stroke', 'Part: drawing'. FILE is then a folder.",
)
@click.option(
    "--names",
    default="{row}",
    show_default=True,
    metavar="PATTERN",
    help="Names of these files, with columns in braces: '{row} {Name plate}'.",
)
@click.option("--fit", is_flag=True, help="Stretch pictures of a table to the boxes of those that they replace.")
@click.option("--watch", is_flag=True, help="Send it again whenever the scene has changed, until Ctrl+C.")
@farm_option
@data_option
def send(
    name: str,
    form: str,
    target: Path,
    span: str | None,
    table: Path | None,
    names: str,
    fit: bool,
    watch: bool,
    farm: str,
    data: str | None,
    **given: Any,
) -> None:
    """Send a scene out as a file: the whole of it, a span, or one frame.

    Numbered pictures go into a folder, or into a zip where FILE ends in .zip.
    """
    from jointed_crane.sending.film import Sent
    from jointed_crane.sending.ways import WAYS

    said = {key: value for key, value in given.items() if value is not None and value is not False}
    if table is not None:
        if watch:
            raise click.UsageError("A table is not watched; leave --watch out.")
        _send_table(Table(table, names, "box" if fit else "registration"), name, form, target, span, said, data)
        return
    scene_id, kept, assets = found(name, data)
    entry = kept.load(scene_id)

    def once(scene: Scene) -> None:
        choices = WAYS[form].chosen({**_frames_of(scene, span), **said})
        with _shown_progress():
            sent = Sent(scene, assets.get, io.BytesIO())
            size = _drawn_by_farm(sent, choices, target, farm) if farm else _sent(sent, choices, target)
        for note in choices.notes(scene, assets.get):
            click.echo(note, err=True)
        click.echo(f"Sent {name} to {target} ({size / 1000:.0f} kB).")

    once(entry.scene)
    if watch:
        _again_and_again(entry, kept, once)


@dataclass(frozen=True)
class Table:
    """Rows that fill a template, the pattern of their files' names, and how pictures are laid."""

    path: Path
    names: str
    fit: Fit


def _send_table(
    table: Table, name: str, form: str, target: Path, span: str | None, said: dict[str, Any], data: str | None
) -> None:
    """Send a file for each row into a folder; where one row cannot be taken, none is sent."""
    from jointed_crane.formats.tables.variants import variant_rows
    from jointed_crane.scripting import OpenLibrary
    from jointed_crane.sending.filling import file_names
    from jointed_crane.sending.putting import unwritten
    from jointed_crane.sending.ways import WAYS

    scene = OpenLibrary(data).open(name)
    rows = variant_rows(table.path.read_bytes(), table.path.name)
    files = file_names(table.names, rows, WAYS[form].ending)
    made = [scene.variant(row, table.path.parent, table.fit) for row in rows]
    choices = {**_frames_of(scene.scene, span), **said}
    WAYS[form].chosen(choices)
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise unwritten(target, error) from None
    for file, one in zip(files, made, strict=True):
        with _shown_progress():
            size = scene.send(target / file, form, one, **choices)
        click.echo(f"Sent {target / file} ({size / 1000:.0f} kB).")


def _again_and_again(entry: Entry, kept: SceneStore, once: Callable[[Scene], None]) -> None:
    """Send a scene again each time that it has changed; what cannot be sent is said, and the next change waited for."""
    from jointed_crane.core.basics.errors import RuleError

    stopped = threading.Event()
    for asked in (signal.SIGINT, signal.SIGTERM):  # also where whoever started it has it ignore the first
        signal.signal(asked, lambda *_: stopped.set())
    while not stopped.wait(_LOOK):
        newest = kept.load(entry.scene.id)
        if newest.version == entry.version:
            continue
        entry = newest
        try:
            once(entry.scene)
        except RuleError as error:
            click.echo(str(error), err=True)


def _sent(sent: Sent, choices: WayChoices, target: Path) -> int:
    """Write what is sent to its target, numbered pictures one by one where that is a folder; how many bytes."""
    from jointed_crane.sending.choices.pictures import Pictures
    from jointed_crane.sending.putting import put, unwritten

    if not isinstance(choices, Pictures) or target.suffix.lower() == ".zip":
        return put(target, lambda file: choices.write(replace(sent, file=file)))
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise unwritten(target, error) from None
    size = 0
    for name, picture in choices.pictures(sent):
        size += put(target / name, methodcaller("write", picture))
    return size


def _drawn_by_farm(sent: Sent, choices: WayChoices, target: Path, farm: str) -> int:
    """Write what is sent to its target, its frames drawn by a farm; how many bytes."""
    from jointed_crane.sending.choices.base import SentFrames
    from jointed_crane.sending.farm import fill
    from jointed_crane.sending.frame_files import FrameFiles

    if not isinstance(choices, SentFrames):
        return _sent(sent, choices, target)
    with tempfile.TemporaryDirectory(prefix="jointed-crane-") as folder:
        files = FrameFiles(Path(folder))
        stretches = files.missing(choices.film(sent).count)
        fill(files, farm, sent.scene, sent.art, choices, stretches, lambda: False)
        return _sent(replace(sent, drawn=files.get), choices, target)


@contextlib.contextmanager
def _shown_progress() -> Iterator[None]:
    """How far it has come, in one line of a terminal while it goes on."""
    from jointed_crane.core.basics import progress

    if not sys.stderr.isatty():
        yield
        return

    def show(done: int, of: int, what: str) -> None:
        filled = 30 * done // max(of, 1)
        click.echo(f"\r{'#' * filled}{'.' * (30 - filled)} {done} of {of} {what}\x1b[K", err=True, nl=False)

    progress.listener = show
    try:
        yield
    finally:
        progress.listener = None
        click.echo("\r\x1b[K", err=True, nl=False)


def _frames_of(scene: Scene, span: str | None) -> dict[str, int]:
    from jointed_crane.core.basics.errors import RuleError

    if span is None:
        return {}
    known = [marker for marker in scene.markers if marker.until is not None]
    found = next((marker for marker in known if marker.name == span), None)
    if found is None or found.until is None:
        names = ", ".join(marker.name for marker in known) or "none yet"
        raise RuleError(f"{scene.name} has no span called {span!r}; its spans are: {names}. Nothing was sent.")
    return {"first": round(found.frame), "last": round(found.until)}
