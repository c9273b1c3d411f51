"""Sends beside everything else what waits in a library's queue: one after the other, each drawn by several workers
while one writes its file.
"""

from __future__ import annotations

import contextlib
import errno
import logging
import os
import shutil
import threading
import time
from collections.abc import Callable
from concurrent.futures import FIRST_EXCEPTION, ThreadPoolExecutor, wait
from functools import partial
from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import DRAWING, WRITING
from jointed_crane.sending.choices.base import SentFrames
from jointed_crane.sending.frame_files import FrameFiles, Pixels
from jointed_crane.sending.rows_work import RowsWork
from jointed_crane.sending.ways import WAYS
from jointed_crane.store.faults import fault_of
from jointed_crane.store.library import Library
from jointed_crane.store.sendings import Sending
from jointed_crane.work.workers import Stopped, Task, Workers

#: How often the queue is looked at, and how often it is said how far something has come, s.
_IDLE, _TELL = 2.0, 0.4
#: How often a stretch is drawn whose worker dies under it.
_TRIES = 2
#: Pixels of the largest frame that is shown while it is sent.
_MOST_LOOKED_AT = 16_000_000
#: What is sent leaves this much room on its disk for what people do meanwhile, bytes.
_ROOM = 32_000_000
_FULL = "The disk has no room for it. What is drawn is kept, and what is stored; make room and go on."
#: The folder beside the database that holds what is sent.
_FOLDER = "sent"


class Sender:
    """One program's hand in the queue of a library; with the address of a farm's scheduler, frames are drawn there."""

    def __init__(self, library: Library, workers: Workers, farm: str = "") -> None:
        self._library, self._workers, self._farm = library, workers, farm
        self._owner = _this_program()
        self._wanted = threading.Event()
        self._closed = threading.Event()
        self._thread: threading.Thread | None = None
        self._lock = threading.Lock()

    def wake(self) -> None:
        """Look at the queue now; begins to, where nobody has yet."""
        with self._lock:
            if self._thread is None or not self._thread.is_alive():
                self._closed.clear()
                self._thread = threading.Thread(target=self._run, name="sender", daemon=True)
                self._thread.start()
        self._wanted.set()

    def close(self) -> None:
        """Stop; what is under way is gone on with by whoever opens the library next."""
        self._closed.set()
        self._wanted.set()
        if self._thread is not None and self._thread.is_alive():
            self._thread.join(timeout=10)
            with contextlib.suppress(SQLAlchemyError):
                self._library.sendings.release(self._owner)

    def file(self, sending: Sending) -> Path:
        """Where the file of what was sent lies."""
        return self._folder(sending.id) / f"file.{'zip' if sending.filling else WAYS[sending.way].ending}"

    def newest_frame(self, sending: Sending) -> Pixels | None:
        """The last frame that was drawn of it; None where none was, or where it is too large to be looked at."""
        return FrameFiles(self._folder(sending.id)).newest(_MOST_LOOKED_AT)

    def _folder(self, id: str) -> Path:
        return self._library.folder / _FOLDER / id

    def _run(self) -> None:
        try:
            self._take_up()
            while not self._closed.is_set():
                sending = self._library.sendings.claim(self._owner)
                if sending is None:
                    self._wanted.wait(_IDLE)
                    self._wanted.clear()
                else:
                    self._send(sending)
        except (SQLAlchemyError, OSError) as error:  # the library is gone, full or read-only: the next to ask is told
            logging.getLogger(__name__).warning("Nothing more is sent until it is asked for again: %s", error)

    def _take_up(self) -> None:
        """Have what programs worked on that ended be claimed at once, and forget files that nobody keeps."""
        for owner in self._library.sendings.owners():
            if not _is_running(owner):
                self._library.sendings.release(owner)
        folder = self._library.folder / _FOLDER
        # Looked at first: what another program adds meanwhile is known then, and is left alone.
        paths = list(folder.iterdir()) if folder.exists() else []
        known = self._library.sendings.swept()
        for path in paths:
            if path.name not in known:
                shutil.rmtree(path, ignore_errors=True)

    def _send(self, sending: Sending) -> None:
        begun = time.monotonic()
        sendings = self._library.sendings
        try:
            path = self._made(sending)
        except Stopped:
            return
        except RuleError as error:
            sendings.fail(sending.id, self._owner, str(error))
        except (OSError, SQLAlchemyError) as error:
            fault = fault_of(error, self._library.folder)
            if fault is None or fault.kind != "full":
                raise
            sendings.fail(sending.id, self._owner, _FULL)
        except Exception:  # a defect of ours: the log gets the trace, the user a sentence, and the next is sent
            logging.getLogger(__name__).exception("%s could not be sent", sending.file_name)
            sendings.fail(sending.id, self._owner, WRITING.sentences.broken)
        else:
            sendings.finish(sending.id, self._owner, path.stat().st_size, time.monotonic() - begun)

    def _made(self, sending: Sending) -> Path:
        """The file of something, once it is written; its frames are kept until then."""
        folder, path = self._folder(sending.id), self.file(sending)
        folder.mkdir(parents=True, exist_ok=True)
        order = jobs.BackgroundOrder(sending.id, self._library.assets.address, str(folder))
        aside = folder / f"{path.name}.part"
        drawn_elsewhere = partial(self._drawn_by_farm, sending) if self._farm else None
        work: _Work | RowsWork
        if sending.filling:
            work = RowsWork(self._workers, order, sending, str(aside))
        else:
            work = _Work(self._workers, order, sending, str(aside), drawn_elsewhere)
        rows = self._library.sendings

        def goes_on(done: int, of: int) -> bool:
            if shutil.disk_usage(folder).free < _ROOM:
                raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
            if self._closed.is_set():
                return False
            return rows.renew(sending.id, self._owner, done, of, work.comes_further)

        try:
            work.follow(goes_on)
            os.replace(aside, path)
        finally:
            aside.unlink(missing_ok=True)  # a part of a file is of no use, and its room is
        order.files.clear(but=work.count // 2)
        return path

    def _drawn_by_farm(
        self, sending: Sending, choices: SentFrames, stretches: list[tuple[int, int]], is_over: Callable[[], bool]
    ) -> None:
        from jointed_crane.sending.farm import fill

        files = FrameFiles(self._folder(sending.id))
        scene, art = self._library.sendings.scene(sending.id), self._library.assets.get
        fill(files, self._farm, scene, art, choices, stretches, is_over)


class _Work:
    """The work on one thing that is sent: workers draw its frames, a stretch after the other, and one writes its file
    meanwhile.
    """

    def __init__(
        self,
        workers: Workers,
        order: jobs.BackgroundOrder,
        sending: Sending,
        path: str,
        drawn_elsewhere: Callable[[SentFrames, list[tuple[int, int]], Callable[[], bool]], None] | None,
    ) -> None:
        self._workers, self._order, self._path = workers, order, path
        self._drawn_elsewhere = drawn_elsewhere
        self._choices = WAYS[sending.way].chosen(sending.choices)
        self._writing = Task()
        self._tasks = [self._writing]
        self._is_over = False
        self.count = 0

    @property
    def comes_further(self) -> bool:
        """Whether a frame was drawn or written."""
        return any(task.progress for task in self._tasks)

    def follow(self, goes_on: Callable[[int, int], bool]) -> None:
        """Do it, telling again and again how many frames are written of how many. Stopped where it is not to go on, and
        RuleError where it cannot be done.
        """
        choices, stretches = self._choices, []
        if isinstance(choices, SentFrames):
            self.count = self._workers.do(DRAWING, jobs.film_length, self._order, choices)
            stretches = self._order.files.missing(self.count)
        with ThreadPoolExecutor(DRAWING.at_once + 1) as pool:
            # First, so that it has a thread of its own; it waits for each frame until that is drawn.
            futures = [pool.submit(self._write)]
            if self._drawn_elsewhere is not None and stretches and isinstance(choices, SentFrames):
                futures.append(pool.submit(self._drawn_elsewhere, choices, stretches, lambda: self._is_over))
            else:
                futures += [pool.submit(self._draw, first, last) for first, last in stretches]
            is_whole = False
            try:
                while True:
                    finished, left = wait(futures, timeout=_TELL, return_when=FIRST_EXCEPTION)
                    for future in finished:
                        future.result()
                    done = self._writing.progress[0] if self._writing.progress and self.count else 0
                    if not goes_on(done, self.count):
                        raise Stopped(WRITING.sentences.stopped)
                    if not left:
                        return
                    if left == {futures[0]} and not is_whole:
                        self._ensure_whole()
                        is_whole = True
            finally:
                self._is_over = True
                for task in self._tasks:
                    task.stop()

    def _ensure_whole(self) -> None:
        """RuleError where a frame is gone that was drawn: whoever writes the file would wait for it without an end."""
        if self._order.files.missing(self.count):
            raise RuleError("Frames of it are gone from its folder. What is drawn is kept; go on.")

    def _write(self) -> None:
        self._workers.do(WRITING, jobs.file_written, self._order, self._choices, self._path, task=self._writing)

    def _draw(self, first: int, last: int) -> None:
        """Draw a stretch; once more where its worker dies under it."""
        assert isinstance(self._choices, SentFrames)
        for left in reversed(range(_TRIES)):
            if self._is_over:
                return
            task = Task()
            self._tasks.append(task)
            try:
                self._workers.do(DRAWING, jobs.stretch_drawn, self._order, self._choices, first, last, task=task)
                return
            except RuleError as error:
                if not left or str(error) != DRAWING.sentences.ended:
                    raise


def _this_program() -> str:
    """A name for this program that no other on this machine has, now or later."""
    return f"{os.getpid()} {_begun(os.getpid())}"


def _is_running(owner: str) -> bool:
    pid, _, begun = owner.partition(" ")
    return pid.isdigit() and begun != "" and _begun(int(pid)) == begun


def _begun(pid: int) -> str:
    """When a process began, in ticks of its machine (proc(5)); empty where there is none."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""
