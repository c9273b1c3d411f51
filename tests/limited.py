"""A runner that gives every test a limit of time: one that goes on for longer fails under its name."""

from __future__ import annotations

import faulthandler
import io
import os
import signal
import sys
import threading
import unittest
from types import FrameType
from typing import Any

#: Seconds that a test may take, and after which a process that does not even hear of that is ended.
LIMIT = float(os.environ.get("JOINTED_CRANE_LIMIT", 120.0))
_DEAF = 30.0


class TookTooLong(BaseException):
    """A test has gone on beyond its limit. No `Exception`, so that no test, nor what draws its examples, takes it for a
    failure of its own and tries again.
    """


class LimitedRunner(unittest.TextTestRunner):
    """Tells what it runs nowhere but in the result, and watches the time of each test."""

    def __init__(self, stream: Any = None, resultclass: Any = None, **more: Any) -> None:
        super().__init__(stream=stream or io.StringIO(), resultclass=resultclass, **more)

    def _makeResult(self) -> Any:  # noqa: N802  unittest's own name
        result = super()._makeResult()
        watch = _Watch()
        result.startTest = _followed_by(result.startTest, watch.begin)
        result.stopTest = _followed_by(result.stopTest, watch.end)
        return result


class _Watch:
    """The time of the test that runs."""

    def __init__(self) -> None:
        self._deaf: threading.Timer | None = None

    def begin(self, test: unittest.TestCase) -> None:
        """Stop the test when its time is over, and the whole run where it does not stop."""

        def over(_number: int, _frame: FrameType | None) -> None:
            _say(test)
            raise TookTooLong(f"{test.id()} has taken longer than {LIMIT:g} s")

        signal.signal(signal.SIGALRM, over)
        signal.setitimer(signal.ITIMER_REAL, LIMIT)
        self._deaf = threading.Timer(LIMIT + _DEAF, _end, [test])
        self._deaf.daemon = True
        self._deaf.start()

    def end(self, _test: unittest.TestCase) -> None:
        """The test is over."""
        signal.setitimer(signal.ITIMER_REAL, 0.0)
        if self._deaf is not None:
            self._deaf.cancel()


def _followed_by(act: Any, then: Any) -> Any:
    def both(test: unittest.TestCase) -> None:
        act(test)
        then(test)

    return both


def _say(test: unittest.TestCase) -> None:
    print(f"\n{test.id()} has taken longer than {LIMIT:g} s. What runs now:", file=sys.stderr, flush=True)
    faulthandler.dump_traceback(all_threads=True)


def _end(test: unittest.TestCase) -> None:
    _say(test)
    os.killpg(os.getpgrp(), signal.SIGKILL)
