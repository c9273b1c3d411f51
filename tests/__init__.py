"""The tests. Chance is the same in every run of `make test`, and free in `make fuzz`; both say by which seed."""

import os

from hypothesis import HealthCheck, core, settings
from hypothesis.internal.conjecture import engine, providers

# Where it takes itself to run for somebody else (CI is set), hypothesis draws by another rule, which no seed names; and
# what once failed here would be drawn first here alone. How fast the machine is is no property.
settings.register_profile(
    "alike everywhere",
    settings.get_profile("default"),
    database=None, derandomize=False, deadline=None, suppress_health_check=(HealthCheck.too_slow,),
)  # fmt: skip
settings.load_profile("alike everywhere")
# A failure is said before its time is over, with what was found until then; the limit of a test is 120 s.
engine.MAX_SHRINKING_SECONDS = 30

if os.environ.get("JOINTED_CRANE_SEED"):
    # The one seed of all properties, as hypothesis' own option for another test runner sets it.
    core.global_force_seed = int(os.environ["JOINTED_CRANE_SEED"])
    # It also draws numbers and words that it reads in our own modules: those that happen to be loaded by then, which
    # is another lot in each run of two processes. A seed that names a run has to name it whole.
    providers._get_local_constants = lambda: providers._local_constants
