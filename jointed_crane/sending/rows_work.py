"""The work on a table that is sent: workers write the file of each row, and one packs them all at the end."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import FIRST_EXCEPTION, ThreadPoolExecutor, wait
from pathlib import Path

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import DRAWING, WRITING
from jointed_crane.sending.filling import Filling
from jointed_crane.sending.ways import WAYS
from jointed_crane.store.sendings import Sending
from jointed_crane.work.workers import Stopped, Task, Workers

#: How often it is said how far it has come, s.
_TELL = 0.4


class RowsWork:
    """The work on one table. The files of rows stay until all are packed, so that it goes on where it stood."""

    def __init__(self, workers: Workers, order: jobs.BackgroundOrder, sending: Sending, path: str) -> None:
        self._workers, self._order, self._path = workers, order, path
        way = WAYS[sending.way]
        self._choices = way.chosen(sending.choices)
        self._filling = Filling.read(sending.filling)
        self._names = self._filling.file_names(way.ending)
        self._tasks: list[Task] = []
        self._is_over = False
        self._before = 0
        #: Frames of one film that are kept; there are none.
        self.count = 0

    @property
    def comes_further(self) -> bool:
        """Whether a row was written, or what is being written came further."""
        written = self._written
        is_further = written > self._before or any(task.progress for task in self._tasks)
        self._before = written
        return is_further

    @property
    def _paths(self) -> list[Path]:
        return [Path(self._order.folder) / f"row {number}" for number in range(len(self._names))]

    @property
    def _written(self) -> int:
        return sum(path.exists() for path in self._paths)

    def follow(self, goes_on: Callable[[int, int], bool]) -> None:
        """Do it, telling again and again how many rows are written of how many. Stopped where it is not to go on, and
        RuleError where one cannot be written.
        """
        with ThreadPoolExecutor(DRAWING.at_once) as pool:
            futures = [pool.submit(self._write, number) for number, path in enumerate(self._paths) if not path.exists()]
            try:
                while True:
                    finished, left = wait(futures, timeout=_TELL, return_when=FIRST_EXCEPTION)
                    if not goes_on(self._written, len(self._names)):
                        raise Stopped(WRITING.sentences.stopped)
                    for future in finished:
                        future.result()
                    if not left:
                        break
            finally:
                self._is_over = True
                for task in self._tasks:
                    task.stop()
        self._workers.do(WRITING, jobs.rows_packed, self._names, [str(path) for path in self._paths], self._path)
        for path in self._paths:
            path.unlink(missing_ok=True)

    def _write(self, number: int) -> None:
        if self._is_over:
            return
        task = Task()
        self._tasks.append(task)
        given = (self._order, self._choices, self._filling, number, str(self._paths[number]))
        try:
            self._workers.do(DRAWING, jobs.row_written, *given, task=task)
        except Stopped:
            raise
        except RuleError as error:
            raise RuleError(f"Row {number + 1}: {error}") from None
