"""The pages of the guide as files: what is said, what is done, and what is there then.

Each is a TOML file. Words say labels in square brackets and keys in braces; `do` says the same for whoever drives the
page: a test does, and fails where a label, a key or an outcome differs.
"""

from __future__ import annotations

import tomllib
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any

from markupsafe import Markup, escape

from jointed_crane.web.guide.starts import Start

_PAGES = Path(__file__).with_name("pages")


@dataclass(frozen=True)
class LessonStep:
    """One numbered sentence.

    Attributes
    ----------
    words : with [labels] and {keys}
    do : what that means, a line each: a verb and what it is about
    sees : what is there then, by what is looked at
    """

    words: str
    do: tuple[str, ...] = ()
    sees: dict[str, Any] = field(default_factory=dict)

    @property
    def html(self) -> Markup:
        """The words with labels and keys set as such."""
        text = str(escape(self.words))
        for sign, tag in (("[]", "b"), ("{}", "kbd")):
            text = text.replace(sign[0], f"<{tag}>").replace(sign[1], f"</{tag}>")
        return Markup(text)


@dataclass(frozen=True)
class Lesson:
    """One page: about a minute of work, starting from a scene of its own."""

    slug: str
    title: str
    about: str
    start: Start
    steps: tuple[LessonStep, ...]


@cache
def lessons() -> tuple[Lesson, ...]:
    """All pages, in the order of the work."""
    return tuple(_lesson(path) for path in sorted(_PAGES.glob("*.toml")))


def _lesson(path: Path) -> Lesson:
    document = tomllib.loads(path.read_text())
    steps = (LessonStep(step["words"], tuple(step.get("do", ())), step.get("sees", {})) for step in document["steps"])
    slug = path.stem.partition("-")[2]
    return Lesson(slug, document["title"], document["about"], document["start"], tuple(steps))
