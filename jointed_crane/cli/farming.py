"""A farm: machines that draw frames for others."""

from __future__ import annotations

import importlib.util
import os
import sys

import click

from jointed_crane.cli.group import main


@main.group(short_help="Draw frames on several machines.")
def farm() -> None:
    """Draw frames on several machines: a scheduler on one, workers on each, and `--farm` where a scene is sent.

    Whoever reaches a scheduler can have its workers run any program: keep it within a network that you trust. It
    listens on this machine alone unless told otherwise.
    """


@farm.command(short_help="Start the scheduler that workers and senders meet at.")
@click.option("--host", default="127.0.0.1", show_default=True, help="The address that it listens on.")
@click.option("--port", default=8786, show_default=True, type=click.IntRange(0, 65535), help="Its port.")
def scheduler(host: str, port: int) -> None:
    """Start the scheduler, until Ctrl+C."""
    _become("dask_scheduler", "--host", host, "--port", str(port), "--no-dashboard")


@farm.command(short_help="Start workers that draw for a scheduler.")
@click.argument("address", metavar="tcp://HOST:PORT")
@click.option("--processes", default=os.cpu_count() or 1, show_default=True, type=click.IntRange(1, 256))
def worker(address: str, processes: int) -> None:
    """Start workers on this machine that draw for the scheduler at an address, until Ctrl+C."""
    each = ("--nthreads", "1", "--nworkers", str(processes), "--no-dashboard")
    _become("dask_worker", address, *each)


def _become(command: str, *words: str) -> None:
    """Go on as a command of the engine, in this same process."""
    from jointed_crane.core.basics.errors import RuleError

    if importlib.util.find_spec("distributed") is None:
        raise RuleError("The package distributed is not installed here. Nothing was started; install it first.")
    os.execv(sys.executable, [sys.executable, "-m", f"distributed.cli.{command}", *words])
