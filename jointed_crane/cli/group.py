"""The group that all commands belong to, how it says what went wrong, and the scenes and folders they are given."""

from __future__ import annotations

import gc
import os
import sys
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import click

if TYPE_CHECKING:  # what a command uses it imports itself, so that help and short commands need not wait for it
    from jointed_crane.store.assets import AssetStore
    from jointed_crane.store.cards import Card
    from jointed_crane.store.library import Library
    from jointed_crane.store.scenes import SceneStore

data_option = click.option(
    "--data",
    metavar="FOLDER",
    help="Where scenes are kept. Without it JOINTED_CRANE_DATA counts, and without that your own data folder.",
)


port_option = click.option(
    "--port",
    default=8420,
    show_default=True,
    type=click.IntRange(0, 65535),
    help="Port on loopback; 0 takes a free one.",
)


farm_option = click.option(
    "--farm",
    metavar="tcp://HOST:PORT",
    envvar="JOINTED_CRANE_FARM",
    default="",
    help="The scheduler of a farm that draws frames; see `jointed-crane farm`.",
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


def library_of(data: str | None) -> Library:
    from jointed_crane.store.database import data_folder
    from jointed_crane.store.library import Library

    return Library(data_folder(data))


def found(name: str, data: str | None) -> tuple[str, SceneStore, AssetStore]:
    """The id of the newest scene of this name, and the scenes and the art of its library."""
    from jointed_crane.store.assets import AssetStore
    from jointed_crane.store.cards import cards
    from jointed_crane.store.database import data_folder, opened
    from jointed_crane.store.scenes import SceneStore

    engine = opened(data_folder(data))
    assets = AssetStore(engine)
    return card_of(cards(engine), name).id, SceneStore(engine, assets), assets


def card_of(known: Sequence[Card], name: str) -> Card:
    from jointed_crane.core.basics.errors import RuleError

    card = next((card for card in known if card.name == name), None)
    if card is None:
        names = ", ".join(other.name for other in known) or "none yet"
        raise RuleError(f"There is no scene called {name!r}. The scenes are: {names}.")
    return card
