"""JSON from anywhere as values that the rest may trust: numbers within bounds, words that XML and UTF-8 can carry."""

from __future__ import annotations

import json
import math
import re
from typing import Any

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LARGEST_NUMBER, MOST_LETTERS, MOST_VALUES

#: What XML 1.0 (section 2.2) cannot hold, lone surrogates included, which UTF-8 cannot hold either.
_NOT_CARRIED = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def parsed_json(text: bytes | str, most_letters: int = MOST_LETTERS) -> Any:
    """JSON by the standard (RFC 8259: no NaN, no Infinity) with numbers and words within bounds; RuleError else."""
    _ensure_few(text)
    try:
        value = json.loads(text, parse_constant=_refused, parse_float=_bounded_float, parse_int=_bounded_int)
    except (ValueError, RecursionError) as error:
        if isinstance(error, RuleError):
            raise
        raise RuleError("That is not JSON that can be read. Nothing was changed.") from None
    ensure_carried(value, most_letters)
    return value


def _ensure_few(text: bytes | str) -> None:
    """RuleError where a document holds too many values, before any of them is made: a sign that begins or parts some
    stands for one at least.
    """
    signs = (b",", b"[", b"{") if isinstance(text, bytes) else (",", "[", "{")
    if len(text) > MOST_VALUES and sum(map(text.count, signs)) > MOST_VALUES:  # type: ignore[arg-type]
        raise RuleError(f"The request holds more than {MOST_VALUES} values. Nothing was changed.")


def ensure_carried(value: Any, most_letters: int = MOST_LETTERS) -> None:
    """RuleError where words anywhere in JSON values cannot be carried, or where there are too many values."""
    waiting = [value]
    count = 0
    while waiting:
        result = waiting.pop()
        count += 1
        if isinstance(result, str):
            ensure_words(result, most_letters)
        elif isinstance(result, dict):
            waiting += result.keys()
            waiting += result.values()
        elif isinstance(result, list):
            waiting += result
        if count > MOST_VALUES or len(waiting) > MOST_VALUES:
            raise RuleError(f"The request holds more than {MOST_VALUES} values. Nothing was changed.")


def ensure_words(text: str, most_letters: int = MOST_LETTERS) -> str:
    """The text itself; RuleError where it is too long or holds letters that no file can carry."""
    if len(text) > most_letters:
        raise RuleError(f"A text has {len(text)} letters; {most_letters} is the most. Nothing was changed.")
    if _NOT_CARRIED.search(text):
        raise RuleError("A text holds a sign that no file can carry. Nothing was changed; leave it out.")
    return text


def bounded(number: float) -> float:
    """The number itself; RuleError where it is not finite or too large."""
    if not math.isfinite(number):
        raise RuleError("A number is not finite. Nothing was changed.")
    if abs(number) > LARGEST_NUMBER:
        raise RuleError(f"A number is larger than {LARGEST_NUMBER:g}. Nothing was changed.")
    return number


def _bounded_float(text: str) -> float:
    return bounded(float(text))


def _bounded_int(text: str) -> int:
    if len(text) > 20:
        raise RuleError(f"A number is larger than {LARGEST_NUMBER:g}. Nothing was changed.")
    return int(bounded(int(text)))


def _refused(name: str) -> float:
    raise RuleError("A number is not finite. Nothing was changed.")
