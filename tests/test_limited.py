import os
import subprocess
import sys
import unittest

_ENDLESS = """
import unittest
from hypothesis import given, strategies as st
from tests.limited import LimitedRunner

class Endless(unittest.TestCase):
    @given(st.integers())
    def test_goes_on(self, number):
        while True:
            number += 1

    def test_comes_to_an_end(self):
        pass

unittest.main(testRunner=LimitedRunner)
"""

_DRAWN = """
import importlib, sys
from hypothesis import given, settings, strategies as st
import tests

importlib.import_module(sys.argv[1])

@given(st.lists(st.integers() | st.text()))
@settings(max_examples=100, database=None)
def draw(drawn):
    print(ascii(drawn))

draw()
"""


class SeedTests(unittest.TestCase):
    def test_a_seed_draws_the_same_whatever_has_been_loaded_before(self):
        """Each of two processes has loaded what it happened to run so far, on whatever machine."""
        environment = {name: os.environ[name] for name in os.environ if name != "CI"} | {"JOINTED_CRANE_SEED": "11"}
        few, many = (
            subprocess.run([sys.executable, "-c", _DRAWN, loaded], env=where, capture_output=True, check=True)
            for loaded, where in (("tests", environment), ("jointed_crane.web", {**environment, "CI": "true"}))
        )
        self.assertGreater(len(few.stdout), 1000)
        self.assertEqual(few.stdout, many.stdout)


class LimitTests(unittest.TestCase):
    def test_a_test_that_goes_on_fails_under_its_name_and_the_others_run(self):
        """Also where chance draws its examples, which else would take it for a failure to be made smaller."""
        ran = subprocess.run(
            [sys.executable, "-c", _ENDLESS, "-v"],
            env={**os.environ, "JOINTED_CRANE_LIMIT": "0.5"}, capture_output=True, text=True, timeout=60,
        )  # fmt: skip
        self.assertEqual(ran.returncode, 1)
        self.assertIn("Endless.test_goes_on has taken longer than 0.5 s. What runs now:", ran.stderr)
        self.assertIn("in test_goes_on", ran.stderr)
