"""The fonts of this machine that words in art are drawn with: their outlines are in no drawing."""

from __future__ import annotations

from functools import lru_cache

import skia

#: What browsers take for the families that CSS has no face for (their settings; from memory, and tested beside one).
_GENERIC = {"serif": "Times New Roman", "sans-serif": "Arial", "system-ui": "Arial", "monospace": "Monospace"}


@lru_cache(maxsize=512)
def family_here(families: str) -> str:
    """The first of a list of font families that is on this machine, or what stands in for it."""
    names = [name.strip().strip("\"'") for name in families.split(",")]
    installed = {family.lower() for family in skia.FontMgr()}
    for name in filter(None, names):
        if name.lower() in installed:
            return name
        if name.lower() in _GENERIC:
            return _stands_in(_GENERIC[name.lower()])
    return _stands_in(_GENERIC["serif"])


def _stands_in(name: str) -> str:
    face = skia.Typeface.MakeFromName(name, skia.FontStyle())
    return name if face is None else str(face.getFamilyName())
