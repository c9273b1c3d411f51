"""What one kind of work may take, and what is said where it would take more."""

from __future__ import annotations

from dataclasses import dataclass

from jointed_crane.core.basics.errors import RuleError


@dataclass(frozen=True)
class Sentences:
    """What whoever waits is told where work does not come to its end.

    Attributes
    ----------
    busy : so much is being done that this one cannot even wait
    stopped : somebody stopped it, or left
    too_long, too_large, ended : it took more time or more memory than it may, or its process ended under it
    too_deep : what it goes through is nested too deeply
    broken : it stumbled over something that nobody foresaw
    """

    busy: str
    stopped: str
    too_long: str
    too_large: str
    ended: str
    too_deep: str
    broken: str


@dataclass(frozen=True)
class Bounds:
    """The bounds of one kind of work.

    Attributes
    ----------
    seconds, processor : what it may take by the clock and of the processor, s
    memory : what it may take beyond what its process has when it begins, bytes
    at_once, waiting : how many are worked on at once, and how many more may wait
    refusal : what is raised with these sentences
    """

    sentences: Sentences
    seconds: float
    processor: int
    memory: int
    at_once: int
    waiting: int
    refusal: type[RuleError] = RuleError
