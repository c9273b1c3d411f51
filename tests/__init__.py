"""The tests. Chance is the same in every run of `make test`, and free in `make fuzz`; both say by which seed."""

import os

from hypothesis import core

if os.environ.get("JOINTED_CRANE_SEED"):
    # The one seed of all properties, as hypothesis' own option for another test runner sets it.
    core.global_force_seed = int(os.environ["JOINTED_CRANE_SEED"])
