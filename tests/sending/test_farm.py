"""Frames drawn by workers of a farm: real ones, on this machine."""

import contextlib
import io
import os
import re
import signal
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from collections import Counter
from dataclasses import replace
from pathlib import Path
from unittest import mock

from click.testing import CliRunner
from PIL import Image, ImageSequence

from jointed_crane.cli import main
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.sending import farm as farm_room
from jointed_crane.sending.choices.pictures import Webp
from jointed_crane.sending.farm import Farm
from jointed_crane.sending.frame_files import FrameFiles
from jointed_crane.sending.sender import Sender
from jointed_crane.store.library import new_id
from tests.demo_library import WORKERS, demo_scenes, written
from tests.sending.test_queue import QueueTestCase
from tests.strategies import TIMES


def started(*words):
    """A program of the farm, and the address in what it says."""
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(filter(None, sys.path))}
    command = [sys.executable, "-m", "jointed_crane.cli", "farm", *words]
    program = subprocess.Popen(command, stderr=subprocess.PIPE, text=True, env=environment, start_new_session=True)
    said = next(line for line in program.stderr if re.search(r"Scheduler at:|Registered to:", line))
    # So that it never waits for somebody to listen; closed when it has ended.
    threading.Thread(target=lambda: (program.stderr.read(), program.stderr.close()), daemon=True).start()
    return program, re.search(r"tcp://\S+", said)[0]


def ended(program):
    with contextlib.suppress(ProcessLookupError):
        os.killpg(program.pid, signal.SIGKILL)
    program.wait()


class FarmTests(QueueTestCase):
    @classmethod
    def setUpClass(cls):
        cls.programs = []
        cls.addClassCleanup(cls.end)
        scheduler, cls.address = started("scheduler", "--port", "0")
        cls.programs.append(scheduler)
        cls.programs += [started("worker", cls.address, "--processes", "1")[0] for _ in range(3)]

    @classmethod
    def end(cls):
        for program in reversed(cls.programs):
            ended(program)

    def test_a_lost_worker_is_made_up_for_and_every_frame_comes_once(self):
        known, art = demo_scenes()[0]
        count = 50 * TIMES
        scene, choices = replace(known, length=count), Webp(height=40)
        with tempfile.TemporaryDirectory() as folder:
            stretches = FrameFiles(Path(folder)).missing(count)
            farm = Farm(self.address)
            self.addCleanup(farm.close)
            places = Counter()
            for first, frames in farm.drawn(scene, art, choices, stretches):
                if not places:
                    os.killpg(self.programs.pop().pid, signal.SIGKILL)
                places.update(range(first, first + len(frames)))
        self.assertEqual(places, Counter(range(count)))

    def test_what_is_sent_is_the_same_as_drawn_at_home(self):
        sender = Sender(self.library, WORKERS, self.address)
        self.addCleanup(sender.close)
        chosen = {"scale": 0.1, "last": 30}
        sending = self.library.sendings.add(new_id(), self.entry.scene, self.entry.version, "webp", chosen, "x.webp")
        sender.wake()
        done = self.until(sending, "done", "failed")
        self.assertEqual((done.state, done.fault), ("done", ""))
        wanted = written(self.entry.scene, self.art, "webp", **chosen)
        self.assertEqual(sender.file(sending).read_bytes(), wanted)
        target = self.folder / "farmed.webp"
        words = ["send", self.entry.scene.name, "--as", "webp", "--scale", "0.1", "--last", "30", "--to", str(target)]
        words += ["--farm", self.address, "--data", str(self.folder)]
        result = CliRunner().invoke(main, words)
        self.assertEqual(result.exit_code, 0, result.output)
        self.assertEqual(target.read_bytes(), wanted)
        with Image.open(io.BytesIO(wanted)) as picture:
            self.assertEqual(len(list(ImageSequence.Iterator(picture))), 31)

    def test_where_nobody_draws_any_more_that_is_said(self):
        scene, art = demo_scenes()[0]
        scheduler, address = started("scheduler", "--port", "0")
        self.addCleanup(ended, scheduler)
        farm = Farm(address)
        self.addCleanup(farm.close)
        with mock.patch.object(farm_room, "_PATIENCE", 0.5), self.assertRaisesRegex(RuleError, "it has no workers"):
            list(farm.drawn(scene, art, Webp(height=9), [(0, 3)]))
        self.assertEqual(list(farm.drawn(scene, art, Webp(height=9), [(0, 3)], lambda: True)), [])
        if TIMES == 1:  # that one looks for its scheduler for ten seconds
            return
        ended(scheduler)
        with self.assertRaisesRegex(RuleError, "does not draw"):
            list(farm.drawn(scene, art, Webp(height=9), [(0, 3)]))

    def test_what_a_worker_refuses_is_said(self):
        scene, art = demo_scenes()[0]
        farm = Farm(self.address)
        self.addCleanup(farm.close)
        with self.assertRaisesRegex(RuleError, "no part called 'Nobody'"):
            list(farm.drawn(scene, art, Webp(part="Nobody"), [(0, 3)]))


class NoFarmTests(unittest.TestCase):
    def test_where_no_scheduler_answers_that_is_said(self):
        begun = time.monotonic()
        with self.assertRaisesRegex(RuleError, r"The farm at tcp://127.0.0.1:9 does not draw .* What is drawn is kept"):
            Farm("tcp://127.0.0.1:9")
        self.assertLess(time.monotonic() - begun, 60)
        with self.assertRaisesRegex(RuleError, "does not draw"):
            Farm("nowhere at all")

    def test_nothing_of_it_is_loaded_where_nobody_asks_for_it(self):
        code = "import sys, jointed_crane.web, jointed_crane.sending.sender, jointed_crane.cli\n"
        code += "sys.exit('distributed' in sys.modules or 'dask' in sys.modules)"
        self.assertEqual(subprocess.run([sys.executable, "-c", code], check=False).returncode, 0)
