"""Hands foreign files to workers and waits for what they find: not too long, and not longer than anybody wants it."""

from __future__ import annotations

import contextlib
import logging
import os
import select
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal, TypeVar, overload

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.reading.worker import receive, send, work

Found = TypeVar("Found")
#: Seconds that one job may take, and how many may run at once and wait for it.
SECONDS = 12.0
_AT_ONCE = 2
_MOST_WAITING = 8
#: How often it is looked whether anybody still waits, seconds.
_LOOK = 0.05
#: Work is short and many processes do it: threads of their own would only take memory.
_ONE_THREAD = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}


class Busy(RuleError):
    """So much is being done that one more thing has to wait: files are read, or `what` is done."""

    def __init__(self, what: str = "Other files are being read") -> None:
        super().__init__(f"{what} just now. Nothing was changed; try again in a moment.")


class Stopped(RuleError):
    """Somebody stopped the reading, or left."""

    def __init__(self) -> None:
        super().__init__("Reading was stopped. Nothing was brought in.")


@dataclass
class Task:
    """One reading as those see it who wait for it: how far it has come, and a way to stop it.

    Attributes
    ----------
    has_left : asked again and again whether whoever began it is gone
    progress : how many of how many things are done, and what they are; None where nothing was told yet
    """

    has_left: Callable[[], bool] = lambda: False
    progress: tuple[int, int, str] | None = None
    _stopped: threading.Event = field(default_factory=threading.Event)

    def stop(self) -> None:
        """End the reading; nothing of it is kept."""
        self._stopped.set()

    @property
    def is_stopped(self) -> bool:
        """Whether nobody waits any more."""
        return self._stopped.is_set() or self.has_left()


class Reader:
    """Where one program's workers come from. Safe to share between threads.

    With `start` "server" they come from a process that has everything loaded already; "fork" copies this one, which is
    quicker for a program that reads once and has no threads.
    """

    def __init__(self, start: Literal["server", "fork"] = "server", seconds: float = SECONDS) -> None:
        self._start = start
        self._seconds = seconds
        self._places = threading.BoundedSemaphore(_AT_ONCE + _MOST_WAITING)
        self._running = threading.BoundedSemaphore(_AT_ONCE)
        self._lock = threading.Lock()
        self._server: tuple[subprocess.Popen[bytes], socket.socket] | None = None

    def warm(self) -> None:
        """Have the place that workers come from ready before one is wanted."""
        if self._start == "server":
            with self._lock:
                self._control()

    def close(self) -> None:
        """End the place that workers come from, and with it every worker."""
        with self._lock:
            if self._server is not None:
                process, control = self._server
                control.close()
                process.kill()
                process.wait()
                self._server = None

    @overload
    def read(self, job: Callable[..., Found], *args: Any, task: Task | None = None) -> Found: ...
    @overload
    def read(self, job: str, *args: Any, meanwhile: Callable[[], object]) -> Any: ...
    def read(
        self,
        job: Callable[..., Any] | str,
        *args: Any,
        task: Task | None = None,
        meanwhile: Callable[[], object] = lambda: None,
    ) -> Any:
        """What a job gives. RuleError with a sentence where the file is refused, takes too much, or was stopped.

        A job that is not loaded here goes by its name, "module:function". While the worker works, this process does
        something else once: `meanwhile`.
        """
        task = task or Task()
        if not self._places.acquire(blocking=False):
            raise Busy
        try:
            while not self._running.acquire(timeout=_LOOK):
                if task.is_stopped:
                    raise Stopped
            try:
                return self._worked(job, args, task, meanwhile)
            finally:
                self._running.release()
        finally:
            self._places.release()

    def _worked(
        self, job: Callable[..., Any] | str, args: tuple[Any, ...], task: Task, meanwhile: Callable[[], object]
    ) -> Any:
        connection = self._worker()
        pid = 0
        try:
            deadline = time.monotonic() + self._seconds
            _, pid = receive(connection)
            send(connection, (job, args))
            meanwhile()
            while True:
                ready, _, _ = select.select([connection], [], [], _LOOK)
                if task.is_stopped:
                    raise Stopped
                if ready:
                    kind, told = receive(connection)
                    if kind != "told":
                        return self._result(kind, told)
                    task.progress = told
                elif time.monotonic() > deadline:
                    raise ArtworkError(
                        f"Reading took longer than {self._seconds:.0f} seconds and was ended. Nothing was brought in; "
                        "simplify the file or split it into several."
                    )
        except (EOFError, OSError):
            raise ArtworkError(
                "Reading took more than a file may, and the reader ended. Nothing was brought in; "
                "make the file smaller or split it into several."
            ) from None
        finally:
            connection.close()
            if pid:
                with contextlib.suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
                if self._start == "fork":
                    os.waitpid(pid, 0)

    @staticmethod
    def _result(kind: str, told: Any) -> Any:
        if kind == "found":
            return told
        if kind == "refused":
            error, sentence = told
            raise error(sentence)
        logging.getLogger(__name__).error("A file could not be read: %s", told)
        raise ArtworkError("The file could not be read; it is damaged. Nothing was brought in.")

    def _worker(self) -> socket.socket:
        """A connection to a fresh worker."""
        ours, theirs = socket.socketpair()
        if self._start == "fork":
            if os.fork() == 0:
                ours.close()
                work(theirs)
        else:
            with self._lock:
                socket.send_fds(self._control(), [b"w"], [theirs.fileno()])
        theirs.close()
        return ours

    def _control(self) -> socket.socket:
        """The socket over which the place that workers come from is told to make one; begun anew where it has died."""
        if self._server is not None and self._server[0].poll() is None:
            return self._server[1]
        ours, theirs = socket.socketpair()
        environment = {**os.environ, **_ONE_THREAD, "PYTHONPATH": os.pathsep.join(filter(None, sys.path))}
        command = [sys.executable, "-m", "jointed_crane.reading.worker"]
        self._server = (subprocess.Popen(command, stdin=theirs.fileno(), env=environment), ours)
        theirs.close()
        return ours
