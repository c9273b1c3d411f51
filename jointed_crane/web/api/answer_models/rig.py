"""What is measured and checked of a rig, and what is at hand for it, in answers."""

from __future__ import annotations

from typing import Any

from jointed_crane.core.measures.gaps import Gap
from jointed_crane.web.api.answer_models.answer import Answer, Matrix


class KeysAnswer(Answer):
    """By the id of a command, the keys that it has instead of its own."""

    keys: dict[str, list[str]]


class Gaps(Answer):
    """The gaps of all joints."""

    version: int
    gaps: list[Gap]


class RangeEnd(Answer):
    """Where a part lies at an end of its turning range."""

    turn: float
    matrix: Matrix


class Joint(Answer):
    """The round ends of a joint, px on the stage at rest."""

    child: float
    parent: float
    is_child_round: bool
    is_parent_round: bool
    difference: float
    is_patched: bool
    ends: list[RangeEnd]
    parent_matrix: Matrix


class JointAnswer(Answer):
    """The ends of one joint."""

    version: int
    joint: Joint | None


class Found(Answer):
    """One thing that may be wrong with a rig, and the edits that mend it where that is safe."""

    check: str
    part: str
    sentence: str
    number: float
    unit: str
    mend: list[dict[str, Any]]


class Findings(Answer):
    """What the checks find."""

    version: int
    findings: list[Found]


class Font(Answer):
    """A typeface at hand."""

    id: str
    name: str


class Fonts(Answer):
    """The typefaces at hand."""

    fonts: list[Font]
