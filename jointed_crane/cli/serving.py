"""Serving the app to a browser on this machine."""

from __future__ import annotations

import logging
import signal
import threading
from collections.abc import Callable
from typing import TYPE_CHECKING

import click

from jointed_crane.cli.group import data_option, farm_option, library_of, main, port_option

if TYPE_CHECKING:
    from jointed_crane.store.library import Library


@main.command(short_help="Serve the shelf and the bench on this machine.")
@data_option
@port_option
@farm_option
def serve(data: str | None, port: int, farm: str) -> None:
    """Serve the shelf and the bench to a browser on this machine, until Ctrl+C."""
    _serve(data, port, farm)


@main.command(short_help="Serve them with the Heron Lock scenes on the shelf.")
@data_option
@port_option
@farm_option
def demo(data: str | None, port: int, farm: str) -> None:
    """Serve, with the Heron Lock scenes on the shelf; scenes that are there already are left as they are."""
    from jointed_crane.core.basics.errors import RuleError

    build = _demo()
    if build is None:
        raise RuleError("The demo scenes are not installed here. `jointed-crane serve` starts without them.")
    for name in build(library_of(data)):
        click.echo(f"Made the scene {name}.")
    _serve(data, port, farm)


def _demo() -> Callable[[Library], list[str]] | None:
    """What makes the demo scenes; None where they were not installed along."""
    try:
        from heron_lock.build import build_demo
    except ImportError:
        return None
    return build_demo


def _serve(data: str | None, port: int, farm: str) -> None:
    from waitress import wasyncore

    from jointed_crane import memory
    from jointed_crane.core.basics.errors import RuleError
    from jointed_crane.store.database import data_folder, is_writable
    from jointed_crane.web import create_app
    from jointed_crane.web.serving import server_of

    # A browser asks for many pictures at once; that they wait for a moment is nothing to report.
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    app = create_app(data_folder(data), _demo(), farm=farm)
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
