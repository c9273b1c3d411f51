"""The command line: serve, demo, import, track, send, pose, scenes."""

from __future__ import annotations

import contextlib
import gc
import importlib
import io
import logging
import os
import signal
import sys
import threading
from collections.abc import Callable, Iterator, Sequence
from functools import cached_property, partial
from operator import methodcaller
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO, cast

import click

if TYPE_CHECKING:  # what a command uses it imports itself, so that help and short commands need not wait for it
    from jointed_crane.core.model.scene import Scene
    from jointed_crane.formats.artwork import Coming
    from jointed_crane.sending.choices import WayChoices
    from jointed_crane.sending.film import Sent
    from jointed_crane.store.assets import AssetStore
    from jointed_crane.store.cards import Card
    from jointed_crane.store.library import Library
    from jointed_crane.store.scenes import Entry

_data = click.option(
    "--data",
    metavar="FOLDER",
    help="Where scenes are kept. Without it JOINTED_CRANE_DATA counts, and without that your own data folder.",
)


_port = click.option(
    "--port",
    default=8420,
    show_default=True,
    type=click.IntRange(0, 65535),
    help="Port on loopback; 0 takes a free one.",
)


class _Sentences(click.Group):
    """Turns refusals into one sentence on standard error and exit status 1."""

    def invoke(self, ctx: click.Context) -> Any:
        try:
            return super().invoke(ctx)
        except Exception as error:
            sentence = str(error) if _is_refusal(error) else _of_disk(error, ctx)
            if sentence is None:
                raise
            click.echo(sentence, err=True)
            sys.exit(1)


def _is_refusal(error: Exception) -> bool:
    from jointed_crane.core.basics.errors import RuleError

    return isinstance(error, RuleError)


def _of_disk(error: Exception, ctx: click.Context) -> str | None:
    """What is wrong with the disk or the library, where that is what went wrong."""
    if not isinstance(error, OSError) and "sqlalchemy" not in sys.modules:
        return None
    from jointed_crane.store.database import data_folder
    from jointed_crane.store.faults import fault_of

    fault = fault_of(error, data_folder(ctx.params.get("data") or _asked(sys.argv)))
    if fault is None and isinstance(error, OSError):
        return f"That did not work ({error.strerror or error}). Nothing was changed."
    return None if fault is None else fault.sentence


def _asked(words: Sequence[str]) -> str | None:
    """The folder that a command was given; the group that catches its errors does not know its options."""
    for place, word in enumerate(words):
        if word.startswith("--data="):
            return word.removeprefix("--data=")
        if word == "--data" and place + 1 < len(words):
            return words[place + 1]
    return None


@click.group(cls=_Sentences, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="jointed-crane")
def main() -> None:
    """Animate cut-out characters, props and objects about the joints you chose.

    Scenes live in a data folder on this machine; nothing leaves it. Start with `jointed-crane demo`, or bring your
    own layered drawing in:

    \b
        jointed-crane import figure.svg --into "My figure"
        jointed-crane serve
        jointed-crane send "My figure" --as svg --to figure-moving.svg
    """
    # A command that is soon over need not look for garbage time and again while it loads what it uses.
    gc.set_threshold(200_000)
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")  # there are none, and looking for them takes its time


def _library(data: str | None) -> Library:
    from jointed_crane.store.database import data_folder
    from jointed_crane.store.library import Library

    return Library(data_folder(data))


def _entry(name: str, data: str | None) -> tuple[Entry, AssetStore]:
    """The newest scene of this name, and the art of its library."""
    from jointed_crane.store.assets import AssetStore
    from jointed_crane.store.cards import cards
    from jointed_crane.store.database import data_folder, opened
    from jointed_crane.store.scenes import SceneStore

    engine = opened(data_folder(data))
    assets = AssetStore(engine)
    return SceneStore(engine, assets).load(_card(cards(engine), name).id), assets


def _card(known: Sequence[Card], name: str) -> Card:
    from jointed_crane.core.basics.errors import RuleError

    card = next((card for card in known if card.name == name), None)
    if card is None:
        names = ", ".join(other.name for other in known) or "none yet"
        raise RuleError(f"There is no scene called {name!r}. The scenes are: {names}.")
    return card


@main.command(short_help="Serve the shelf and the bench on this machine.")
@_data
@_port
def serve(data: str | None, port: int) -> None:
    """Serve the shelf and the bench to a browser on this machine, until Ctrl+C."""
    _serve(data, port)


@main.command(short_help="Serve them with the Heron Lock scenes on the shelf.")
@_data
@_port
def demo(data: str | None, port: int) -> None:
    """Serve, with the Heron Lock scenes on the shelf; scenes that are there already are left as they are."""
    from jointed_crane.core.basics.errors import RuleError

    build = _demo()
    if build is None:
        raise RuleError("The demo scenes are not installed here. `jointed-crane serve` starts without them.")
    for name in build(_library(data)):
        click.echo(f"Made the scene {name}.")
    _serve(data, port)


def _demo() -> Callable[[Library], list[str]] | None:
    """What makes the demo scenes; None where they were not installed along."""
    try:
        from demo.build import build_demo
    except ImportError:
        return None
    return build_demo


def _serve(data: str | None, port: int) -> None:
    from waitress import wasyncore

    from jointed_crane import memory
    from jointed_crane.core.basics.errors import RuleError
    from jointed_crane.store.database import data_folder, is_writable
    from jointed_crane.web import create_app
    from jointed_crane.web.serving import server_of

    # A browser asks for many pictures at once; that they wait for a moment is nothing to report.
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    app = create_app(data_folder(data), _demo())
    memory.settle()
    threading.Thread(target=app.extensions["workers"].warm, daemon=True).start()
    if is_writable(data_folder(data)):
        threading.Thread(target=app.extensions["library"].assets.sweep, daemon=True).start()
        app.extensions["sender"].wake()
    else:
        click.echo("The data folder is read-only: scenes can be looked at and sent, and nothing is changed.", err=True)
    connections: dict[int, object] = {}
    try:
        server = server_of(app, port, connections)
    except OSError as error:
        raise RuleError(f"Port {port} cannot be used ({error.strerror}). Choose another, or 0 for any.") from None
    is_stopping = False

    def stop(*_: object) -> None:
        nonlocal is_stopping
        is_stopping = True
        server.pull_trigger()

    # An exception raised by a signal may land where nobody notices it; a flag is seen in the next turn of the loop.
    for asked in (signal.SIGINT, signal.SIGTERM):
        signal.signal(asked, stop)
    click.echo(f"Jointed Crane is at http://127.0.0.1:{server.effective_port}/ (Ctrl+C stops it).")
    while not is_stopping:
        wasyncore.loop(timeout=30.0, use_poll=True, map=connections, count=1)
    server.task_dispatcher.shutdown()
    server.close()
    app.extensions["sender"].close()
    app.extensions["workers"].close()
    click.echo("Stopped. Everything is kept.")


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
@_data
def bring_in(files: tuple[Path, ...], name: str, coming: Coming | None, data: str | None) -> None:
    """Bring artwork into a scene: SVG drawings, PNG, JPEG or WebP pictures, and zips of them.

    One drawing lies as it is drawn, and a scene that is made new for it takes its size; several lie beside each other
    in the middle of the stage. Either all files come in or none does.
    """
    from jointed_crane.core.basics.wording import counted
    from jointed_crane.formats.artwork import together
    from jointed_crane.formats.coming_in import Choices
    from jointed_crane.reading.bounds import READING
    from jointed_crane.reading.foreign_file import ForeignFile
    from jointed_crane.reading.several import as_chosen, drawings
    from jointed_crane.work.workers import Workers

    workers = Workers("fork")

    def read(job: str, given: object) -> Any:
        # The worker loads what it reads with while this process loads the library.
        return workers.do(READING, f"jointed_crane.reading.jobs:{job}", given, meanwhile=_load_library)

    choices = Choices(coming=coming)
    given = [ForeignFile(_bytes(file), file.name) for file in files]
    artwork = together(read("artwork", as_chosen(drawings(given, partial(read, "unpacked")), choices)))
    library = _library(data)
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


@main.command(short_help="Bring followed points in, each a helper with keys.")
@click.argument("files", nargs=-1, required=True, metavar="FILE...", type=click.Path(path_type=Path))
@click.option("--into", "name", required=True, metavar="NAME", help="The scene that they come into.")
@_data
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

    library = _library(data)
    entry = library.scenes.load(_card(library.shelf.cards(), name).id)
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
@_data
def send(name: str, form: str, target: Path, span: str | None, data: str | None, **given: Any) -> None:
    """Send a scene out as a file: the whole of it, a span, or one frame.

    Numbered pictures go into a folder, or into a zip where FILE ends in .zip.
    """
    from jointed_crane.sending.film import Sent
    from jointed_crane.sending.ways import WAYS

    entry, assets = _entry(name, data)
    way = WAYS[form]
    said = {key: value for key, value in given.items() if value is not None and value is not False}
    choices = way.chosen({**_frames_of(entry.scene, span), **said})
    with _shown_progress():
        size = _sent(Sent(entry.scene, assets.get, io.BytesIO()), choices, target)
    for note in choices.notes(entry.scene):
        click.echo(note, err=True)
    click.echo(f"Sent {name} to {target} ({size / 1000:.0f} kB).")


def _sent(sent: Sent, choices: WayChoices, target: Path) -> int:
    """Write what is sent to its target, numbered pictures one by one where that is a folder; how many bytes."""
    from dataclasses import replace

    from jointed_crane.sending.choices import Pictures

    if not isinstance(choices, Pictures) or target.suffix.lower() == ".zip":
        return _put(target, lambda file: choices.write(replace(sent, file=file)))
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise _unwritten(target, error) from None
    size = 0
    for name, picture in choices.pictures(sent):
        size += _put(target / name, methodcaller("write", picture))
    return size


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


def _put(target: Path, write: Callable[[BinaryIO], object]) -> int:
    """Write a file beside its place and put it there when it is whole, so that what was there stays on any fault.
    Returns its size, bytes.
    """
    import tempfile

    aside = None
    try:
        with tempfile.NamedTemporaryFile("wb", dir=target.parent, prefix=f".{target.name}.", delete=False) as file:
            aside = Path(file.name)
            write(cast("BinaryIO", file))
            file.flush()
            os.fsync(file.fileno())
        mode = target.stat().st_mode & 0o777 if target.exists() else 0o666 & ~_umask()
        aside.chmod(mode)
        size = aside.stat().st_size
        os.replace(aside, target)
    except BaseException as error:
        if aside is not None:
            aside.unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise _unwritten(target, error) from None
        raise
    return size


def _unwritten(target: Path, error: OSError) -> Exception:
    from jointed_crane.core.basics.errors import RuleError

    return RuleError(
        f"{target} cannot be written ({error.strerror}). Nothing was sent; what was there before is there still."
    )


def _umask() -> int:
    known = os.umask(0)
    os.umask(known)
    return known


@main.command(short_help="Print where every part is at some frames, as JSON.")
@click.argument("name")
@click.option("--frames", required=True, metavar="0,12,24", help="Frames, with commas between; fractions are allowed.")
@_data
def pose(name: str, frames: str, data: str | None) -> None:
    """Print where every part is, as JSON: world matrix (4 x 4, row by row), opacity, drawing and shown."""
    import json

    from jointed_crane.core.basics.errors import RuleError
    from jointed_crane.core.evaluate import evaluate

    try:
        wanted = [float(frame) for frame in frames.split(",")]
    except ValueError:
        raise RuleError(f"{frames!r} is not a list of frames; write them like 0,12,24.") from None
    if not all(abs(frame) < 1e7 for frame in wanted):
        raise RuleError("A frame is a number between -10 million and 10 million. Nothing was asked; give another.")
    scene = _entry(name, data)[0].scene
    result = evaluate(scene, wanted)
    parts = [
        {
            "name": part.name,
            "id": part.id,
            "frames": [
                {
                    "frame": frame,
                    "world": result.world[row, column].tolist(),
                    "opacity": float(result.opacity[row, column]),
                    "drawing": int(result.drawing[row, column]),
                    "shown": bool(result.shown[row, column]),
                }
                for column, frame in enumerate(wanted)
            ],
        }
        for row, part in enumerate(scene.parts)
    ]
    click.echo(json.dumps({"scene": scene.name, "parts": parts}, indent=1))


@main.command(short_help="List the scenes on the shelf, newest first.")
@_data
def scenes(data: str | None) -> None:
    """List the scenes on the shelf, newest first."""
    from jointed_crane.store.cards import cards
    from jointed_crane.store.database import data_folder, opened

    result = cards(opened(data_folder(data)))
    if not result:
        click.echo("The shelf is empty. Bring a drawing in with `jointed-crane import`, or run `jointed-crane demo`.")
    for card in result:
        time = f"{card.length} frames at {card.rate:g} fps"
        click.echo(f"{card.name}: {card.width:g} x {card.height:g} px, {time}, {card.parts} parts")


if __name__ == "__main__":
    main()
