"""One worker: a process that is bounded, does one job told over a socket, tells what it found, and ends.

Run as a module it is the place workers come from: it has loaded the modules that it was given, and copies itself for
each job. Processes of Python's own pools load the program's main module again in each worker; these know nothing of it.
"""

from __future__ import annotations

import contextlib
import ctypes
import gc
import importlib
import os
import pickle
import pkgutil
import resource
import signal
import socket
import struct
import sys
from typing import Any

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.work.bounds import Bounds

#: Linux: end when the process that this one came from ends (prctl(2)).
_PR_SET_PDEATHSIG = 1


def send(connection: socket.socket, message: Any) -> None:
    """Send one message: its length and its pickle."""
    data = pickle.dumps(message)
    connection.sendall(struct.pack("<Q", len(data)) + data)


def receive(connection: socket.socket) -> Any:
    """The next message; EOFError where the other side has gone."""
    (length,) = struct.unpack("<Q", _exactly(connection, 8))
    return pickle.loads(_exactly(connection, length))


def _exactly(connection: socket.socket, count: int) -> bytes:
    pieces = []
    while count:
        piece = connection.recv(min(count, 1 << 20))
        if not piece:
            raise EOFError
        pieces.append(piece)
        count -= len(piece)
    return b"".join(pieces)


def work(connection: socket.socket) -> None:
    """Do the one job that is told, tell what it found, and end this process."""
    try:
        with contextlib.suppress(OSError, EOFError, MemoryError):  # nobody to tell, or no memory to
            send(connection, ("is", os.getpid()))
            bounds, job, args = receive(connection)
            _bound(bounds)
            send(connection, _done(connection, bounds, job, args))
    finally:
        os._exit(0)  # whatever has happened: what this process is a copy of must not go on in it


def _bound(bounds: Bounds) -> None:
    """Bound this process: its memory, its time, and its say in who gets the processor."""
    with open("/proc/self/statm") as numbers:
        taken = int(numbers.read().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (taken + bounds.memory, taken + bounds.memory))
    resource.setrlimit(resource.RLIMIT_CPU, (bounds.processor, bounds.processor))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    # Libraries in Rust that run out of memory while they print where they were wait for themselves, without an end.
    os.environ["RUST_BACKTRACE"] = "0"
    os.nice(10)
    # A process that is over soon need not look for garbage time and again while it makes a great many things.
    gc.freeze()
    gc.set_threshold(500_000)
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)


def _done(connection: socket.socket, bounds: Bounds, job: Any, args: tuple[Any, ...]) -> tuple[str, Any]:
    """What a job gives: ("found", it), or ("refused", the error), or ("broke", the error in words)."""
    progress.listener = lambda done, of, what: send(connection, ("told", (done, of, what)))
    try:
        return "found", (pkgutil.resolve_name(job) if isinstance(job, str) else job)(*args)
    except RuleError as error:
        return "refused", (type(error), str(error))
    except MemoryError:
        return "refused", (bounds.refusal, bounds.sentences.too_large)
    except SystemError:  # a library in C that had no memory even to say so
        return "refused", (bounds.refusal, bounds.sentences.ended)
    except RecursionError:
        return "refused", (bounds.refusal, bounds.sentences.too_deep)
    except Exception as error:  # whatever a hostile file makes it stumble over
        return "broke", repr(error)


def main() -> None:
    """Wait on the socket that standard input is, and copy this process for each connection that comes over it."""
    for module in sys.argv[1:]:  # loaded here, so that no worker has to
        importlib.import_module(module)
    control = socket.socket(fileno=sys.stdin.fileno())
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl+C is meant for the server, which then ends this one
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # nobody waits for workers, so none is left behind ended
    while True:
        data, descriptors, _, _ = socket.recv_fds(control, 1, 1)
        if not data:
            return
        connection = socket.socket(fileno=descriptors[0])
        if os.fork() == 0:
            control.close()
            work(connection)
        connection.close()


if __name__ == "__main__":
    main()
