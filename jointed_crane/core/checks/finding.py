"""What a check finds, and what all checks look at."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np
import numpy.typing as npt

from jointed_crane.core.edits import Edit
from jointed_crane.core.evaluate import Pose, evaluate
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.model.scene import Part, Scene

Floats = npt.NDArray[np.float64]
#: Most frames of a film that checks look at; a longer one is looked at in as many even steps.
_MOST_FRAMES = 600


@dataclass(frozen=True)
class Finding:
    """One thing that may be wrong with a rig.

    Attributes
    ----------
    check : name of the check, by which it is silenced
    part : id of the part
    sentence : for the user, with the part's name and the number
    number, unit : how much it is
    mend : edits that put it right where that is safe, else empty
    """

    check: str
    part: str
    sentence: str
    number: float = 0.0
    unit: str = ""
    mend: tuple[Edit, ...] = ()


class Check(Protocol):
    """A module of this package: the name users read, and a function that finds."""

    NAME: str

    def find(self, rig: Rig) -> Iterator[Finding]:
        """Everything that this check finds."""


class Rig:
    """A scene with what checks need of it, each computed once.

    Attributes
    ----------
    fonts : typefaces that are at hand, by name or content hash
    """

    def __init__(self, scene: Scene, fonts: frozenset[str] = frozenset()) -> None:
        self.scene = scene
        self.fonts = fonts

    @cached_property
    def rest(self) -> Pose:
        """Everything at rest."""
        return pose_at(self.scene, None)

    @cached_property
    def film(self) -> Pose:
        """The whole film, or even steps of a long one."""
        count = min(self.scene.length, _MOST_FRAMES)
        return evaluate(self.scene, np.linspace(0, self.scene.length - 1, count))

    def pictured(self) -> Iterator[Part]:
        """Parts that show a picture which is sent out."""
        return (part for part in self.scene.parts if part.drawings and part.is_sent)
