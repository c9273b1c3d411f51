"""Hands work to workers and waits for what they make of it: not too long, and not longer than anybody wants it."""

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
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, TypeVar, overload

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.work.bounds import Bounds
from jointed_crane.work.worker import receive, send, work

Found = TypeVar("Found")
#: How often it is looked whether anybody still waits, seconds.
_LOOK = 0.05
#: Work is short and many processes do it: threads of their own would only take memory.
_ONE_THREAD = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}


class Busy(RuleError):
    """So much is being done that one more thing cannot even wait."""


class Stopped(RuleError):
    """Somebody stopped the work, or left."""


@dataclass
class Task:
    """Work under way as those see it who wait for it: how far it has come, and a way to stop it.

    Attributes
    ----------
    has_left : asked again and again whether whoever began it is gone
    progress : how many of how many things are done, and what they are; None where nothing was told yet
    """

    has_left: Callable[[], bool] = lambda: False
    progress: tuple[int, int, str] | None = None
    _stopped: threading.Event = field(default_factory=threading.Event)

    def stop(self) -> None:
        """End the work; nothing of it is kept."""
        self._stopped.set()

    @property
    def is_stopped(self) -> bool:
        """Whether nobody waits any more."""
        return self._stopped.is_set() or self.has_left()


class _Queue:
    """Who does one kind of work, and who waits for it."""

    def __init__(self, bounds: Bounds) -> None:
        self._bounds = bounds
        self._places = threading.BoundedSemaphore(bounds.at_once + bounds.waiting)
        self._running = threading.BoundedSemaphore(bounds.at_once)

    @contextlib.contextmanager
    def turn(self, task: Task) -> Iterator[None]:
        """A turn, once there is one. Busy where there is no place to wait, Stopped where the task is meanwhile."""
        if not self._places.acquire(blocking=False):
            raise Busy(self._bounds.sentences.busy)
        try:
            while not self._running.acquire(timeout=_LOOK):
                if task.is_stopped:
                    raise Stopped(self._bounds.sentences.stopped)
            try:
                yield
            finally:
                self._running.release()
        finally:
            self._places.release()


class Workers:
    """Where one program's workers come from. Safe to share between threads.

    With `start` "server" they come from a process that has `modules` loaded already; "fork" copies this one, which is
    quicker for a program that has one thing done and has no threads.
    """

    def __init__(self, start: Literal["server", "fork"] = "server", modules: Sequence[str] = ()) -> None:
        self._start = start
        self._modules = modules
        self._queues: dict[Bounds, _Queue] = {}
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
    def do(self, bounds: Bounds, job: Callable[..., Found], *args: Any, task: Task | None = None) -> Found: ...
    @overload
    def do(self, bounds: Bounds, job: str, *args: Any, meanwhile: Callable[[], object]) -> Any: ...
    def do(
        self,
        bounds: Bounds,
        job: Callable[..., Any] | str,
        *args: Any,
        task: Task | None = None,
        meanwhile: Callable[[], object] = lambda: None,
    ) -> Any:
        """What a job gives. Raises its refusal, or one with a sentence of its bounds where it takes too much or was
        stopped.

        A job that is not loaded here goes by its name, "module:function". While the worker works, this process does
        something else once: `meanwhile`.
        """
        task = task or Task()
        with self._queue(bounds).turn(task):
            return self._worked(bounds, job, args, task, meanwhile)

    def _queue(self, bounds: Bounds) -> _Queue:
        with self._lock:
            return self._queues.setdefault(bounds, _Queue(bounds))

    def _worked(
        self,
        bounds: Bounds,
        job: Callable[..., Any] | str,
        args: tuple[Any, ...],
        task: Task,
        meanwhile: Callable[[], object],
    ) -> Any:
        connection = self._worker()
        pid = 0
        try:
            deadline = time.monotonic() + bounds.seconds
            connection.settimeout(bounds.seconds)  # a worker that stops in the middle of a word holds nobody either
            _, pid = receive(connection)
            send(connection, (bounds, job, args))
            meanwhile()
            while True:
                ready, _, _ = select.select([connection], [], [], _LOOK)
                if task.is_stopped:
                    raise Stopped(bounds.sentences.stopped)
                if time.monotonic() > deadline:  # asked each time: a job may tell without a pause
                    raise bounds.refusal(bounds.sentences.too_long)
                if ready:
                    kind, told = receive(connection)
                    if kind != "told":
                        return self._result(bounds, kind, told)
                    task.progress = told
        except TimeoutError:
            raise bounds.refusal(bounds.sentences.too_long) from None
        except (EOFError, OSError):
            raise bounds.refusal(bounds.sentences.ended) from None
        finally:
            connection.close()
            if pid:
                with contextlib.suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
                if self._start == "fork":
                    os.waitpid(pid, 0)

    @staticmethod
    def _result(bounds: Bounds, kind: str, told: Any) -> Any:
        if kind == "found":
            return told
        if kind == "refused":
            error, sentence = told
            raise error(sentence)
        logging.getLogger(__name__).error("%s (%s)", bounds.sentences.broken, told)
        raise bounds.refusal(bounds.sentences.broken)

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
        command = [sys.executable, "-m", "jointed_crane.work.worker", *self._modules]
        self._server = (subprocess.Popen(command, stdin=theirs.fileno(), env=environment), ours)
        theirs.close()
        return ours
