"""The tests. Chance is the same in every run of `make test`, and free in `make fuzz`; both say by which seed."""

import os

from hypothesis import core
from hypothesis.internal.conjecture import providers

if os.environ.get("JOINTED_CRANE_SEED"):
    # The one seed of all properties, as hypothesis' own option for another test runner sets it.
    core.global_force_seed = int(os.environ["JOINTED_CRANE_SEED"])
    # It also draws numbers and words that it reads in our own modules: those that happen to be loaded by then, which
    # is another lot in each run of two processes. A seed that names a run has to name it whole.
    providers._get_local_constants = lambda: providers._local_constants
