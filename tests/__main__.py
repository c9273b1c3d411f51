"""Runs all tests in two processes: `python -m tests`, as `make test` and `make fuzz` do.

Ctrl+C, or a signal to end, ends the run at once, browsers and workers included. What chance draws goes by one
seed, that of JOINTED_CRANE_SEED or a free one, and a run that fails says it.
"""

from __future__ import annotations

import contextlib
import os
import random
import signal
import subprocess
import sys
import time


def main() -> int:
    """Run the tests with the options of unittest-parallel; 0 where all pass."""
    seed = os.environ.get("JOINTED_CRANE_SEED") or str(random.SystemRandom().randrange(2**32))
    command = [sys.executable, "-m", "unittest_parallel", "--jobs", "2", "--runner", "tests.limited.LimitedRunner"]
    command += ["--start-directory", "tests", "--top-level-directory", ".", *sys.argv[1:]]
    begin = time.monotonic()
    # A session of its own, so that one signal reaches all it has started and nobody else, however it ends.
    # Sets of words are gone through in an order of chance, too.
    chance = {"JOINTED_CRANE_SEED": seed, "PYTHONHASHSEED": str(int(seed) % 2**32)}
    tests = subprocess.Popen(command, start_new_session=True, env={**os.environ, **chance})
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    try:
        status = tests.wait()
    except KeyboardInterrupt:
        print(f"\nStopped; chance went by seed {seed}.", file=sys.stderr)
        return 130
    finally:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(tests.pid, signal.SIGKILL)
    word = "failed" if status else "passed"
    print(f"The tests have {word} in {time.monotonic() - begin:.0f} s; chance went by seed {seed}.", file=sys.stderr)
    if status:
        print(f"The same again: JOINTED_CRANE_SEED={seed} make test", file=sys.stderr)
    return 1 if status else 0


if __name__ == "__main__":
    sys.exit(main())
