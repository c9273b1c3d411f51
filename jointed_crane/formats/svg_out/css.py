"""Keyframes as CSS writes them (CSS Animations 1, CSS Easing 1)."""

from __future__ import annotations

from collections.abc import Callable

from jointed_crane.formats.moving.keyframes import Easing, Keyframe
from jointed_crane.formats.svg_out.inlining import number


def css_keyframes(name: str, keyframes: list[Keyframe], length: int, declare: Callable[[float], str]) -> str:
    """The @keyframes rule; `declare` writes a value as a declaration."""
    rules = []
    for keyframe in keyframes:
        easing = f";animation-timing-function:{_easing(keyframe.easing)}" if keyframe.frame < length else ""
        rules.append(f"{number(100 * keyframe.frame / length)}%{{{declare(keyframe.value)}{easing}}}")
    return f"@keyframes {name}{{{''.join(rules)}}}"


def _easing(easing: Easing) -> str:
    if isinstance(easing, tuple):
        return f"cubic-bezier({','.join(map(number, easing))})"
    return {"hold": "step-end", "straight": "linear"}[easing]
