"""What names, ids and numbers of a scene keep: on one line, of some length, finite and within bounds."""

from __future__ import annotations

from collections.abc import Iterable

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LARGEST, LONGEST_ID, LONGEST_NAME
from jointed_crane.core.model.scene import Part


def ensure_name(name: str, what: str) -> None:
    """RuleError where a name has no letters, too many, or more than one line."""
    if not name.strip() or len(name) > LONGEST_NAME or any(ord(letter) < 32 for letter in name):
        raise RuleError(f"The name of a {what} has 1 to {LONGEST_NAME} letters on one line. Nothing was changed.")


def ensure_id(name: str) -> None:
    """RuleError where an id has no letters, too many, or more than one line."""
    if not 1 <= len(name) <= LONGEST_ID or any(ord(letter) < 32 for letter in name):
        raise RuleError(f"An id has 1 to {LONGEST_ID} letters on one line. Nothing was changed.")


def ensure_numbers(part: Part, numbers: Iterable[float]) -> None:
    """RuleError where a number of a part is none, or too large to reckon with."""
    for number in numbers:
        if not -LARGEST <= number <= LARGEST:  # no number compares with what is none
            raise RuleError(
                f"A value of {part.name} would become {number:g}; the largest is {LARGEST:g}. Nothing was changed."
            )
