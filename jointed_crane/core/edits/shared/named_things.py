"""What the edits of marks, markers and poses share: rows of things with ids, kept in the scene beside its parts."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol, TypeVar

from jointed_crane.core.basics.errors import RuleError


class Identified(Protocol):
    """A thing with an id of its own."""

    @property
    def id(self) -> str: ...


Thing = TypeVar("Thing", bound=Identified)


def the_one(things: Iterable[Thing], thing_id: str, words: str) -> Thing:
    """The thing of this id; RuleError with the words for it and where it should be."""
    result = next((thing for thing in things if thing.id == thing_id), None)
    if result is None:
        raise RuleError(f"There is no such {words}. Nothing was changed.")
    return result


def exchanged_for(things: Iterable[Thing], known: Thing, changed: Thing) -> tuple[Thing, ...]:
    """The things with one of them changed."""
    return tuple(changed if thing is known else thing for thing in things)


def all_but(things: Iterable[Thing], known: Thing) -> tuple[Thing, ...]:
    """The things without one of them."""
    return tuple(thing for thing in things if thing is not known)
