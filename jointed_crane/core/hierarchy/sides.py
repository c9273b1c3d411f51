"""Names with a side in them, and the name of the other side."""

from __future__ import annotations

import re

#: Words that name a side, each with its other side. Common practice, no source.
SIDES = (("near", "far"), ("left", "right"), ("inner", "outer"), ("l", "r"))
_OTHER = {one: other for pair in SIDES for one, other in (pair, pair[::-1])}
_WORD = re.compile(r"[^\W\d_]+")


def side_of(name: str) -> str:
    """The first word of a name that names a side, in lower case, or nothing."""
    return next((word.lower() for word in _WORD.findall(name) if word.lower() in _OTHER), "")


def other_side(name: str) -> str:
    """The name with every side exchanged, upper and lower case kept; a name without a side comes back as it is."""

    def exchanged(match: re.Match[str]) -> str:
        word = match[0]
        other = _OTHER.get(word.lower(), word)
        return other.upper() if word.isupper() else other.capitalize() if word[0].isupper() else other

    return _WORD.sub(exchanged, name)
