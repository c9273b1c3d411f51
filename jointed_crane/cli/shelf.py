"""What is on the shelf: listing, making, naming, deleting and editing scenes, and where their parts are."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any, TextIO

import click

from jointed_crane.cli.group import data_option, found, main

if TYPE_CHECKING:
    from jointed_crane.scripting import OpenLibrary


@main.command(short_help="Print where every part is at some frames, as JSON.")
@click.argument("name")
@click.option("--frames", required=True, metavar="0,12,24", help="Frames, with commas between; fractions are allowed.")
@data_option
def pose(name: str, frames: str, data: str | None) -> None:
    """Print where every part is, as JSON: world matrix (4 x 4, row by row), opacity, drawing and shown."""
    from jointed_crane.core.basics.errors import RuleError
    from jointed_crane.core.evaluate import evaluate

    try:
        wanted = [float(frame) for frame in frames.split(",")]
    except ValueError:
        raise RuleError(f"{frames!r} is not a list of frames; write them like 0,12,24.") from None
    if not all(abs(frame) < 1e7 for frame in wanted):
        raise RuleError("A frame is a number between -10 million and 10 million. Nothing was asked; give another.")
    scene_id, kept, _ = found(name, data)
    scene = kept.load(scene_id).scene
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
@data_option
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


def _open(data: str | None) -> OpenLibrary:
    from jointed_crane.scripting import OpenLibrary

    return OpenLibrary(data)


@main.command(short_help="Put a new, empty scene on the shelf.")
@click.argument("name")
@click.option("--width", type=float, default=1280.0, show_default=True, help="Width of the stage, px.")
@click.option("--height", type=float, default=720.0, show_default=True, help="Height of the stage, px.")
@click.option("--ground", default="#e3edf0", show_default=True, help="The colour behind everything, or none.")
@click.option("--fps", default="24", show_default=True, help="Frames a second, such as 24 or 30000/1001.")
@click.option("--length", type=int, default=96, show_default=True, help="How many frames it has.")
@data_option
def new(name: str, width: float, height: float, ground: str, fps: str, length: int, data: str | None) -> None:
    """Put a new, empty scene on the shelf."""
    from fractions import Fraction

    from jointed_crane.core.basics.errors import RuleError

    try:
        rate = Fraction(fps)
    except (ValueError, ZeroDivisionError):
        raise RuleError(f"{fps!r} is no rate; write it like 24 or 30000/1001. Nothing was made.") from None
    fields = {"width": width, "height": height, "ground": ground, "length": length}
    made = _open(data).new(name, fps=(rate.numerator, rate.denominator), **fields)
    click.echo(f"Made {made.scene.name}.")


@main.command(short_help="Give a scene another name.")
@click.argument("name")
@click.argument("other")
@data_option
def rename(name: str, other: str, data: str | None) -> None:
    """Give the scene NAME the name OTHER."""
    scene = _open(data).open(name)
    scene.rename(other)
    click.echo(f"{name} is called {scene.scene.name}.")


@main.command(short_help="Take a scene off the shelf.")
@click.argument("name")
@data_option
def remove(name: str, data: str | None) -> None:
    """Take a scene off the shelf; undo on the shelf brings it back."""
    _open(data).open(name).delete()
    click.echo(f"Took {name} off the shelf; undo there brings it back.")


@main.command(short_help="Apply edits to a scene, all or none.")
@click.argument("name")
@click.argument("file", type=click.File("r", encoding="utf-8"), default="-")
@click.option("--dry-run", is_flag=True, help="Say what would differ, and keep nothing.")
@data_option
def edit(name: str, file: TextIO, dry_run: bool, data: str | None) -> None:
    """Apply the edits of a JSON file, or of standard input, to a scene: all or none, as one row of undo.

    The file holds a list of edits as the API takes them, each {"edit": KIND, ...}, or one of them.
    """
    edits = _edits(file.read())
    scene = _open(data).open(name)
    if dry_run:
        for sentence in scene.differences(*edits) or ["Nothing would differ."]:
            click.echo(sentence)
        return
    for remark in scene.edit(*edits):
        click.echo(remark, err=True)
    click.echo(f"Kept {len(edits)} {'edit' if len(edits) == 1 else 'edits'} in {scene.scene.name}.")


def _edits(text: str) -> list[dict[str, Any]]:
    from jointed_crane.core.basics.errors import RuleError
    from jointed_crane.core.basics.limits import MOST_EDITS
    from jointed_crane.formats.strict_json import parsed_json

    document = parsed_json(text.encode())
    edits = document if isinstance(document, list) else [document]
    if not edits or not all(isinstance(one, dict) for one in edits):
        raise RuleError("The file holds no list of edits. Nothing was changed.")
    if len(edits) > MOST_EDITS:
        raise RuleError(f"{len(edits)} edits are too many; {MOST_EDITS} at once is the most. Nothing was changed.")
    return edits
