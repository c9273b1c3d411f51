import os
import signal
import threading
import time
import unittest
import unittest.mock
from collections import Counter
from dataclasses import replace

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.reading import jobs
from jointed_crane.reading.bounds import READING
from jointed_crane.reading.foreign_file import ForeignFile
from jointed_crane.work.workers import Busy, Stopped, Task, Workers
from tests.hostile.served import descendants

DRAWING = b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect id="wing" width="5" height="5"/></svg>'


def for_ever():
    while True:
        pass


def gigabytes():
    return len(b"x" * 4_000_000_000)


def ended():
    os.abort()


def deep():
    return deep()


def stumbled():
    raise KeyError("a table that is not there")


def told_slowly():
    progress.tell(3, 7, "layers")
    time.sleep(30)


def told_without_pause():
    while True:
        progress.tell(1, 2, "layers")


def whether_rust_traces():
    return os.environ["RUST_BACKTRACE"]


BRIEF = replace(READING, seconds=1.5, processor=4)
#: What is stopped is stopped long before that.
LONG = replace(READING, seconds=60)


class WorkersTests(unittest.TestCase):
    """Whatever a job does, it ends with a sentence, and the next one is done."""

    @classmethod
    def setUpClass(cls):
        cls.workers = Workers("fork")
        cls.addClassCleanup(cls.workers.close)

    def assert_still_reads(self):
        found = self.workers.do(BRIEF, jobs.artwork, [ForeignFile(DRAWING, "wing.svg")])
        self.assertEqual([piece.name for piece in found[0].pieces], ["wing"])

    def test_what_takes_too_long_or_too_much_or_breaks_gets_a_sentence(self):
        for job, sentence in (
            (for_ever, "longer than"),
            (told_without_pause, "longer than"),
            (gigabytes, "more memory"),
            (ended, "reader ended"),
            (deep, "nests too deeply"),
        ):
            with self.subTest(job.__name__), self.assertRaisesRegex(ArtworkError, sentence):
                self.workers.do(BRIEF, job)
        with self.assertLogs("jointed_crane.work.workers"), self.assertRaisesRegex(ArtworkError, "damaged"):
            self.workers.do(BRIEF, stumbled)
        self.assert_still_reads()

    @unittest.mock.patch.dict(os.environ, RUST_BACKTRACE="1")
    def test_what_ends_for_want_of_memory_does_not_wait_for_itself(self):
        """Rust's allocator asks for the lock of the trace that is being printed: seen once in some hundred workers."""
        self.assertEqual(self.workers.do(LONG, whether_rust_traces), "0")

    def test_a_refusal_keeps_its_sentence(self):
        with self.assertRaisesRegex(ArtworkError, "is empty"):
            self.workers.do(BRIEF, jobs.artwork, [ForeignFile(b"", "nothing.svg")])

    def test_it_ends_when_it_is_stopped_or_when_nobody_waits(self):
        task = Task()
        threading.Timer(0.2, task.stop).start()
        with self.assertRaises(Stopped):
            self.workers.do(LONG, for_ever, task=task)
        left = time.monotonic() + 0.2
        with self.assertRaises(Stopped):
            self.workers.do(LONG, for_ever, task=Task(lambda: time.monotonic() > left))
        self.assert_still_reads()

    def test_where_no_worker_comes_nobody_waits_without_an_end(self):
        workers = Workers("server")
        self.addCleanup(workers.close)
        before = set(descendants(os.getpid()))
        workers.warm()
        (place,) = set(descendants(os.getpid())) - before
        os.kill(place, signal.SIGSTOP)
        with self.assertRaisesRegex(ArtworkError, "longer than"):
            workers.do(BRIEF, for_ever)

    def test_it_says_how_far_it_has_come(self):
        task = Task()
        seen = []

        def look():
            while not seen:
                if (found := task.progress) is not None:
                    seen.append(found)
                    task.stop()
                time.sleep(0.02)

        threading.Thread(target=look).start()
        with self.assertRaises(RuleError):
            self.workers.do(BRIEF, told_slowly, task=task)
        self.assertEqual(seen, [(3, 7, "layers")])

    def test_more_than_may_wait_are_told_to_come_again(self):
        # Nobody is done before all have asked, however slow the machine is.
        few, tasks = replace(LONG, processor=60, at_once=2, waiting=1), [Task() for _ in range(4)]
        outcomes, threads = self.asked_together(few, tasks)
        for _ in range(600):
            if Busy in outcomes:
                break
            time.sleep(0.05)
        for task in tasks:
            task.stop()
        for thread in threads:
            thread.join()
        self.assertEqual(Counter(outcomes), {Busy: 1, Stopped: 3})

    def test_who_waits_has_a_turn_once_another_is_done(self):
        few = replace(BRIEF, seconds=0.3, at_once=1, waiting=2)
        outcomes, threads = self.asked_together(few, [Task() for _ in range(3)])
        for thread in threads:
            thread.join()
        self.assertEqual(outcomes, [ArtworkError] * 3)

    def asked_together(self, bounds, tasks):
        """What each task comes to, and the threads that wait for it."""
        outcomes = []

        def asked(task):
            try:
                self.workers.do(bounds, for_ever, task=task)
            except RuleError as error:
                outcomes.append(type(error))

        threads = [threading.Thread(target=asked, args=(task,)) for task in tasks]
        for thread in threads:
            thread.start()
        return outcomes, threads
