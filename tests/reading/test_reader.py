import os
import threading
import time
import unittest

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats import progress
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.reading import jobs
from jointed_crane.reading.foreign_file import ForeignFile
from jointed_crane.reading.reader import Busy, Reader, Stopped, Task

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


class ReaderTests(unittest.TestCase):
    """Whatever a file makes a reader do, it ends with a sentence, and the next file is read."""

    @classmethod
    def setUpClass(cls):
        cls.reader = Reader("fork", seconds=1.5)
        cls.addClassCleanup(cls.reader.close)

    def assert_still_reads(self):
        found = self.reader.read(jobs.artwork, [ForeignFile(DRAWING, "wing.svg")])
        self.assertEqual([piece.name for piece in found.pieces], ["wing"])

    def test_what_takes_too_long_or_too_much_or_breaks_gets_a_sentence(self):
        for job, sentence in (
            (for_ever, "longer than"),
            (gigabytes, "more memory"),
            (ended, "reader ended"),
            (deep, "nests too deeply"),
        ):
            with self.subTest(job.__name__), self.assertRaisesRegex(ArtworkError, sentence):
                self.reader.read(job)
        with self.assertLogs("jointed_crane.reading.reader"), self.assertRaisesRegex(ArtworkError, "damaged"):
            self.reader.read(stumbled)
        self.assert_still_reads()

    def test_a_refusal_keeps_its_sentence(self):
        with self.assertRaisesRegex(ArtworkError, "is empty"):
            self.reader.read(jobs.artwork, [ForeignFile(b"", "nothing.svg")])

    def test_it_ends_when_it_is_stopped_or_when_nobody_waits(self):
        task = Task()
        threading.Timer(0.2, task.stop).start()
        with self.assertRaises(Stopped):
            self.reader.read(for_ever, task=task)
        left = time.monotonic() + 0.2
        with self.assertRaises(Stopped):
            self.reader.read(for_ever, task=Task(lambda: time.monotonic() > left))
        self.assert_still_reads()

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
            self.reader.read(told_slowly, task=task)
        self.assertEqual(seen, [(3, 7, "layers")])

    def test_more_than_may_wait_are_told_to_come_again(self):
        outcomes = []

        def read():
            try:
                self.reader.read(for_ever)
            except RuleError as error:
                outcomes.append(type(error))

        threads = [threading.Thread(target=read) for _ in range(14)]
        for thread in threads:
            thread.start()
        deadline = time.monotonic() + 20
        while Busy not in outcomes and time.monotonic() < deadline:
            time.sleep(0.02)
        self.assertIn(Busy, outcomes)
        for thread in threads:
            thread.join()
        self.assertEqual(set(outcomes), {Busy, ArtworkError})
