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
