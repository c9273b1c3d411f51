"""Frozen values with some of their fields changed, quickly, and what was computed of them, remembered with them.

A hand that drags changes hundreds of values a frame and asks for the same things again and again. What is computed of a
frozen value stays with it and goes with it, so it is never out of date. A value that is made from another one by
`changed` takes along what does not depend on what was changed; each memory says what it depends on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import fields
from functools import cache, cached_property
from typing import Any, Generic, TypeVar

Value = TypeVar("Value")
Found = TypeVar("Found")
_HELD = "_remembered"


class Memory(Generic[Found]):
    """A place beside frozen values for what was computed of each.

    Attributes
    ----------
    depends : the fields that have a say in it, or parts of fields ("rest.scale"); by default all
    but : those that have none, where all others have
    most : for how many keys it is held; the oldest gives way
    """

    def __init__(self, *depends: str, but: tuple[str, ...] = (), most: int = 1) -> None:
        self.needs = (depends, but)
        self.most = most

    def at(self, value: object, key: Any = None) -> Found | None:
        """What is remembered; None where nothing is."""
        held = vars(value).get(_HELD)
        by_key: dict[Any, Found] | None = None if held is None else held.get(self)
        return None if by_key is None else by_key.get(key)

    def put(self, value: object, result: Found, key: Any = None) -> Found:
        """Remember what was found, and return it."""
        by_key = vars(value).setdefault(_HELD, {}).setdefault(self, {})
        if key not in by_key:
            for oldest in list(by_key)[: len(by_key) + 1 - self.most]:
                del by_key[oldest]
        by_key[key] = result
        return result

    def of(self, value: object, compute: Callable[[], Found], key: Any = None) -> Found:
        """What is remembered, computed where nothing is."""
        result = self.at(value, key)
        return self.put(value, compute(), key) if result is None else result


class TravelsBare:
    """A frozen value that goes to other processes with its fields alone: what it remembers is found again there."""

    def __getstate__(self) -> dict[str, Any]:
        kind: Any = type(self)
        return {field.name: getattr(self, field.name) for field in fields(kind)}


def remembered(*depends: str, but: tuple[str, ...] = ()) -> Callable[[Callable[[Any], Found]], cached_property[Found]]:
    """A property that is computed once, and says what it depends on: `@remembered("pivot", "rest.scale")`."""
    return lambda function: _Remembered(function, (depends, but))


class _Remembered(cached_property[Found]):
    def __init__(self, function: Callable[[Any], Found], needs: tuple[tuple[str, ...], tuple[str, ...]]) -> None:
        super().__init__(function)
        self.needs = needs


def changed(known: Value, touched: Iterable[str] | None = None, /, **changes: object) -> Value:
    """What `dataclasses.replace` gives for a frozen value that checks nothing when it is made, several times as fast:
    `replace` sets each field by itself, which takes most of its time.

    What the value remembers comes along where it does not depend on what was touched: the fields that are changed or,
    where that is less, the parts of them that are named.
    """
    kind: Any = type(known)
    own = vars(known).copy()
    names, is_bare = _fields(kind)
    if len(own) > len(names) or not is_bare:
        marks = frozenset(changes if touched is None else touched)
        for name in own.keys() - names:
            if name == _HELD:
                own[_HELD] = {one: result for one, result in own[_HELD].items() if _is_kept(one.needs, marks)}
            elif not _is_kept(_needs(kind, name), marks):
                del own[name]
    own.update(changes)
    made: Value = object.__new__(kind)
    object.__setattr__(made, "__dict__", own)
    return made


@cache
def _is_kept(needs: tuple[tuple[str, ...], tuple[str, ...]], touched: frozenset[str]) -> bool:
    """Whether nothing that was touched has a say in what needs some fields, or all but some."""
    depends, but = needs
    if but:
        return all(any(_is_in(one, other) for other in but) for one in touched)
    return bool(depends) and not any(_is_in(one, other) or _is_in(other, one) for one in depends for other in touched)


def _is_in(one: str, other: str) -> bool:
    """Whether a field, or a part of one, is another one or a part of it."""
    return f"{one}.".startswith(f"{other}.")


@cache
def _fields(kind: Any) -> tuple[frozenset[str], bool]:
    """The names of its fields, and whether it has nothing in their place or beside them that it says itself."""
    return frozenset(field.name for field in fields(kind)), not hasattr(kind, "BESIDE")


@cache
def _needs(kind: Any, name: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What something beside a value's fields depends on: a property says it, or the kind does in `BESIDE`."""
    result = getattr(kind, name, None)
    needs: tuple[tuple[str, ...], tuple[str, ...]] = ((), ())
    return result.needs if isinstance(result, _Remembered) else getattr(kind, "BESIDE", {}).get(name, needs)
